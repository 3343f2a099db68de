-- Forget a deleted fabric for good: its draft, its history, what is derived from its numbers and what was done to its cables go; its name and version stay.
with ended as (
    update fabrics set head = null, sealed = null, ended_head = null, ended_at = null, ended_inputs = null, ended_by = ''
    where name = %(name)s
), apart as (
    delete from derived where fabric = %(name)s
), worked as (
    delete from cable_work where fabric = %(name)s
), heard as (
    delete from neighbours where fabric = %(name)s
), offered as (
    delete from offers where fabric = %(name)s
), ruled as (
    delete from review_rules where fabric = %(name)s
), kept as (
    delete from editions where fabric = %(name)s
)
delete from revisions where fabric = %(name)s
