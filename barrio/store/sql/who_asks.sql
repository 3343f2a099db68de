-- The person behind a secret that is shown with a request, with all roles that are theirs or their teams', if it has not ended.
with shown as (
    select id as session, null::bigint as token, '' as token_name, person, null::text[] as roles, null::text[] as fabrics, vouched,
           seen_at < now() - interval '1 minute' as stale
    from sessions where secret = %(session)s and ends_at > now() and seen_at > now() - %(idle)s
    union all
    select null, id, name, person, roles, fabrics, false, used_at is null or used_at < now() - interval '1 minute'
    from tokens where secret = %(token)s and ends_at > now()
    union all
    select null, null, '', id, null, null, false, false from people where id = %(person)s
)
select shown.session, shown.token, token_name, people.id, people.name, called, shown.roles, shown.fabrics, stale,
       vouched or seconds is not null or exists (select from passkeys where passkeys.person = people.id),
       (select coalesce(array_agg(distinct role || ' ' || coalesce(fabric, '')), '{}') from grants
        where grants.person = people.id
           or team in (select team from members where members.person = people.id))
from shown join people on people.id = shown.person
where left_at is null
