-- The entries of one pool, lowest number first.
select entries.id, use, key, fabric, space, coalesce(prefix::text, number::text) as number, state, since, released_at,
       case when state = 'resting' then released_at + pools.rest end as rests_until
from entries join pools on pools.name = entries.pool
where entries.pool = %(pool)s
order by prefix, number, entries.id
