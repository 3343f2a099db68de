-- All that a deleted fabric has. What others could take rests, as long as its pool says; what is the fabric's own (places,
-- cables, VLANs) and what waits for a key goes with it.
with gone as (
    delete from entries where fabric = %(fabric)s and (state = 'reserved' or strpos(space, '/') > 0)
)
update entries
set state = 'resting', leaving = false, pinned = false, released_at = now(), since = now(),
    change = current_setting('barrio.change')::bigint
where fabric = %(fabric)s and state in ('held', 'live') and strpos(space, '/') = 0
