-- Other ways to show who one is: a passkey, and the word of the office's provider; and what was shown once and is good no more.

-- A passkey (Web Authentication): its public half, and how often it has signed, where it counts.
create table passkeys (
    id bytea primary key,
    person bigint not null references people on delete cascade,
    name text not null check (name <> ''),
    public_key bytea not null,
    signed bigint not null,
    made_at timestamptz not null default now(),
    used_at timestamptz,
    unique (person, name)
);
create trigger passkeys_recorded after insert or delete or update of name on passkeys
    for each row execute function is_recorded('name', 'id', 'public_key');

-- By which name the provider of an issuer knows a person (OpenID Connect: `iss` and `sub`); `shown` is how it calls them.
create table outsiders (
    person bigint primary key references people on delete cascade,
    issuer text not null,
    subject text not null,
    shown text not null,
    joined_at timestamptz not null default now(),
    unique (issuer, subject)
);
create trigger outsiders_recorded after insert or update or delete on outsiders
    for each row execute function is_recorded('shown', 'subject');

-- What was good once and has been shown, by its digest, until it would have ended anyway.
create table spent (digest bytea primary key, ends_at timestamptz not null);

-- Whether a second factor was shown when this session began.
alter table sessions add column vouched boolean not null default false;
