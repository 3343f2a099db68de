-- What these keys hold is no longer pinned.
update entries set pinned = false, note = '', change = current_setting('barrio.change')::bigint
from unnest(%(uses)s::text[], %(keys)s::text[]) as gone (use, key)
where entries.fabric = %(fabric)s and entries.use = gone.use and entries.key = gone.key and entries.pinned
