-- What was found of a network that runs and that nobody described, by the name of the fabric that it is to be, which need not be there yet;
-- and what people said of each part of it, so that a later discovery does not ask again.
create table adoptions (
    fabric text primary key,
    source text not null,
    author text not null,
    at timestamptz not null default now(),
    -- As it was written: the order of a brief's words is kept.
    found json not null
);
alter table adoptions alter column found set compression lz4;
create table adoption_said (
    fabric text not null,
    key text not null,
    said text not null check (said in ('taken', 'refused', 'kept', 'mended', 'left out')),
    why text not null,
    author text not null,
    at timestamptz not null default now(),
    primary key (fabric, key)
);

-- A fabric that is forgotten takes along what was found of it.
create function forget_adoption() returns trigger language plpgsql as $$
begin
    delete from adoptions where fabric = old.name;
    delete from adoption_said where fabric = old.name;
    return old;
end $$;
create trigger fabrics_forget_adoption after delete on fabrics for each row execute function forget_adoption();
