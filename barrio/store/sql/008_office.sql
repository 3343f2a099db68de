-- What holds for every fabric there is: the office's files, as a whole, at each of its editions. None is ever changed.
create table office (
    number bigint primary key check (number > 0),
    files jsonb not null,
    note text not null default '',
    author text not null,
    saved_at timestamptz not null default now()
);
create function office_stays() returns trigger language plpgsql as $$
begin
    raise exception 'an edition of the office is never changed';
end $$;
create trigger office_kept before update or delete or truncate on office for each statement execute function office_stays();
create trigger office_tell after insert on office for each statement execute function tell('catalogue');

-- What templates print and no brief may hold: sealed with the key file, by the name that briefs say.
create table secrets (
    name text primary key check (name <> ''),
    sealed bytea not null,
    author text not null,
    saved_at timestamptz not null default now()
);
create trigger secrets_recorded after insert or update or delete on secrets for each row execute function is_recorded('name', 'sealed');
create trigger secrets_tell after insert or update or delete on secrets for each statement execute function tell('catalogue');
