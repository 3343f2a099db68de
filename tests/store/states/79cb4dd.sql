SET statement_timeout = 0;
SET lock_timeout = 0;
SET idle_in_transaction_session_timeout = 0;
SET client_encoding = 'UTF8';
SET standard_conforming_strings = on;
SELECT pg_catalog.set_config('search_path', '', false);
SET check_function_bodies = false;
SET xmloption = content;
SET client_min_messages = warning;
SET row_security = off;
CREATE EXTENSION IF NOT EXISTS btree_gist WITH SCHEMA public;
COMMENT ON EXTENSION btree_gist IS 'support for indexing common datatypes in GiST';
CREATE FUNCTION public.add_scope(wanted text, said text) RETURNS void
    LANGUAGE plpgsql
    AS $$
begin
    insert into scopes (name, note) values (wanted, said);
    execute format(
        'alter table entries add constraint %I exclude using spgist (prefix with &&) where (scope = %L)',
        'entries_apart_in_' || wanted, wanted
    );
end $$;
CREATE FUNCTION public.entries_have_a_home() RETURNS trigger
    LANGUAGE plpgsql
    AS $$
begin
    if exists (select from made where scope not in (select name from scopes)) then
        raise foreign_key_violation using message = 'an entry names a scope that does not exist';
    end if;
    if exists (select from made where fabric not in (select name from fabrics)) then
        raise foreign_key_violation using message = 'an entry names a fabric that does not exist';
    end if;
    return null;
end $$;
CREATE FUNCTION public.fabric_has_entries() RETURNS trigger
    LANGUAGE plpgsql
    AS $$
begin
    if exists (select from entries where fabric = old.name) then
        raise foreign_key_violation using message = format('%s still has numbers', old.name);
    end if;
    return old;
end $$;
CREATE FUNCTION public.place_range() RETURNS trigger
    LANGUAGE plpgsql
    AS $$
begin
    select scope || '/' || coalesce(parent, case when new.prefix is null then '#' || name else '' end)
    into new.nest from pools where name = new.pool;
    return new;
end $$;
CREATE FUNCTION public.place_ranges() RETURNS trigger
    LANGUAGE plpgsql
    AS $$
begin
    update pool_ranges set place = place where pool = new.name;
    return null;
end $$;
CREATE FUNCTION public.range_is_inside_parent() RETURNS trigger
    LANGUAGE plpgsql
    AS $$
begin
    if exists (
        select from pool_ranges as mine join pools on pools.name = mine.pool
        where pools.parent is not null and not exists (
            select from pool_ranges as whole
            where whole.pool = pools.parent
              and (whole.prefix >>= mine.prefix or (whole.low <= mine.low and whole.high >= mine.high)))
    ) then
        raise check_violation using message = 'a range lies outside the pool that it is cut from';
    end if;
    return null;
end $$;
CREATE FUNCTION public.remember() RETURNS trigger
    LANGUAGE plpgsql
    AS $$
begin
    insert into past
    select id, use, key, fabric, pool, space, prefix, number, state, leaving, pinned, note, since, change,
           current_setting('barrio.change')::bigint
    from gone;
    return null;
end $$;
SET default_tablespace = '';
SET default_table_access_method = heap;
CREATE TABLE public.catalogue_version (
    version bigint NOT NULL
);
CREATE TABLE public.changes (
    id bigint NOT NULL,
    at timestamp with time zone DEFAULT clock_timestamp() NOT NULL,
    author text DEFAULT ''::text NOT NULL,
    fabric text,
    version bigint,
    act text NOT NULL,
    note text DEFAULT ''::text NOT NULL
);
ALTER TABLE public.changes ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.changes_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.derived (
    scope text NOT NULL,
    kind text NOT NULL,
    value text NOT NULL,
    fabric text NOT NULL,
    owner text NOT NULL
);
CREATE TABLE public.entries (
    id bigint NOT NULL,
    use text NOT NULL,
    key text NOT NULL,
    fabric text NOT NULL,
    pool text NOT NULL,
    space text NOT NULL,
    prefix cidr,
    number bigint,
    state text NOT NULL,
    since timestamp with time zone DEFAULT now() NOT NULL,
    released_at timestamp with time zone,
    scope text GENERATED ALWAYS AS (
CASE
    WHEN (strpos(space, '@'::text) > 0) THEN split_part(space, '@'::text, 2)
    ELSE 'site'::text
END) STORED NOT NULL,
    leaving boolean DEFAULT false NOT NULL,
    pinned boolean DEFAULT false NOT NULL,
    note text DEFAULT ''::text NOT NULL,
    change bigint DEFAULT (current_setting('barrio.change'::text))::bigint NOT NULL,
    CONSTRAINT entries_check CHECK (((released_at IS NULL) = (state <> 'resting'::text))),
    CONSTRAINT entries_check1 CHECK (((prefix IS NULL) = (number IS NOT NULL))),
    CONSTRAINT entries_check2 CHECK (((NOT leaving) OR (state = 'live'::text))),
    CONSTRAINT entries_check3 CHECK (((state <> 'reserved'::text) OR pinned)),
    CONSTRAINT entries_state_check CHECK ((state = ANY (ARRAY['held'::text, 'live'::text, 'resting'::text, 'reserved'::text])))
);
ALTER TABLE public.entries ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.entries_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.fabrics (
    name text NOT NULL,
    title text DEFAULT ''::text NOT NULL,
    cable_prefix text NOT NULL,
    version bigint DEFAULT 1 NOT NULL,
    head bigint,
    created_at timestamp with time zone DEFAULT now() NOT NULL,
    sealed bigint
);
CREATE TABLE public.models (
    id text NOT NULL,
    body jsonb NOT NULL,
    saved_at timestamp with time zone DEFAULT now() NOT NULL,
    author text DEFAULT ''::text NOT NULL
);
CREATE TABLE public.past (
    entry bigint NOT NULL,
    use text NOT NULL,
    key text NOT NULL,
    fabric text NOT NULL,
    pool text NOT NULL,
    space text NOT NULL,
    prefix cidr,
    number bigint,
    state text NOT NULL,
    leaving boolean NOT NULL,
    pinned boolean NOT NULL,
    note text NOT NULL,
    since timestamp with time zone NOT NULL,
    change bigint NOT NULL,
    ended bigint NOT NULL
);
CREATE TABLE public.pool_ranges (
    pool text NOT NULL,
    place integer NOT NULL,
    prefix cidr,
    low bigint,
    high bigint,
    nest text DEFAULT ''::text NOT NULL,
    CONSTRAINT pool_ranges_check CHECK ((high >= low)),
    CONSTRAINT pool_ranges_check1 CHECK (((prefix IS NULL) = ((low IS NOT NULL) AND (high IS NOT NULL))))
);
CREATE TABLE public.pools (
    name text NOT NULL,
    rest interval DEFAULT '1 day'::interval NOT NULL,
    created_at timestamp with time zone DEFAULT now() NOT NULL,
    kind text DEFAULT ''::text NOT NULL,
    plan text DEFAULT 'lowest'::text NOT NULL,
    scope text DEFAULT 'site'::text NOT NULL,
    parent text,
    private_to text,
    warn real DEFAULT 0.85 NOT NULL,
    note text DEFAULT ''::text NOT NULL,
    CONSTRAINT pools_check CHECK ((parent <> name)),
    CONSTRAINT pools_kind_check CHECK ((kind = ANY (ARRAY[''::text, 'addresses'::text, 'asn'::text, 'vlan'::text, 'vni'::text, 'pair'::text]))),
    CONSTRAINT pools_plan_check CHECK ((plan = ANY (ARRAY['lowest'::text, 'position'::text, 'best-fit'::text]))),
    CONSTRAINT pools_warn_check CHECK (((warn > (0)::double precision) AND (warn <= (1)::double precision)))
);
CREATE TABLE public.pools_version (
    version bigint NOT NULL
);
CREATE TABLE public.reserved (
    id bigint NOT NULL,
    pool text NOT NULL,
    family text NOT NULL,
    low numeric(39,0) NOT NULL,
    high numeric(39,0) NOT NULL,
    note text DEFAULT ''::text NOT NULL,
    author text DEFAULT ''::text NOT NULL,
    at timestamp with time zone DEFAULT now() NOT NULL,
    CONSTRAINT reserved_check CHECK ((high >= low)),
    CONSTRAINT reserved_family_check CHECK ((family = ANY (ARRAY['v4'::text, 'v6'::text, 'number'::text])))
);
ALTER TABLE public.reserved ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.reserved_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.revisions (
    id bigint NOT NULL,
    fabric text NOT NULL,
    parent bigint,
    brief text NOT NULL,
    note text NOT NULL,
    effect jsonb DEFAULT '{}'::jsonb NOT NULL,
    fresh text[] DEFAULT '{}'::text[] NOT NULL,
    saved_at timestamp with time zone DEFAULT now() NOT NULL,
    author text DEFAULT ''::text NOT NULL,
    numbering jsonb
);
ALTER TABLE public.revisions ALTER COLUMN id ADD GENERATED ALWAYS AS IDENTITY (
    SEQUENCE NAME public.revisions_id_seq
    START WITH 1
    INCREMENT BY 1
    NO MINVALUE
    NO MAXVALUE
    CACHE 1
);
CREATE TABLE public.schema_steps (
    name text NOT NULL,
    applied_at timestamp with time zone DEFAULT now()
);
CREATE TABLE public.scopes (
    name text NOT NULL,
    note text DEFAULT ''::text NOT NULL,
    created_at timestamp with time zone DEFAULT now() NOT NULL,
    CONSTRAINT scopes_name_check CHECK ((name ~ '^[a-z][a-z0-9-]{0,30}$'::text))
);
INSERT INTO public.catalogue_version VALUES
	(1);
