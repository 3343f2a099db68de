"""Which model a switch is: by what it says of itself, by the ports of its front, or a new one for the catalogue with just these ports."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from barrio.core.adopt.running import Known, clean
from barrio.core.catalogue.model import Catalogue, PortGroup, PortUse, SwitchType, Tier

_NO_PORT = re.compile(r"(eth0|mgmt\d*|lo|ma\d+|docker.*|veth.*|br.*|bond.*|vlan.*|vni.*|vxlan.*|dummy.*)")

_TITLE = re.compile(r"([A-Z][\w-]{1,30}) ([\w.-]{1,30}), (?:leaf|border|services|spine|super-spine) in rack ")
"""A maker and a model, as a switch says them first of itself."""


@dataclass(frozen=True, slots=True)
class Front:
    """The model of a switch, why it is taken to be that, and whether it would be new to the catalogue."""

    kind: SwitchType
    evidence: str
    new: bool = False


def front_of(one: Known, tier: Tier, uplinks: frozenset[str], catalogue: Catalogue) -> Front:
    """The model of one switch; `uplinks` are its ports towards switches. Ties go to the front with the fewest ports."""
    said = one.description
    by_title = [
        kind for kind in catalogue.models if tier in kind.tiers and re.search(rf"\b{re.escape(kind.title)}\b", said)
    ]
    if by_title:
        return Front(by_title[0], f"{one.name} says that it is a {by_title[0].title}")
    ports = ports_of(one)
    told = _TITLE.match(said)
    if told:
        made = _made(one, tier, ports, uplinks)
        kind = made.model_copy(update={"id": clean(f"{told[1]} {told[2]}"), "maker": told[1], "name": told[2]})
        return Front(kind, f"{one.name} says that it is a {told[1]} {told[2]}, which the catalogue has not", True)
    fits = [
        kind
        for kind in catalogue.models
        if tier in kind.tiers and ports.keys() <= kind.group_of.keys() and _speeds_fit(ports, kind)
        and all(kind.group_of[port].use != "host" for port in uplinks if port in kind.group_of)
    ]  # fmt: skip
    if fits:
        kind = min(
            fits, key=lambda kind: (len(kind.group_of), len(kind.tiers) if tier == "leaf" else 0, kind.power, kind.id)
        )
        return Front(kind, f"{one.name} has {len(ports)} ports, of which every one is on the front of {kind.title}")
    return Front(_made(one, tier, ports, uplinks), f"no model of the catalogue has the ports of {one.name}", True)


def ports_of(one: Known) -> dict[str, int | None]:
    """The ports of a front with their speed in Gbit/s: as the switch says, else those that its files name."""
    if one.running.ports:
        return dict(one.running.ports)
    slaves = one.text.slaves
    return {
        device.name: None
        for device in one.devices.values()
        if (device.kind in ("port", "bridge port") or device.name in slaves) and not _NO_PORT.fullmatch(device.name)
    }


def merged(fronts: Mapping[str, Front]) -> dict[str, Front]:
    """The same, with one model where several switches say that they are the same new one, and each has shown some of its ports."""
    one_of: dict[str, SwitchType] = {}
    for front in fronts.values():
        if front.new:
            known = one_of.get(front.kind.id)
            one_of[front.kind.id] = _both(known, front.kind) if known else front.kind
    return {name: Front(one_of[f.kind.id], f.evidence, True) if f.new else f for name, f in fronts.items()}


def _both(one: SwitchType, other: SwitchType) -> SwitchType:
    groups = {group.prefix: group for group in one.groups}
    for more in other.groups:
        known = groups.get(more.prefix)
        if known is None:
            groups[more.prefix] = more
            continue
        first = min(known.first, more.first)
        last = max(known.first + known.count, more.first + more.count)
        groups[more.prefix] = known.model_copy(
            update={
                "first": first,
                "count": last - first,
                "speeds": sorted({*known.speeds, *more.speeds}),
                "use": known.use if known.use == more.use else "any",
            }
        )
    tiers = [*one.tiers, *(tier for tier in other.tiers if tier not in one.tiers)]
    return one.model_copy(update={"groups": list(groups.values()), "tiers": tiers})


def _speeds_fit(ports: Mapping[str, int | None], kind: SwitchType) -> bool:
    return all(speed is None or speed in kind.group_of[port].speeds for port, speed in ports.items())


def _made(one: Known, tier: Tier, ports: Mapping[str, int | None], uplinks: frozenset[str]) -> SwitchType:
    """A model with just these ports: in groups of one stem, those towards switches apart where the stems are."""
    stems: dict[str, list[int]] = {}
    for port in ports:
        found = re.fullmatch(r"([a-z]{1,6})(\d{1,4})", port)
        if found:
            stems.setdefault(found[1], []).append(int(found[2]))
    groups: list[PortGroup] = []
    for stem, numbers in stems.items():
        mine = {f"{stem}{number}" for number in numbers}
        speeds = {ports[name] for name in mine} - {None}
        up = len(mine & uplinks)
        use: PortUse = "any" if tier != "leaf" or 0 < up < len(mine) else ("fabric" if up else "host")
        first = 0 if 0 in numbers else 1
        groups.append(
            PortGroup(
                prefix=stem, count=max(numbers) - first + 1, first=first, use=use, connector="as found",
                speeds=sorted(speed for speed in speeds if speed) or ([100] if use != "host" else [25]),
            )
        )  # fmt: skip
    sizes = "-".join(f"{group.prefix}{group.count}" for group in groups) or "none"
    return SwitchType(
        id=f"found-{tier}-{sizes}"[:41].rstrip("-"), maker="Found", name=sizes.upper(), tiers=[tier],
        groups=groups or [PortGroup(prefix="p", count=1, speeds=[100], use="any", connector="as found")], power=0,
    )  # fmt: skip
