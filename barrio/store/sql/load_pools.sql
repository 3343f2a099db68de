-- Every pool with its settings and ranges, in their order.
select pools.name, pools.kind, pools.plan, pools.scope, pools.parent, pools.private_to, pools.rest, pools.warn,
       pool_ranges.prefix::text, pool_ranges.low, pool_ranges.high
from pools left join pool_ranges on pool_ranges.pool = pools.name
order by pools.name, pool_ranges.place
