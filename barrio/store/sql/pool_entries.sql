-- The entries of one pool that hold some words, lowest number first; with how many there are in all.
select entries.id, use, key, entries.fabric, space, coalesce(prefix::text, number::text) as number, state, leaving, pinned,
       entries.note, since, changes.author, changes.act,
       case when state = 'resting' then released_at + pools.rest end as rests_until,
       count(*) over () as total
from entries
join pools on pools.name = entries.pool
left join changes on changes.id = entries.change
where entries.pool = %(pool)s
  and (%(words)s = '' or strpos(lower(concat_ws(' ', prefix, number, use, key, entries.fabric, state, entries.note)), %(words)s) > 0)
  and (%(state)s = '' or state = %(state)s)
order by prefix, number, entries.id
limit %(limit)s offset %(offset)s
