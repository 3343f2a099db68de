-- Rehearsals: what was booted and asked of which state of a fabric, how far it is, and what came of it.
create table rehearsals (
    job bigint primary key references jobs on delete cascade,
    fabric text not null references fabrics on delete cascade,
    version bigint not null,
    edition integer not null default 0,
    inputs bytea not null,
    wish jsonb not null,
    found jsonb not null default '{}'
);
create index rehearsals_by_fabric on rehearsals (fabric, job);

create function tell_rehearsal() returns trigger language plpgsql as $$
begin
    perform pg_notify('barrio', 'rehearsal ' || new.fabric);
    return null;
end $$;
create trigger rehearsals_tell after insert or update on rehearsals for each row execute function tell_rehearsal();

-- The end of a rehearsal is that of its job.
create function tell_rehearsal_of_job() returns trigger language plpgsql as $$
begin
    perform pg_notify('barrio', 'rehearsal ' || new.fabric);
    return null;
end $$;
create trigger jobs_tell_rehearsal after update of state on jobs
    for each row when (new.kind = 'rehearsal' and new.state <> old.state) execute function tell_rehearsal_of_job();