INSERT INTO public.changes OVERRIDING SYSTEM VALUE VALUES
	(1, '2026-11-25 20:09:51.828303+00', '', NULL, NULL, 'carried over from an earlier schema', ''),
	(2, '2026-11-25 20:09:52.241317+00', '', 'tern', 1, 'draft saved', 'made'),
	(3, '2026-11-25 20:09:52.419156+00', '', 'tern', 2, 'draft saved', 'a fifth rack'),
	(4, '2026-11-25 20:09:52.473947+00', '', 'tern', 3, 'draft saved', 'without t02'),
	(5, '2026-11-25 20:09:52.529972+00', '', 'tern', 3, 'sealed', ''),
	(6, '2026-11-25 20:09:52.570355+00', '', 'reef', 1, 'draft saved', 'made'),
	(7, '2026-11-25 20:09:52.660979+00', '', 'reef-peer', 1, 'draft saved', 'made');
INSERT INTO public.derived VALUES
	('site', 'Route target', '64512:30001', 'tern', 'segment cold-store'),
	('site', 'Route target', '64512:30002', 'tern', 'segment dish-feeds'),
	('site', 'Route target', '64512:30000', 'tern', 'segment tape-robots'),
	('site', 'Route target', '64512:30003', 'tern', 'VRF archive'),
	('site', 'Route target', '64512:30004', 'tern', 'VRF intake'),
	('site', 'Route target', '64512:30006', 'reef', 'segment cold-store'),
	('site', 'Route target', '64512:30007', 'reef', 'segment dish-feeds'),
	('site', 'Route target', '64512:30005', 'reef', 'segment tape-robots'),
	('site', 'Route target', '64512:30008', 'reef', 'VRF archive'),
	('site', 'Route target', '64512:30009', 'reef', 'VRF intake'),
	('site', 'System MAC', '02:00:5e:10:00:01', 'reef-peer', 'the pair leaf-u01a and leaf-u01b'),
	('site', 'Route target', '64512:30011', 'reef-peer', 'segment cold-store'),
	('site', 'Route target', '64512:30012', 'reef-peer', 'segment dish-feeds'),
	('site', 'Route target', '64512:30010', 'reef-peer', 'segment tape-robots'),
	('site', 'Route target', '64512:30013', 'reef-peer', 'VRF archive'),
	('site', 'Route target', '64512:30014', 'reef-peer', 'VRF intake'),
	('site', 'System MAC', '02:00:5e:10:00:02', 'reef-peer', 'the pair leaf-u02a and leaf-u02b'),
	('site', 'System MAC', '02:00:5e:10:00:03', 'reef-peer', 'the pair leaf-u03a and leaf-u03b'),
	('site', 'System MAC', '02:00:5e:10:00:04', 'reef-peer', 'the pair leaf-u04a and leaf-u04b');
