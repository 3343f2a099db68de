-- What switches run, as it was seen. Each text is kept once; a row of snapshots lasts as long as nothing of a switch changes.
create table running_texts (
    digest bytea primary key,
    content text not null
);
alter table running_texts alter column content set compression lz4;
create table snapshots (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    switch text not null,
    edition integer not null,
    from_at timestamptz not null default now(),
    until_at timestamptz not null default now(),
    -- The files that run otherwise than the edition has them, by path: the digest of the text that is there, or nothing where there is none.
    files jsonb not null,
    -- What is not as it should be, in words.
    state jsonb not null
);
create index snapshots_by_switch on snapshots (fabric, switch, until_at desc);
create trigger snapshots_tell after insert on snapshots for each row execute function tell_staging();

-- Drift that somebody leaves as it is, with a reason, until a day.
create table drift_left (
    fabric text not null references fabrics on delete cascade,
    switch text not null,
    path text not null,
    line text not null,
    why text not null,
    until_on date not null,
    author text not null,
    at timestamptz not null default now(),
    primary key (fabric, switch, path, line)
);
