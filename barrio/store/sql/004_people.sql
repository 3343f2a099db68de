-- People, what they may do, how they sign in, and the record of all that is done.

-- A person. `name` is what they sign in by; `alike` is its shape, so that no two names can be taken for each other.
create table people (
    id bigint generated always as identity primary key,
    name text not null unique check (name ~ '^[a-z][a-z0-9._-]{1,31}$'),
    alike text not null unique,
    called text not null check (called <> ''),
    password text,
    seconds bytea,
    manners jsonb not null default '{}',
    keys text[] not null default '{}',
    left_at timestamptz,
    made_at timestamptz not null default now()
);

create table teams (
    id bigint generated always as identity primary key,
    name text not null unique check (name <> ''),
    note text not null default ''
);
create table members (
    team bigint not null references teams on delete cascade,
    person bigint not null references people on delete cascade,
    primary key (team, person)
);
create index members_by_person on members (person);

-- A role that a person or a team has, for one fabric or, without one, for all.
create table grants (
    id bigint generated always as identity primary key,
    person bigint references people on delete cascade,
    team bigint references teams on delete cascade,
    role text not null check (role in ('reader', 'architect', 'reviewer', 'technician', 'operator', 'keeper')),
    fabric text references fabrics on delete cascade,
    check ((person is null) <> (team is null)),
    check (role <> 'keeper' or fabric is null),
    unique nulls not distinct (person, team, role, fabric)
);
create index grants_by_team on grants (team);

-- Secrets are kept as their SHA-256, so that who reads the database can use none of them.
create table sessions (
    id bigint generated always as identity primary key,
    secret bytea not null unique,
    person bigint not null references people on delete cascade,
    began_at timestamptz not null default now(),
    seen_at timestamptz not null default now(),
    ends_at timestamptz not null,
    address text not null,
    agent text not null
);
create index sessions_by_person on sessions (person);

create table tokens (
    id bigint generated always as identity primary key,
    secret bytea not null unique,
    person bigint not null references people on delete cascade,
    name text not null check (name <> ''),
    roles text[] not null,
    fabrics text[],
    made_at timestamptz not null default now(),
    ends_at timestamptz not null,
    used_at timestamptz,
    unique (person, name)
);

-- A link that is good once: to make the first person (`first`), to choose a password (`welcome`), or just to come in (`enter`).
create table links (
    secret bytea primary key,
    purpose text not null check (purpose in ('first', 'welcome', 'enter')),
    person bigint references people on delete cascade,
    ends_at timestamptz not null,
    check ((purpose = 'first') = (person is null))
);

-- How often signing in failed lately, by the digest of a name or an address.
create table failures (
    who bytea primary key,
    count integer not null,
    last timestamptz not null default now()
);

-- The key file that secrets in this database are encrypted with, by its digest.
create table keyring (digest bytea not null);

-- Every act of anybody is a row of `changes`; what it altered stands in `altered`, written by the database itself. Neither can be
-- altered or taken out, and nothing that is kept can change without an act.
alter table changes
    add column topic text not null default 'ledger',
    add column person bigint,
    add column token text not null default '',
    add column address text not null default '';
create index changes_by_time on changes (at);
create index changes_by_person on changes (person, id);

create table altered (
    change bigint not null references changes,
    thing text not null,
    key text not null,
    before jsonb,
    after jsonb
);
create index altered_by_change on altered (change);

create function is_kept() returns trigger language plpgsql as $$
begin
    raise exception 'the record cannot be altered' using errcode = 'insufficient_privilege';
end $$;
create trigger changes_are_kept before update or delete or truncate on changes for each statement execute function is_kept();
create trigger altered_is_kept before update or delete or truncate on altered for each statement execute function is_kept();
create trigger past_is_kept before update or delete or truncate on past for each statement execute function is_kept();

-- The arguments: the columns that name a row, joined by commas; then columns that are secret, or grow too large to be told.
create function is_recorded() returns trigger language plpgsql as $$
declare
    act bigint := nullif(current_setting('barrio.change', true), '')::bigint;
    earlier jsonb := case when tg_op = 'INSERT' then null else to_jsonb(old) end;
    later jsonb := case when tg_op = 'DELETE' then null else to_jsonb(new) end;
    row jsonb := coalesce(later, earlier);
    named text := (select string_agg(row ->> part, ', ') from unnest(string_to_array(tg_argv[0], ',')) as part);
    hidden text;
begin
    if act is null then
        raise exception 'a change of % without an act', tg_table_name;
    end if;
    if tg_op = 'UPDATE' and earlier = later then
        return null;
    end if;
    foreach hidden in array tg_argv[1:] loop
        if earlier ? hidden and later ? hidden and earlier -> hidden is distinct from later -> hidden then
            later := jsonb_set(later, array[hidden], '"changed"');
        elsif later ? hidden and later -> hidden <> 'null' then
            later := jsonb_set(later, array[hidden], '"kept to itself"');
        end if;
        if earlier ? hidden and earlier -> hidden <> 'null' then
            earlier := jsonb_set(earlier, array[hidden], '"kept to itself"');
        end if;
    end loop;
    if tg_op = 'UPDATE' then
        earlier := (select jsonb_object_agg(key, value) from jsonb_each(earlier) where value is distinct from later -> key);
        later := (select jsonb_object_agg(key, value) from jsonb_each(later) where earlier ? key);
    end if;
    insert into altered values (act, tg_table_name, coalesce(named, ''), earlier, later);
    return null;
end $$;

create trigger people_recorded after insert or update or delete on people
    for each row execute function is_recorded('name', 'password', 'seconds');
create trigger teams_recorded after insert or update or delete on teams for each row execute function is_recorded('name');
create trigger members_recorded after insert or delete on members for each row execute function is_recorded('team,person');
create trigger grants_recorded after insert or update or delete on grants for each row execute function is_recorded('role');
create trigger tokens_recorded after insert or delete or update of name, roles, fabrics, ends_at on tokens
    for each row execute function is_recorded('name', 'secret');
create trigger sessions_recorded after insert or delete on sessions
    for each row execute function is_recorded('id', 'secret');
create trigger links_recorded after insert or delete on links
    for each row execute function is_recorded('purpose', 'secret');
create trigger fabrics_recorded after update of title, head, sealed or delete on fabrics
    for each row execute function is_recorded('name');
create trigger models_recorded after insert or update or delete on models for each row execute function is_recorded('id');
create trigger pools_recorded after insert or update or delete on pools for each row execute function is_recorded('name');
create trigger ranges_recorded after insert or update of pool, prefix, low, high or delete on pool_ranges
    for each row execute function is_recorded('pool,place');
create trigger reserved_recorded after insert or update or delete on reserved for each row execute function is_recorded('pool');
create trigger scopes_recorded after insert or update or delete on scopes for each row execute function is_recorded('name');
