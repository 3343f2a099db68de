-- Entries whose number, key or fabric matches what someone typed; an address matches the prefix that holds it.
select use, key, fabric, pool, coalesce(prefix::text, number::text) as number, state
from entries
where (%(address)s::inet is not null and prefix >>= %(address)s::inet)
   or (%(number)s::bigint is not null and number = %(number)s::bigint and use <> 'cable' and use not like 'port.%%')
order by use, key
limit 30
