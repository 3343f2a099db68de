-- Boxes that may come by RFC 8572: what shows that one is itself beside the certificate that its maker gave it (the SHA-256 of a word), its ownership voucher,
-- and the SHA-256 of the word by which the agent that it was given is let in, once.
create table sztp_boxes (
    fabric text not null references fabrics on delete cascade,
    switch text not null,
    serial text not null unique,
    secret bytea,
    voucher bytea,
    voucher_expires_at timestamptz,
    word bytea unique,
    progress text not null default '',
    author text not null,
    at timestamptz not null default now(),
    seen_at timestamptz,
    primary key (fabric, switch)
);
create trigger sztp_boxes_tell after insert or update on sztp_boxes for each row execute function tell_staging();
