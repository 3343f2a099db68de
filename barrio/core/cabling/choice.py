"""Which part a cable is: of what both ports take and what reaches, the cheapest.

A need is what two ports ask for: the plugs they take, the speed, and how many legs one of them splits into. For each need there are options:
an assembly with its plugs on, or two optics with a cord between. An option comes in stocked lengths; the shortest that suffices is taken.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from barrio.core.catalogue.cables import RANK, Assembly, CableKind, Cord, Optic, PartList, takes

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


class Need(NamedTuple):
    """What two ports ask of a cable: their connectors, the speed of a link in Gbit/s, and the legs that the first is split into."""

    one: str
    other: str
    speed: int
    legs: int = 1


TRUNK = "trunk"
"""What stands in a need in place of a connector for fibres between two panels; the other is their medium."""


class Piece(NamedTuple):
    """A part and how many of it one cable takes."""

    part: str
    pieces: int


@dataclass(frozen=True, slots=True)
class Option:
    """A way to meet a need. `lengths` are those in stock, in metres, rising, with their prices (not a number without one).
    With optics, `medium` is what lies between them, and `limit` how far they reach in all, in metres."""

    kind: CableKind
    pieces: tuple[Piece, ...]
    name: str
    lengths: tuple[float, ...]
    prices: tuple[float, ...]
    diameter: float
    watts: float
    medium: str = ""
    limit: float = np.inf

    @property
    def reach(self) -> float:
        return self.lengths[-1]

    def stocked(self, metres: float) -> float | None:
        """The shortest length in stock that is long enough, or nothing."""
        return next((length for length in self.lengths if length >= metres - 1e-9), None)

    def price(self, metres: float) -> float | None:
        """The price of a stocked length, or nothing when it has none."""
        found = self.prices[self.lengths.index(metres)]
        return None if np.isnan(found) else found


def options_for(need: Need, parts: PartList) -> tuple[Option, ...]:
    """Every way to meet a need: those without a price by kind, then by name; always in the same order."""
    if need.one == TRUNK:
        found = [
            _option("SR optics", (Piece(cord.id, 1),), f"trunk {cord.medium}", cord, 0.0)
            for cord in parts.cords
            if cord.trunk and cord.medium == need.other
        ]
    else:
        found = [*_assemblies(need, parts), *_with_optics(need, parts)]
    return tuple(
        sorted(
            (option for option in found if option.lengths),
            key=lambda option: (RANK[option.kind], option.prices[0], option.name),
        )
    )


@dataclass(frozen=True, slots=True)
class Choice:
    """What is chosen for each of many cables of one need: the place of an option (-1 for none) and the length in stock in metres."""

    option: Ints
    length: Floats


def choose(options: Sequence[Option], metres: Floats, wanted: CableKind | None = None) -> Choice:
    """The option for each length: the kind that is wanted where it reaches, else the cheapest that does.

    When some option has no price, the plainest kind that reaches is taken.
    """
    count = len(metres)
    if not options or not count:
        return Choice(np.full(count, -1, dtype=np.int64), np.full(count, np.nan))
    costs = np.full((len(options), count), np.inf)
    stocked = np.full((len(options), count), np.nan)
    priced = not any(np.isnan(option.prices).any() for option in options)
    for place, option in enumerate(options):
        at = np.searchsorted(np.array(option.lengths), metres - 1e-9)
        reaches = at < len(option.lengths)
        which = np.minimum(at, len(option.lengths) - 1)
        stocked[place] = np.where(reaches, np.array(option.lengths)[which], np.nan)
        price = np.array(option.prices)[which] if priced else np.full(count, float(place))
        # What was asked for goes before what is cheaper.
        costs[place] = np.where(
            reaches & ~np.isnan(metres), price + (0.0 if wanted in (None, option.kind) else 1e9), np.inf
        )
    best = np.argmin(costs, axis=0)
    none = np.isinf(costs[best, np.arange(count)])
    length = stocked[best, np.arange(count)]
    return Choice(np.where(none, -1, best).astype(np.int64), np.where(none, np.nan, length))


def _assemblies(need: Need, parts: PartList) -> Iterator[Option]:
    one, other = takes(need.one), takes(need.other)
    for part in parts.assemblies:
        far = part.far or part.plug
        if part.legs != need.legs or part.speed != need.speed:
            continue
        fits = (part.plug in one and far in other) or (need.legs == 1 and part.plug in other and far in one)
        if fits:
            yield _option(part.kind, (Piece(part.id, 1),), _assembly_name(part), part, 2 * part.power)


def _assembly_name(part: Assembly) -> str:
    if part.kind in ("copper", "power"):
        return part.id
    return f"{part.kind} {part.legs}×{part.speed}G" if part.legs > 1 else f"{part.kind} {part.speed}G"


def _with_optics(need: Need, parts: PartList) -> Iterator[Option]:
    if need.legs > 1:
        return
    for one in parts.optics:
        for other in parts.optics:
            alike = one.medium == other.medium and one.speed == other.speed == need.speed and one.kind == other.kind
            if not alike or one.plug not in takes(need.one) or other.plug not in takes(need.other):
                continue
            for cord in parts.cords:
                if cord.medium == one.medium and cord.legs == 1 and not cord.trunk:
                    reach = min(one.reach, other.reach)
                    yield _cord_option(one, other, cord, reach)


def _cord_option(one: Optic, other: Optic, cord: Cord, reach: float) -> Option:
    pieces = (Piece(one.id, 2),) if one.id == other.id else (Piece(one.id, 1), Piece(other.id, 1))
    optics = np.nan if one.price is None or other.price is None else one.price + other.price
    name = f"{one.kind} {one.speed}G, {cord.medium}"
    made = _option(one.kind, (*pieces, Piece(cord.id, 1)), name, cord, one.power + other.power, optics, reach)
    return replace(made, medium=cord.medium, limit=reach)


def _option(
    kind: CableKind, pieces: tuple[Piece, ...], name: str, part: Assembly | Cord, watts: float, more: float = 0.0,
    reach: float = np.inf,
) -> Option:  # fmt: skip
    lengths = tuple(length for length in sorted(part.lengths) if length <= reach)
    base = np.nan if part.price is None else part.price + more
    prices = tuple(round(base + part.per_metre * length, 2) for length in lengths)
    return Option(kind, pieces, name, lengths, prices, part.diameter, round(watts, 2))
