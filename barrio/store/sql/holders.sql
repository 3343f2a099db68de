-- Who has one of some roles for a fabric, or for all; those who left have none.
select distinct people.name, people.called
from grants
left join members on members.team = grants.team
join people on people.id = coalesce(grants.person, members.person)
where role = any(%(roles)s) and (fabric is null or fabric = %(fabric)s) and left_at is null
order by people.name
