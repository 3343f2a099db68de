-- What a fabric rests, and what others hold in the spaces that fabrics share.
select id, use, key, fabric, space, host(prefix), masklen(prefix), number, state
from entries
where (fabric = %(fabric)s and state = 'resting') or (fabric <> %(fabric)s and space = any(%(shared)s))
order by id
