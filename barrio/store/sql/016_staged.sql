-- A staging that was ended has its switches put their old files back.
alter table stagings drop constraint stagings_state_check;
alter table stagings add check (state in ('runs', 'paused', 'back', 'done', 'left'));

-- How the switches of a fabric come to Barrio: the address that they reach it at, who is let in without being asked about, and the span of the management
-- network that boxes are lent addresses from whose MAC nobody knows.
create table ways (
    fabric text primary key references fabrics on delete cascade,
    address text not null default '',
    admits text not null default 'nobody' check (admits in ('nobody', 'serial and place', 'serial')),
    lend cidr,
    author text not null,
    at timestamptz not null default now()
);
create trigger ways_tell after insert or update on ways for each row execute function tell_staging();

-- How long a command took.
alter table staging_log add column seconds real;
