-- What a proposal said when somebody spoke of it: one that says something else later is asked again.
alter table adoption_said add column content jsonb;
