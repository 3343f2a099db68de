-- Numbers that their keys take up again: from their rest, or because the draft no longer leaves them.
update entries
set state = case when leaving then 'live' else 'held' end, leaving = false, released_at = null, since = now(),
    change = current_setting('barrio.change')::bigint
where id = any(%(ids)s)
