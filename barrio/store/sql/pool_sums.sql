-- How many integers of each range of each pool are taken, by state.
select pool_ranges.pool, pool_ranges.place, entries.state,
       sum(case when family(entries.prefix) = 4 then 1::bigint << (32 - masklen(entries.prefix))
                when entries.prefix is null then 1
                else 2::numeric ^ (128 - masklen(entries.prefix)) end)
from pool_ranges
join entries on entries.pool = pool_ranges.pool
    and (entries.prefix <<= pool_ranges.prefix or entries.number between pool_ranges.low and pool_ranges.high)
where not (entries.leaving and strpos(entries.space, '/') > 0)
group by 1, 2, 3
