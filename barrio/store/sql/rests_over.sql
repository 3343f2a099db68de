-- Whether anything in some scopes has rested long enough.
select exists (
    select from entries join pools on pools.name = entries.pool
    where entries.state = 'resting' and entries.released_at + pools.rest <= now() and entries.scope = any(%(scopes)s)
)
