-- Paths of flows that somebody asked for: from whom to whom, and what each switch on the way said of it.
create table flows (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    edition integer not null,
    source text not null,
    target text not null,
    author text not null,
    at timestamptz not null default now(),
    -- Whoever did not answer by then is not asked any more.
    until_at timestamptz not null
);
create index flows_of_fabric on flows (fabric, id desc);
create table flow_answers (
    flow bigint not null references flows on delete cascade,
    -- In which order it came up; a switch is asked in that order.
    place integer not null,
    switch text not null,
    name text not null,
    command text not null,
    answer text,
    primary key (flow, switch, command)
);
create index flow_answers_waiting on flow_answers (switch) where answer is null;
