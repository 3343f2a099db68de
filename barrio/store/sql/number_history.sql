-- All that ever was at a number of a space, or inside a prefix: first how it is now, then each state before, newest first.
select entries.use, entries.key, entries.fabric, entries.pool, coalesce(prefix::text, number::text), state, leaving, pinned,
       entries.note, since, changes.at, changes.author, changes.act, changes.fabric, changes.version, changes.note,
       null::timestamptz, null, null, null::bigint, null
from entries left join changes on changes.id = entries.change
where space = %(space)s and (prefix = any(%(around)s::cidr[]) or number = %(number)s::bigint)
union all
select past.use, past.key, past.fabric, past.pool, coalesce(prefix::text, number::text), state, leaving, pinned,
       past.note, since, began.at, began.author, began.act, began.fabric, began.version, began.note,
       finished.at, finished.author, finished.act, finished.version, finished.note
from past
left join changes as began on began.id = past.change
left join changes as finished on finished.id = past.ended
where space = %(space)s and past.change <> past.ended
  and (prefix = any(%(around)s::cidr[]) or number = %(number)s::bigint)
order by 17 desc nulls first, 10 desc
limit 200
