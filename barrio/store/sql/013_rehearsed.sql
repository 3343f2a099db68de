-- A rule may ask for a rehearsal of the very state that is to be sealed; and an edition tells in spite of what it was sealed.
alter table review_rules add column rehearsed boolean not null default false;
alter table editions add column despite text not null default '';
create index rehearsals_by_inputs on rehearsals (fabric, inputs);
