"""Brief → structure: the switches, racks and links that the brief asks for, with their keys.

A structure holds no numbers and no port assignments; those come from the ledger, so that growing never moves them. Links
are in a fixed order: leaf by leaf as the brief lists them, then spine by spine, then the parallel links of a
crossing.
"""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass

from barrio.core.brief.model import Brief, RackGroup
from barrio.core.brief.ranges import expand_names
from barrio.core.catalogue.model import Catalogue, SwitchType
from barrio.core.errors import Fault, Refused, refuse

MOST_LINKS = 131_072


@dataclass(frozen=True, slots=True)
class Switch:
    """`index` counts from 0 in the whole fabric; `origin` is the brief path that caused it; `unit` its lowest U."""

    key: str
    name: str
    role: str
    rack: str
    unit: int
    type: SwitchType
    index: int
    origin: str

    @property
    def is_spine(self) -> bool:
        return self.role == "spine"


@dataclass(frozen=True, slots=True)
class Link:
    """One cable's worth of a crossing; `lane` counts the parallel links of the crossing from 1."""

    key: str
    spine: Switch
    leaf: Switch
    lane: int
    speed: int


@dataclass(frozen=True, slots=True)
class Structure:
    spines: tuple[Switch, ...]
    leaves: tuple[Switch, ...]
    links: tuple[Link, ...]

    @property
    def switches(self) -> tuple[Switch, ...]:
        return self.spines + self.leaves


def expand(brief: Brief, catalogue: Catalogue) -> Structure:
    """The structure of a brief.

    Raises `Refused` with every fault found: unknown models, ports that do not suffice, names and racks used twice, and
    segments that contradict each other.
    """
    faults: list[Fault] = []
    spine_type = _type(catalogue, brief.spines.model, "spine", "spines.model", faults)
    groups = [
        (group, _type(catalogue, group.model, "leaf", f"racks[{index}].model", faults), f"racks[{index}]")
        for index, group in enumerate(brief.racks)
    ]
    faults += _racks_named_twice(brief)
    if faults or spine_type is None:
        raise Refused(faults)

    spines = _spines(brief, spine_type)
    leaves = _leaves(brief, groups, start=len(spines))
    faults += _names_used_twice(spines + leaves) + _names_of_nothing(brief, spines + leaves)
    faults += _ports(brief, spine_type, groups, len(leaves))
    faults += _segments(brief) + _device_names(brief, spines + leaves)
    if faults:
        raise Refused(faults)
    return Structure(spines, leaves, _links(brief, spines, leaves))


def _type(catalogue: Catalogue, model: str, tier: str, path: str, faults: list[Fault]) -> SwitchType | None:
    found = catalogue.find(model)
    choice = ", ".join(catalogue.ids(tier))
    if found is None:
        faults.append(
            Fault(
                "model.unknown",
                f"No switch model is called “{model[:60]}”. For a {tier} there are: {choice}.",
                path,
            )
        )
    elif tier not in found.tiers:
        faults.append(Fault("model.tier", f"{found.title} cannot be a {tier}. Use one of: {choice}.", path))
    return found


def _racks_named_twice(brief: Brief) -> list[Fault]:
    home: dict[str, int] = {}
    faults = []
    for index, group in enumerate(brief.racks):
        for rack in group.rack_names:
            if rack in home:
                faults.append(
                    Fault(
                        "rack.twice",
                        f"Rack {rack} is named in two groups. Take it out of one.",
                        f"racks[{index}].racks",
                    )
                )
            home.setdefault(rack, index)
    return faults


def _spines(brief: Brief, spine_type: SwitchType) -> tuple[Switch, ...]:
    racks = expand_names(brief.spines.racks, "spines.racks")
    standing: Counter[str] = Counter()
    spines = []
    for number in range(1, brief.spines.count + 1):
        rack = racks[(number - 1) % len(racks)]
        standing[rack] += 1
        key = f"spine/{number}"
        unit = max(1, 43 - spine_type.units * standing[rack])
        name = brief.names.get(key, f"spine-{number}")
        spines.append(Switch(key, name, "spine", rack, unit, spine_type, number - 1, "spines.count"))
    return tuple(spines)


def _leaves(brief: Brief, groups: list[tuple[RackGroup, SwitchType | None, str]], start: int) -> tuple[Switch, ...]:
    leaves: list[Switch] = []
    for group, leaf_type, origin in groups:
        assert leaf_type is not None
        for rack in group.rack_names:
            for place in range(group.leaves):
                side = "ab"[place]
                key = f"leaf/{rack}/{side}"
                name = brief.names.get(key, f"{group.role}-{rack}{side if group.leaves > 1 else ''}")
                unit = 43 - leaf_type.units * (place + 1)
                leaves.append(
                    Switch(key, name, group.role, rack, unit, leaf_type, start + len(leaves), f"{origin}.racks")
                )
    return tuple(leaves)


def _names_used_twice(switches: tuple[Switch, ...]) -> list[Fault]:
    count = Counter(switch.name for switch in switches)
    return [
        Fault(
            "name.twice",
            f"{times} switches would be called {name}: {', '.join(s.key for s in switches if s.name == name)}. "
            "Give one of them another name under “names”.",
            "names",
        )
        for name, times in count.items()
        if times > 1
    ]


