-- The first schema: fabrics with the history of their drafts, pools with their ranges, and the ledger.
-- A fabric. `version` grows with every saved change; `head` is the revision that is now the draft.
create table fabrics (
    name text primary key,
    title text not null default '',
    cable_prefix text not null unique,
    version bigint not null default 1,
    head bigint,
    created_at timestamptz not null default now()
);

-- One saved state of a draft. Undo moves `fabrics.head` to the parent, redo to the newest child.
create table revisions (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    parent bigint references revisions,
    brief text not null,
    note text not null,
    effect jsonb not null default '{}',
    fresh text[] not null default '{}',
    saved_at timestamptz not null default now()
);
create index revisions_by_fabric on revisions (fabric, id);
create index revisions_by_parent on revisions (parent);
alter table fabrics add foreign key (head) references revisions;

create table pools (
    name text primary key,
    rest interval not null default interval '1 day',
    created_at timestamptz not null default now()
);

-- A range of a pool: a prefix, or numbers with inclusive bounds. No two prefix ranges share an address.
-- SP-GiST, since it takes tens of thousands of neighbouring prefixes fifteen times as fast as GiST.
create table pool_ranges (
    pool text not null references pools,
    place integer not null,
    prefix cidr,
    low bigint,
    high bigint check (high >= low),
    primary key (pool, place),
    check ((prefix is null) = (low is not null and high is not null)),
    exclude using spgist (prefix with &&)
);

-- One number that is taken: a prefix (an address is a prefix of full length), or a plain number of a space. Prefixes
-- never overlap and numbers of a space never repeat, whatever the program above believes.
create table entries (
    id bigint generated always as identity primary key,
    use text not null,
    key text not null,
    fabric text not null references fabrics on delete cascade,
    pool text not null,
    space text not null,
    prefix cidr,
    number bigint,
    state text not null check (state in ('held', 'live', 'resting')),
    since timestamptz not null default now(),
    released_at timestamptz check ((released_at is null) = (state <> 'resting')),
    check ((prefix is null) = (number is not null)),
    exclude using spgist (prefix with &&),
    unique (space, number)
);
create unique index entries_one_number_a_key on entries (fabric, use, key) where state <> 'resting';
create index entries_by_fabric on entries (fabric);
create index entries_by_pool on entries (pool);
