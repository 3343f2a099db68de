-- People by name, or one of them.
select id, name, called, password is not null, seconds is not null or exists (select from passkeys where person = people.id), keys, manners, made_at, left_at,
       (select max(seen_at) from sessions where person = people.id)
from people
where %(name)s::text is null or name = %(name)s
order by name
