-- The ledger in full: scopes, plans, nested and private pools, reservations, live numbers, pins, and all that ever was.
create extension if not exists btree_gist;

-- One act that changed the ledger: who, when, for which draft. Every row of `entries` names the change that made it so.
create table changes (
    id bigint generated always as identity primary key,
    at timestamptz not null default clock_timestamp(),
    author text not null default '',
    fabric text,
    version bigint,
    act text not null,
    note text not null default ''
);
create index changes_by_fabric on changes (fabric, id);
insert into changes (act) values ('carried over from an earlier schema');
select set_config('barrio.change', currval('changes_id_seq')::text, true);

-- A set within which numbers differ. Each has an exclusion constraint of its own on `entries`, made with it by `add_scope`:
-- SP-GiST takes one column, and GiST took a minute and more for what it takes two seconds for.
create table scopes (
    name text primary key check (name ~ '^[a-z][a-z0-9-]{0,30}$'),
    note text not null default '',
    created_at timestamptz not null default now()
);

alter table entries
    add column scope text not null generated always as (
        case when strpos(space, '@') > 0 then split_part(space, '@', 2) else 'site' end
    ) stored,
    add column leaving boolean not null default false,
    add column pinned boolean not null default false,
    add column note text not null default '',
    add column change bigint not null default current_setting('barrio.change')::bigint,
    drop constraint entries_prefix_excl,
    drop constraint entries_space_number_key,
    drop constraint entries_state_check,
    add check (state in ('held', 'live', 'resting', 'reserved')),
    add check (not leaving or state = 'live'),
    add check (state <> 'reserved' or pinned);

create function add_scope(wanted text, said text) returns void language plpgsql as $$
begin
    insert into scopes (name, note) values (wanted, said);
    execute format(
        'alter table entries add constraint %I exclude using spgist (prefix with &&) where (scope = %L)',
        'entries_apart_in_' || wanted, wanted
    );
end $$;
select add_scope('site', 'Everything that is not said to be elsewhere');

-- A number has one owner in its space. Positions and cable numbers are private to a fabric (`cable/marlin`); there a draft
-- may give a place to another key while the edition still has it.
create unique index entries_one_owner on entries (space, number)
    where number is not null and not (leaving and strpos(space, '/') > 0);
drop index entries_one_number_a_key;
create unique index entries_one_number_a_key on entries (fabric, use, key) where state in ('held', 'live') and not leaving;
create unique index entries_one_pin_a_key on entries (fabric, use, key) where pinned;
create index entries_apart_from_held on entries (fabric, use, key) where state in ('resting', 'reserved') or leaving;
drop index entries_by_fabric;
drop index entries_by_pool;
create index entries_by_pool on entries (pool, prefix);
create index entries_by_number on entries (pool, number) where number is not null;
create index entries_by_change on entries (change);

-- What an entry was before a change altered or ended it. Written by the database itself, so that nothing is lost.
create table past (
    entry bigint not null,
    use text not null,
    key text not null,
    fabric text not null,
    pool text not null,
    space text not null,
    prefix cidr,
    number bigint,
    state text not null,
    leaving boolean not null,
    pinned boolean not null,
    note text not null,
    since timestamptz not null,
    change bigint not null,
    ended bigint not null references changes
);
create index past_by_end on past (ended);
create index past_by_prefix on past (prefix) where prefix is not null;
create index past_by_number on past (space, number) where number is not null;
create index past_by_key on past (fabric, use, key);

create function remember() returns trigger language plpgsql as $$
begin
    insert into past
    select id, use, key, fabric, pool, space, prefix, number, state, leaving, pinned, note, since, change,
           current_setting('barrio.change')::bigint
    from gone;
    return null;
end $$;
create trigger entries_remember_updates after update on entries referencing old table as gone
    for each statement execute function remember();
create trigger entries_remember_deletes after delete on entries referencing old table as gone
    for each statement execute function remember();

-- Checked once a statement and not once a row, since a foreign key costs half a second for a hundred thousand rows.
alter table entries drop constraint entries_fabric_fkey;
create function entries_have_a_home() returns trigger language plpgsql as $$
begin
    if exists (select from made where scope not in (select name from scopes)) then
        raise foreign_key_violation using message = 'an entry names a scope that does not exist';
    end if;
    if exists (select from made where fabric not in (select name from fabrics)) then
        raise foreign_key_violation using message = 'an entry names a fabric that does not exist';
    end if;
    return null;
