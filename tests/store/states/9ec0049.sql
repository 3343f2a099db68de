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
SET default_tablespace = '';
SET default_table_access_method = heap;
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
    CONSTRAINT entries_check CHECK (((released_at IS NULL) = (state <> 'resting'::text))),
    CONSTRAINT entries_check1 CHECK (((prefix IS NULL) = (number IS NOT NULL))),
    CONSTRAINT entries_state_check CHECK ((state = ANY (ARRAY['held'::text, 'live'::text, 'resting'::text])))
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
    created_at timestamp with time zone DEFAULT now() NOT NULL
);
CREATE TABLE public.pool_ranges (
    pool text NOT NULL,
    place integer NOT NULL,
    prefix cidr,
    low bigint,
    high bigint,
    CONSTRAINT pool_ranges_check CHECK ((high >= low)),
    CONSTRAINT pool_ranges_check1 CHECK (((prefix IS NULL) = ((low IS NOT NULL) AND (high IS NOT NULL))))
);
CREATE TABLE public.pools (
    name text NOT NULL,
    rest interval DEFAULT '1 day'::interval NOT NULL,
    created_at timestamp with time zone DEFAULT now() NOT NULL
);
CREATE TABLE public.revisions (
    id bigint NOT NULL,
    fabric text NOT NULL,
    parent bigint,
    brief text NOT NULL,
    note text NOT NULL,
    effect jsonb DEFAULT '{}'::jsonb NOT NULL,
    fresh text[] DEFAULT '{}'::text[] NOT NULL,
    saved_at timestamp with time zone DEFAULT now() NOT NULL
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
INSERT INTO public.entries OVERRIDING SYSTEM VALUE VALUES
	(1, 'segment.v4', 'segment/tape-robots', 'tern', 'office-segments', 'v4', '10.72.10.0/24', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(2, 'port.spine', 'leaf/t01/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 1, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(4, 'port.spine', 'leaf/t03/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 3, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(5, 'port.spine', 'leaf/t04/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 4, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(6, 'port.leaf', 'spine/1~1', 'tern', 'tern uplinks', 'port.leaf/tern', NULL, 1, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(7, 'port.leaf', 'spine/2~1', 'tern', 'tern uplinks', 'port.leaf/tern', NULL, 2, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(8, 'cable', 'leaf/t01/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 1, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(9, 'cable', 'leaf/t01/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 2, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(12, 'cable', 'leaf/t03/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 5, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(13, 'cable', 'leaf/t03/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 6, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(14, 'cable', 'leaf/t04/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 7, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(15, 'cable', 'leaf/t04/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 8, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(16, 'loopback.v4', 'spine/1', 'tern', 'halls-loopback', 'v4', '10.60.0.1/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(17, 'loopback.v4', 'spine/2', 'tern', 'halls-loopback', 'v4', '10.60.0.2/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(18, 'loopback.v4', 'leaf/t01/a', 'tern', 'halls-loopback', 'v4', '10.60.0.3/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(20, 'loopback.v4', 'leaf/t03/a', 'tern', 'halls-loopback', 'v4', '10.60.0.5/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(21, 'loopback.v4', 'leaf/t04/a', 'tern', 'halls-loopback', 'v4', '10.60.0.6/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(22, 'vtep.v4', 'leaf/t01/a', 'tern', 'halls-vtep', 'v4', '10.60.8.1/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(24, 'vtep.v4', 'leaf/t03/a', 'tern', 'halls-vtep', 'v4', '10.60.8.3/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(25, 'vtep.v4', 'leaf/t04/a', 'tern', 'halls-vtep', 'v4', '10.60.8.4/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(26, 'management.v4', 'spine/1', 'tern', 'oob-tern', 'v4', '10.90.2.2/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(27, 'management.v4', 'spine/2', 'tern', 'oob-tern', 'v4', '10.90.2.3/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(28, 'management.v4', 'leaf/t01/a', 'tern', 'oob-tern', 'v4', '10.90.2.4/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(30, 'management.v4', 'leaf/t03/a', 'tern', 'oob-tern', 'v4', '10.90.2.6/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(31, 'management.v4', 'leaf/t04/a', 'tern', 'oob-tern', 'v4', '10.90.2.7/32', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(32, 'asn', 'spines', 'tern', 'office-private', 'asn', NULL, 4200065000, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(33, 'asn', 'leaf/t01/a', 'tern', 'office-private', 'asn', NULL, 4200065001, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(35, 'asn', 'leaf/t03/a', 'tern', 'office-private', 'asn', NULL, 4200065003, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(36, 'asn', 'leaf/t04/a', 'tern', 'office-private', 'asn', NULL, 4200065004, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(37, 'vlan', 'segment/tape-robots', 'tern', 'hall-vlans', 'vlan/tern', NULL, 100, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(38, 'vlan', 'segment/cold-store', 'tern', 'hall-vlans', 'vlan/tern', NULL, 101, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(39, 'vlan', 'segment/dish-feeds', 'tern', 'hall-vlans', 'vlan/tern', NULL, 102, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(40, 'vlan', 'vrf/archive', 'tern', 'hall-vlans', 'vlan/tern', NULL, 103, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(41, 'vlan', 'vrf/intake', 'tern', 'hall-vlans', 'vlan/tern', NULL, 104, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(42, 'vni', 'segment/tape-robots', 'tern', 'office-vnis', 'vni', NULL, 30000, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(43, 'vni', 'segment/cold-store', 'tern', 'office-vnis', 'vni', NULL, 30001, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(44, 'vni', 'segment/dish-feeds', 'tern', 'office-vnis', 'vni', NULL, 30002, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(45, 'vni', 'vrf/archive', 'tern', 'office-vnis', 'vni', NULL, 30003, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(46, 'vni', 'vrf/intake', 'tern', 'office-vnis', 'vni', NULL, 30004, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(47, 'segment.v4', 'segment/cold-store', 'tern', 'office-segments', 'v4', '10.72.0.0/24', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(48, 'segment.v4', 'segment/dish-feeds', 'tern', 'office-segments', 'v4', '10.72.1.0/24', NULL, 'held', '2026-11-25 20:09:13.691554+00', NULL),
	(49, 'port.spine', 'leaf/t05/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 5, 'held', '2026-11-25 20:09:13.811044+00', NULL),
	(50, 'cable', 'leaf/t05/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 9, 'held', '2026-11-25 20:09:13.811044+00', NULL),
	(51, 'cable', 'leaf/t05/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 10, 'held', '2026-11-25 20:09:13.811044+00', NULL),
	(52, 'loopback.v4', 'leaf/t05/a', 'tern', 'halls-loopback', 'v4', '10.60.0.7/32', NULL, 'held', '2026-11-25 20:09:13.811044+00', NULL),
	(53, 'vtep.v4', 'leaf/t05/a', 'tern', 'halls-vtep', 'v4', '10.60.8.5/32', NULL, 'held', '2026-11-25 20:09:13.811044+00', NULL),
	(54, 'management.v4', 'leaf/t05/a', 'tern', 'oob-tern', 'v4', '10.90.2.8/32', NULL, 'held', '2026-11-25 20:09:13.811044+00', NULL),
	(55, 'asn', 'leaf/t05/a', 'tern', 'office-private', 'asn', NULL, 4200065005, 'held', '2026-11-25 20:09:13.811044+00', NULL),
	(34, 'asn', 'leaf/t02/a', 'tern', 'office-private', 'asn', NULL, 4200065002, 'resting', '2026-11-25 20:09:13.691554+00', '2026-11-25 20:09:14.72736+00'),
	(10, 'cable', 'leaf/t02/a~spine/1~1', 'tern', 'tern cables', 'cable/tern', NULL, 3, 'resting', '2026-11-25 20:09:13.691554+00', '2026-11-25 20:09:14.72736+00'),
	(11, 'cable', 'leaf/t02/a~spine/2~1', 'tern', 'tern cables', 'cable/tern', NULL, 4, 'resting', '2026-11-25 20:09:13.691554+00', '2026-11-25 20:09:14.72736+00'),
	(19, 'loopback.v4', 'leaf/t02/a', 'tern', 'halls-loopback', 'v4', '10.60.0.4/32', NULL, 'resting', '2026-11-25 20:09:13.691554+00', '2026-11-25 20:09:14.72736+00'),
	(29, 'management.v4', 'leaf/t02/a', 'tern', 'oob-tern', 'v4', '10.90.2.5/32', NULL, 'resting', '2026-11-25 20:09:13.691554+00', '2026-11-25 20:09:14.72736+00'),
	(3, 'port.spine', 'leaf/t02/a~1', 'tern', 'tern spine ports', 'port.spine/tern', NULL, 2, 'resting', '2026-11-25 20:09:13.691554+00', '2026-11-25 20:09:14.72736+00'),
	(23, 'vtep.v4', 'leaf/t02/a', 'tern', 'halls-vtep', 'v4', '10.60.8.2/32', NULL, 'resting', '2026-11-25 20:09:13.691554+00', '2026-11-25 20:09:14.72736+00'),
	(56, 'port.spine', 'leaf/e01/a~1', 'reef', 'reef spine ports', 'port.spine/reef', NULL, 1, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(57, 'port.spine', 'leaf/e02/a~1', 'reef', 'reef spine ports', 'port.spine/reef', NULL, 2, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(58, 'port.spine', 'leaf/e03/a~1', 'reef', 'reef spine ports', 'port.spine/reef', NULL, 3, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(59, 'port.spine', 'leaf/e04/a~1', 'reef', 'reef spine ports', 'port.spine/reef', NULL, 4, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(60, 'port.leaf', 'spine/1~1', 'reef', 'reef uplinks', 'port.leaf/reef', NULL, 1, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(61, 'port.leaf', 'spine/2~1', 'reef', 'reef uplinks', 'port.leaf/reef', NULL, 2, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(62, 'cable', 'leaf/e01/a~spine/1~1', 'reef', 'reef cables', 'cable/reef', NULL, 1, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(63, 'cable', 'leaf/e01/a~spine/2~1', 'reef', 'reef cables', 'cable/reef', NULL, 2, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(64, 'cable', 'leaf/e02/a~spine/1~1', 'reef', 'reef cables', 'cable/reef', NULL, 3, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(65, 'cable', 'leaf/e02/a~spine/2~1', 'reef', 'reef cables', 'cable/reef', NULL, 4, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(66, 'cable', 'leaf/e03/a~spine/1~1', 'reef', 'reef cables', 'cable/reef', NULL, 5, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(67, 'cable', 'leaf/e03/a~spine/2~1', 'reef', 'reef cables', 'cable/reef', NULL, 6, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(68, 'cable', 'leaf/e04/a~spine/1~1', 'reef', 'reef cables', 'cable/reef', NULL, 7, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(69, 'cable', 'leaf/e04/a~spine/2~1', 'reef', 'reef cables', 'cable/reef', NULL, 8, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(70, 'loopback.v4', 'spine/1', 'reef', 'halls-loopback', 'v4', '10.60.0.8/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(71, 'loopback.v4', 'spine/2', 'reef', 'halls-loopback', 'v4', '10.60.0.9/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(72, 'loopback.v4', 'leaf/e01/a', 'reef', 'halls-loopback', 'v4', '10.60.0.10/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(73, 'loopback.v4', 'leaf/e02/a', 'reef', 'halls-loopback', 'v4', '10.60.0.11/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(74, 'loopback.v4', 'leaf/e03/a', 'reef', 'halls-loopback', 'v4', '10.60.0.12/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(75, 'loopback.v4', 'leaf/e04/a', 'reef', 'halls-loopback', 'v4', '10.60.0.13/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(76, 'vtep.v4', 'leaf/e01/a', 'reef', 'halls-vtep', 'v4', '10.60.8.6/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(77, 'vtep.v4', 'leaf/e02/a', 'reef', 'halls-vtep', 'v4', '10.60.8.7/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(78, 'vtep.v4', 'leaf/e03/a', 'reef', 'halls-vtep', 'v4', '10.60.8.8/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(79, 'vtep.v4', 'leaf/e04/a', 'reef', 'halls-vtep', 'v4', '10.60.8.9/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(80, 'management.v4', 'spine/1', 'reef', 'oob-tern', 'v4', '10.90.2.9/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(81, 'management.v4', 'spine/2', 'reef', 'oob-tern', 'v4', '10.90.2.10/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(82, 'management.v4', 'leaf/e01/a', 'reef', 'oob-tern', 'v4', '10.90.2.11/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(83, 'management.v4', 'leaf/e02/a', 'reef', 'oob-tern', 'v4', '10.90.2.12/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(84, 'management.v4', 'leaf/e03/a', 'reef', 'oob-tern', 'v4', '10.90.2.13/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(85, 'management.v4', 'leaf/e04/a', 'reef', 'oob-tern', 'v4', '10.90.2.14/32', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(86, 'asn', 'spines', 'reef', 'office-private', 'asn', NULL, 4200065006, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(87, 'asn', 'leaf/e01/a', 'reef', 'office-private', 'asn', NULL, 4200065007, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(88, 'asn', 'leaf/e02/a', 'reef', 'office-private', 'asn', NULL, 4200065008, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(89, 'asn', 'leaf/e03/a', 'reef', 'office-private', 'asn', NULL, 4200065009, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(90, 'asn', 'leaf/e04/a', 'reef', 'office-private', 'asn', NULL, 4200065010, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(91, 'vlan', 'segment/tape-robots', 'reef', 'hall-vlans', 'vlan/reef', NULL, 100, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(92, 'vlan', 'segment/cold-store', 'reef', 'hall-vlans', 'vlan/reef', NULL, 101, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(93, 'vlan', 'segment/dish-feeds', 'reef', 'hall-vlans', 'vlan/reef', NULL, 102, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(94, 'vlan', 'vrf/archive', 'reef', 'hall-vlans', 'vlan/reef', NULL, 103, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(95, 'vlan', 'vrf/intake', 'reef', 'hall-vlans', 'vlan/reef', NULL, 104, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(96, 'vni', 'segment/tape-robots', 'reef', 'office-vnis', 'vni', NULL, 30005, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(97, 'vni', 'segment/cold-store', 'reef', 'office-vnis', 'vni', NULL, 30006, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(98, 'vni', 'segment/dish-feeds', 'reef', 'office-vnis', 'vni', NULL, 30007, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(99, 'vni', 'vrf/archive', 'reef', 'office-vnis', 'vni', NULL, 30008, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(100, 'vni', 'vrf/intake', 'reef', 'office-vnis', 'vni', NULL, 30009, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(101, 'segment.v4', 'segment/tape-robots', 'reef', 'office-segments', 'v4', '10.72.2.0/24', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(102, 'segment.v4', 'segment/cold-store', 'reef', 'office-segments', 'v4', '10.72.3.0/24', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(103, 'segment.v4', 'segment/dish-feeds', 'reef', 'office-segments', 'v4', '10.72.4.0/24', NULL, 'held', '2026-11-25 20:09:14.936825+00', NULL),
	(104, 'port.spine', 'leaf/i01/a~1', 'reef-vrf', 'reef-vrf spine ports', 'port.spine/reef-vrf', NULL, 1, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(105, 'port.spine', 'leaf/i02/a~1', 'reef-vrf', 'reef-vrf spine ports', 'port.spine/reef-vrf', NULL, 2, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(106, 'port.spine', 'leaf/i03/a~1', 'reef-vrf', 'reef-vrf spine ports', 'port.spine/reef-vrf', NULL, 3, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(107, 'port.spine', 'leaf/i04/a~1', 'reef-vrf', 'reef-vrf spine ports', 'port.spine/reef-vrf', NULL, 4, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(108, 'port.leaf', 'spine/1~1', 'reef-vrf', 'reef-vrf uplinks', 'port.leaf/reef-vrf', NULL, 1, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(109, 'port.leaf', 'spine/2~1', 'reef-vrf', 'reef-vrf uplinks', 'port.leaf/reef-vrf', NULL, 2, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(110, 'cable', 'leaf/i01/a~spine/1~1', 'reef-vrf', 'reef-vrf cables', 'cable/reef-vrf', NULL, 1, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(111, 'cable', 'leaf/i01/a~spine/2~1', 'reef-vrf', 'reef-vrf cables', 'cable/reef-vrf', NULL, 2, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(112, 'cable', 'leaf/i02/a~spine/1~1', 'reef-vrf', 'reef-vrf cables', 'cable/reef-vrf', NULL, 3, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(113, 'cable', 'leaf/i02/a~spine/2~1', 'reef-vrf', 'reef-vrf cables', 'cable/reef-vrf', NULL, 4, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(114, 'cable', 'leaf/i03/a~spine/1~1', 'reef-vrf', 'reef-vrf cables', 'cable/reef-vrf', NULL, 5, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(115, 'cable', 'leaf/i03/a~spine/2~1', 'reef-vrf', 'reef-vrf cables', 'cable/reef-vrf', NULL, 6, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(116, 'cable', 'leaf/i04/a~spine/1~1', 'reef-vrf', 'reef-vrf cables', 'cable/reef-vrf', NULL, 7, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(117, 'cable', 'leaf/i04/a~spine/2~1', 'reef-vrf', 'reef-vrf cables', 'cable/reef-vrf', NULL, 8, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(118, 'loopback.v4', 'spine/1', 'reef-vrf', 'halls-loopback', 'v4', '10.60.0.14/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(119, 'loopback.v4', 'spine/2', 'reef-vrf', 'halls-loopback', 'v4', '10.60.0.15/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(120, 'loopback.v4', 'leaf/i01/a', 'reef-vrf', 'halls-loopback', 'v4', '10.60.0.16/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(121, 'loopback.v4', 'leaf/i02/a', 'reef-vrf', 'halls-loopback', 'v4', '10.60.0.17/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(122, 'loopback.v4', 'leaf/i03/a', 'reef-vrf', 'halls-loopback', 'v4', '10.60.0.18/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(123, 'loopback.v4', 'leaf/i04/a', 'reef-vrf', 'halls-loopback', 'v4', '10.60.0.19/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(124, 'vtep.v4', 'leaf/i01/a', 'reef-vrf', 'halls-vtep', 'v4', '10.60.8.10/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(125, 'vtep.v4', 'leaf/i02/a', 'reef-vrf', 'halls-vtep', 'v4', '10.60.8.11/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(126, 'vtep.v4', 'leaf/i03/a', 'reef-vrf', 'halls-vtep', 'v4', '10.60.8.12/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(127, 'vtep.v4', 'leaf/i04/a', 'reef-vrf', 'halls-vtep', 'v4', '10.60.8.13/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(128, 'management.v4', 'spine/1', 'reef-vrf', 'oob-tern', 'v4', '10.90.2.15/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(129, 'management.v4', 'spine/2', 'reef-vrf', 'oob-tern', 'v4', '10.90.2.16/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(130, 'management.v4', 'leaf/i01/a', 'reef-vrf', 'oob-tern', 'v4', '10.90.2.17/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(131, 'management.v4', 'leaf/i02/a', 'reef-vrf', 'oob-tern', 'v4', '10.90.2.18/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(132, 'management.v4', 'leaf/i03/a', 'reef-vrf', 'oob-tern', 'v4', '10.90.2.19/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(133, 'management.v4', 'leaf/i04/a', 'reef-vrf', 'oob-tern', 'v4', '10.90.2.20/32', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(134, 'asn', 'spines', 'reef-vrf', 'office-private', 'asn', NULL, 4200065011, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(135, 'asn', 'leaf/i01/a', 'reef-vrf', 'office-private', 'asn', NULL, 4200065012, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(136, 'asn', 'leaf/i02/a', 'reef-vrf', 'office-private', 'asn', NULL, 4200065013, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(137, 'asn', 'leaf/i03/a', 'reef-vrf', 'office-private', 'asn', NULL, 4200065014, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(138, 'asn', 'leaf/i04/a', 'reef-vrf', 'office-private', 'asn', NULL, 4200065015, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(139, 'vlan', 'segment/tape-robots', 'reef-vrf', 'hall-vlans', 'vlan/reef-vrf', NULL, 100, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(140, 'vlan', 'segment/cold-store', 'reef-vrf', 'hall-vlans', 'vlan/reef-vrf', NULL, 101, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(141, 'vlan', 'segment/dish-feeds', 'reef-vrf', 'hall-vlans', 'vlan/reef-vrf', NULL, 102, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(142, 'vlan', 'vrf/main', 'reef-vrf', 'hall-vlans', 'vlan/reef-vrf', NULL, 103, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(143, 'vlan', 'vrf/intake', 'reef-vrf', 'hall-vlans', 'vlan/reef-vrf', NULL, 104, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(144, 'vni', 'segment/tape-robots', 'reef-vrf', 'office-vnis', 'vni', NULL, 30010, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(145, 'vni', 'segment/cold-store', 'reef-vrf', 'office-vnis', 'vni', NULL, 30011, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(146, 'vni', 'segment/dish-feeds', 'reef-vrf', 'office-vnis', 'vni', NULL, 30012, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(147, 'vni', 'vrf/main', 'reef-vrf', 'office-vnis', 'vni', NULL, 30013, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(148, 'vni', 'vrf/intake', 'reef-vrf', 'office-vnis', 'vni', NULL, 30014, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(149, 'segment.v4', 'segment/tape-robots', 'reef-vrf', 'office-segments', 'v4', '10.72.5.0/24', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(150, 'segment.v4', 'segment/cold-store', 'reef-vrf', 'office-segments', 'v4', '10.72.6.0/24', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(151, 'segment.v4', 'segment/dish-feeds', 'reef-vrf', 'office-segments', 'v4', '10.72.7.0/24', NULL, 'held', '2026-11-25 20:09:15.029822+00', NULL),
	(152, 'port.spine', 'leaf/o01/a~1', 'reef-dns', 'reef-dns spine ports', 'port.spine/reef-dns', NULL, 1, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(153, 'port.spine', 'leaf/o02/a~1', 'reef-dns', 'reef-dns spine ports', 'port.spine/reef-dns', NULL, 2, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(154, 'port.spine', 'leaf/o03/a~1', 'reef-dns', 'reef-dns spine ports', 'port.spine/reef-dns', NULL, 3, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(155, 'port.spine', 'leaf/o04/a~1', 'reef-dns', 'reef-dns spine ports', 'port.spine/reef-dns', NULL, 4, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(156, 'port.leaf', 'spine/1~1', 'reef-dns', 'reef-dns uplinks', 'port.leaf/reef-dns', NULL, 1, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(157, 'port.leaf', 'spine/2~1', 'reef-dns', 'reef-dns uplinks', 'port.leaf/reef-dns', NULL, 2, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(158, 'cable', 'leaf/o01/a~spine/1~1', 'reef-dns', 'reef-dns cables', 'cable/reef-dns', NULL, 1, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(159, 'cable', 'leaf/o01/a~spine/2~1', 'reef-dns', 'reef-dns cables', 'cable/reef-dns', NULL, 2, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(160, 'cable', 'leaf/o02/a~spine/1~1', 'reef-dns', 'reef-dns cables', 'cable/reef-dns', NULL, 3, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(161, 'cable', 'leaf/o02/a~spine/2~1', 'reef-dns', 'reef-dns cables', 'cable/reef-dns', NULL, 4, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(162, 'cable', 'leaf/o03/a~spine/1~1', 'reef-dns', 'reef-dns cables', 'cable/reef-dns', NULL, 5, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(163, 'cable', 'leaf/o03/a~spine/2~1', 'reef-dns', 'reef-dns cables', 'cable/reef-dns', NULL, 6, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(164, 'cable', 'leaf/o04/a~spine/1~1', 'reef-dns', 'reef-dns cables', 'cable/reef-dns', NULL, 7, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(165, 'cable', 'leaf/o04/a~spine/2~1', 'reef-dns', 'reef-dns cables', 'cable/reef-dns', NULL, 8, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(166, 'loopback.v4', 'spine/1', 'reef-dns', 'halls-loopback', 'v4', '10.60.0.20/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(167, 'loopback.v4', 'spine/2', 'reef-dns', 'halls-loopback', 'v4', '10.60.0.21/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(168, 'loopback.v4', 'leaf/o01/a', 'reef-dns', 'halls-loopback', 'v4', '10.60.0.22/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(169, 'loopback.v4', 'leaf/o02/a', 'reef-dns', 'halls-loopback', 'v4', '10.60.0.23/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(170, 'loopback.v4', 'leaf/o03/a', 'reef-dns', 'halls-loopback', 'v4', '10.60.0.24/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(171, 'loopback.v4', 'leaf/o04/a', 'reef-dns', 'halls-loopback', 'v4', '10.60.0.25/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(172, 'vtep.v4', 'leaf/o01/a', 'reef-dns', 'halls-vtep', 'v4', '10.60.8.14/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(173, 'vtep.v4', 'leaf/o02/a', 'reef-dns', 'halls-vtep', 'v4', '10.60.8.15/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(174, 'vtep.v4', 'leaf/o03/a', 'reef-dns', 'halls-vtep', 'v4', '10.60.8.16/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(175, 'vtep.v4', 'leaf/o04/a', 'reef-dns', 'halls-vtep', 'v4', '10.60.8.17/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(176, 'management.v4', 'spine/1', 'reef-dns', 'oob-tern', 'v4', '10.90.2.21/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(177, 'management.v4', 'spine/2', 'reef-dns', 'oob-tern', 'v4', '10.90.2.22/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(178, 'management.v4', 'leaf/o01/a', 'reef-dns', 'oob-tern', 'v4', '10.90.2.23/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(179, 'management.v4', 'leaf/o02/a', 'reef-dns', 'oob-tern', 'v4', '10.90.2.24/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(180, 'management.v4', 'leaf/o03/a', 'reef-dns', 'oob-tern', 'v4', '10.90.2.25/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(181, 'management.v4', 'leaf/o04/a', 'reef-dns', 'oob-tern', 'v4', '10.90.2.26/32', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(182, 'asn', 'spines', 'reef-dns', 'office-private', 'asn', NULL, 4200065016, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(183, 'asn', 'leaf/o01/a', 'reef-dns', 'office-private', 'asn', NULL, 4200065017, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(184, 'asn', 'leaf/o02/a', 'reef-dns', 'office-private', 'asn', NULL, 4200065018, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(185, 'asn', 'leaf/o03/a', 'reef-dns', 'office-private', 'asn', NULL, 4200065019, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(186, 'asn', 'leaf/o04/a', 'reef-dns', 'office-private', 'asn', NULL, 4200065020, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(187, 'vlan', 'segment/tape-robots', 'reef-dns', 'hall-vlans', 'vlan/reef-dns', NULL, 100, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(188, 'vlan', 'segment/cold-store', 'reef-dns', 'hall-vlans', 'vlan/reef-dns', NULL, 101, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(189, 'vlan', 'segment/dish-feeds', 'reef-dns', 'hall-vlans', 'vlan/reef-dns', NULL, 102, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(190, 'vlan', 'vrf/archive', 'reef-dns', 'hall-vlans', 'vlan/reef-dns', NULL, 103, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(191, 'vlan', 'vrf/intake', 'reef-dns', 'hall-vlans', 'vlan/reef-dns', NULL, 104, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(192, 'vni', 'segment/tape-robots', 'reef-dns', 'office-vnis', 'vni', NULL, 30015, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(193, 'vni', 'segment/cold-store', 'reef-dns', 'office-vnis', 'vni', NULL, 30016, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(194, 'vni', 'segment/dish-feeds', 'reef-dns', 'office-vnis', 'vni', NULL, 30017, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(195, 'vni', 'vrf/archive', 'reef-dns', 'office-vnis', 'vni', NULL, 30018, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(196, 'vni', 'vrf/intake', 'reef-dns', 'office-vnis', 'vni', NULL, 30019, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(197, 'segment.v4', 'segment/tape-robots', 'reef-dns', 'office-segments', 'v4', '10.72.8.0/24', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(198, 'segment.v4', 'segment/cold-store', 'reef-dns', 'office-segments', 'v4', '10.72.9.0/24', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL),
	(199, 'segment.v4', 'segment/dish-feeds', 'reef-dns', 'office-segments', 'v4', '10.72.11.0/24', NULL, 'held', '2026-11-25 20:09:15.230072+00', NULL);
INSERT INTO public.fabrics VALUES
	('tern', 'Tern, the archive hall', 'T', 3, 3, '2026-11-25 20:09:13.691554+00'),
	('reef', 'Tern, the archive hall', 'E', 1, 4, '2026-11-25 20:09:14.936825+00'),
	('reef-vrf', 'Tern, the main hall', 'I', 1, 5, '2026-11-25 20:09:15.029822+00'),
	('reef-dns', 'Tern, the archive hall', 'O', 1, 6, '2026-11-25 20:09:15.230072+00');
INSERT INTO public.pool_ranges VALUES
	('halls-loopback', 0, '10.60.0.0/22', NULL, NULL),
	('halls-loopback', 1, 'fd60::/64', NULL, NULL),
	('halls-vtep', 0, '10.60.8.0/22', NULL, NULL),
	('halls-p2p', 0, '10.61.0.0/20', NULL, NULL),
	('halls-p2p', 1, 'fd61:0:2::/64', NULL, NULL),
	('office-private', 0, NULL, 4200065000, 4200069999),
	('oob-tern', 0, '10.90.2.0/24', NULL, NULL),
	('hall-vlans', 0, NULL, 100, 1999),
	('office-vnis', 0, NULL, 30000, 39999),
	('office-segments', 0, '10.72.0.0/16', NULL, NULL),
	('office-segments', 1, 'fd72::/48', NULL, NULL);
INSERT INTO public.pools VALUES
	('halls-loopback', '1 day', '2026-11-25 20:09:13.691554+00'),
	('halls-vtep', '1 day', '2026-11-25 20:09:13.691554+00'),
	('halls-p2p', '1 day', '2026-11-25 20:09:13.691554+00'),
	('office-private', '1 day', '2026-11-25 20:09:13.691554+00'),
	('oob-tern', '1 day', '2026-11-25 20:09:13.691554+00'),
	('hall-vlans', '1 day', '2026-11-25 20:09:13.691554+00'),
	('office-vnis', '1 day', '2026-11-25 20:09:13.691554+00'),
	('office-segments', '1 day', '2026-11-25 20:09:13.691554+00');
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
', 'made', '{"cables_added": 8, "numbers_taken": 48, "cables_removed": 0, "switches_added": 6, "switches_changed": 0, "switches_removed": 0, "numbers_given_back": 0}', '{}', '2026-11-25 20:09:13.691554+00'),
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
', 'a fifth rack', '{"cables_added": 2, "numbers_taken": 7, "cables_removed": 0, "switches_added": 1, "switches_changed": 2, "switches_removed": 0, "numbers_given_back": 0}', '{leaf/t05/a}', '2026-11-25 20:09:13.811044+00'),
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
', 'without t02', '{"cables_added": 0, "numbers_taken": 0, "cables_removed": 2, "switches_added": 0, "switches_changed": 2, "switches_removed": 1, "numbers_given_back": 7}', '{}', '2026-11-25 20:09:14.72736+00'),
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
', 'made', '{"cables_added": 8, "numbers_taken": 48, "cables_removed": 0, "switches_added": 6, "switches_changed": 0, "switches_removed": 0, "numbers_given_back": 0}', '{}', '2026-11-25 20:09:14.936825+00'),
	(5, 'reef-vrf', NULL, '# Tern, the main hall: four single leaves under two spines, every link unnumbered.
fabric: reef-vrf
title: Tern, the main hall
spines:
  count: 2
  model: cantera-c32
  racks: i00
racks:
  - racks: i01..i04
    leaves: 1
    model: cantera-l48
uplinks_per_spine: 1
underlay:
  addressing: unnumbered
  asn: per-leaf
vrfs:
  main: {}
  intake: {}
segments:
  tape-robots:
    vrf: main
    v4: auto
  cold-store:
    vrf: main
    v4: auto
  dish-feeds:
    vrf: intake
    v4: auto
    racks: i01..i02
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
  prefix: I
', 'made', '{"cables_added": 8, "numbers_taken": 48, "cables_removed": 0, "switches_added": 6, "switches_changed": 0, "switches_removed": 0, "numbers_given_back": 0}', '{}', '2026-11-25 20:09:15.029822+00'),
	(6, 'reef-dns', NULL, '# Tern, the archive hall: four single leaves under two spines, every link unnumbered.
fabric: reef-dns
title: Tern, the archive hall
spines:
  count: 2
  model: cantera-c32
  racks: o00
racks:
  - racks: o01..o04
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
    racks: o01..o02
services:
  domain: tern.azulejo.example
  ntp: [10.90.0.21, 10.90.0.22]
  dns: ["fe80::1%eth0;x"]
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
  prefix: O
', 'made', '{"cables_added": 8, "numbers_taken": 48, "cables_removed": 0, "switches_added": 6, "switches_changed": 0, "switches_removed": 0, "numbers_given_back": 0}', '{}', '2026-11-25 20:09:15.230072+00');
INSERT INTO public.schema_steps VALUES
	('001_start', '2026-11-25 20:09:13.604934+00');
SELECT pg_catalog.setval('public.entries_id_seq', 199, true);
SELECT pg_catalog.setval('public.revisions_id_seq', 6, true);
ALTER TABLE ONLY public.entries
    ADD CONSTRAINT entries_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.entries
    ADD CONSTRAINT entries_prefix_excl EXCLUDE USING spgist (prefix WITH &&);
ALTER TABLE ONLY public.entries
    ADD CONSTRAINT entries_space_number_key UNIQUE (space, number);
ALTER TABLE ONLY public.fabrics
    ADD CONSTRAINT fabrics_cable_prefix_key UNIQUE (cable_prefix);
ALTER TABLE ONLY public.fabrics
    ADD CONSTRAINT fabrics_pkey PRIMARY KEY (name);
ALTER TABLE ONLY public.pool_ranges
    ADD CONSTRAINT pool_ranges_pkey PRIMARY KEY (pool, place);
ALTER TABLE ONLY public.pool_ranges
    ADD CONSTRAINT pool_ranges_prefix_excl EXCLUDE USING spgist (prefix WITH &&);
ALTER TABLE ONLY public.pools
    ADD CONSTRAINT pools_pkey PRIMARY KEY (name);
ALTER TABLE ONLY public.revisions
    ADD CONSTRAINT revisions_pkey PRIMARY KEY (id);
ALTER TABLE ONLY public.schema_steps
    ADD CONSTRAINT schema_steps_pkey PRIMARY KEY (name);
CREATE INDEX entries_by_fabric ON public.entries USING btree (fabric);
CREATE INDEX entries_by_pool ON public.entries USING btree (pool);
CREATE UNIQUE INDEX entries_one_number_a_key ON public.entries USING btree (fabric, use, key) WHERE (state <> 'resting'::text);
CREATE INDEX revisions_by_fabric ON public.revisions USING btree (fabric, id);
CREATE INDEX revisions_by_parent ON public.revisions USING btree (parent);
ALTER TABLE ONLY public.entries
    ADD CONSTRAINT entries_fabric_fkey FOREIGN KEY (fabric) REFERENCES public.fabrics(name) ON DELETE CASCADE;
ALTER TABLE ONLY public.fabrics
    ADD CONSTRAINT fabrics_head_fkey FOREIGN KEY (head) REFERENCES public.revisions(id);
ALTER TABLE ONLY public.pool_ranges
    ADD CONSTRAINT pool_ranges_pool_fkey FOREIGN KEY (pool) REFERENCES public.pools(name);
ALTER TABLE ONLY public.revisions
    ADD CONSTRAINT revisions_fabric_fkey FOREIGN KEY (fabric) REFERENCES public.fabrics(name) ON DELETE CASCADE;
ALTER TABLE ONLY public.revisions
    ADD CONSTRAINT revisions_parent_fkey FOREIGN KEY (parent) REFERENCES public.revisions(id);
