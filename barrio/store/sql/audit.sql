-- What must never be: (what is wrong, where). No row means that all is well. It believes no constraint and checks by itself.
with spans as (
    select id, scope, space, prefix, number, state, fabric, use, key, leaving,
           lag(prefix) over (partition by scope, space order by prefix) as lower,
           lag(id) over (partition by scope, space order by prefix) as lower_id
    from entries where prefix is not null
)
select 'overlap', format('%%s and entry %%s in %%s', prefix, lower_id, space) from spans where lower >>= prefix
union all
select 'twice', format('%%s of %%s', number, space) from entries
where number is not null and not (leaving and strpos(space, '/') > 0) group by space, number having count(*) > 1
union all
select 'two numbers for one key', format('%%s of %%s in %%s', use, key, fabric) from entries
where state in ('held', 'live') and not leaving group by fabric, use, key having count(*) > 1
union all
select 'orphan: no fabric', format('%%s of %%s in %%s', use, key, fabric) from entries
where not exists (select from fabrics where fabrics.name = entries.fabric)
union all
select 'orphan: no pool', format('%%s of %%s in %%s', use, key, pool) from entries
where strpos(space, '/') = 0 and not exists (select from pools where pools.name = entries.pool)
union all
select 'no change on record', format('%%s of %%s in %%s', use, key, fabric) from entries
where not exists (select from changes where changes.id = entries.change)
union all
select 'scope without its constraint', name from scopes
where not exists (select from pg_constraint where conname = 'entries_apart_in_' || name)
union all
select 'half a draft', format('%%s has numbers and no revision', name) from fabrics
where head is null and exists (select from entries where fabric = name and state <> 'resting')
