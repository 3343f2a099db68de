"""The sums an architect does by hand, done from the structure and the ledger.

Bandwidths in Gbit/s, power in watts, weight in kilograms. Oversubscription is host bandwidth over uplink bandwidth with
every host port at its highest speed, or at the speed that the brief names.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass

from barrio.core.brief.model import Brief
from barrio.core.cabling.plan import Lead, cable_kind
from barrio.core.compiled import Compiled
from barrio.core.sizing.classes import LeafClass, leaf_classes
from barrio.core.sizing.growth import Largest, largest
from barrio.core.sizing.loss import Loss, losses
from barrio.core.sizing.racks import rack_loads
from barrio.core.structure.fit import fronts
from barrio.core.structure.parts import LATER, Structure, Switch, link_speed


@dataclass(frozen=True, slots=True)
class PoolUse:
    """How many numbers of one use this fabric needs, and from which pool."""

    use: str
    pool: str
    needed: int


@dataclass(frozen=True, slots=True)
class PortUse:
    """Ports of one kind on each switch of a tier: used on the fullest one, kept for declared growth, and there."""

    what: str
    used: int
    kept: int
    there: int
    reserved: int


@dataclass(frozen=True, slots=True)
class KindSums:
    """One kind of leaf: how many, their ports, bandwidth up and to hosts, and how wide their ECMP groups are."""

    kind: str
    model: str
    leaves: int
    host_ports: int
    host_speed: int
    uplinks: int
    uplink_speed: int
    oversubscription: float
    ecmp: int
    racks: str


@dataclass(frozen=True, slots=True)
class PodSums:
    """A pod: host bandwidth of its leaves over bandwidth to the super-spines; pods that are alike are one entry."""

    pods: str
    count: int
    leaves: int
    oversubscription: float


@dataclass(frozen=True, slots=True)
class TableUse:
    """How full the forwarding tables of a leaf model get."""

    model: str
    routes: int
    routes_there: int
    vnis: int
    vnis_there: int
    ecmp: int
    ecmp_there: int


@dataclass(frozen=True, slots=True)
class Sums:
    """`bandwidth_left` holds the mean shares of leaf-to-leaf bandwidth with one and with two spines lost; `lost` says more."""

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
    tiers: int
    leaves: int
    spines: int
    super_spines: int
    pods: int
    ports: tuple[PortUse, ...]
    kinds: tuple[KindSums, ...]
    by_pod: tuple[PodSums, ...]
    bisection: int
    lost: tuple[Loss, ...]
    largest: Largest
    racks: int
    units: int
    fullest_rack: str
    fullest_units: int
    hottest_rack: str
    hottest_power: int
    heaviest_weight: float
    cables_by_kind: Mapping[str, int]
    tables: tuple[TableUse, ...]


def add_up(brief: Brief, structure: Structure) -> Sums:
    """The sums of a structure; they need no numbers and no links, so that they can be had before any is made."""
    classes = leaf_classes(structure)
    ports = tuple(_port_use(brief, structure))
    lost = losses(structure, classes)
    most = largest(brief, structure, classes)
    loads = rack_loads(structure)
    kinds = tuple(_kind(brief, one) for one in classes)
    fullest = max(loads, key=lambda load: load.units)
    hottest = max(loads, key=lambda load: load.power)
    uplinks = [use for use in ports if use.what.startswith("leaf uplinks")]
    tight = min(uplinks, key=lambda use: use.there - use.used, default=None)
    cables = _cables(brief, structure)
    return Sums(
        oversubscription=max((kind.oversubscription for kind in kinds), default=0.0),
        spine_ports_used=ports[0].used,
        spine_ports=ports[0].there,
        leaf_uplinks_used=tight.used if tight else 0,
        leaf_uplinks=tight.there if tight else 0,
        host_ports=sum(kind.host_ports for kind in kinds),
        host_speed=max((kind.host_speed for kind in kinds), default=0),
        bandwidth_left=tuple(one.bandwidth for one in lost),
        grows_by_leaves=most.leaves - len(structure.leaves),
        leaves_per_rack=brief.racks[-1].leaves if brief.racks else 1,
        switches=len(structure.switches),
        cables=sum(cables.values()),
        power=sum(load.power for load in loads),
        tiers=3 if structure.supers else 2,
        leaves=len(structure.leaves),
        spines=len(structure.spines),
        super_spines=len(structure.supers),
        pods=len(structure.pods),
        ports=ports,
        kinds=kinds,
        by_pod=tuple(_pods(structure)),
        bisection=_bisection(structure, classes),
        lost=lost,
        largest=most,
        racks=len(loads),
        units=sum(load.units for load in loads),
        fullest_rack=fullest.rack,
        fullest_units=fullest.units,
        hottest_rack=hottest.rack,
        hottest_power=hottest.power,
        heaviest_weight=max(load.weight for load in loads),
        cables_by_kind=dict(sorted(cables.items())),
        tables=tuple(_tables(brief, structure)),
    )


def _port_use(brief: Brief, structure: Structure) -> list[PortUse]:
    needed: Counter[str] = Counter()
    for leaf in structure.leaves:
        needed[leaf.pod] += structure.lanes_of(leaf)
    to_come = sum(group.growth * group.leaves * brief.lanes_of(group) for group in brief.racks)
    uses = [_use("spine ports", structure.spines, "down", max(needed.values(), default=0), to_come)]
    if brief.super_spines is not None:
        links = brief.super_spines.links
        uses.append(
            _use("spine ports up", structure.spines, "up", brief.super_spines.per_plane * links,
                 brief.super_spines.growth * links)
        )  # fmt: skip
        uses.append(
            _use("super-spine ports", structure.supers, "down", len(structure.pods) * links, brief.pods_growth * links)
        )
    several = len(brief.racks) > 1
    for index, group in enumerate(brief.racks):
        leaves = tuple(leaf for leaf in structure.leaves if leaf.origin == f"racks[{index}].racks")
        lanes = brief.lanes_of(group)
        what = f"leaf uplinks, {group.kind or group.racks}" if several else "leaf uplinks"
        if leaves:
            uses.append(_use(what, leaves, "up", brief.spines.count * lanes, brief.spines.growth * lanes))
    return uses


def _use(what: str, switches: tuple[Switch, ...], side: str, used: int, to_come: int) -> PortUse:
    narrow = min(fronts(switches), key=lambda switch: len(getattr(switch.plan, side)))
    there = len(getattr(narrow.plan, side))
    return PortUse(what, used, min(to_come, max(there - used, 0)), there, len(narrow.plan.reserved))


def _kind(brief: Brief, one: LeafClass) -> KindSums:
    up = float(one.up.sum())
    speeds = one.up / one.lanes if len(one.up) else one.up
    return KindSums(
        kind=one.group.kind or ("border" if one.group.role == "border" else "leaf"),
        model=one.leaf.type.title,
        leaves=one.count,
        host_ports=one.count * len(one.leaf.plan.hosts),
        host_speed=one.host,
        uplinks=len(one.up) * one.lanes,
        uplink_speed=int(speeds.min()) if len(speeds) else 0,
        oversubscription=one.host_bandwidth / up if up else 0.0,
        ecmp=brief.underlay.max_paths or len(one.up) * one.lanes,
        racks=brief.racks_at(one.leaf.origin),
    )


def _pods(structure: Structure) -> list[PodSums]:
    if not structure.supers:
        return []
    alike: dict[tuple[int, float], list[str]] = {}
    hosts: Counter[str] = Counter()
    leaves: Counter[str] = Counter()
    for leaf in structure.leaves:
        leaves[leaf.pod] += 1
        hosts[leaf.pod] += leaf.plan.host_bandwidth(leaf.group.host_speed if leaf.group else None)
    for pod in structure.pods:
        up = _pod_uplink(structure, pod)
        alike.setdefault((leaves[pod], hosts[pod] / up if up else 0.0), []).append(pod)
    return [
        PodSums(pods[0] if len(pods) == 1 else f"{pods[0]}..{pods[-1]}", len(pods), count, ratio)
        for (count, ratio), pods in alike.items()
    ]


def _pod_uplink(structure: Structure, pod: str) -> int:
    """Bandwidth from the spines of a pod to the super-spines."""
    return sum(
        structure.super_links * link_speed(top.plan, spine.plan)
        for spine in structure.pods[pod]
        for top in fronts(structure.planes.get(spine.plane, ()))
        for _ in range(sum(1 for other in structure.planes[spine.plane] if other.plan is top.plan))
    )


def _bisection(structure: Structure, classes: list[LeafClass]) -> int:
    """Half of what crosses the narrowest tier: exact when the two halves are alike (Leiserson 1985)."""
    leaf_up = sum(one.count * float(one.up.sum()) for one in classes)
    if not structure.supers:
        return int(leaf_up // 2)
    return int(min(leaf_up, sum(_pod_uplink(structure, pod) for pod in structure.pods)) // 2)


def _cables(brief: Brief, structure: Structure) -> Counter[str]:
    """Cables to be laid now, by kind and speed: counted rack by rack without making a link, unless some are for later."""
    if any(word == LATER for word, _ in structure.marked.values()):
        return _cables_one_by_one(brief, structure)
    found: Counter[str] = Counter()
    spots = {pod: _spots(spines) for pod, spines in structure.pods.items()}
    alike = Counter((leaf.pod, leaf.rack, leaf.plan.front, structure.lanes_of(leaf)) for leaf in structure.leaves)
    plans = {leaf.plan.front: leaf.plan for leaf in structure.leaves}
    for (pod, mine, front, lanes), leaves in alike.items():
        for rack, spine, count in spots.get(pod, ()):
            found[_cable(brief, mine, rack, link_speed(spine.plan, plans[front]))] += count * lanes * leaves
    above = {plane: _spots(tops) for plane, tops in structure.planes.items()}
    for spine in structure.spines:
        for rack, top, count in above.get(spine.plane, ()):
            speed = link_speed(top.plan, spine.plan)
            found[_cable(brief, spine.rack, rack, speed)] += count * structure.super_links
    for one, _ in structure.pairs:
        if one.group is not None and one.group.pairing == "peer-link":
            found[f"DAC {max(one.plan.peer[0].speeds)}G"] += one.group.peer_links
    for end in structure.outside:
        found[f"{brief.cabling.kind or 'AOC'} {end.speed}G"] += 1
    return found


def _cables_one_by_one(brief: Brief, structure: Structure) -> Counter[str]:
    found = Counter(
        _cable(brief, link.lower.rack, link.upper.rack, link.speed)
        for link in structure.links
        if structure.state_of(link)[0] != LATER
    )
    for end in structure.outside:
        if structure.state_of_outside(end)[0] != LATER:
            found[f"{brief.cabling.kind or 'AOC'} {end.speed}G"] += 1
    return found


def _cable(brief: Brief, one: str, other: str, speed: int) -> str:
    return f"{cable_kind(brief, one, other)} {speed}G"


def _spots(switches: tuple[Switch, ...]) -> list[tuple[str, Switch, int]]:
    """How many switches of each front stand in each rack."""
    first: dict[tuple[str, int], Switch] = {}
    counts: Counter[tuple[str, int]] = Counter()
    for switch in switches:
        key = (switch.rack, switch.plan.front)
        first.setdefault(key, switch)
        counts[key] += 1
    return [(rack, first[rack, plan], count) for (rack, plan), count in counts.items()]


def _tables(brief: Brief, structure: Structure) -> list[TableUse]:
    """A leaf holds a host route for every loopback and tunnel end, its links, and the prefixes of all segments."""
    kinds = {leaf.type.id: leaf for leaf in structure.leaves}.values()
    prefixes = sum(bool(segment.v4) + bool(segment.v6) for segment in brief.segments.values())
    families = 2 if brief.underlay.addressing in ("ipv6", "dual") else 1
    hosts = len(structure.switches) * families + len(structure.leaves)
    return [
        TableUse(
            leaf.type.title,
            hosts + prefixes + structure.lanes_of(leaf) * brief.spines.count * families,
            leaf.type.tables.routes,
            len(brief.segments) + len(brief.vrfs),
            leaf.type.tables.vnis,
            brief.underlay.max_paths or structure.lanes_of(leaf) * brief.spines.count,
            leaf.type.tables.ecmp,
        )
        for leaf in kinds
    ]


_USES = (
    ("loopback.v4", "loopback"), ("loopback.v6", "loopback"), ("vtep.v4", "vtep"), ("link.v4", "links"), ("link.v6", "links"),
    ("management.v4", "management"), ("asn", "asn"), ("vlan", "vlan"), ("vni", "vni"), ("segment.v4", "segments"),
    ("segment.v6", "segments"), ("pair", "pairs"), ("outside.v4", "outside"), ("outside.v6", "outside"),
)  # fmt: skip


def numbers_needed(compiled: Compiled) -> list[PoolUse]:
    """How many numbers of each use the fabric holds, and from which pools."""
    brief = compiled.brief
    return [
        PoolUse(use, getattr(brief.numbers, field), len(compiled.allocation.numbers[use]))
        for use, field in _USES
        if compiled.allocation.numbers.get(use)
    ]


def _ends(lead: Lead) -> tuple[object, ...]:
    """Where a cable is plugged in; a switch that is only called otherwise leaves its cables where they are."""
    one, other = lead.a, lead.b
    return one.rack, one.unit, one.port, other.rack, other.unit, other.port, lead.via


def effect(before: Compiled | None, after: Compiled) -> Mapping[str, int]:
    """What a change does, in counts: switches and cables that come and go, cables that are moved, and numbers taken and given back."""
    old_switches = {switch.key for switch in before.structure.switches} if before else set()
    new_switches = {switch.key for switch in after.structure.switches}
    old_leads: tuple[Lead, ...] = before.leads if before else ()
    same = set(map(id, old_leads)).intersection(map(id, after.leads))
    old_cables = {lead.label: _ends(lead) for lead in old_leads if id(lead) not in same}
    new_cables = {lead.label: _ends(lead) for lead in after.leads if id(lead) not in same}
    allocation = after.allocation
    return {
        "switches_added": len(new_switches - old_switches),
        "switches_removed": len(old_switches - new_switches),
        "switches_changed": sum(
            1 for key in new_switches & old_switches if before and before.models[key] != after.models[key]
        ),
        "cables_added": len(new_cables.keys() - old_cables.keys()),
        "cables_removed": len(old_cables.keys() - new_cables.keys()),
        "cables_moved": sum(1 for label, ends in new_cables.items() if old_cables.get(label, ends) != ends),
        "numbers_taken": len(allocation.added) + len(allocation.returned),
        "numbers_given_back": len(allocation.given_back),
    }
