"""Structure → demands: which numbers a fabric wants, from which pools, and what must not be handed out.

Uses are named `thing.family` (`loopback.v4`) and their keys are the keys of the structure. Port positions and cable
numbers are drawn here as well, from private pools, so that growing a fabric never moves a cable.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from ipaddress import ip_address, ip_network
from itertools import pairwise

from barrio.core.brief.model import Brief
from barrio.core.errors import Fault, Refused, refuse
from barrio.core.ledger.allocate import Demand, Taken
from barrio.core.ledger.pool import DEFAULT_POOLS, Family, Pool, Range, parse_range
from barrio.core.structure.expand import Structure

SEGMENT_SIZES = {Family.V4: 256, Family.V6: 2**64}
SITE_SPACES = ("v4", "v6", "asn", "vni")
"""Spaces shared by every fabric; the others are private to one."""


def declared_pools(brief: Brief) -> dict[str, Pool]:
    """The pools that the brief says the ranges of, checked.

    Raises `Refused` (`range.*`, `pool.overlap`).
    """
    pools: dict[str, Pool] = {}
    faults: list[Fault] = []
    for name, texts in brief.pools.items():
        try:
            pools[name] = Pool(name, tuple(parse_range(text, f"pools.{name}") for text in texts))
        except Refused as error:
            faults.extend(error.faults)
    faults.extend(_overlaps(pools.values()))
    if faults:
        raise Refused(faults)
    return pools


def _overlaps(pools: Iterable[Pool]) -> Iterator[Fault]:
    """Prefix ranges that share addresses; number ranges may, since ASNs, VLANs and VNIs are different things."""
    spans = sorted(
        (part.family, part.low, part.high, pool.name)
        for pool in pools
        for part in pool.ranges
        if part.family is not Family.NUMBER
    )
    for one, two in pairwise(spans):
        if one[0] == two[0] and two[1] <= one[2]:
            texts = [Range(family, low, high).text for family, low, high, _ in (one, two)]
            yield Fault(
                "pool.overlap",
                f"{texts[1]} in pool {two[3]} overlaps {texts[0]} in pool {one[3]}. Take one of them out or make it smaller.",
                f"pools.{two[3]}",
            )


def pools_of(brief: Brief, known: Mapping[str, Pool]) -> dict[str, Pool]:
    """Every pool the brief draws from: what the ledger knows, widened by what the brief declares.

    A pool known to neither takes the ranges of `DEFAULT_POOLS`. Raises `Refused` (`pool.unknown`, `range.*`,
    `pool.overlap`).
    """
    pools = dict(known)
    for name, pool in declared_pools(brief).items():
        before = pools[name].ranges if name in pools else ()
        new = tuple(part for part in pool.ranges if not any(_within(part, old) for old in before))
        pools[name] = Pool(name, before + new)
    for field, name in brief.numbers:
        if name in pools:
            continue
        if name not in DEFAULT_POOLS:
            raise refuse(
                "pool.unknown",
                f"No pool is called {name}. Write its ranges under “pools”, or draw {field} from one of: "
                f"{', '.join(sorted(set(pools) | set(DEFAULT_POOLS)))}.",
                f"numbers.{field}",
            )
        pools[name] = Pool(name, tuple(parse_range(text) for text in DEFAULT_POOLS[name]))
    faults = list(_overlaps(pools.values()))
    if faults:
        raise Refused(faults)
    return pools


def _within(part: Range, other: Range) -> bool:
    return part.family is other.family and other.low <= part.low and part.high <= other.high


def demands_of(brief: Brief, structure: Structure, pools: Mapping[str, Pool]) -> list[Demand]:
    """Every number the structure wants, in the order in which they are drawn."""
    return [
        *_ports(brief, structure),
        *_addresses(brief, structure, pools),
        *_numbers(brief, structure, pools),
        *_segments(brief, pools),
    ]


def _ports(brief: Brief, structure: Structure) -> Iterator[Demand]:
    lanes = range(1, brief.uplinks_per_spine + 1)
    there = len(structure.spines[0].type.ports_for("fabric"))
    least = min((len(leaf.type.ports_for("fabric")) for leaf in structure.leaves), default=0)
    for use, count, switches, noun in (
        ("port.spine", there, structure.leaves, "spine port"),
        ("port.leaf", least, structure.spines, "uplink"),
    ):
        pool = Pool(f"{brief.fabric} {noun}s", (Range(Family.NUMBER, 1, count),) if count else ())
        keys = [f"{switch.key}~{lane}" for switch in switches for lane in lanes] if structure.leaves else []
        yield Demand(
            use,
            f"{use}/{brief.fabric}",
            Family.NUMBER,
            pool,
            1,
            keys,
            reuses_resting=True,
            bounded=True,
            noun=noun,
        )
    cables = Pool(f"{brief.fabric} cables", (Range(Family.NUMBER, 1, 999_999),))
    keys = [link.key for link in structure.links]
    yield Demand(
        "cable",
        f"cable/{brief.fabric}",
        Family.NUMBER,
        cables,
        1,
        keys,
        reuses_resting=True,
        noun="cable number",
    )


def _addresses(brief: Brief, structure: Structure, pools: Mapping[str, Pool]) -> Iterator[Demand]:
    everyone = [switch.key for switch in structure.switches]
    leaves = [leaf.key for leaf in structure.leaves]
    links = [link.key for link in structure.links]
    addressing = brief.underlay.addressing
    loopback, p2p = pools[brief.numbers.loopback], pools[brief.numbers.links]
    management = pools[brief.numbers.management]

    def addresses(use: str, family: Family, pool: Pool, keys: list[str], noun: str, size: int = 1) -> Demand:
        return Demand(use, family, family, pool, size, keys, reserved=reserved_in(pool, family, size), noun=noun)

    yield addresses("loopback.v4", Family.V4, loopback, everyone, "loopback")
    yield addresses("vtep.v4", Family.V4, pools[brief.numbers.vtep], leaves, "VTEP address")
    if addressing in ("ipv6", "dual"):
        yield addresses("loopback.v6", Family.V6, loopback, everyone, "loopback")
    if addressing in ("ipv4", "dual"):
        yield addresses("link.v4", Family.V4, p2p, links, "/31", 2)
    if addressing in ("ipv6", "dual"):
        yield addresses("link.v6", Family.V6, p2p, links, "/127", 2)
    out_of_band = addresses("management.v4", Family.V4, management, everyone, "management address")
    gateways = tuple((gateway, gateway) for gateway in management_gateways(brief, management))
    yield replace(out_of_band, reserved=out_of_band.reserved + gateways)


def management_gateways(brief: Brief, pool: Pool) -> tuple[int, ...]:
    """The gateway of each management range, as an integer: the one the brief names, or the first address."""
    if brief.management.gateway:
        return (int(ip_address(brief.management.gateway)),)
    return tuple(part.low + 1 for part in pool.of(Family.V4))


def reserved_in(pool: Pool, family: Family, size: int) -> tuple[tuple[int, int], ...]:
    """Bounds within a pool that are never handed out.

    IPv4 host addresses leave out the first and last of a range; IPv6 leaves out the all-zeros interface identifier
    (subnet-router anycast, RFC 4291 2.6.1) and, for /127 links, the top 128 (RFC 6164 5.2, RFC 2526).
    """
    bounds: list[tuple[int, int]] = []
    for part in pool.of(family):
        if family is Family.V4 and size == 1 and part.size > 2:
            bounds += [(part.low, part.low), (part.high, part.high)]
        if family is Family.V6 and size <= 2 and part.size > 256:
            bounds += [(part.low, part.low + size - 1), (part.high - 127, part.high)]
    return tuple(bounds)


ASN_RESERVED = ((0, 0), (23456, 23456), (65535, 65551), (4294967295, 4294967295))
"""RFC 7607 (0), RFC 6793 (23456), RFC 7300 (65535, 4294967295), RFC 5398 (65536..65551, documentation)."""


def _numbers(brief: Brief, structure: Structure, pools: Mapping[str, Pool]) -> Iterator[Demand]:
    asn_keys = ["spines"]
    for leaf in structure.leaves:
        asn_keys.append(asn_key(brief, leaf.key))
    yield Demand(
        "asn", "asn", Family.NUMBER, pools[brief.numbers.asn], 1, list(dict.fromkeys(asn_keys)),
        reserved=ASN_RESERVED, noun="ASN",
    )  # fmt: skip
    segments = [(f"segment/{name}", segment.vlan, segment.vni) for name, segment in brief.segments.items()]
    vrfs = [(f"vrf/{name}", vrf.vlan, vrf.vni) for name, vrf in brief.vrfs.items()]
    keys = [key for key, _, _ in segments + vrfs]
    yield Demand(
        "vlan", f"vlan/{brief.fabric}", Family.NUMBER, pools[brief.numbers.vlan], 1, keys,
        pins={key: Taken(vlan, 1) for key, vlan, _ in segments + vrfs if vlan is not None},
        reserved=((0, 1), (4095, 4095)), noun="VLAN",
    )  # fmt: skip
    yield Demand(
        "vni", "vni", Family.NUMBER, pools[brief.numbers.vni], 1, keys,
        pins={key: Taken(vni, 1) for key, _, vni in segments + vrfs if vni is not None},
        reserved=((0, 0),), noun="VNI",
    )  # fmt: skip


def asn_key(brief: Brief, switch_key: str) -> str:
    """Whose ASN a switch carries: the spines', its own, or its rack's (RFC 7938, 5.2.1)."""
    if switch_key.startswith("spine/"):
        return "spines"
    return switch_key if brief.underlay.asn == "per-leaf" else f"rack/{switch_key.split('/')[1]}"


def _segments(brief: Brief, pools: Mapping[str, Pool]) -> Iterator[Demand]:
    for family in (Family.V4, Family.V6):
        wanted = {name: getattr(segment, family.value) for name, segment in brief.segments.items()}
        keys = [f"segment/{name}" for name, prefix in wanted.items() if prefix]
        pins = {f"segment/{name}": _taken(prefix) for name, prefix in wanted.items() if prefix and prefix != "auto"}
        yield Demand(
            f"segment.{family}", family, family, pools[brief.numbers.segments], SEGMENT_SIZES[family], keys, pins=pins,
            any_size=True, noun="segment prefix",
        )  # fmt: skip


def _taken(prefix: str) -> Taken:
    network = ip_network(prefix)
    return Taken(int(network.network_address), network.num_addresses)
