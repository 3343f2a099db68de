-- A draft becomes an edition: what it holds is live, and what it left rests, or waits when it is pinned.
update entries
set state = case when not leaving then 'live' when pinned then 'reserved' else 'resting' end,
    released_at = case when leaving and not pinned then now() end,
    leaving = false, since = now(), change = current_setting('barrio.change')::bigint
where fabric = %(fabric)s and (state = 'held' or leaving)
