-- The newest change that touched some spaces.
select greatest(
    (select coalesce(max(change), 0) from entries where space = any(%(spaces)s)),
    (select coalesce(max(ended), 0) from past where space = any(%(spaces)s))
)
