"""What segments, VRFs and peer links want of the ledger as VLANs: the same one in the whole fabric, or one for each rack."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Set

from barrio.core.brief.model import Brief
from barrio.core.ledger.pool import Family, Pool
from barrio.core.ledger.wanted import ByKey, Demand, Taken
from barrio.core.structure.parts import Structure

PEER_VLAN = "peer-link"
"""The key of the VLAN in which the two leaves of a pair route to each other."""
RESERVED = ((0, 1), (4095, 4095))
"""Of IEEE 802.1Q, 9.6: 0 and 4095; and 1, which ports of many switches carry unasked."""


def racks_choose(brief: Brief) -> frozenset[str]:
    """The segments of which each rack chooses the VLAN."""
    return frozenset(name for name, segment in brief.segments.items() if segment.scope == "leaf")


def vlan_use(brief: Brief, segment: str, rack: str) -> str:
    """The use under which the VLAN of a segment is held in a rack.

    >>> from barrio.core.brief.tenants import Segment
    >>> brief = Brief(fabric="marlin", segments={"buoys": Segment(), "tills": Segment(scope="leaf")})
    >>> vlan_use(brief, "buoys", "r01"), vlan_use(brief, "tills", "r01")
    ('vlan', 'vlan.rack-r01')
    """
    return f"vlan.rack-{rack}" if brief.segments[segment].scope == "leaf" else "vlan"


def vlan_of(brief: Brief, numbers: ByKey, segment: str, rack: str) -> int:
    """The VLAN of a segment that is carried in a rack."""
    return numbers[vlan_use(brief, segment, rack)][f"segment/{segment}"].low


def vlans(brief: Brief, structure: Structure, pool: Pool, carried: Mapping[str, Set[str]]) -> Iterator[Demand]:
    """VLANs of the whole fabric, then those of each rack, which keep clear of them; `carried` are the segments on each leaf."""
    of_racks = racks_choose(brief)
    here: dict[str, dict[str, None]] = {}
    for leaf in structure.leaves if of_racks else ():
        found = of_racks & carried.get(leaf.key, frozenset())
        if found:
            here.setdefault(leaf.rack, {}).update(dict.fromkeys(f"segment/{name}" for name in sorted(found)))
    said = {f"segment/{name}": segment.vlan for name, segment in brief.segments.items() if name not in of_racks}
    said |= {f"vrf/{name}": vrf.vlan for name, vrf in brief.vrfs.items()}
    peers = [PEER_VLAN] if any(group.pairing == "peer-link" for group in brief.racks) else []
    whole, own = f"vlan/{brief.fabric}", {rack: f"vlan.rack-{rack}/{brief.fabric}" for rack in here}
    yield Demand(
        "vlan", whole, Family.NUMBER, pool, 1, [*said, *peers],
        pins={key: Taken(vlan, 1) for key, vlan in said.items() if vlan is not None},
        reserved=RESERVED, noun="VLAN", beside=tuple(own.values()),
    )  # fmt: skip
    for rack, keys in here.items():
        yield Demand(
            f"vlan.rack-{rack}", own[rack], Family.NUMBER, pool, 1, list(keys), reserved=RESERVED, noun="VLAN",
            beside=(whole,),
        )  # fmt: skip
