-- What was done to cables, deed by deed; none is ever changed. The device that records a deed makes its id, so that one sent twice is there once.
create table cable_work (
    id uuid primary key,
    fabric text not null references fabrics on delete cascade,
    cable text not null check (cable <> ''),
    kind text not null,
    text text not null default '',
    number double precision,
    author text not null,
    done_at timestamptz not null,
    taken_at timestamptz not null default now()
);
create index cable_work_by_fabric on cable_work (fabric, cable);
create function deeds_stay() returns trigger language plpgsql as $$
begin
    raise exception 'what was done to cables is never changed';
end $$;
create trigger cable_work_kept before update on cable_work for each row execute function deeds_stay();

-- What switches heard of each other, table by table; the newest one counts.
create table neighbours (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    heard jsonb not null,
    author text not null,
    taken_at timestamptz not null default now()
);
create index neighbours_by_fabric on neighbours (fabric, id);

create function tell_cables() returns trigger language plpgsql as $$
begin
    perform pg_notify('barrio', 'cables ' || new.fabric);
    return null;
end $$;
create trigger cable_work_tell after insert on cable_work for each row execute function tell_cables();
create trigger neighbours_tell after insert on neighbours for each row execute function tell_cables();
