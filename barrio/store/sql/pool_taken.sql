-- What is taken from a pool, lowest number first, as text and integers.
select host(prefix), masklen(prefix), number, state, fabric
from entries
where pool = %(pool)s
order by prefix, number
