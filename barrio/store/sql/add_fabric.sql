-- A fabric that has no draft yet; no row when there is one with a draft. One that was deleted is taken up again, and its
-- version goes on. Whoever else adds the same name at this moment is waited for.
insert into fabrics (name, cable_prefix, version) values (%(name)s, 'new fabric ' || %(name)s, 0)
on conflict (name) do update set cable_prefix = excluded.cable_prefix where fabrics.head is null
returning name