def _names_of_nothing(brief: Brief, switches: tuple[Switch, ...]) -> list[Fault]:
    keys = {switch.key for switch in switches}
    return [
        Fault(
            "name.of-nothing",
            f"“names” renames {key}, but the fabric has no such switch. Take the line out.",
            f"names.{key}",
        )
        for key in brief.names
        if key not in keys
    ]


def _ports(
    brief: Brief, spine_type: SwitchType, groups: list[tuple[RackGroup, SwitchType | None, str]], leaves: int
) -> list[Fault]:
    faults = []
    lanes = brief.uplinks_per_spine
    there, needed = len(spine_type.ports_for("fabric")), leaves * lanes
    if needed > there:
        faults.append(
            Fault(
                "ports.spine-full",
                f"{leaves} leaves with {lanes} {_uplinks(lanes)} to each spine need {needed} ports on every spine; "
                f"{spine_type.title} has {there}. Use a larger spine, fewer uplinks, or fewer leaves.",
                "spines.model",
            )
        )
    for group, leaf_type, origin in groups:
        assert leaf_type is not None
        there, needed = len(leaf_type.ports_for("fabric")), brief.spines.count * lanes
        if needed > there:
            faults.append(
                Fault(
                    "ports.leaf-full",
                    f"Leaves in {group.racks} need {needed} uplinks ({brief.spines.count} spines × {lanes}); "
                    f"{leaf_type.title} has {there}. Use a leaf with more uplinks, fewer spines, or fewer uplinks per spine.",
                    f"{origin}.model",
                )
            )
        if not spine_type.fabric_speeds() & leaf_type.fabric_speeds():
            faults.append(
                Fault(
                    "ports.speed",
                    f"{leaf_type.title} uplinks and {spine_type.title} ports have no speed in common. Change one of the models.",
                    f"{origin}.model",
                )
            )
    if leaves * brief.spines.count * lanes > MOST_LINKS:
        faults.append(
            Fault(
                "links.too-many",
                f"This fabric would have over {MOST_LINKS:,} links. Split it into pods.",
                "racks",
            )
        )
    return faults


def _uplinks(count: int) -> str:
    return "uplink" if count == 1 else "uplinks"


def _device_names(brief: Brief, switches: tuple[Switch, ...]) -> list[Fault]:
    """VRFs and the management port are devices on the switch; their names must be no other device's."""
    kinds = {switch.type.id: switch.type for switch in switches}.values()
    ports = {port for kind in kinds for group in kind.groups for port in group.ports}
    taken = {"lo", "mgmt", "bridge", "default", "all"} | ports
    faults = []
    for name, path in [(name, f"vrfs.{name}") for name in brief.vrfs] + [
        (brief.management.interface, "management.interface")
    ]:
        clash = name in taken or re.fullmatch(r"(vlan|vni)\d+", name)
        if clash or (path.startswith("vrfs.") and name == brief.management.interface):
            faults.append(
                Fault("name.device", f"{name} is the name of another device on the switch. Choose another.", path)
            )
    return faults


def _segments(brief: Brief) -> list[Fault]:
    faults = []
    untagged: dict[str, str] = {}
    for name, segment in brief.segments.items():
        path = f"segments.{name}"
        if segment.vrf is not None and segment.vrf not in brief.vrfs:
            faults.append(
                Fault(
                    "segment.vrf",
                    f"Segment {name} is in VRF {segment.vrf}, which is not under “vrfs”. Add it there.",
                    f"{path}.vrf",
                )
            )
        if segment.vrf is None and (segment.v4 or segment.v6):
            faults.append(
                Fault(
                    "segment.gateway",
                    f"Segment {name} has a gateway but no VRF to route in. Name a VRF, or take its prefixes out.",
                    path,
                )
            )
        members = expand_names(segment.racks) if segment.racks else tuple(brief.rack_names)
        for rack in members if segment.untagged else ():
            if rack in untagged:
                faults.append(
                    Fault(
                        "segment.untagged",
                        f"In rack {rack} both {untagged[rack]} and {name} are untagged; a port carries one untagged VLAN. "
                        "Make one of them tagged.",
                        f"{path}.untagged",
                    )
                )
                break
            untagged[rack] = name
    return faults


def _links(brief: Brief, spines: tuple[Switch, ...], leaves: tuple[Switch, ...]) -> tuple[Link, ...]:
    speeds = {leaf.type.id: link_speed(spines[0].type, leaf.type) for leaf in leaves}
    lanes = range(1, brief.uplinks_per_spine + 1)
    return tuple(
        Link(f"{leaf.key}~{spine.key}~{lane}", spine, leaf, lane, speeds[leaf.type.id])
        for leaf in leaves
        for spine in spines
        for lane in lanes
    )


def link_speed(spine: SwitchType, leaf: SwitchType) -> int:
    """The highest speed in Gbit/s that both ends support.

    Raises `Refused` when there is none.
    """
    common = spine.fabric_speeds() & leaf.fabric_speeds()
    if not common:
        raise refuse("ports.speed", f"{leaf.title} and {spine.title} have no speed in common.")
    return max(common)