end $$;
create trigger entries_have_a_home after insert on entries referencing new table as made
    for each statement execute function entries_have_a_home();
create function fabric_has_entries() returns trigger language plpgsql as $$
begin
    if exists (select from entries where fabric = old.name) then
        raise foreign_key_violation using message = format('%s still has numbers', old.name);
    end if;
    return old;
end $$;
create trigger fabrics_without_entries before delete on fabrics
    for each row execute function fabric_has_entries();

alter table pools
    add column kind text not null default ''
        check (kind in ('', 'addresses', 'asn', 'vlan', 'vni', 'pair')),
    add column plan text not null default 'lowest' check (plan in ('lowest', 'position', 'best-fit')),
    add column scope text not null default 'site' references scopes,
    add column parent text references pools,
    add column private_to text references fabrics,
    add column warn real not null default 0.85 check (warn > 0 and warn <= 1),
    add column note text not null default '',
    add check (parent <> name);
update pools set kind = coalesce((
    select case min(use) when 'asn' then 'asn' when 'vlan' then 'vlan' when 'vni' then 'vni' when 'pair' then 'pair'
        else 'addresses' end
    from entries where entries.pool = pools.name), '');

-- Ranges of one nest (a scope, or a pool that others are cut from; of plain numbers the pool itself) lie apart; a child
-- lies inside its parent.
alter table pool_ranges
    add column nest text not null default '',
    drop constraint pool_ranges_prefix_excl;

create function place_range() returns trigger language plpgsql as $$
begin
    select scope || '/' || coalesce(parent, case when new.prefix is null then '#' || name else '' end)
    into new.nest from pools where name = new.pool;
    return new;
end $$;
create trigger pool_ranges_place before insert or update on pool_ranges
    for each row execute function place_range();
create function place_ranges() returns trigger language plpgsql as $$
begin
    update pool_ranges set place = place where pool = new.name;
    return null;
end $$;
create trigger pools_place_ranges after update of scope, parent on pools
    for each row execute function place_ranges();
update pool_ranges set place = place;
alter table pool_ranges
    add exclude using gist (nest with =, prefix inet_ops with &&) where (prefix is not null),
    add exclude using gist (nest with =, int8range(low, high, '[]') with &&) where (prefix is null);

create function range_is_inside_parent() returns trigger language plpgsql as $$
begin
    if exists (
        select from pool_ranges as mine join pools on pools.name = mine.pool
        where pools.parent is not null and not exists (
            select from pool_ranges as whole
            where whole.pool = pools.parent
              and (whole.prefix >>= mine.prefix or (whole.low <= mine.low and whole.high >= mine.high)))
    ) then
        raise check_violation using message = 'a range lies outside the pool that it is cut from';
    end if;
    return null;
end $$;
create constraint trigger pool_ranges_inside_parent after insert or update or delete on pool_ranges
    deferrable initially deferred for each row execute function range_is_inside_parent();

-- Numbers that nobody is given, and why.
create table reserved (
    id bigint generated always as identity primary key,
    pool text not null references pools,
    family text not null check (family in ('v4', 'v6', 'number')),
    low numeric(39) not null,
    high numeric(39) not null check (high >= low),
    note text not null default '',
    author text not null default '',
    at timestamptz not null default now()
);
create index reserved_by_pool on reserved (pool);

-- The revision that was made an edition last; what it holds is live. `numbering` is what a revision moved and pinned, both
-- ways, so that it can be undone.
alter table fabrics add column sealed bigint references revisions;
alter table revisions add column numbering jsonb;

-- Grows with every change of a pool, so that what was compiled with older pools is not taken for current.
create table pools_version (version bigint not null);
insert into pools_version values (1);

-- Identifiers worked out from numbers that must differ across fabrics: system MACs of pairs, and route targets.
create table derived (
    scope text not null,
    kind text not null,
    value text not null,
    fabric text not null references fabrics on delete cascade,
    owner text not null,
    primary key (scope, kind, value)
);
create index derived_by_fabric on derived (fabric);
