-- What these keys hold is pinned, with a note each.
update entries set pinned = true, note = said.note, change = current_setting('barrio.change')::bigint
from unnest(%(uses)s::text[], %(keys)s::text[], %(notes)s::text[]) as said (use, key, note)
where entries.fabric = %(fabric)s and entries.use = said.use and entries.key = said.key
  and entries.state in ('held', 'live') and not entries.leaving
