-- Software for switches. Its content stands in pieces, by its SHA-256, and is kept once however many fabrics have it.
create table image_contents (
    digest bytea primary key,
    size bigint not null
);
create table image_pieces (
    digest bytea not null references image_contents on delete cascade,
    at integer not null,
    content bytea not null,
    primary key (digest, at)
);
alter table image_pieces alter column content set storage external;
-- What is being brought, until all of it is there.
create table image_uploads (
    id bigint generated always as identity primary key,
    at timestamptz not null default now()
);
create table image_upload_pieces (
    upload bigint not null references image_uploads on delete cascade,
    at integer not null,
    content bytea not null,
    primary key (upload, at)
);
alter table image_upload_pieces alter column content set storage external;
create table images (
    id bigint generated always as identity primary key,
    fabric text not null references fabrics on delete cascade,
    version text not null,
    model text not null default '',
    digest bytea not null references image_contents,
    name text not null,
    author text not null,
    at timestamptz not null default now(),
    unique (fabric, version, model)
);
create trigger images_tell after insert or update on images for each row execute function tell_staging();
