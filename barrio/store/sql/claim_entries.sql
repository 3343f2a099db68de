-- Pinned numbers whose keys have come.
update entries set state = 'held', since = now(), change = current_setting('barrio.change')::bigint
from unnest(%(uses)s::text[], %(keys)s::text[]) as came (use, key)
where entries.fabric = %(fabric)s and entries.use = came.use and entries.key = came.key
  and entries.state = 'reserved' and entries.pinned
