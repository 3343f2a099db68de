-- Pinned numbers that waited for these keys are free.
delete from entries using unnest(%(uses)s::text[], %(keys)s::text[]) as gone (use, key)
where entries.fabric = %(fabric)s and entries.use = gone.use and entries.key = gone.key and entries.state = 'reserved'
