-- What switches hold beside their files: each table as it is now, and what changed of it since it was told first.
create table running_tables (
    fabric text not null references fabrics on delete cascade,
    switch text not null,
    kind text not null,
    since timestamptz not null default now(),
    -- The digest of what its command printed, where that says the same while nothing changes.
    told bytea,
    -- A row a line: its key, a tab, and what is there.
    content text not null,
    primary key (fabric, switch, kind)
);
alter table running_tables alter column content set compression lz4;
create table table_changes (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    switch text not null,
    kind text not null,
    at timestamptz not null default now(),
    -- A row a line: its key, what was there and what is, with tabs between.
    content text not null
);
alter table table_changes alter column content set compression lz4;
create index table_changes_of_switch on table_changes (fabric, switch, kind, at);
create index table_changes_of_fabric on table_changes (fabric, at);
