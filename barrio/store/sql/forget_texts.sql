-- Texts that no edition and no review has any more.
delete from texts
where not exists (select from edition_files where edition_files.digest = texts.digest)
  and not exists (select from editions where editions.inputs = texts.digest)
  and not exists (select from voices where voices.seen = texts.digest)
  and not exists (select from fabrics where fabrics.ended_inputs = texts.digest)
