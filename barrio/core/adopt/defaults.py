"""What ports without a host carry: told where every port of a leaf that nobody is named at carries all that the leaf does."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import Any

from barrio.core.adopt.carried import Carried
from barrio.core.adopt.found import Findings
from barrio.core.adopt.seats import Seat
from barrio.core.adopt.shape import Shape
from barrio.core.brief.ranges import contract_names, contract_ports
from barrio.core.exchange.tiers import natural

_PLAIN = {"lag", "untagged", "tagged", "rate"}


def without_hosts(seats: dict[str, list[Seat]], shape: Shape, carried: Carried, found: Findings) -> dict[str, Any]:
    """The edits for ports without a host, whose seats are taken out of `seats`: those left are of hosts, named or not.

    Where no host is named at all, each port carries every segment of its rack unless something says otherwise.
    """
    bare = {name: [seat for seat in there if not seat.host] for name, there in seats.items()}
    alike = {name: mine for name, mine in bare.items() if mine and _every(name, mine, carried)}
    plugged = {
        name: mine[0].ways for name, mine in bare.items() if name not in alike and len(mine) >= FEW and _alike(mine)
    }
    for leaf in (*alike, *plugged):
        seats[leaf] = [seat for seat in seats[leaf] if seat.host]
    silent = {name for name in seats if not bare[name] and any(name in at for at in carried.vlans.values())}
    edits: dict[str, Any] = {}
    if not any(seats.values()) and not plugged:
        if carried.vlans and not alike:
            edits["default_plug"] = "shut"
        elif alike:
            edits |= {f'leaf_plugs."{shape.keys[name]}"': "shut" for name in sorted(silent)}
    elif alike and not silent and not plugged:
        edits["default_plug"] = "every"
    else:
        edits |= {f'leaf_plugs."{shape.keys[name]}"': "every" for name in sorted(alike)}
    names = {ways: f"open-{place}" for place, ways in enumerate(dict.fromkeys(plugged.values()), 1)}
    edits |= {
        f"plugs.{name}": {key: list(value) if isinstance(value, tuple) else value for key, value in ways}
        for ways, name in names.items()
    }
    edits |= {f'leaf_plugs."{shape.keys[leaf]}"': names[ways] for leaf, ways in sorted(plugged.items())}
    if alike:
        _segments(seats, {name: bare[name] for name in alike}, shape, carried)
        for place, ports in _lags({name: bare[name] for name in alike}, shape).items():
            if "pairing" in shape.edits["racks"][place]:
                shape.edits["racks"][place]["lags"] = ports
    words = (
        "ports without a host carry every segment of their rack"
        if alike
        else "ports without a host are alike on each leaf"
        if plugged
        else "ports are shut"
    )
    found.propose(
        "attached",
        "without-hosts",
        words,
        edits,
        [f"so on {len(alike) or len(plugged) or len(seats)} leaves"],
        "likely",
    )
    return edits


FEW = 3
"""Ports that are alike by chance."""


def _alike(mine: list[Seat]) -> bool:
    return len({seat.ways for seat in mine}) == 1 and bool(mine[0].ways)


def _every(leaf: str, mine: list[Seat], carried: Carried) -> bool:
    """Whether each seat without a host carries all segments of its leaf, in the same way but for being bonded."""
    all_here = {name for name, at in carried.vlans.items() if leaf in at}
    for seat in mine:
        said = dict(seat.ways)
        if (
            set(said) - _PLAIN
            or {*said.get("tagged", ()), *([said["untagged"]] if "untagged" in said else [])} != all_here
        ):
            return False
    return bool(all_here) and len({dict(seat.ways).get("untagged") for seat in mine}) == 1


def _segments(seats: Mapping[str, list[Seat]], alike: Mapping[str, list[Seat]], shape: Shape, carried: Carried) -> None:
    """Have segments say where they may be, since each port of those racks carries them, and which comes without a tag."""
    every = {shape.keys[name].split("/")[1] for name in seats}
    for name, at in carried.vlans.items():
        said = carried.edits[f"segments.{name}"]
        racks = {shape.keys[leaf].split("/")[1] for leaf in at}
        if racks != every:
            said["racks"] = contract_names(tuple(sorted(racks, key=natural)))
        if any(dict(seat.ways).get("untagged") == name for mine in alike.values() for seat in mine):
            said["untagged"] = True


def _lags(alike: Mapping[str, list[Seat]], shape: Shape) -> dict[int, str]:
    """The host ports that are bonded over both leaves of a pair, by the place of their kind of rack, where they are not all."""
    bonded: dict[int, set[str]] = defaultdict(set)
    there: dict[int, set[str]] = defaultdict(set)
    for leaf, mine in alike.items():
        place = shape.group_of[shape.keys[leaf]]
        for seat in mine:
            there[place] |= set(seat.ports)
            if dict(seat.ways).get("lag"):
                bonded[place] |= set(seat.ports)
    return {
        place: contract_ports(sorted(ports, key=natural)) for place, ports in bonded.items() if ports != there[place]
    }
