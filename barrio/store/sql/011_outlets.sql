-- Outlets: where the office wants to be told of what happens, and what was or is to be sent there.
create table outlets (
    id bigint generated always as identity primary key,
    kind text not null check (kind in ('webhook', 'mail', 'git')),
    fabric text references fabrics on delete cascade,
    address text not null check (address <> ''),
    secret bytea,
    author text not null,
    made_at timestamptz not null default now(),
    unique nulls not distinct (kind, fabric, address)
);
create trigger outlets_recorded after insert or update or delete on outlets for each row execute function is_recorded('kind,address', 'secret');

create table deliveries (
    id uuid primary key default gen_random_uuid(),
    outlet bigint not null references outlets on delete cascade,
    fabric text not null,
    what text not null,
    body jsonb not null,
    made_at timestamptz not null default now(),
    next_at timestamptz not null default now(),
    attempts integer not null default 0,
    done_at timestamptz,
    trouble text not null default ''
);
create index deliveries_due on deliveries (next_at) where done_at is null;
create index deliveries_by_outlet on deliveries (outlet, made_at);

-- Bundles that somebody brought to hold them against others; they go after a day.
create table brought (
    id uuid primary key default gen_random_uuid(),
    fabric text not null references fabrics on delete cascade,
    name text not null,
    content bytea not null,
    author text not null,
    at timestamptz not null default now()
);
create index brought_by_time on brought (at);
