"""The sums an architect does by hand, done from the structure and the ledger.

Bandwidths in Gbit/s. Oversubscription is host bandwidth over uplink bandwidth of the worst kind of leaf, with every host
port at its highest speed.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from barrio.core.brief.model import Brief
from barrio.core.compile import Compiled
from barrio.core.structure.expand import Structure


@dataclass(frozen=True, slots=True)
class PoolUse:
    """How many numbers of one use this fabric needs, and from which pool."""

    use: str
    pool: str
    needed: int


@dataclass(frozen=True, slots=True)
class Sums:
    """`bandwidth_left` holds the shares of leaf-to-leaf bandwidth with one and with two spines lost."""

    oversubscription: float
    spine_ports_used: int
    spine_ports: int
    leaf_uplinks_used: int
    leaf_uplinks: int
    host_ports: int
    host_speed: int
    bandwidth_left: tuple[float, ...]
    grows_by_leaves: int
    leaves_per_rack: int
    switches: int
    cables: int
    power: int


def add_up(brief: Brief, structure: Structure) -> Sums:
    """The sums of a structure; they need no numbers, so that they can be had before any is drawn."""
    lanes, spines = brief.uplinks_per_spine, brief.spines.count
    spine_type = structure.spines[0].type
    there = len(spine_type.ports_for("fabric"))
    used = len(structure.leaves) * lanes
    leaf_types = {leaf.type.id: leaf.type for leaf in structure.leaves}.values()
    last = brief.racks[-1].leaves if brief.racks else 1
    return Sums(
        oversubscription=_oversubscription(structure, spines * lanes),
        spine_ports_used=used,
        spine_ports=there,
        leaf_uplinks_used=spines * lanes if structure.leaves else 0,
        leaf_uplinks=min((len(kind.ports_for("fabric")) for kind in leaf_types), default=0),
        host_ports=sum(len(leaf.type.ports_for("host")) for leaf in structure.leaves),
        host_speed=max(
            (max(group.speeds) for kind in leaf_types for group in kind.groups if group.use == "host"),
            default=0,
        ),
        bandwidth_left=(max(0, spines - 1) / spines, max(0, spines - 2) / spines),
        grows_by_leaves=(there - used) // lanes,
        leaves_per_rack=last,
        switches=len(structure.switches),
        cables=len(structure.links),
        power=sum(switch.type.power for switch in structure.switches),
    )


def _oversubscription(structure: Structure, uplinks: int) -> float:
    speeds = {link.leaf.type.id: link.speed for link in structure.links}
    ratios = [
        Fraction(leaf.type.host_bandwidth(), uplinks * speeds[leaf.type.id])
        for leaf in {leaf.type.id: leaf for leaf in structure.leaves}.values()
    ]
    return float(max(ratios, default=Fraction(0)))


_USES = (
    ("loopback.v4", "loopback"), ("loopback.v6", "loopback"), ("vtep.v4", "vtep"), ("link.v4", "links"), ("link.v6", "links"),
    ("management.v4", "management"), ("asn", "asn"), ("vlan", "vlan"), ("vni", "vni"), ("segment.v4", "segments"),
    ("segment.v6", "segments"),
)  # fmt: skip


def numbers_needed(compiled: Compiled) -> list[PoolUse]:
    """How many numbers of each use the fabric holds, and from which pools."""
    brief = compiled.brief
    return [
        PoolUse(use, getattr(brief.numbers, field), len(compiled.allocation.numbers[use]))
        for use, field in _USES
        if compiled.allocation.numbers.get(use)
    ]


def effect(before: Compiled | None, after: Compiled) -> Mapping[str, int]:
    """What a change does, in counts: switches and cables that come and go, and numbers taken and given back."""
    old_switches = {switch.key for switch in before.structure.switches} if before else set()
    new_switches = {switch.key for switch in after.structure.switches}
    old_cables = {end.label for end in before.ends} if before else set()
    new_cables = {end.label for end in after.ends}
    allocation = after.allocation
    return {
        "switches_added": len(new_switches - old_switches),
        "switches_removed": len(old_switches - new_switches),
        "switches_changed": sum(
            1 for key in new_switches & old_switches if before and before.models[key] != after.models[key]
        ),
        "cables_added": len(new_cables - old_cables),
        "cables_removed": len(old_cables - new_cables),
        "numbers_taken": len(allocation.added) + len(allocation.returned),
        "numbers_given_back": len(allocation.given_back),
    }
