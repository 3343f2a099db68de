-- What a draft holds no more: live numbers leave with the next edition, pinned ones wait for their key, others rest.
update entries
set state = case when state = 'live' then 'live' when pinned then 'reserved' else 'resting' end,
    leaving = state = 'live',
    released_at = case when state <> 'live' and not pinned then now() end,
    since = now(), change = current_setting('barrio.change')::bigint
from unnest(%(uses)s::text[], %(keys)s::text[]) as gone (use, key)
where entries.fabric = %(fabric)s and entries.use = gone.use and entries.key = gone.key
  and entries.state in ('held', 'live') and not entries.leaving
