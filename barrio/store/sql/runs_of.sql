-- What is taken in IPv4 and number spaces as runs without gaps: (space, lowest integer, highest integer).
with taken as (
    select space,
           coalesce(number, set_masklen(prefix, 32)::inet - inet '0.0.0.0') as low,
           case when number is null then 1::bigint << (32 - masklen(prefix)) else 1 end as size
    from entries
    where space = any(%(spaces)s) and (number is not null or family(prefix) = 4)
), marked as (
    select space, low, low + size - 1 as high,
           lag(low + size) over (partition by space order by low) is distinct from low as starts
    from taken
), runs as (
    select space, low, high, count(*) filter (where starts) over (partition by space order by low) as run from marked
)
select space, min(low), max(high) from runs group by space, run
