-- Fabrics that were deleted and have no number left.
delete from fabrics
where head is null and name <> %(but)s
  and not exists (select from entries where entries.fabric = fabrics.name)
  and not exists (select from pools where pools.private_to = fabrics.name)
