-- What of a fabric's drift is put back by itself: nothing, unless somebody said so.
create table drift_rules (
    fabric text primary key references fabrics on delete cascade,
    back text not null check (back in ('harmless', 'all')),
    author text not null,
    at timestamptz not null default now()
);
create trigger drift_rules_recorded after insert or update or delete on drift_rules for each row execute function is_recorded('fabric');

-- When what a snapshot shows was put back by the rule: once, so that what does not stay is not fought over.
alter table snapshots add column put_back_at timestamptz;
