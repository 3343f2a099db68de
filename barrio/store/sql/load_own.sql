-- What a fabric has taken; with `%(apart)s` only what is not simply held: what rests, waits for its key, or is leaving.
select id, use, key, space, host(prefix), masklen(prefix), number, state, leaving, pinned
from entries
where fabric = %(fabric)s
  and (state in ('resting', 'reserved') or leaving or pinned or not %(apart)s)
order by leaving, id
