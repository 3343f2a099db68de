-- The architect's own switch models beside those that ship, and who made each change.
-- A switch model as the catalogue has it; one with the id of a shipped model takes its place.
create table models (
    id text primary key,
    body jsonb not null,
    saved_at timestamptz not null default now(),
    author text not null default ''
);

-- Grows with every change of a model, so that what was compiled with an older catalogue is not taken for current.
create table catalogue_version (version bigint not null);
insert into catalogue_version values (1);

alter table revisions add column author text not null default '';
