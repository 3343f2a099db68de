"""A switch that is drained before it is touched: what goes with it, how it is told, and whether anybody still goes by it.

BGP tells neighbours by the community of RFC 8326 that paths by this switch are the last ones; OSPF by the largest metric (RFC 6987), IS-IS by the overload bit
(ISO 10589, section 7.3). Whoever has another way takes it, before anything is unplugged.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from barrio.core import Compiled
from barrio.core.model.switch import SwitchModel
from barrio.core.paths import neighbours

ROUTES = (("ip", "-4", "-j", "route"), ("ip", "-6", "-j", "route"))
"""What a neighbour is asked: by which ports it goes where (iproute2, as JSON)."""
LEARNT = frozenset({"bgp", "ospf", "isis"})


@dataclass(frozen=True, slots=True)
class Cost:
    """What goes with a switch: hosts that have no other way, hosts that have one, for each neighbour the uplinks or downlinks that it keeps of those it has,
    and switches that nobody would reach any more; all by name."""

    dark: tuple[str, ...]
    other_way: tuple[str, ...]
    keeps: tuple[tuple[str, int, int], ...]
    cut_off: tuple[str, ...]


def cost(compiled: Compiled, key: str, away: Collection[str] = ()) -> Cost:
    """What a fabric has to do without while a switch (by key) is away, beside those that are away already."""
    by_key = compiled.structure.by_key
    here = {host.host: host for host in compiled.attachments.at.get(key, {}).values()}
    dark = sorted(str(name) for name, host in here.items() if all(leaf == key for leaf, _ in host.ports))
    keys = [one.key for one in compiled.staged]
    gone = {key, *away}
    whole, without = neighbours(compiled, keys), neighbours(compiled, keys, gone)
    keeps: list[tuple[str, int, int]] = []
    for other in whole[key]:
        # Links of the same kind: up, or down, as those that go to this switch.
        alike = [one for one in whole[other] if by_key[one].tier == by_key[key].tier]
        of = sum(whole[other][one] for one in alike)
        kept = sum(whole[other][one] for one in alike if one not in gone)
        keeps.append((str(by_key[other].name), kept, of))
    return Cost(
        tuple(dark), tuple(sorted(str(name) for name in here.keys() - set(dark))), tuple(keeps),
        tuple(str(by_key[one].name) for one in _cut_off(whole, without, gone)),
    )  # fmt: skip


def _cut_off(
    whole: Mapping[str, Mapping[str, int]], without: Mapping[str, Mapping[str, int]], gone: Collection[str]
) -> Iterator[str]:
    """Those that the largest part of what is left does not reach, and that were reached before."""
    left = [one for one in whole if one not in gone and whole[one]]
    parts: list[set[str]] = []
    for one in left:
        if any(one in part for part in parts):
            continue
        part, waiting = {one}, [one]
        while waiting:
            for other in without[waiting.pop()]:
                if other not in part:
                    part.add(other)
                    waiting.append(other)
        parts.append(part)
    largest = max(parts, key=len, default=set())
    return (one for one in left if one not in largest)


def order(model: SwitchModel, drains: bool) -> list[list[str]]:
    """The commands by which a switch tells its neighbours that they go another way, or that they may come again."""
    no = "" if drains else "no "
    lines = [["bgp graceful-shutdown"]]
    if model.common.ospf and model.common.has_v4:
        lines.append(["router ospf", "max-metric router-lsa administrative"])
    if model.common.ospf and model.common.has_v6:
        lines.append(["router ospf6", "stub-router administrative"])
    if model.common.isis:
        lines.append(["router isis fabric", "set-overload-bit"])
    return [
        ["vtysh", "-c", "configure terminal", *(word for one in [*within, f"{no}{last}"] for word in ("-c", one))]
        for *within, last in lines
    ]


def passing(compiled: Compiled, key: str, neighbour: str, answers: Mapping[tuple[str, ...], str]) -> list[str]:
    """Where a neighbour (by key) still goes by a switch, by its answers to `ROUTES`: prefixes that are not this switch's own. Raises `ValueError` for what is
    no answer."""
    model, other = compiled.models[key], compiled.models[neighbour]
    ports = {str(port.label) for port in other.fabric_ports if port.peer == model.name}
    own = {_bare(str(one)) for one in (model.loopback_v4, model.loopback_v6) if one}
    tunnels = Counter(str(one.vtep) for one in compiled.models.values() if one.vtep)
    if model.vtep and tunnels[str(model.vtep)] == 1:
        own.add(str(model.vtep))
    found: list[str] = []
    for argv in ROUTES:
        for one in _objects(json.loads(answers.get(argv, "") or "[]")):
            to = str(one.get("dst", ""))
            if one.get("protocol") not in LEARNT or _bare(to) in own:
                continue
            if any(hop.get("dev") in ports for hop in [one, *_objects(one.get("nexthops", []))]):
                found.append(to)
    return found


def _objects(value: object) -> list[dict[str, Any]]:
    """A list of objects as JSON has them. Raises `ValueError` for what is none."""
    if not isinstance(value, list) or not all(isinstance(one, dict) for one in value):
        raise ValueError("no list of objects")
    return value


def _bare(prefix: str) -> str:
    """A host's prefix without its length, which iproute2 leaves out."""
    return prefix.removesuffix("/32").removesuffix("/128")


def paths_in_words(passing: list[str]) -> str:
    """Prefixes for people: the first few, and how many there are."""
    more = f" and {len(passing) - 3} more" if len(passing) > 3 else ""
    return f"{', '.join(passing[:3])}{more}"
