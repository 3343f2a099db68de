-- Parts of a rehearsal that other machines lend: who asked, with the public half of a key made for it, and where a lender waits with its own.
create table lent_grounds (
    id bigint generated always as identity primary key,
    job bigint not null references jobs on delete cascade,
    borrower text not null,
    certificate text not null,
    ground text not null,
    memory integer not null,
    lender text not null default '',
    lender_certificate text not null default '',
    address text not null default '',
    asked_at timestamptz not null default now()
);
create index lent_grounds_by_job on lent_grounds (job);
