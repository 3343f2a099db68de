"""Edits on the picture: racks taken out, copied, changed in kind or marked, and ports given another use.

Each function answers with edits, as (path, value), for `document.set_value`. Racks are named in full (`r07`, or `p01-r07` in a
fabric with pods); what they hold keeps its keys, and so its numbers.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Sequence
from typing import Any, Literal

from barrio.core.brief.hardware import PortPlan, RackGroup
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import contract_names, contract_ports, expand_names, expand_ports
from barrio.core.brief.reader import quoted
from barrio.core.edits import attaching
from barrio.core.errors import refuse
from barrio.core.structure.parts import Switch
from barrio.core.structure.ports import names_of

Edits = list[tuple[str, object]]
PortUse = Literal["uplinks", "downlinks", "peer", "hosts", "reserved"]
CHANGEABLE = frozenset({"model", "leaves", "role", "kind", "pairing", "uplinks_per_spine", "host_speed", "growth"})


def remove_racks(brief: Brief, racks: Collection[str]) -> Edits:
    """Take racks out, with the hosts that are plugged in there. Raises `Refused` (`rack.unknown`)."""
    _known(brief, racks)
    gone = set(racks)
    groups = [part for group in brief.racks for part in _kept(brief, group, gone)]
    rungs = [rung for rung in brief.rungs if _rack_of(rung) in gone]
    said: Edits = [(f"rungs.{quoted(rung)}", None) for rung in rungs]
    return [("racks", groups or None), *_unmarked(brief, racks), *attaching.without_racks(brief, gone), *said]


def _rack_of(rung: str) -> str:
    """The rack of a rung of the Ladder that is a rack, or a switch in one.

    >>> _rack_of("rack r07"), _rack_of("switch leaf/r07/b"), _rack_of("role leaf")
    ('r07', 'r07', '')
    """
    kind, _, name = rung.partition(" ")
    return name if kind == "rack" else name.split("/")[1] if kind == "switch" and name.count("/") == 2 else ""


def copy_racks(brief: Brief, racks: Sequence[str]) -> Edits:
    """As many racks again like these, named on from the last of their kind. Raises `Refused` (`rack.unknown`).

    With pods, copies stand in the same pods as the racks.
    """
    _known(brief, racks)
    groups: list[dict[str, Any]] = []
    taken = {name for group in brief.racks for name in group.rack_names}
    for group in brief.racks:
        mine = _chosen(brief, group, racks)
        groups.append(_plain(group))
        by_rack: dict[str, set[str]] = {}
        for pod, rack in mine:
            by_rack.setdefault(rack, set()).add(pod)
        whole = {pod for pod, _ in brief.places(group)}
        added = [_next(taken, rack) for rack in by_rack]
        if all(pods == whole for pods in by_rack.values()):
            if added:
                groups[-1]["racks"] = contract_names((*group.rack_names, *added))
            continue
        for rack, pods in zip(added, by_rack.values(), strict=True):
            groups.append(_plain(group) | {"racks": rack, "pods": contract_names(tuple(sorted(pods)))})
    return [("racks", groups)]


def change_racks(brief: Brief, racks: Collection[str], fields: dict[str, object]) -> Edits:
    """Give racks another kind: a group with these fields changed; null takes a field out.

    Raises `Refused` (`rack.unknown`, `rack.field`).
    """
    _known(brief, racks)
    strange = next((field for field in fields if field not in CHANGEABLE), None)
    if strange:
        raise refuse("rack.field", f"Racks have no field {strange[:40]} that can be changed here.", strange)
    chosen = set(racks)
    groups: list[dict[str, Any]] = []
    for group in brief.racks:
        groups += _kept(brief, group, chosen)
        mine = [place for place in brief.places(group) if place[1] in chosen]
        for part in _grouped(brief, group, mine):
            changed = {name: value for name, value in (part | fields).items() if value is not None}
            if len(mine) < sum(1 for _ in brief.places(group)):
                changed.pop("growth", None)
            groups.append(changed)
    return [("racks", _merged(groups))]


def mark(brief: Brief, keys: Iterable[str], state: Literal["out_of_service", "planned_later", ""], why: str) -> Edits:
    """Mark things out of service or planned for later, or take their marks away."""
    edits: Edits = []
    for key in keys:
        for field in ("out_of_service", "planned_later"):
            if field == state:
                edits.append((f'{field}."{key}"', why))
            elif key in getattr(brief, field):
                edits.append((f'{field}."{key}"', None))
    return edits


def plan_ports_of(
    brief: Brief, switch: Switch, ports: Sequence[str], use: PortUse | str, scope: Literal["switch", "kind"]
) -> Edits:
    """Give ports of a front another use, for one switch or for all of its kind.

    `use` may also be a breakout such as `4x25`, or `whole` to undo one. What the plan says of other ports stays.
    Raises `Refused` (`ports.use`).
    """
    path, said = _plan_place(brief, switch, scope)
    edits: Edits = []
    if scope == "switch" and switch.key not in brief.ports:
        # A plan of its own takes the place of its kind's, so it begins with what that one says.
        edits += [(f"{path}.{field}", value) for field, value in said.model_dump(exclude_unset=True).items()]
    if use == "whole" or re.fullmatch(r"[2-8]x\d{1,4}", use):
        return [*edits, (f"{path}.breakouts", _breakouts(said, switch, ports, use))]
    now: dict[str, tuple[str, ...]] = {
        "uplinks": names_of(switch.plan.up),
        "downlinks": names_of(switch.plan.down),
        "peer": names_of(switch.plan.peer),
        "hosts": names_of(switch.plan.hosts),
        "reserved": names_of(switch.plan.reserved),
    }
    if use not in now:
        raise refuse("ports.use", f"Ports are {', '.join(now)}, or broken out; not {use[:20]}.", "use")
    order = list(switch.plan.by_name)
    moving = set(ports)
    for field, held in now.items():
        kept = [port for port in held if port not in moving]
        after = sorted([*kept, *moving], key=_place(switch, order)) if field == use else kept
        if tuple(after) != held:
            edits.append((f"{path}.{field}", contract_ports(after) if after else None))
    return edits


def _place(switch: Switch, order: list[str]) -> Any:
    front = {port: index for index, port in enumerate(switch.type.group_of)}
    by_name = switch.plan.by_name
    return lambda port: (
        front.get(by_name[port].parent, 0) if port in by_name else 0,
        order.index(port) if port in order else 0,
    )


def _plan_place(brief: Brief, switch: Switch, scope: str) -> tuple[str, PortPlan]:
    if scope == "switch":
        own = brief.ports.get(switch.key)
        tier = _tier_plan(brief, switch)[1]
        return f'ports."{switch.key}"', own or tier
    return _tier_plan(brief, switch)


def _tier_plan(brief: Brief, switch: Switch) -> tuple[str, PortPlan]:
    if switch.role == "super-spine" and brief.super_spines is not None:
        return "super_spines.ports", brief.super_spines.ports
    if switch.role == "spine":
        return "spines.ports", brief.spines.ports
    assert switch.group is not None
    return f"{switch.origin.removesuffix('.racks')}.ports", switch.group.ports


def _breakouts(said: PortPlan, switch: Switch, ports: Sequence[str], use: str) -> dict[str, str] | None:
    by_name = switch.plan.by_name
    holes = {by_name[port].parent if port in by_name else port for port in ports}
    modes = {port: mode for text, mode in said.breakouts.items() for port in expand_ports(text)}
    for hole in holes:
        modes.pop(hole, None)
        if use != "whole":
            modes[hole] = use
    order = list(switch.type.group_of)
    by_mode: dict[str, list[str]] = {}
    for port in sorted(modes, key=order.index):
        by_mode.setdefault(modes[port], []).append(port)
    return {contract_ports(found): mode for mode, found in by_mode.items()} or None


def _known(brief: Brief, racks: Collection[str]) -> None:
    there = set(brief.rack_names)
    strange = next((rack for rack in racks if rack not in there), None)
    if strange is not None or not racks:
        raise refuse("rack.unknown", f"The fabric has no rack {strange or ''}".rstrip() + " to change.", "racks")


def _plain(group: RackGroup) -> dict[str, Any]:
    return group.model_dump(exclude_unset=True)


def _chosen(brief: Brief, group: RackGroup, racks: Collection[str]) -> list[tuple[str, str]]:
    """The racks of a group among these, as (pod, short name)."""
    names = set(racks)
    return [(pod, full.removeprefix(f"{pod}-") if pod else full) for pod, full in brief.places(group) if full in names]


def _kept(brief: Brief, group: RackGroup, gone: set[str]) -> list[dict[str, Any]]:
    """What is left of a group; in a fabric with pods, pods that keep the same racks stay together."""
    left = [place for place in brief.places(group) if place[1] not in gone]
    if len(left) == sum(1 for _ in brief.places(group)):
        return [_plain(group)]
    return _grouped(brief, group, left)


def _grouped(brief: Brief, group: RackGroup, places: list[tuple[str, str]]) -> list[dict[str, Any]]:
    by_pod: dict[str, list[str]] = {}
    for pod, full in places:
        by_pod.setdefault(pod, []).append(full.removeprefix(f"{pod}-") if pod else full)
    alike: dict[tuple[str, ...], list[str]] = {}
    for pod, racks in by_pod.items():
        alike.setdefault(tuple(racks), []).append(pod)
    parts = []
    for names, pods in alike.items():
        part = _plain(group) | {"racks": contract_names(names)}
        if brief.pods:
            part.pop("pods", None)
            if pods != list(brief.pod_names):
                part["pods"] = contract_names(tuple(pods))
        parts.append(part)
    return parts


def _merged(groups: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Groups that differ in their racks only become one."""
    found: list[dict[str, Any]] = []
    for group in groups:
        rest = {name: value for name, value in group.items() if name != "racks"}
        same = next((one for one in found if {n: v for n, v in one.items() if n != "racks"} == rest), None)
        if same is None:
            found.append(dict(group))
        else:
            same["racks"] = contract_names((*expand_names(same["racks"]), *expand_names(group["racks"])))
    return found


def _unmarked(brief: Brief, racks: Collection[str]) -> Edits:
    """Marks, names, models and port plans of what goes with the racks."""
    stems = tuple(stem for rack in racks for stem in (f"leaf/{rack}/", f"rack/{rack}"))
    edits: Edits = []
    for field in ("names", "models", "ports", "out_of_service", "planned_later"):
        for key in getattr(brief, field):
            if key.startswith(tuple(stem for stem in stems if stem.endswith("/"))) or key in stems:
                edits.append((f'{field}."{key}"', None))
    return edits


def _next(taken: set[str], like: str) -> str:
    """The next free name after the last that has the same letters."""
    stem = re.fullmatch(r"(.*?)(\d+)", like)
    prefix, width = (stem[1], len(stem[2])) if stem else (f"{like}-", 1)
    numbers = [int(found[1]) for name in taken if (found := re.fullmatch(rf"{re.escape(prefix)}(\d+)", name))]
    name = f"{prefix}{max(numbers, default=1) + 1:0{width}d}"
    taken.add(name)
    return name