INSERT INTO public.entries OVERRIDING SYSTEM VALUE VALUES
	(34, 'asn', 'leaf/t02/a', 'tern', 'office-private', 'asn', NULL, 4200065002, 'resting', '2026-11-25 20:09:52.459677+00', '2026-11-25 20:09:52.459677+00', DEFAULT, false, false, '', 4),
	(10, 'cable', 'leaf/t02/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 3, 'resting', '2026-11-25 20:09:52.459677+00', '2026-11-25 20:09:52.459677+00', DEFAULT, false, false, '', 4),
	(11, 'cable', 'leaf/t02/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 4, 'resting', '2026-11-25 20:09:52.459677+00', '2026-11-25 20:09:52.459677+00', DEFAULT, false, false, '', 4),
	(19, 'loopback.v4', 'leaf/t02/a', 'tern', 'halls-loopback', 'v4', '10.60.0.4/32', NULL, 'resting', '2026-11-25 20:09:52.459677+00', '2026-11-25 20:09:52.459677+00', DEFAULT, false, false, '', 4),
	(29, 'management.v4', 'leaf/t02/a', 'tern', 'oob-tern', 'v4', '10.90.2.5/32', NULL, 'resting', '2026-11-25 20:09:52.459677+00', '2026-11-25 20:09:52.459677+00', DEFAULT, false, false, '', 4),
	(23, 'vtep.v4', 'leaf/t02/a', 'tern', 'halls-vtep', 'v4', '10.60.8.2/32', NULL, 'resting', '2026-11-25 20:09:52.459677+00', '2026-11-25 20:09:52.459677+00', DEFAULT, false, false, '', 4),
	(1, 'segment.v4', 'segment/tape-robots', 'tern', 'office-segments', 'v4', '10.72.10.0/24', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(2, 'port.spine', 'leaf/t01/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 1, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(4, 'port.spine', 'leaf/t03/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 3, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(5, 'port.spine', 'leaf/t04/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 4, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(6, 'port.leaf', 'spine/1~1', 'tern', 'tern uplinks', 'port.leaf/tern', NULL, 1, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(7, 'port.leaf', 'spine/2~1', 'tern', 'tern uplinks', 'port.leaf/tern', NULL, 2, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(73, 'loopback.v4', 'leaf/e02/a', 'reef', 'halls-loopback', 'v4', '10.60.0.11/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(74, 'loopback.v4', 'leaf/e03/a', 'reef', 'halls-loopback', 'v4', '10.60.0.12/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(75, 'loopback.v4', 'leaf/e04/a', 'reef', 'halls-loopback', 'v4', '10.60.0.13/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(76, 'vtep.v4', 'leaf/e01/a', 'reef', 'halls-vtep', 'v4', '10.60.8.6/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(77, 'vtep.v4', 'leaf/e02/a', 'reef', 'halls-vtep', 'v4', '10.60.8.7/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(78, 'vtep.v4', 'leaf/e03/a', 'reef', 'halls-vtep', 'v4', '10.60.8.8/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(79, 'vtep.v4', 'leaf/e04/a', 'reef', 'halls-vtep', 'v4', '10.60.8.9/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(80, 'management.v4', 'spine/1', 'reef', 'oob-tern', 'v4', '10.90.2.9/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(81, 'management.v4', 'spine/2', 'reef', 'oob-tern', 'v4', '10.90.2.10/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(82, 'management.v4', 'leaf/e01/a', 'reef', 'oob-tern', 'v4', '10.90.2.11/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(83, 'management.v4', 'leaf/e02/a', 'reef', 'oob-tern', 'v4', '10.90.2.12/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(84, 'management.v4', 'leaf/e03/a', 'reef', 'oob-tern', 'v4', '10.90.2.13/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(85, 'management.v4', 'leaf/e04/a', 'reef', 'oob-tern', 'v4', '10.90.2.14/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(86, 'asn', 'spines', 'reef', 'office-private', 'asn', NULL, 4200065006, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(87, 'asn', 'leaf/e01/a', 'reef', 'office-private', 'asn', NULL, 4200065007, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(88, 'asn', 'leaf/e02/a', 'reef', 'office-private', 'asn', NULL, 4200065008, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(89, 'asn', 'leaf/e03/a', 'reef', 'office-private', 'asn', NULL, 4200065009, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(90, 'asn', 'leaf/e04/a', 'reef', 'office-private', 'asn', NULL, 4200065010, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(91, 'vlan', 'segment/tape-robots', 'reef', 'hall-vlans', 'vlan/reef', NULL, 100, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(92, 'vlan', 'segment/cold-store', 'reef', 'hall-vlans', 'vlan/reef', NULL, 101, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(93, 'vlan', 'segment/dish-feeds', 'reef', 'hall-vlans', 'vlan/reef', NULL, 102, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(94, 'vlan', 'vrf/archive', 'reef', 'hall-vlans', 'vlan/reef', NULL, 103, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(95, 'vlan', 'vrf/intake', 'reef', 'hall-vlans', 'vlan/reef', NULL, 104, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(96, 'vni', 'segment/tape-robots', 'reef', 'office-vnis', 'vni', NULL, 30005, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(97, 'vni', 'segment/cold-store', 'reef', 'office-vnis', 'vni', NULL, 30006, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(98, 'vni', 'segment/dish-feeds', 'reef', 'office-vnis', 'vni', NULL, 30007, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(99, 'vni', 'vrf/archive', 'reef', 'office-vnis', 'vni', NULL, 30008, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(100, 'vni', 'vrf/intake', 'reef', 'office-vnis', 'vni', NULL, 30009, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(101, 'segment.v4', 'segment/tape-robots', 'reef', 'office-segments', 'v4', '10.72.2.0/24', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(102, 'segment.v4', 'segment/cold-store', 'reef', 'office-segments', 'v4', '10.72.3.0/24', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(103, 'segment.v4', 'segment/dish-feeds', 'reef', 'office-segments', 'v4', '10.72.4.0/24', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(104, 'port.spine', 'leaf/u01/a~1', 'reef-peer', 'reef-peer spine ports', 'port.spine/reef-peer', NULL, 1, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(105, 'port.spine', 'leaf/u01/b~1', 'reef-peer', 'reef-peer spine ports', 'port.spine/reef-peer', NULL, 2, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(106, 'port.spine', 'leaf/u02/a~1', 'reef-peer', 'reef-peer spine ports', 'port.spine/reef-peer', NULL, 3, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(107, 'port.spine', 'leaf/u02/b~1', 'reef-peer', 'reef-peer spine ports', 'port.spine/reef-peer', NULL, 4, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(108, 'port.spine', 'leaf/u03/a~1', 'reef-peer', 'reef-peer spine ports', 'port.spine/reef-peer', NULL, 5, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(109, 'port.spine', 'leaf/u03/b~1', 'reef-peer', 'reef-peer spine ports', 'port.spine/reef-peer', NULL, 6, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(110, 'port.spine', 'leaf/u04/a~1', 'reef-peer', 'reef-peer spine ports', 'port.spine/reef-peer', NULL, 7, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(111, 'port.spine', 'leaf/u04/b~1', 'reef-peer', 'reef-peer spine ports', 'port.spine/reef-peer', NULL, 8, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(112, 'port.leaf', 'spine/1~1', 'reef-peer', 'reef-peer uplinks', 'port.leaf/reef-peer', NULL, 1, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(113, 'port.leaf', 'spine/2~1', 'reef-peer', 'reef-peer uplinks', 'port.leaf/reef-peer', NULL, 2, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(114, 'cable', 'leaf/u01/a~spine/1~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 1, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(115, 'cable', 'leaf/u01/a~spine/2~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 2, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(116, 'cable', 'leaf/u01/b~spine/1~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 3, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(3, 'port.spine', 'leaf/t02/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 2, 'resting', '2026-11-25 20:09:52.459677+00', '2026-11-25 20:09:52.459677+00', DEFAULT, false, false, '', 4),
	(8, 'cable', 'leaf/t01/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 1, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(9, 'cable', 'leaf/t01/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 2, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(12, 'cable', 'leaf/t03/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 5, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(13, 'cable', 'leaf/t03/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 6, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(14, 'cable', 'leaf/t04/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 7, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(15, 'cable', 'leaf/t04/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 8, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(16, 'loopback.v4', 'spine/1', 'tern', 'halls-loopback', 'v4', '10.60.0.1/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(17, 'loopback.v4', 'spine/2', 'tern', 'halls-loopback', 'v4', '10.60.0.2/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(18, 'loopback.v4', 'leaf/t01/a', 'tern', 'halls-loopback', 'v4', '10.60.0.3/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(20, 'loopback.v4', 'leaf/t03/a', 'tern', 'halls-loopback', 'v4', '10.60.0.5/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(21, 'loopback.v4', 'leaf/t04/a', 'tern', 'halls-loopback', 'v4', '10.60.0.6/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(22, 'vtep.v4', 'leaf/t01/a', 'tern', 'halls-vtep', 'v4', '10.60.8.1/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(24, 'vtep.v4', 'leaf/t03/a', 'tern', 'halls-vtep', 'v4', '10.60.8.3/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(25, 'vtep.v4', 'leaf/t04/a', 'tern', 'halls-vtep', 'v4', '10.60.8.4/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(26, 'management.v4', 'spine/1', 'tern', 'oob-tern', 'v4', '10.90.2.2/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(27, 'management.v4', 'spine/2', 'tern', 'oob-tern', 'v4', '10.90.2.3/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(28, 'management.v4', 'leaf/t01/a', 'tern', 'oob-tern', 'v4', '10.90.2.4/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(30, 'management.v4', 'leaf/t03/a', 'tern', 'oob-tern', 'v4', '10.90.2.6/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(31, 'management.v4', 'leaf/t04/a', 'tern', 'oob-tern', 'v4', '10.90.2.7/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(32, 'asn', 'spines', 'tern', 'office-private', 'asn', NULL, 4200065000, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(33, 'asn', 'leaf/t01/a', 'tern', 'office-private', 'asn', NULL, 4200065001, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(35, 'asn', 'leaf/t03/a', 'tern', 'office-private', 'asn', NULL, 4200065003, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(36, 'asn', 'leaf/t04/a', 'tern', 'office-private', 'asn', NULL, 4200065004, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(37, 'vlan', 'segment/tape-robots', 'tern', 'hall-vlans', 'vlan/tern', NULL, 100, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(38, 'vlan', 'segment/cold-store', 'tern', 'hall-vlans', 'vlan/tern', NULL, 101, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(39, 'vlan', 'segment/dish-feeds', 'tern', 'hall-vlans', 'vlan/tern', NULL, 102, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(40, 'vlan', 'vrf/archive', 'tern', 'hall-vlans', 'vlan/tern', NULL, 103, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(41, 'vlan', 'vrf/intake', 'tern', 'hall-vlans', 'vlan/tern', NULL, 104, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(42, 'vni', 'segment/tape-robots', 'tern', 'office-vnis', 'vni', NULL, 30000, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(43, 'vni', 'segment/cold-store', 'tern', 'office-vnis', 'vni', NULL, 30001, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(44, 'vni', 'segment/dish-feeds', 'tern', 'office-vnis', 'vni', NULL, 30002, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(45, 'vni', 'vrf/archive', 'tern', 'office-vnis', 'vni', NULL, 30003, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(46, 'vni', 'vrf/intake', 'tern', 'office-vnis', 'vni', NULL, 30004, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(47, 'segment.v4', 'segment/cold-store', 'tern', 'office-segments', 'v4', '10.72.0.0/24', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(48, 'segment.v4', 'segment/dish-feeds', 'tern', 'office-segments', 'v4', '10.72.1.0/24', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(49, 'port.spine', 'leaf/t05/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 5, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(50, 'cable', 'leaf/t05/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 9, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(51, 'cable', 'leaf/t05/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 10, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(52, 'loopback.v4', 'leaf/t05/a', 'tern', 'halls-loopback', 'v4', '10.60.0.7/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(53, 'vtep.v4', 'leaf/t05/a', 'tern', 'halls-vtep', 'v4', '10.60.8.5/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(54, 'management.v4', 'leaf/t05/a', 'tern', 'oob-tern', 'v4', '10.90.2.8/32', NULL, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(55, 'asn', 'leaf/t05/a', 'tern', 'office-private', 'asn', NULL, 4200065005, 'live', '2026-11-25 20:09:52.519737+00', NULL, DEFAULT, false, false, '', 5),
	(56, 'port.spine', 'leaf/e01/a~1', 'reef', 'reef spine ports', 'port.spine/reef', NULL, 1, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(57, 'port.spine', 'leaf/e02/a~1', 'reef', 'reef spine ports', 'port.spine/reef', NULL, 2, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(58, 'port.spine', 'leaf/e03/a~1', 'reef', 'reef spine ports', 'port.spine/reef', NULL, 3, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(59, 'port.spine', 'leaf/e04/a~1', 'reef', 'reef spine ports', 'port.spine/reef', NULL, 4, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(60, 'port.leaf', 'spine/1~1', 'reef', 'reef uplinks', 'port.leaf/reef', NULL, 1, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(61, 'port.leaf', 'spine/2~1', 'reef', 'reef uplinks', 'port.leaf/reef', NULL, 2, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(62, 'cable', 'leaf/e01/a~spine/1~1', 'reef', 'reef cables', 'cable/reef', NULL, 1, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(63, 'cable', 'leaf/e01/a~spine/2~1', 'reef', 'reef cables', 'cable/reef', NULL, 2, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(64, 'cable', 'leaf/e02/a~spine/1~1', 'reef', 'reef cables', 'cable/reef', NULL, 3, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(65, 'cable', 'leaf/e02/a~spine/2~1', 'reef', 'reef cables', 'cable/reef', NULL, 4, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(66, 'cable', 'leaf/e03/a~spine/1~1', 'reef', 'reef cables', 'cable/reef', NULL, 5, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(67, 'cable', 'leaf/e03/a~spine/2~1', 'reef', 'reef cables', 'cable/reef', NULL, 6, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(68, 'cable', 'leaf/e04/a~spine/1~1', 'reef', 'reef cables', 'cable/reef', NULL, 7, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(69, 'cable', 'leaf/e04/a~spine/2~1', 'reef', 'reef cables', 'cable/reef', NULL, 8, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(70, 'loopback.v4', 'spine/1', 'reef', 'halls-loopback', 'v4', '10.60.0.8/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(71, 'loopback.v4', 'spine/2', 'reef', 'halls-loopback', 'v4', '10.60.0.9/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(72, 'loopback.v4', 'leaf/e01/a', 'reef', 'halls-loopback', 'v4', '10.60.0.10/32', NULL, 'held', '2026-11-25 20:09:52.551091+00', NULL, DEFAULT, false, false, '', 6),
	(117, 'cable', 'leaf/u01/b~spine/2~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 4, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(118, 'cable', 'leaf/u02/a~spine/1~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 5, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(119, 'cable', 'leaf/u02/a~spine/2~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 6, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(120, 'cable', 'leaf/u02/b~spine/1~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 7, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(121, 'cable', 'leaf/u02/b~spine/2~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 8, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(122, 'cable', 'leaf/u03/a~spine/1~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 9, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(123, 'cable', 'leaf/u03/a~spine/2~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 10, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(124, 'cable', 'leaf/u03/b~spine/1~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 11, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(125, 'cable', 'leaf/u03/b~spine/2~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 12, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(126, 'cable', 'leaf/u04/a~spine/1~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 13, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(127, 'cable', 'leaf/u04/a~spine/2~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 14, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(128, 'cable', 'leaf/u04/b~spine/1~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 15, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(129, 'cable', 'leaf/u04/b~spine/2~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 16, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(130, 'cable', 'leaf/u01/a~leaf/u01/b~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 17, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(131, 'cable', 'leaf/u01/a~leaf/u01/b~2', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 18, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(132, 'cable', 'leaf/u02/a~leaf/u02/b~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 19, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(133, 'cable', 'leaf/u02/a~leaf/u02/b~2', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 20, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(134, 'cable', 'leaf/u03/a~leaf/u03/b~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 21, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(135, 'cable', 'leaf/u03/a~leaf/u03/b~2', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 22, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(136, 'cable', 'leaf/u04/a~leaf/u04/b~1', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 23, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(137, 'cable', 'leaf/u04/a~leaf/u04/b~2', 'reef-peer', 'reef-peer cables', 'cable/reef-peer', NULL, 24, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(138, 'loopback.v4', 'spine/1', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.14/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(139, 'loopback.v4', 'spine/2', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.15/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(140, 'loopback.v4', 'leaf/u01/a', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.16/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(141, 'loopback.v4', 'leaf/u01/b', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.17/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(142, 'loopback.v4', 'leaf/u02/a', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.18/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(143, 'loopback.v4', 'leaf/u02/b', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.19/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(144, 'loopback.v4', 'leaf/u03/a', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.20/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(145, 'loopback.v4', 'leaf/u03/b', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.21/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(146, 'loopback.v4', 'leaf/u04/a', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.22/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(147, 'loopback.v4', 'leaf/u04/b', 'reef-peer', 'halls-loopback', 'v4', '10.60.0.23/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(148, 'vtep.v4', 'pair/u01', 'reef-peer', 'halls-vtep', 'v4', '10.60.8.10/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(149, 'vtep.v4', 'pair/u02', 'reef-peer', 'halls-vtep', 'v4', '10.60.8.11/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(150, 'vtep.v4', 'pair/u03', 'reef-peer', 'halls-vtep', 'v4', '10.60.8.12/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(151, 'vtep.v4', 'pair/u04', 'reef-peer', 'halls-vtep', 'v4', '10.60.8.13/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(152, 'management.v4', 'spine/1', 'reef-peer', 'oob-tern', 'v4', '10.90.2.15/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(153, 'management.v4', 'spine/2', 'reef-peer', 'oob-tern', 'v4', '10.90.2.16/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(154, 'management.v4', 'leaf/u01/a', 'reef-peer', 'oob-tern', 'v4', '10.90.2.17/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(155, 'management.v4', 'leaf/u01/b', 'reef-peer', 'oob-tern', 'v4', '10.90.2.18/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(156, 'management.v4', 'leaf/u02/a', 'reef-peer', 'oob-tern', 'v4', '10.90.2.19/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(157, 'management.v4', 'leaf/u02/b', 'reef-peer', 'oob-tern', 'v4', '10.90.2.20/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(158, 'management.v4', 'leaf/u03/a', 'reef-peer', 'oob-tern', 'v4', '10.90.2.21/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(159, 'management.v4', 'leaf/u03/b', 'reef-peer', 'oob-tern', 'v4', '10.90.2.22/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(160, 'management.v4', 'leaf/u04/a', 'reef-peer', 'oob-tern', 'v4', '10.90.2.23/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(161, 'management.v4', 'leaf/u04/b', 'reef-peer', 'oob-tern', 'v4', '10.90.2.24/32', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(162, 'asn', 'spines', 'reef-peer', 'office-private', 'asn', NULL, 4200065011, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(163, 'asn', 'leaf/u01/a', 'reef-peer', 'office-private', 'asn', NULL, 4200065012, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(164, 'asn', 'leaf/u01/b', 'reef-peer', 'office-private', 'asn', NULL, 4200065013, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(165, 'asn', 'leaf/u02/a', 'reef-peer', 'office-private', 'asn', NULL, 4200065014, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(166, 'asn', 'leaf/u02/b', 'reef-peer', 'office-private', 'asn', NULL, 4200065015, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(167, 'asn', 'leaf/u03/a', 'reef-peer', 'office-private', 'asn', NULL, 4200065016, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(168, 'asn', 'leaf/u03/b', 'reef-peer', 'office-private', 'asn', NULL, 4200065017, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(169, 'asn', 'leaf/u04/a', 'reef-peer', 'office-private', 'asn', NULL, 4200065018, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(170, 'asn', 'leaf/u04/b', 'reef-peer', 'office-private', 'asn', NULL, 4200065019, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(171, 'pair', 'pair/u01', 'reef-peer', 'pairs', 'pair', NULL, 1, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(172, 'pair', 'pair/u02', 'reef-peer', 'pairs', 'pair', NULL, 2, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(173, 'pair', 'pair/u03', 'reef-peer', 'pairs', 'pair', NULL, 3, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(174, 'pair', 'pair/u04', 'reef-peer', 'pairs', 'pair', NULL, 4, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(175, 'vlan', 'segment/tape-robots', 'reef-peer', 'hall-vlans', 'vlan/reef-peer', NULL, 100, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(176, 'vlan', 'segment/cold-store', 'reef-peer', 'hall-vlans', 'vlan/reef-peer', NULL, 101, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(177, 'vlan', 'segment/dish-feeds', 'reef-peer', 'hall-vlans', 'vlan/reef-peer', NULL, 102, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(178, 'vlan', 'vrf/archive', 'reef-peer', 'hall-vlans', 'vlan/reef-peer', NULL, 103, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(179, 'vlan', 'vrf/intake', 'reef-peer', 'hall-vlans', 'vlan/reef-peer', NULL, 104, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(180, 'vlan', 'peer-link', 'reef-peer', 'hall-vlans', 'vlan/reef-peer', NULL, 105, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(181, 'vni', 'segment/tape-robots', 'reef-peer', 'office-vnis', 'vni', NULL, 30010, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(182, 'vni', 'segment/cold-store', 'reef-peer', 'office-vnis', 'vni', NULL, 30011, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(183, 'vni', 'segment/dish-feeds', 'reef-peer', 'office-vnis', 'vni', NULL, 30012, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(184, 'vni', 'vrf/archive', 'reef-peer', 'office-vnis', 'vni', NULL, 30013, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(185, 'vni', 'vrf/intake', 'reef-peer', 'office-vnis', 'vni', NULL, 30014, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(186, 'segment.v4', 'segment/tape-robots', 'reef-peer', 'office-segments', 'v4', '10.72.5.0/24', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(187, 'segment.v4', 'segment/cold-store', 'reef-peer', 'office-segments', 'v4', '10.72.6.0/24', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7),
	(188, 'segment.v4', 'segment/dish-feeds', 'reef-peer', 'office-segments', 'v4', '10.72.7.0/24', NULL, 'held', '2026-11-25 20:09:52.653235+00', NULL, DEFAULT, false, false, '', 7);
INSERT INTO public.fabrics VALUES
	('tern', 'Tern, the archive hall', 'T', 3, 3, '2026-11-25 20:09:52.233585+00', 3),
	('reef', 'Tern, the archive hall', 'E', 1, 4, '2026-11-25 20:09:52.551091+00', NULL),
	('reef-peer', 'Tern, the archive hall', 'U', 1, 5, '2026-11-25 20:09:52.653235+00', NULL);
INSERT INTO public.past VALUES
	(34, 'asn', 'leaf/t02/a', 'tern', 'office-private', 'asn', NULL, 4200065002, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 4),
	(10, 'cable', 'leaf/t02/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 3, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 4),
	(11, 'cable', 'leaf/t02/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 4, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 4),
	(19, 'loopback.v4', 'leaf/t02/a', 'tern', 'halls-loopback', 'v4', '10.60.0.4/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 4),
	(29, 'management.v4', 'leaf/t02/a', 'tern', 'oob-tern', 'v4', '10.90.2.5/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 4),
	(3, 'port.spine', 'leaf/t02/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 2, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 4),
	(23, 'vtep.v4', 'leaf/t02/a', 'tern', 'halls-vtep', 'v4', '10.60.8.2/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 4),
	(1, 'segment.v4', 'segment/tape-robots', 'tern', 'office-segments', 'v4', '10.72.10.0/24', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(2, 'port.spine', 'leaf/t01/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 1, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(4, 'port.spine', 'leaf/t03/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 3, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(5, 'port.spine', 'leaf/t04/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 4, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(6, 'port.leaf', 'spine/1~1', 'tern', 'tern uplinks', 'port.leaf/tern', NULL, 1, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(7, 'port.leaf', 'spine/2~1', 'tern', 'tern uplinks', 'port.leaf/tern', NULL, 2, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(8, 'cable', 'leaf/t01/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 1, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(9, 'cable', 'leaf/t01/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 2, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(12, 'cable', 'leaf/t03/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 5, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(13, 'cable', 'leaf/t03/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 6, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(14, 'cable', 'leaf/t04/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 7, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(15, 'cable', 'leaf/t04/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 8, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(16, 'loopback.v4', 'spine/1', 'tern', 'halls-loopback', 'v4', '10.60.0.1/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(17, 'loopback.v4', 'spine/2', 'tern', 'halls-loopback', 'v4', '10.60.0.2/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(18, 'loopback.v4', 'leaf/t01/a', 'tern', 'halls-loopback', 'v4', '10.60.0.3/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(20, 'loopback.v4', 'leaf/t03/a', 'tern', 'halls-loopback', 'v4', '10.60.0.5/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(21, 'loopback.v4', 'leaf/t04/a', 'tern', 'halls-loopback', 'v4', '10.60.0.6/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(22, 'vtep.v4', 'leaf/t01/a', 'tern', 'halls-vtep', 'v4', '10.60.8.1/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(24, 'vtep.v4', 'leaf/t03/a', 'tern', 'halls-vtep', 'v4', '10.60.8.3/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(25, 'vtep.v4', 'leaf/t04/a', 'tern', 'halls-vtep', 'v4', '10.60.8.4/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(26, 'management.v4', 'spine/1', 'tern', 'oob-tern', 'v4', '10.90.2.2/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(27, 'management.v4', 'spine/2', 'tern', 'oob-tern', 'v4', '10.90.2.3/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(28, 'management.v4', 'leaf/t01/a', 'tern', 'oob-tern', 'v4', '10.90.2.4/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(30, 'management.v4', 'leaf/t03/a', 'tern', 'oob-tern', 'v4', '10.90.2.6/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(31, 'management.v4', 'leaf/t04/a', 'tern', 'oob-tern', 'v4', '10.90.2.7/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(32, 'asn', 'spines', 'tern', 'office-private', 'asn', NULL, 4200065000, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(33, 'asn', 'leaf/t01/a', 'tern', 'office-private', 'asn', NULL, 4200065001, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(35, 'asn', 'leaf/t03/a', 'tern', 'office-private', 'asn', NULL, 4200065003, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(36, 'asn', 'leaf/t04/a', 'tern', 'office-private', 'asn', NULL, 4200065004, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(37, 'vlan', 'segment/tape-robots', 'tern', 'hall-vlans', 'vlan/tern', NULL, 100, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(38, 'vlan', 'segment/cold-store', 'tern', 'hall-vlans', 'vlan/tern', NULL, 101, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(39, 'vlan', 'segment/dish-feeds', 'tern', 'hall-vlans', 'vlan/tern', NULL, 102, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(40, 'vlan', 'vrf/archive', 'tern', 'hall-vlans', 'vlan/tern', NULL, 103, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(41, 'vlan', 'vrf/intake', 'tern', 'hall-vlans', 'vlan/tern', NULL, 104, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(42, 'vni', 'segment/tape-robots', 'tern', 'office-vnis', 'vni', NULL, 30000, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(43, 'vni', 'segment/cold-store', 'tern', 'office-vnis', 'vni', NULL, 30001, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(44, 'vni', 'segment/dish-feeds', 'tern', 'office-vnis', 'vni', NULL, 30002, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(45, 'vni', 'vrf/archive', 'tern', 'office-vnis', 'vni', NULL, 30003, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(46, 'vni', 'vrf/intake', 'tern', 'office-vnis', 'vni', NULL, 30004, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(47, 'segment.v4', 'segment/cold-store', 'tern', 'office-segments', 'v4', '10.72.0.0/24', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(48, 'segment.v4', 'segment/dish-feeds', 'tern', 'office-segments', 'v4', '10.72.1.0/24', NULL, 'held', false, false, '', '2026-11-25 20:09:52.233585+00', 2, 5),
	(49, 'port.spine', 'leaf/t05/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 5, 'held', false, false, '', '2026-11-25 20:09:52.362062+00', 3, 5),
	(50, 'cable', 'leaf/t05/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 9, 'held', false, false, '', '2026-11-25 20:09:52.362062+00', 3, 5),
	(51, 'cable', 'leaf/t05/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 10, 'held', false, false, '', '2026-11-25 20:09:52.362062+00', 3, 5),
	(52, 'loopback.v4', 'leaf/t05/a', 'tern', 'halls-loopback', 'v4', '10.60.0.7/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.362062+00', 3, 5),
	(53, 'vtep.v4', 'leaf/t05/a', 'tern', 'halls-vtep', 'v4', '10.60.8.5/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.362062+00', 3, 5),
	(54, 'management.v4', 'leaf/t05/a', 'tern', 'oob-tern', 'v4', '10.90.2.8/32', NULL, 'held', false, false, '', '2026-11-25 20:09:52.362062+00', 3, 5),
	(55, 'asn', 'leaf/t05/a', 'tern', 'office-private', 'asn', NULL, 4200065005, 'held', false, false, '', '2026-11-25 20:09:52.362062+00', 3, 5);
INSERT INTO public.pool_ranges VALUES
	('halls-loopback', 0, '10.60.0.0/22', NULL, NULL, 'site/'),
	('halls-loopback', 1, 'fd60::/64', NULL, NULL, 'site/'),
	('halls-vtep', 0, '10.60.8.0/22', NULL, NULL, 'site/'),
	('halls-p2p', 0, '10.61.0.0/20', NULL, NULL, 'site/'),
	('halls-p2p', 1, 'fd61:0:2::/64', NULL, NULL, 'site/'),
	('office-private', 0, NULL, 4200065000, 4200069999, 'site/#office-private'),
	('oob-tern', 0, '10.90.2.0/24', NULL, NULL, 'site/'),
	('hall-vlans', 0, NULL, 100, 1999, 'site/#hall-vlans'),
	('office-vnis', 0, NULL, 30000, 39999, 'site/#office-vnis'),
	('office-segments', 0, '10.72.0.0/16', NULL, NULL, 'site/'),
	('office-segments', 1, 'fd72::/48', NULL, NULL, 'site/'),
	('pairs', 0, NULL, 1, 65535, 'site/#pairs'),
	('outside', 0, '10.2.0.0/20', NULL, NULL, 'site/'),
	('outside', 1, 'fd00:0:0:3::/64', NULL, NULL, 'site/');
INSERT INTO public.pools VALUES
	('halls-loopback', '1 day', '2026-11-25 20:09:52.233585+00', 'addresses', 'lowest', 'site', NULL, NULL, 0.85, ''),
	('halls-vtep', '1 day', '2026-11-25 20:09:52.233585+00', 'addresses', 'lowest', 'site', NULL, NULL, 0.85, ''),
	('halls-p2p', '1 day', '2026-11-25 20:09:52.233585+00', 'addresses', 'lowest', 'site', NULL, NULL, 0.85, ''),
	('office-private', '1 day', '2026-11-25 20:09:52.233585+00', 'asn', 'lowest', 'site', NULL, NULL, 0.85, ''),
	('oob-tern', '1 day', '2026-11-25 20:09:52.233585+00', 'addresses', 'lowest', 'site', NULL, NULL, 0.85, ''),
	('hall-vlans', '1 day', '2026-11-25 20:09:52.233585+00', 'vlan', 'lowest', 'site', NULL, NULL, 0.85, ''),
	('office-vnis', '1 day', '2026-11-25 20:09:52.233585+00', 'vni', 'lowest', 'site', NULL, NULL, 0.85, ''),
	('office-segments', '1 day', '2026-11-25 20:09:52.233585+00', 'addresses', 'lowest', 'site', NULL, NULL, 0.85, ''),
	('pairs', '1 day', '2026-11-25 20:09:52.233585+00', 'pair', 'lowest', 'site', NULL, NULL, 0.85, ''),
	('outside', '1 day', '2026-11-25 20:09:52.233585+00', 'addresses', 'lowest', 'site', NULL, NULL, 0.85, '');
INSERT INTO public.pools_version VALUES
	(2);
INSERT INTO public.revisions OVERRIDING SYSTEM VALUE VALUES
	(1, 'tern', NULL, '# Tern, the archive hall: four single leaves under two spines, every link unnumbered.
fabric: tern
title: Tern, the archive hall
spines:
  count: 2
  model: cantera-c32
  racks: t00
racks:
  - racks: t01..t04
    leaves: 1
    model: cantera-l48
uplinks_per_spine: 1
underlay:
  addressing: unnumbered
  asn: per-leaf
vrfs:
  archive: {}
  intake: {}
segments:
  tape-robots:
    vrf: archive
    v4: 10.72.10.0/24
  cold-store:
    vrf: archive
    v4: auto
  dish-feeds:
    vrf: intake
    v4: auto
    racks: t01..t02
services:
  domain: tern.azulejo.example
  ntp: [10.90.0.21, 10.90.0.22]
  dns: [10.90.0.53]
  syslog: [10.90.0.14]
  users:
    ines:
      keys:
        - ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R ines@azulejo.example
numbers:
  loopback: halls-loopback
  vtep: halls-vtep
  links: halls-p2p
  asn: office-private
  management: oob-tern
  vlan: hall-vlans
  vni: office-vnis
  segments: office-segments
pools:
  halls-loopback: [10.60.0.0/22, "fd60::/64"]
  halls-vtep: 10.60.8.0/22
  halls-p2p: [10.61.0.0/20, "fd61:0:2::/64"]
  office-private: 4200065000..4200069999
  oob-tern: 10.90.2.0/24
  hall-vlans: 100..1999
  office-vnis: 30000..39999
  office-segments: [10.72.0.0/16, "fd72::/48"]
cabling:
  prefix: T
', 'made', '{"cables_added": 8, "numbers_taken": 48, "cables_removed": 0, "switches_added": 6, "switches_changed": 0, "switches_removed": 0, "numbers_given_back": 0}', '{}', '2026-11-25 20:09:52.233585+00', '', NULL),
	(2, 'tern', 1, '# Tern, the archive hall: four single leaves under two spines, every link unnumbered.
fabric: tern
title: Tern, the archive hall
spines:
  count: 2
  model: cantera-c32
  racks: t00
racks:
  - racks: t01..t05
    leaves: 1
    model: cantera-l48
uplinks_per_spine: 1
underlay:
  addressing: unnumbered
  asn: per-leaf
vrfs:
  archive: {}
  intake: {}
segments:
  tape-robots:
    vrf: archive
    v4: 10.72.10.0/24
  cold-store:
    vrf: archive
    v4: auto
  dish-feeds:
    vrf: intake
    v4: auto
    racks: t01..t02
services:
  domain: tern.azulejo.example
  ntp: [10.90.0.21, 10.90.0.22]
  dns: [10.90.0.53]
  syslog: [10.90.0.14]
  users:
    ines:
      keys:
        - ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R ines@azulejo.example
numbers:
  loopback: halls-loopback
  vtep: halls-vtep
  links: halls-p2p
  asn: office-private
  management: oob-tern
  vlan: hall-vlans
  vni: office-vnis
  segments: office-segments
pools:
  halls-loopback: [10.60.0.0/22, "fd60::/64"]
  halls-vtep: 10.60.8.0/22
  halls-p2p: [10.61.0.0/20, "fd61:0:2::/64"]
  office-private: 4200065000..4200069999
  oob-tern: 10.90.2.0/24
  hall-vlans: 100..1999
  office-vnis: 30000..39999
  office-segments: [10.72.0.0/16, "fd72::/48"]
cabling:
  prefix: T
', 'a fifth rack', '{"cables_added": 2, "numbers_taken": 7, "cables_removed": 0, "switches_added": 1, "switches_changed": 2, "switches_removed": 0, "numbers_given_back": 0}', '{leaf/t05/a}', '2026-11-25 20:09:52.362062+00', '', NULL),
	(3, 'tern', 2, '# Tern, the archive hall: four single leaves under two spines, every link unnumbered.
fabric: tern
title: Tern, the archive hall
spines:
  count: 2
  model: cantera-c32
  racks: t00
racks:
  - racks: t01, t03..t05
    leaves: 1
    model: cantera-l48
uplinks_per_spine: 1
underlay:
  addressing: unnumbered
  asn: per-leaf
vrfs:
  archive: {}
  intake: {}
segments:
  tape-robots:
    vrf: archive
    v4: 10.72.10.0/24
  cold-store:
    vrf: archive
    v4: auto
  dish-feeds:
    vrf: intake
    v4: auto
    racks: t01..t02
services:
  domain: tern.azulejo.example
  ntp: [10.90.0.21, 10.90.0.22]
  dns: [10.90.0.53]
  syslog: [10.90.0.14]
  users:
    ines:
      keys:
        - ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R ines@azulejo.example
numbers:
  loopback: halls-loopback
  vtep: halls-vtep
  links: halls-p2p
  asn: office-private
  management: oob-tern
  vlan: hall-vlans
  vni: office-vnis
  segments: office-segments
pools:
  halls-loopback: [10.60.0.0/22, "fd60::/64"]
  halls-vtep: 10.60.8.0/22
  halls-p2p: [10.61.0.0/20, "fd61:0:2::/64"]
  office-private: 4200065000..4200069999
  oob-tern: 10.90.2.0/24
  hall-vlans: 100..1999
  office-vnis: 30000..39999
  office-segments: [10.72.0.0/16, "fd72::/48"]
cabling:
  prefix: T
', 'without t02', '{"cables_added": 0, "numbers_taken": 0, "cables_removed": 2, "switches_added": 0, "switches_changed": 2, "switches_removed": 1, "numbers_given_back": 7}', '{}', '2026-11-25 20:09:52.459677+00', '', NULL),
	(4, 'reef', NULL, '# Tern, the archive hall: four single leaves under two spines, every link unnumbered.
fabric: reef
title: Tern, the archive hall
spines:
  count: 2
  model: cantera-c32
  racks: e00
racks:
  - racks: e01..e04
    leaves: 1
    model: cantera-l48
uplinks_per_spine: 1
underlay:
  addressing: unnumbered
  asn: per-leaf
vrfs:
  archive: {}
  intake: {}
segments:
  tape-robots:
    vrf: archive
    v4: auto
  cold-store:
    vrf: archive
    v4: auto
  dish-feeds:
    vrf: intake
    v4: auto
    racks: e01..e02
services:
  domain: tern.azulejo.example
  ntp: [10.90.0.21, 10.90.0.22]
  dns: [10.90.0.53]
  syslog: [10.90.0.14]
  users:
    ines:
      keys:
        - ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R ines@azulejo.example
numbers:
  loopback: halls-loopback
  vtep: halls-vtep
  links: halls-p2p
  asn: office-private
  management: oob-tern
  vlan: hall-vlans
  vni: office-vnis
  segments: office-segments
pools:
  halls-loopback: [10.60.0.0/22, "fd60::/64"]
  halls-vtep: 10.60.8.0/22
  halls-p2p: [10.61.0.0/20, "fd61:0:2::/64"]
  office-private: 4200065000..4200069999
  oob-tern: 10.90.2.0/24
  hall-vlans: 100..1999
  office-vnis: 30000..39999
  office-segments: [10.72.0.0/16, "fd72::/48"]
cabling:
  prefix: E
', 'made', '{"cables_added": 8, "numbers_taken": 48, "cables_removed": 0, "switches_added": 6, "switches_changed": 0, "switches_removed": 0, "numbers_given_back": 0}', '{}', '2026-11-25 20:09:52.551091+00', '', NULL),
	(5, 'reef-peer', NULL, '# Tern, the archive hall: four single leaves under two spines, every link unnumbered.
fabric: reef-peer
title: Tern, the archive hall
spines:
  count: 2
  model: cantera-c32
  racks: u00
racks:
  - racks: u01..u04
    leaves: 2
    pairing: peer-link
    model: lonja-t64
uplinks_per_spine: 1
underlay:
  addressing: unnumbered
  asn: per-leaf
vrfs:
  archive: {}
  intake: {}
segments:
  tape-robots:
    vrf: archive
    v4: auto
  cold-store:
    vrf: archive
    v4: auto
  dish-feeds:
    vrf: intake
    v4: auto
    racks: u01..u02
services:
  domain: tern.azulejo.example
  ntp: [10.90.0.21, 10.90.0.22]
  dns: [10.90.0.53]
  syslog: [10.90.0.14]
  users:
    ines:
      keys:
        - ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R ines@azulejo.example
numbers:
  loopback: halls-loopback
  vtep: halls-vtep
  links: halls-p2p
  asn: office-private
  management: oob-tern
  vlan: hall-vlans
  vni: office-vnis
  segments: office-segments
pools:
  halls-loopback: [10.60.0.0/22, "fd60::/64"]
  halls-vtep: 10.60.8.0/22
  halls-p2p: [10.61.0.0/20, "fd61:0:2::/64"]
  office-private: 4200065000..4200069999
  oob-tern: 10.90.2.0/24
  hall-vlans: 100..1999
  office-vnis: 30000..39999
  office-segments: [10.72.0.0/16, "fd72::/48"]
cabling:
  prefix: U
', 'made', '{"cables_added": 24, "numbers_taken": 85, "cables_removed": 0, "switches_added": 10, "switches_changed": 0, "switches_removed": 0, "numbers_given_back": 0}', '{}', '2026-11-25 20:09:52.653235+00', '', NULL);
INSERT INTO public.schema_steps VALUES
	('001_start', '2026-11-25 20:09:51.344648+00'),
	('002_catalogue_and_people', '2026-11-25 20:09:51.580444+00'),
	('003_ledger_in_full', '2026-11-25 20:09:51.614713+00');
INSERT INTO public.scopes VALUES
	('site', 'Everything that is not said to be elsewhere', '2026-11-25 20:09:51.614713+00');
SELECT pg_catalog.setval('public.changes_id_seq', 7, true);
SELECT pg_catalog.setval('public.entries_id_seq', 188, true);
SELECT pg_catalog.setval('public.reserved_id_seq', 1, false);
SELECT pg_catalog.setval('public.revisions_id_seq', 5, true);
ALTER TABLE ONLY public.changes
    ADD CONSTRAINT changes_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.derived
    ADD CONSTRAINT derived_pkey PRIMARY KEY (scope, kind, value);
ALTER TABLE ONLY public.entries
    ADD CONSTRAINT entries_apart_in_site EXCLUDE USING spgist (prefix WITH &&) WHERE ((scope = 'site'::text));
ALTER TABLE ONLY public.entries
    ADD CONSTRAINT entries_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.fabrics
    ADD CONSTRAINT fabrics_cable_prefix_key UNIQUE (cable_prefix);
ALTER TABLE ONLY public.fabrics
    ADD CONSTRAINT fabrics_pkey PRIMARY KEY (name);
ALTER TABLE ONLY public.models
    ADD CONSTRAINT models_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.pool_ranges
    ADD CONSTRAINT pool_ranges_nest_int8range_excl EXCLUDE USING gist (nest WITH =, int8range(low, high, '[]'::text) WITH &&) WHERE ((prefix IS NULL));
ALTER TABLE ONLY public.pool_ranges
    ADD CONSTRAINT pool_ranges_nest_prefix_excl EXCLUDE USING gist (nest WITH =, prefix inet_ops WITH &&) WHERE ((prefix IS NOT NULL));
ALTER TABLE ONLY public.pool_ranges
    ADD CONSTRAINT pool_ranges_pkey PRIMARY KEY (pool, place);
ALTER TABLE ONLY public.pools
    ADD CONSTRAINT pools_pkey PRIMARY KEY (name);
ALTER TABLE ONLY public.reserved
    ADD CONSTRAINT reserved_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.revisions
    ADD CONSTRAINT revisions_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.schema_steps
    ADD CONSTRAINT schema_steps_pkey PRIMARY KEY (name);
ALTER TABLE ONLY public.scopes
    ADD CONSTRAINT scopes_pkey PRIMARY KEY (name);
CREATE INDEX changes_by_fabric ON public.changes USING btree (fabric, id);
CREATE INDEX derived_by_fabric ON public.derived USING btree (fabric);
CREATE INDEX entries_apart_from_held ON public.entries USING btree (fabric, use, key) WHERE ((state = ANY (ARRAY['resting'::text, 'reserved'::text])) OR leaving);
CREATE INDEX entries_by_change ON public.entries USING btree (change);
CREATE INDEX entries_by_number ON public.entries USING btree (pool, number) WHERE (number IS NOT NULL);
CREATE INDEX entries_by_pool ON public.entries USING btree (pool, prefix);
CREATE UNIQUE INDEX entries_one_number_a_key ON public.entries USING btree (fabric, use, key) WHERE ((state = ANY (ARRAY['held'::text, 'live'::text])) AND (NOT leaving));
CREATE UNIQUE INDEX entries_one_owner ON public.entries USING btree (space, number) WHERE ((number IS NOT NULL) AND (NOT (leaving AND (strpos(space, '/'::text) > 0))));
CREATE UNIQUE INDEX entries_one_pin_a_key ON public.entries USING btree (fabric, use, key) WHERE pinned;
CREATE INDEX past_by_end ON public.past USING btree (ended);
CREATE INDEX past_by_key ON public.past USING btree (fabric, use, key);
CREATE INDEX past_by_number ON public.past USING btree (space, number) WHERE (number IS NOT NULL);
CREATE INDEX past_by_prefix ON public.past USING btree (prefix) WHERE (prefix IS NOT NULL);
CREATE INDEX reserved_by_pool ON public.reserved USING btree (pool);
CREATE INDEX revisions_by_fabric ON public.revisions USING btree (fabric, id);
CREATE INDEX revisions_by_parent ON public.revisions USING btree (parent);
CREATE TRIGGER entries_have_a_home AFTER INSERT ON public.entries REFERENCING NEW TABLE AS made FOR EACH STATEMENT EXECUTE FUNCTION public.entries_have_a_home();
CREATE TRIGGER entries_remember_deletes AFTER DELETE ON public.entries REFERENCING OLD TABLE AS gone FOR EACH STATEMENT EXECUTE FUNCTION public.remember();
CREATE TRIGGER entries_remember_updates AFTER UPDATE ON public.entries REFERENCING OLD TABLE AS gone FOR EACH STATEMENT EXECUTE FUNCTION public.remember();
CREATE TRIGGER fabrics_without_entries BEFORE DELETE ON public.fabrics FOR EACH ROW EXECUTE FUNCTION public.fabric_has_entries();
CREATE CONSTRAINT TRIGGER pool_ranges_inside_parent AFTER INSERT OR DELETE OR UPDATE ON public.pool_ranges DEFERRABLE INITIALLY DEFERRED FOR EACH ROW EXECUTE FUNCTION public.range_is_inside_parent();
CREATE TRIGGER pool_ranges_place BEFORE INSERT OR UPDATE ON public.pool_ranges FOR EACH ROW EXECUTE FUNCTION public.place_range();
CREATE TRIGGER pools_place_ranges AFTER UPDATE OF scope, parent ON public.pools FOR EACH ROW EXECUTE FUNCTION public.place_ranges();
ALTER TABLE ONLY public.derived
    ADD CONSTRAINT derived_fabric_fkey FOREIGN KEY (fabric) REFERENCES public.fabrics(name) ON DELETE CASCADE;
ALTER TABLE ONLY public.fabrics
    ADD CONSTRAINT fabrics_head_fkey FOREIGN KEY (head) REFERENCES public.revisions(id);
ALTER TABLE ONLY public.fabrics
    ADD CONSTRAINT fabrics_sealed_fkey FOREIGN KEY (sealed) REFERENCES public.revisions(id);
ALTER TABLE ONLY public.past
    ADD CONSTRAINT past_ended_fkey FOREIGN KEY (ended) REFERENCES public.changes(id);
ALTER TABLE ONLY public.pool_ranges
    ADD CONSTRAINT pool_ranges_pool_fkey FOREIGN KEY (pool) REFERENCES public.pools(name);
ALTER TABLE ONLY public.pools
    ADD CONSTRAINT pools_parent_fkey FOREIGN KEY (parent) REFERENCES public.pools(name);
ALTER TABLE ONLY public.pools
    ADD CONSTRAINT pools_private_to_fkey FOREIGN KEY (private_to) REFERENCES public.fabrics(name);
ALTER TABLE ONLY public.pools
    ADD CONSTRAINT pools_scope_fkey FOREIGN KEY (scope) REFERENCES public.scopes(name);
ALTER TABLE ONLY public.reserved
    ADD CONSTRAINT reserved_pool_fkey FOREIGN KEY (pool) REFERENCES public.pools(name);
ALTER TABLE ONLY public.revisions
    ADD CONSTRAINT revisions_fabric_fkey FOREIGN KEY (fabric) REFERENCES public.fabrics(name) ON DELETE CASCADE;
ALTER TABLE ONLY public.revisions
    ADD CONSTRAINT revisions_parent_fkey FOREIGN KEY (parent) REFERENCES public.revisions(id);
