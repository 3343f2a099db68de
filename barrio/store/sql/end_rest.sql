-- Numbers of some scopes whose rest is over are free again.
delete from entries using pools
where entries.state = 'resting' and pools.name = entries.pool and entries.released_at + pools.rest <= now()
  and entries.scope = any(%(scopes)s)
