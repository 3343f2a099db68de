-- All that ever was at a number of a space, or inside a prefix: first how it is now, then each state before, newest first.
select entries.use, entries.key, entries.fabric, entries.pool, coalesce(prefix::text, number::text) as number, state, leaving,
       pinned, entries.note, since, coalesce(changes.author, '') as author, coalesce(changes.act, '') as act, changes.version,
       coalesce(changes.note, '') as why, null::timestamptz as until, '' as ended_by, '' as ended_act,
       null::bigint as ended_version
from entries left join changes on changes.id = entries.change
where space = %(space)s and (prefix = any(%(around)s::cidr[]) or number = %(number)s::bigint)
union all
select past.use, past.key, past.fabric, past.pool, coalesce(prefix::text, number::text), state, leaving, pinned,
       past.note, since, coalesce(began.author, ''), coalesce(began.act, ''), began.version, coalesce(began.note, ''),
       finished.at, coalesce(finished.author, ''), coalesce(finished.act, ''), finished.version
from past
left join changes as began on began.id = past.change
left join changes as finished on finished.id = past.ended
where space = %(space)s and past.change <> past.ended
  and (prefix = any(%(around)s::cidr[]) or number = %(number)s::bigint)
order by until desc nulls first, since desc
limit 200
