-- What a fabric holds, by use: in which space, and how many.
select use, space, count(*)
from entries
where fabric = %(fabric)s and state in ('held', 'live') and not leaving
group by use, space
