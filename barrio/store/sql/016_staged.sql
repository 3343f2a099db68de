-- A staging that was ended has its switches put their old files back.
alter table stagings drop constraint stagings_state_check;
alter table stagings add check (state in ('runs', 'paused', 'back', 'done', 'left'));
