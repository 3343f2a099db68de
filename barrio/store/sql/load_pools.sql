-- Every pool with its ranges, in their order.
select pools.name, pool_ranges.prefix::text, pool_ranges.low, pool_ranges.high
from pools left join pool_ranges on pool_ranges.pool = pools.name
order by pools.name, pool_ranges.place
