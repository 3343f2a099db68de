-- What changes is told to all that listen on `barrio`, when it is committed; who is where; and which text a version had.
create function tell() returns trigger language plpgsql as $$
begin
    if tg_table_name = 'fabrics' then
        perform pg_notify('barrio', 'fabric ' || coalesce(new.name, old.name));
    else
        perform pg_notify('barrio', tg_argv[0]);
    end if;
    return null;
end $$;
create trigger fabrics_tell after update of version, head, sealed or delete on fabrics for each row execute function tell();
create trigger pools_tell after update on pools_version for each statement execute function tell('pools');
create trigger models_tell after insert or update or delete on models for each statement execute function tell('catalogue');
create trigger grants_tell after insert or update or delete on grants for each statement execute function tell('people');
create trigger members_tell after insert or delete on members for each statement execute function tell('people');
create trigger people_tell after insert or update of called, left_at on people for each statement execute function tell('people');
create trigger sessions_tell after delete on sessions for each statement execute function tell('people');
create trigger tokens_tell after delete on tokens for each statement execute function tell('people');

-- Who has a fabric open, and at which word or row. Lost with the machine, since nobody is there any more then.
create unlogged table present (
    stream uuid primary key,
    person bigint not null references people on delete cascade,
    fabric text not null,
    place text not null default '',
    seen_at timestamptz not null default now()
);
create index present_by_fabric on present (fabric);

-- The text that each version of a draft had, so that two who change different words at once both succeed.
create table versions (
    fabric text not null references fabrics on delete cascade,
    version bigint not null,
    revision bigint not null references revisions on delete cascade,
    primary key (fabric, version)
);
insert into versions select name, version, head from fabrics where head is not null;
create function keep_version() returns trigger language plpgsql as $$
begin
    if new.head is not null then
        insert into versions values (new.name, new.version, new.head)
        on conflict (fabric, version) do update set revision = excluded.revision;
        delete from versions where fabric = new.name and version < new.version - 1000;
    end if;
    return null;
end $$;
create trigger fabrics_keep_version after update of version, head on fabrics for each row execute function keep_version();
