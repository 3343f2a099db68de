"""What segments and DHCP relays want of the ledger: prefixes, those beside, and an address to ask servers from."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from ipaddress import ip_network

from barrio.core.brief.model import Brief
from barrio.core.ledger.pool import Family, Plan, Pool
from barrio.core.ledger.wanted import Demand, Taken
from barrio.core.structure.parts import Structure

SEGMENT_SIZES = {Family.V4: 256, Family.V6: 2**64}


def segments(brief: Brief, pools: Mapping[str, Pool]) -> Iterator[Demand]:
    pool = pools[brief.numbers.segments]
    vlans = pools[brief.numbers.vlan].of(Family.NUMBER)
    first = min((part.low for part in vlans), default=0)
    for family in (Family.V4, Family.V6):
        wanted = {f"segment/{name}": getattr(segment, family.value) for name, segment in brief.segments.items()}
        wanted |= secondaries(brief, family)
        by_position = pool.plan is Plan.POSITION
        yield Demand(
            f"segment.{family}", pool.space(family), family, pool, SEGMENT_SIZES[family],
            [key for key, prefix in wanted.items() if prefix],
            pins={key: _taken(prefix) for key, prefix in wanted.items() if prefix and not prefix.startswith("auto")},
            sizes={key: _size(prefix, family) for key, prefix in wanted.items() if prefix and prefix.startswith("auto/")},
            any_size=True, noun="segment prefix", follows=("vlan", first) if by_position else None,
            twin="segment.v4" if family is Family.V6 and not by_position else "",
        )  # fmt: skip


def secondaries(brief: Brief, family: Family) -> dict[str, str]:
    """The prefixes of a family that segments have beside their first, by key: `segment/tide-grid~2` is the first of those."""
    version = 4 if family is Family.V4 else 6
    return {
        f"segment/{name}~{place}": prefix
        for name, segment in brief.segments.items()
        for place, prefix in enumerate(segment.secondary, 2)
        if ip_network(prefix).version == version
    }


def relays(brief: Brief, structure: Structure, pools: Mapping[str, Pool]) -> Iterator[Demand]:
    """An address for each leaf that may relay DHCP, in each VRF where servers are: `leaf/r07/a~tides`."""
    pool = pools[brief.numbers.relays]
    for family in (Family.V4, Family.V6):
        racks: dict[str, set[str]] = {}
        for segment in brief.segments.values():
            vrf = segment.relay.vrf or segment.vrf if segment.relay else None
            if vrf and segment.relay and any((":" in one) == (family is Family.V6) for one in segment.relay.servers):
                racks.setdefault(vrf, set()).update(segment.rack_names or brief.rack_names)
        keys = [f"{leaf.key}~{vrf}" for vrf, mine in racks.items() for leaf in structure.leaves if leaf.rack in mine]
        yield Demand(
            f"relay.{family}", pool.space(family), family, pool, 1, keys, reserved=reserved_in(pool, family, 1),
            noun="relay address", twin="relay.v4" if family is Family.V6 else "",
        )  # fmt: skip


def outside(brief: Brief, structure: Structure, pools: Mapping[str, Pool]) -> Iterator[Demand]:
    pool = pools[brief.numbers.outside]
    for family in (Family.V4, Family.V6):
        wanted = {
            f"{end.key}/{vrf}": getattr(said, family.value)
            for end in structure.outside
            for vrf, said in end.said.vrfs.items()
        }
        keys = [key for key, prefix in wanted.items() if prefix]
        pins = {key: _taken(prefix) for key, prefix in wanted.items() if prefix and not prefix.startswith("auto")}
        yield Demand(
            f"outside.{family}", pool.space(family), family, pool, 2, keys, pins=pins,
            sizes={key: _size(prefix, family) for key, prefix in wanted.items() if prefix and prefix.startswith("auto/")},
            reserved=reserved_in(pool, family, 2), any_size=True, noun="outside link",
            twin="outside.v4" if family is Family.V6 else "",
        )  # fmt: skip


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


def _size(wish: str, family: Family) -> int:
    """How many addresses `auto/22` asks for."""
    width = 32 if family is Family.V4 else 128
    return 1 << (width - int(wish.partition("/")[2]))


def _taken(prefix: str) -> Taken:
    network = ip_network(prefix)
    return Taken(int(network.network_address), network.num_addresses)
