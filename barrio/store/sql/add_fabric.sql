-- A fabric that has no draft yet. One that was deleted is taken up again, and its version goes on.
insert into fabrics (name, cable_prefix, version) values (%(name)s, 'new fabric ' || %(name)s, 0)
on conflict (name) do nothing
