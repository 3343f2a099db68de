-- What a space gave back and took after a change: first everything that ended, then what is there now.
select 0 as there, space, host(prefix), masklen(prefix), number, ended from past
where ended > %(seen)s and space = any(%(spaces)s)
union all
select 1, space, host(prefix), masklen(prefix), number, change from entries
where change > %(seen)s and space = any(%(spaces)s)
order by 1
