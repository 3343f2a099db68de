-- What switches are asked by hand: which command, of whom, and what each answered. A command that only looks may be kept for all of the office.
create table asks (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    command text not null,
    author text not null,
    at timestamptz not null default now(),
    -- Whoever did not answer by then is not asked any more.
    until_at timestamptz not null
);
create index asks_of_fabric on asks (fabric, id desc);
create table ask_answers (
    ask bigint not null references asks on delete cascade,
    switch text not null,
    name text not null,
    answer text,
    code integer,
    at timestamptz,
    primary key (ask, switch)
);
create index ask_answers_waiting on ask_answers (switch) where answer is null;
create table office_commands (
    command text primary key,
    words text not null,
    author text not null,
    at timestamptz not null default now()
);

-- Who was signed in at a switch between two looks at it.
alter table snapshots add column signed_in jsonb not null default '[]';
