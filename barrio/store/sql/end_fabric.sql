-- Delete a fabric: it is nowhere to be found, and kept for a day as it was.
with apart as (
    delete from derived where fabric = %(name)s
)
update fabrics
set ended_head = head, ended_at = now(), ended_by = %(who)s, ended_inputs = %(inputs)s,
    head = null, cable_prefix = 'deleted fabric ' || name, version = version + 1
where name = %(name)s
