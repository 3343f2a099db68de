-- Work that takes longer than a request: who asked for what, how far it is, what came of it. The queue itself is procrastinate's, whose
-- tables stand beside these.
create table jobs (
    id bigint generated always as identity primary key,
    kind text not null,
    fabric text not null default '',
    wishes jsonb not null default '{}',
    person bigint references people on delete set null,
    author text not null default '',
    token text not null default '',
    state text not null default 'waiting' check (state in ('waiting', 'working', 'done', 'failed', 'stopped')),
    asked_at timestamptz not null default now(),
    began_at timestamptz,
    ended_at timestamptz,
    queued bigint,
    attempt integer not null default 0,
    done bigint not null default 0,
    of bigint not null default 0,
    words text not null default '',
    stop boolean not null default false,
    log text[] not null default '{}'
);
create index jobs_by_person on jobs (person, id);
create index jobs_not_ended on jobs (id) where state in ('waiting', 'working');
create trigger jobs_recorded after insert or update of state on jobs
    for each row when (new.state in ('waiting', 'stopped', 'done', 'failed'))
    execute function is_recorded('kind,fabric', 'log', 'words', 'done', 'of', 'queued', 'attempt');

-- What came of a job: one file, kept for a week.
create table results (
    job bigint primary key references jobs on delete cascade,
    name text not null,
    media text not null,
    content bytea not null
);

create function tell_job() returns trigger language plpgsql as $$
begin
    perform pg_notify('barrio', 'job ' || new.id || ' ' || coalesce(new.person, 0));
    return null;
end $$;
create trigger jobs_tell after insert or update on jobs for each row execute function tell_job();
