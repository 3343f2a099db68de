-- End a fabric: its draft, its history, what is derived from its numbers and what was done to its cables go; its name and version stay.
with ended as (
    update fabrics set head = null, sealed = null, cable_prefix = 'deleted fabric ' || name, version = version + 1
    where name = %(name)s
), apart as (
    delete from derived where fabric = %(name)s
), worked as (
    delete from cable_work where fabric = %(name)s
), heard as (
    delete from neighbours where fabric = %(name)s
)
delete from revisions where fabric = %(name)s
