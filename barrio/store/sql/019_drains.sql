-- Switches that are drained before they are touched: told to, asked about at their neighbours, drained, and told to carry again. `seen` has what each neighbour
-- (by key) still does by the switch, in words; empty where it goes another way.
create table drains (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    switch text not null,
    name text not null,
    state text not null default 'told' check (state in ('told', 'asked', 'drained', 'kept', 'returns', 'ended')),
    words text not null default '',
    why text not null,
    author text not null,
    began_at timestamptz not null default now(),
    since timestamptz not null default now(),
    until_at timestamptz,
    seen jsonb not null default '{}',
    ended_at timestamptz
);
create unique index drains_under_way on drains (fabric, switch) where ended_at is null;
create trigger drains_tell after insert or update on drains for each row execute function tell_staging();
