-- What a fabric holds or rests, and what others hold in the spaces that fabrics share. Text and integers only: turning
-- each prefix into an object costs more than reading it.
select id, use, key, fabric, space, host(prefix), masklen(prefix), number, state
from entries
where fabric = %(fabric)s or space = any(%(shared)s)
order by id
