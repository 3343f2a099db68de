-- Which box is which switch. One that was taken out stays here, so that it never comes back by itself.
create table boxes (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    switch text not null check (switch <> ''),
    name text not null,
    serial text not null default '',
    mac text not null default '',
    author text not null,
    bound_at timestamptz not null default now(),
    retired_at timestamptz,
    why text not null default '',
    check (serial <> '' or mac <> '')
);
create unique index boxes_by_switch on boxes (fabric, switch) where retired_at is null;
create unique index boxes_by_serial on boxes (serial) where serial <> '';
create unique index boxes_by_mac on boxes (mac) where mac <> '';

-- Who knocks: each by the key that it made for itself. Nothing is given to one that was not admitted. `counter` is that of the newest request that it
-- signed; one that is not larger was sent before.
create table knocks (
    key bytea primary key check (length(key) = 32),
    serial text not null default '',
    mac text not null default '',
    said jsonb not null default '{}',
    address text not null default '',
    state text not null default 'waits' check (state in ('waits', 'admitted', 'refused')),
    fabric text references fabrics on delete set null,
    switch text not null default '',
    author text not null default '',
    why text not null default '',
    counter bigint not null default 0,
    first_at timestamptz not null default now(),
    last_at timestamptz not null default now(),
    decided_at timestamptz
);
create index knocks_by_serial on knocks (serial) where serial <> '';
create unique index knocks_by_switch on knocks (fabric, switch) where state = 'admitted' and fabric is not null;

-- A staging: an edition that is put on switches, wave by wave.
create table stagings (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    edition integer not null,
    state text not null default 'runs' check (state in ('runs', 'paused', 'done', 'left')),
    words text not null default '',
    at_once integer not null check (at_once between 1 and 1000),
    stop_after integer not null check (stop_after >= 1),
    confirm_seconds integer not null check (confirm_seconds between 1 and 3600),
    from_at timestamptz,
    until_at timestamptz,
    author text not null,
    began_at timestamptz not null default now(),
    ended_at timestamptz,
    advanced_at timestamptz not null default now()
);
create unique index stagings_under_way on stagings (fabric) where ended_at is null;

-- A switch of a staging: the step that it is at, and what it is to do now.
create table staged (
    staging bigint not null references stagings on delete cascade,
    switch text not null,
    name text not null,
    rack text not null,
    place integer not null,
    wave integer not null,
    step text not null,
    state text not null default 'waits' check (state in ('waits', 'works', 'done', 'failed', 'skipped')),
    words text not null default '',
    task text not null default '',
    attempt integer not null default 0,
    since timestamptz not null default now(),
    until_at timestamptz,
    began_at timestamptz,
    primary key (staging, switch)
);

-- What was done and answered, step by step and command by command; none is ever changed.
create table staging_log (
    id bigint generated always as identity primary key,
    staging bigint not null references stagings on delete cascade,
    switch text not null,
    at timestamptz not null default now(),
    step text not null,
    words text not null,
    command text not null default '',
    code integer,
    output text not null default ''
);
create index staging_log_by_switch on staging_log (staging, switch, id);
create function staging_log_stays() returns trigger language plpgsql as $$
begin
    raise exception 'what was done to switches is never changed';
end $$;
create trigger staging_log_kept before update on staging_log for each row execute function staging_log_stays();

create function tell_staging() returns trigger language plpgsql as $$
begin
    perform pg_notify('barrio', 'staging ' || coalesce(new.fabric, ''));
    return null;
end $$;
create trigger boxes_tell after insert or update on boxes for each row execute function tell_staging();
create trigger knocks_tell after insert on knocks for each row execute function tell_staging();
create trigger knocks_tell_other after update on knocks for each row
    when (old.state <> new.state or old.said <> new.said or old.serial <> new.serial or old.mac <> new.mac) execute function tell_staging();
create trigger stagings_tell after insert on stagings for each row execute function tell_staging();
create trigger stagings_tell_other after update on stagings for each row
    when (old.state <> new.state or old.words <> new.words) execute function tell_staging();
create function tell_staged() returns trigger language plpgsql as $$
begin
    perform pg_notify('barrio', 'staging ' || (select fabric from stagings where id = new.staging));
    return null;
end $$;
create trigger staged_tell after update on staged for each row when (old.* is distinct from new.*) execute function tell_staged();

-- A switch asks for its own files, one after the other.
create index edition_files_by_path on edition_files (edition, path text_pattern_ops);
