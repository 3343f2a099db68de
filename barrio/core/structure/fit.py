"""Whether a structure fits its hardware and does not contradict itself: ports, speeds, device names, segments."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from barrio.core.brief.hardware import RackGroup
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import expand_names, expand_ports
from barrio.core.errors import Fault
from barrio.core.structure.parts import Structure, Switch, link_speed
from barrio.core.structure.ports import Plan, names_of
from barrio.core.structure.words import one_of

MOST_LINKS = 262_144


def fit_faults(brief: Brief, structure: Structure) -> list[Fault]:
    """Every fault of a structure, in a fixed order."""
    return [
        *_leaf_ports(brief, structure),
        *_spine_ports(brief, structure),
        *_super_ports(brief, structure),
        *_pairs(brief),
        *_too_many(structure),
        *_segments(brief),
    ]


def fronts(switches: Iterable[Switch]) -> list[Switch]:
    """One switch for each port plan among these."""
    return list({switch.plan.front: switch for switch in reversed(list(switches))}.values())[::-1]


def _leaf_ports(brief: Brief, structure: Structure) -> Iterator[Fault]:
    if not structure.spines:
        return
    spine_fronts = fronts(structure.spines)
    for index, group in enumerate(brief.racks):
        leaves = [leaf for leaf in structure.leaves if leaf.origin == f"racks[{index}].racks"]
        for leaf in fronts(leaves):
            path, lanes = leaf.chosen.path, structure.lanes_of(leaf)
            there, needed = len(leaf.plan.up), brief.spines.count * lanes
            if needed > there:
                yield Fault(
                    "ports.leaf-full",
                    f"Leaves in {group.racks} need {needed} uplinks ({brief.spines.count} spines × {lanes}); "
                    f"{leaf.type.title} has {there}{_kept(leaf)}. Use a leaf with more uplinks, fewer spines, or fewer uplinks per "
                    f"spine{', or a peer link of fewer ports' if leaf.plan.peer else ''}.",
                    f"racks[{index}].peer_links" if needed <= there + len(leaf.plan.peer) else path,
                )
            for spine in spine_fronts:
                if there and spine.plan.down and not link_speed(spine.plan, leaf.plan):
                    yield Fault(
                        "ports.speed",
                        f"{leaf.type.title} uplinks and {spine.type.title} ports have no speed in common. "
                        "Change one of the models.",
                        path,
                    )
            yield from pair_faults(leaf, leaf.plan, group, index)
            speed = group.host_speed
            slow = next((port for port in leaf.plan.hosts if speed and speed not in port.speeds), None)
            if slow:
                yield Fault(
                    "ports.host-speed",
                    f"Host port {slow.name} of {leaf.type.title} runs at {one_of(slow.speeds)}G, not at {speed}G. "
                    "Choose one of these, or another leaf.",
                    f"racks[{index}].host_speed",
                )


def _kept(leaf: Switch) -> str:
    """What the peer link takes of the ports for the fabric, in words."""
    return f" beside {len(leaf.plan.peer)} for the peer link" if leaf.plan.peer else ""


def _spine_ports(brief: Brief, structure: Structure) -> Iterator[Fault]:
    needs: dict[str, tuple[int, int]] = {}
    for leaf in structure.leaves:
        count, ports = needs.get(leaf.pod, (0, 0))
        needs[leaf.pod] = (count + 1, ports + structure.lanes_of(leaf))
    told = set()
    for pod, spines in structure.pods.items():
        leaves, needed = needs.get(pod, (0, 0))
        for spine in fronts(spines):
            there = len(spine.plan.down)
            if needed > there and (spine.type.id, needed) not in told:
                told.add((spine.type.id, needed))
                lanes = needed // leaves
                where = f" of pod {pod}" if pod else ""
                yield Fault(
                    "ports.spine-full",
                    f"{leaves} leaves{where} with {lanes} {'uplink' if lanes == 1 else 'uplinks'} to each spine need {needed} "
                    f"ports on every spine; {spine.type.title} has {there} for leaves. Use a larger spine, fewer uplinks, "
                    f"fewer leaves, or {'more pods' if pod else 'pods under super-spines'}.",
                    "spines.model",
                )
    said = brief.super_spines
    for spine in fronts(structure.spines) if said else ():
        assert said is not None
        there, needed = len(spine.plan.up), said.per_plane * said.links
        if needed > there:
            yield Fault(
                "ports.spine-up-full",
                f"Each spine needs {needed} ports for super-spines ({said.per_plane} × {said.links}); {spine.type.title} keeps "
                f"{there} for them. Use fewer super-spines per plane, or say more of them under spines.ports.uplinks.",
                "super_spines.per_plane",
            )


def _super_ports(brief: Brief, structure: Structure) -> Iterator[Fault]:
    said = brief.super_spines
    if said is None:
        return
    needed = len(structure.pods) * said.links
    spine_fronts = fronts(structure.spines)
    for switch in fronts(structure.supers):
        there = len(switch.plan.down)
        if needed > there:
            yield Fault(
                "ports.super-full",
                f"{len(structure.pods)} pods with {said.links} {'link' if said.links == 1 else 'links'} to each super-spine "
                f"need {needed} ports; {switch.type.title} has {there}. Use a larger super-spine, fewer links or fewer pods.",
                "super_spines.model",
            )
        for spine in spine_fronts:
            if spine.plan.up and switch.plan.down and not link_speed(switch.plan, spine.plan):
                yield Fault(
                    "ports.speed",
                    f"{spine.type.title} and {switch.type.title} have no speed in common for their links. "
                    "Change one of the models.",
                    "super_spines.model",
                )


def _pairs(brief: Brief) -> Iterator[Fault]:
    for index, group in enumerate(brief.racks):
        if group.pairing == "independent" and group.lags is not None:
            yield Fault(
                "pair.lags",
                f"Racks {group.racks} name LAGs over both leaves, but their leaves are independent. "
                "Set pairing to multihoming or peer-link, or take lags out.",
                f"racks[{index}].lags",
            )


def pair_faults(leaf: Switch, plan: Plan, group: RackGroup, index: int) -> Iterator[Fault]:
    """What a pair needs of its ports: peer links, and host ports for its LAGs."""
    if group.pairing == "independent":
        return
    if group.pairing == "peer-link" and len(plan.peer) < group.peer_links:
        yield Fault(
            "ports.peer-full",
            f"The peer link of racks {group.racks} needs {group.peer_links} ports; {leaf.type.title} keeps {len(plan.peer)} "
            "for it. Name ports under ports.peer, or use fewer.",
            f"racks[{index}].peer_links",
        )
    hosts = set(names_of(plan.hosts))
    strange = next((port for port in expand_ports(group.lags) if port not in hosts), None) if group.lags else None
    if strange:
        words = f"Port {strange} is under lags, but is no host port of {leaf.type.title}. Take it out."
        yield Fault("pair.lags", words, f"racks[{index}].lags")


def _too_many(structure: Structure) -> Iterator[Fault]:
    spines = {pod: len(found) for pod, found in structure.pods.items()}
    total = sum(spines.get(leaf.pod, 0) * structure.lanes_of(leaf) for leaf in structure.leaves)
    if total > MOST_LINKS:
        yield Fault(
            "links.too-many",
            f"This fabric would have over {MOST_LINKS:,} links. Split it into several fabrics.",
            "racks",
        )


def _segments(brief: Brief) -> Iterator[Fault]:
    untagged: dict[str, str] = {}
    for name, segment in brief.segments.items():
        path = f"segments.{name}"
        if segment.vrf is not None and segment.vrf not in brief.vrfs:
            yield Fault(
                "segment.vrf",
                f"Segment {name} is in VRF {segment.vrf}, which is not under “vrfs”. Add it there.",
                f"{path}.vrf",
            )
        if segment.vrf is None and (segment.v4 or segment.v6):
            yield Fault(
                "segment.gateway",
                f"Segment {name} has a gateway but no VRF to route in. Name a VRF, or take its prefixes out.",
                path,
            )
        if not segment.untagged:
            continue
        members = expand_names(segment.racks) if segment.racks else tuple(brief.rack_names)
        for rack in members:
            if rack in untagged:
                yield Fault(
                    "segment.untagged",
                    f"In rack {rack} both {untagged[rack]} and {name} are untagged; a port carries one untagged VLAN. "
                    "Make one of them tagged.",
                    f"{path}.untagged",
                )
                break
            untagged[rack] = name
