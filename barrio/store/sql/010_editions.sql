-- Editions: what was agreed, as it was; each text kept once, however many editions have it.
create table texts (
    digest bytea primary key check (octet_length(digest) = 32),
    size bigint not null,
    packed bytea not null
);

create table editions (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    number integer not null check (number > 0),
    version bigint not null,
    title text not null check (title <> ''),
    why text not null default '',
    author text not null,
    asked_by text not null default '',
    agreed jsonb not null default '[]',
    findings jsonb not null default '[]',
    counts jsonb not null default '{}',
    program text not null,
    inputs bytea not null references texts,
    sealed_at timestamptz not null default now(),
    unique (fabric, number)
);

create table edition_files (
    edition bigint not null references editions on delete cascade,
    place integer not null,
    path text not null,
    digest bytea not null references texts,
    primary key (edition, path)
);
create index edition_files_by_digest on edition_files (digest);

-- Nobody alters an edition or a text. They go with their fabric, and in no other way.
create function edition_stays() returns trigger language plpgsql as $$
begin
    if tg_op = 'DELETE' and current_setting('barrio.fabric_ends', true) = 'yes' then
        return null;
    end if;
    raise exception 'an edition is never changed' using errcode = 'insufficient_privilege';
end $$;
create trigger editions_kept before update or delete or truncate on editions for each statement execute function edition_stays();
create trigger edition_files_kept before update or delete or truncate on edition_files for each statement execute function edition_stays();
create trigger texts_kept before update or delete or truncate on texts for each statement execute function edition_stays();

-- Who must agree before a draft of a fabric becomes an edition; without a row, the office's (no fabric), without that, one.
create table review_rules (
    fabric text unique nulls not distinct references fabrics on delete cascade,
    agree integer not null check (agree between 0 and 9),
    people text[] not null default '{}'
);
create trigger review_rules_recorded after insert or update or delete on review_rules for each row execute function is_recorded('fabric');

-- A draft that is offered for review; a fabric has one open offer at most.
create table offers (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    title text not null check (title <> ''),
    why text not null default '',
    author text not null,
    person bigint references people on delete set null,
    offered_at timestamptz not null default now(),
    outcome text not null default '' check (outcome in ('', 'sealed', 'withdrawn')),
    ended_at timestamptz check ((ended_at is null) = (outcome = ''))
);
create unique index offers_one_open on offers (fabric) where outcome = '';
create trigger offers_recorded after insert or update on offers for each row execute function is_recorded('fabric,title');

-- What somebody said of an offer, and the inputs that they saw when they said it.
create table voices (
    id bigint generated always as identity primary key,
    offer bigint not null references offers on delete cascade,
    verdict text not null check (verdict in ('agrees', 'asks', 'declines')),
    note text not null default '',
    author text not null,
    person bigint references people on delete set null,
    seen bytea not null references texts,
    said_at timestamptz not null default now()
);
create index voices_by_offer on voices (offer, id);
create trigger voices_recorded after insert on voices for each row execute function is_recorded('verdict', 'seen');

-- Comments: on the whole, or on a line, a number, a cable, a word of the brief. `at` says where, `text` what stood there.
create table comments (
    id bigint generated always as identity primary key,
    offer bigint not null references offers on delete cascade,
    thing text not null check (thing in ('whole', 'line', 'number', 'cable', 'word')),
    at text not null default '',
    stood text not null default '',
    words text not null check (words <> ''),
    answers bigint references comments,
    author text not null,
    person bigint references people on delete set null,
    said_at timestamptz not null default now(),
    settled_by text not null default '',
    settled_at timestamptz
);
create index comments_by_offer on comments (offer, id);
create trigger comments_recorded after insert or update on comments for each row execute function is_recorded('thing,at');

create function tell_review() returns trigger language plpgsql as $$
declare
    named text := (select fabric from offers where id = (case when tg_table_name = 'offers' then new.id else (to_jsonb(new) ->> 'offer')::bigint end));
begin
    perform pg_notify('barrio', 'review ' || named);
    return null;
end $$;
create trigger offers_tell after insert or update on offers for each row execute function tell_review();
create trigger voices_tell after insert on voices for each row execute function tell_review();
create trigger comments_tell after insert or update on comments for each row execute function tell_review();

-- A fabric that was deleted is kept for a day as it was, so that it can be brought back: its last revision, and what it was compiled from.
alter table fabrics
    add column ended_at timestamptz,
    add column ended_by text not null default '',
    add column ended_head bigint references revisions,
    add column ended_inputs bytea references texts;
