-- Entries that hold an address, or are a number; the most specific first.
select use, key, fabric, pool, space, coalesce(prefix::text, number::text), state, leaving, pinned, note, since
from entries
where prefix = any(%(around)s::cidr[])
   or (%(number)s::bigint is not null and number = %(number)s::bigint and strpos(space, '/') = 0)
   or (%(number)s::bigint is not null and number = %(number)s::bigint and use = 'vlan')
order by masklen(prefix) desc nulls last, use, key
limit 50
