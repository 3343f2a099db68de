"""The other way round: cables stay as they lie, and the plan takes their places, where that moves fewer things.

A port position is shared: a leaf has the same port on every spine of its pod, and a spine the same uplink on every leaf of a kind. So the plan
can follow the cables only where they say the same everywhere: two leaves in each other's place on all spines, say.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from barrio.core.brief.model import Brief
from barrio.core.cabling.compared import Distance
from barrio.core.cabling.heard import Port
from barrio.core.cabling.moves import mends
from barrio.core.ledger.wanted import Taken
from barrio.core.model.links import Ends, Numbers, plug, positions
from barrio.core.structure.parts import Structure


@dataclass(frozen=True, slots=True)
class Replan:
    """Positions to pin, as (use, key, position), and the plugs that still have to be moved then, against `moves` without it."""

    pins: tuple[tuple[str, str, int], ...]
    moves: int
    left: int


def replan(
    brief: Brief, structure: Structure, numbers: Numbers, ends: Sequence[Ends], lying: Mapping[Port, Port]
) -> Replan | None:
    """The change of the plan that follows what lies there, or nothing where moving plugs is no more work."""
    now = _count(ends, lying)
    best: Replan | None = None
    for upper in (True, False):
        wanted = _unanimous(ends, lying, upper)
        pins = tuple(
            (use, key, place) for (use, key), place in wanted.items() if numbers[use][key].low != place
        )  # fmt: skip
        if not pins or not _each_once(numbers, pins):
            continue
        moved = {use: dict(held) for use, held in numbers.items() if any(use == pin[0] for pin in pins)}
        for use, key, place in pins:
            moved[use][key] = Taken(place, 1)
        left = _count(plug(brief, structure, {**numbers, **moved}, {}, ()), lying)
        if left + len(pins) < now and (best is None or left + len(pins) < best.left + len(best.pins)):
            best = Replan(pins, now, left)
    return best


def _count(ends: Sequence[Ends], lying: Mapping[Port, Port]) -> int:
    planned: dict[Port, Port] = {}
    for end in ends:
        one, other = Port(end.link.lower.name, end.lower_port), Port(end.link.upper.name, end.upper_port)
        if one in lying or other in lying:
            planned[one], planned[other] = other, one
    return sum(len(mend.moves) for mend in mends(planned, lying, Distance({})))


def _unanimous(ends: Sequence[Ends], lying: Mapping[Port, Port], upper: bool) -> dict[tuple[str, str], int]:
    """For each position, the place where cables say it is, when all that are heard of say the same."""
    said: dict[tuple[str, str], set[int]] = {}
    places = {
        Port(switch.name, port.name): place
        for end in ends
        for switch, ports in ((end.link.upper, end.link.upper.plan.down), (end.link.lower, end.link.lower.plan.up))
        for place, port in enumerate(ports, 1)
    }
    for end in ends:
        at = positions(end.link)
        if at is None:
            continue
        here, there = Port(end.link.lower.name, end.lower_port), Port(end.link.upper.name, end.upper_port)
        held, far = (at[0], lying.get(here)) if upper else (at[1], lying.get(there))
        other = there if upper else here
        if far is not None and far in places:
            # Only a cable that goes to the right switch says where its port is.
            said.setdefault(held, set()).add(places[far] if far.system == other.system else 0)
    return {key: next(iter(found)) for key, found in said.items() if len(found) == 1 and 0 not in found}


def _each_once(numbers: Numbers, pins: Sequence[tuple[str, str, int]]) -> bool:
    """Whether no two keys of a use would be at one place."""
    for use in {pin[0] for pin in pins}:
        places = {key: taken.low for key, taken in numbers[use].items()} | {
            key: place for one, key, place in pins if one == use
        }
        if len(set(places.values())) < len(places):
            return False
    return True
