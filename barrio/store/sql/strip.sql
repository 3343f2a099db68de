-- What is taken in a part of a pool, gathered into a few hundred places of equal width, each by state and fabric. Where a
-- number lies is `%(how)s`: its distance from the start, or for wide IPv6 windows a slice of its upper or lower 64 bits.
with seen as (
    select prefix, number, state, leaving, fabric,
           case %(how)s
               when 'number' then number - %(start_number)s::bigint
               when 'near' then greatest(0, set_masklen(prefix, %(width)s)::inet - %(start)s::inet)
               when 'lower' then (('x' || encode(substring(inet_send(prefix) from 13 for 8), 'hex'))::bit(64)::bigint >> 2)
                                 & 4611686018427387903
               else (('x' || encode(substring(inet_send(prefix) from 5 for 8), 'hex'))::bit(64)::bigint >> 2)
                    & 4611686018427387903
           end as distance
    from entries
    where pool = %(pool)s
      and ((%(how)s = 'number' and number between %(start_number)s::bigint and %(end_number)s::bigint)
           or (%(how)s <> 'number' and prefix >= %(first)s::cidr and prefix <= %(last)s::cidr)
           or prefix = any(%(around)s::cidr[]))
)
select (distance - %(base)s::bigint) / %(step)s::bigint as place, state, leaving, fabric, count(*),
       coalesce(host(min(prefix)), min(number)::text), host(max(prefix)), masklen(max(prefix)), max(number)
from seen
group by place, state, leaving, fabric
order by place, 6
