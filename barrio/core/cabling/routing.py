"""How far each cable goes: its way from unit to tray, along trays, and down again, worked out for all cables at once.

Cables with the same two racks are a bundle and take one route: the shortest, or, where a tray on it would be fuller than it may be, the
shortest that has room. All lengths in mm. A length is never under the distance of the two ports in space, since its way is a walk
between them.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from barrio.core.place.floor import Plan
from barrio.core.place.routes import Drop, Trays

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]

BASE = 100
"""Millimetres between the floor and the lowest unit."""
UNIT = 44.45
"""Millimetres of a unit (EIA-310)."""
MOST_IN_VAIN = 40
"""Bundles for which no way round full trays is found before it is left at a finding."""


class Pair(NamedTuple):
    """Two racks, the one that the fabric names first in front."""

    one: str
    other: str


@dataclass(frozen=True, slots=True)
class Route:
    """The way of a bundle: its sections from the first rack to the second, and their sum in mm. `around` says that the shortest was full."""

    sections: tuple[int, ...]
    length: float
    around: bool = False


@dataclass
class Routes:
    """Routes by bundle. `load` is the mm² of cable in each section of tray; `lengths` the mm of each bundle's shortest way, infinite without one."""

    trays: Trays
    lengths: dict[Pair, float] = field(default_factory=dict)
    load: Floats = field(default_factory=lambda: np.zeros(0))
    around: dict[Pair, Route] = field(default_factory=dict)
    _sources: dict[str, int] = field(default_factory=dict)
    _before: Ints = field(default_factory=lambda: np.zeros((0, 0), dtype=np.int64))

    def length(self, pair: Pair) -> float:
        led = self.around.get(pair)
        return led.length if led else self.lengths.get(pair, np.inf)

    def of(self, pair: Pair) -> Route:
        """The way of a bundle; one without sections where there is none."""
        if pair in self.around or not np.isfinite(self.lengths.get(pair, np.inf)):
            return self.around.get(pair) or Route((), np.inf)
        source, target = self._ends(pair)
        sections = self.trays.along(self._before[self._sources[source]], self.trays.drops[target].node)
        return Route(sections if source == pair.other else sections[::-1], self.lengths[pair])

    def _ends(self, pair: Pair) -> tuple[str, str]:
        return (pair.one, pair.other) if pair.one in self._sources else (pair.other, pair.one)

    def tally(self, weights: Mapping[Pair, float]) -> Floats:
        """The weights of all bundles in each section that they lie in: along each tree of shortest ways, from its leaves inward; those that
        are led round one by one."""
        found = np.zeros(len(self.trays.sections))
        at_node = np.zeros(self._before.shape)
        for pair, weight in weights.items():
            led = self.around.get(pair)
            if led is not None:
                found[list(led.sections)] += weight
            elif np.isfinite(self.lengths.get(pair, np.inf)):
                source, target = self._ends(pair)
                at_node[self._sources[source], self.trays.drops[target].node] += weight
        for place, source in enumerate(self._sources):
            before, carried = self._before[place].tolist(), at_node[place].tolist()
            for node in self._inward(before, self.trays.drops[source].node):
                if carried[node]:
                    found[self.trays.between(before[node], node)] += carried[node]
                    carried[before[node]] += carried[node]
        return found

    @staticmethod
    def _inward(before: Sequence[int], root: int) -> list[int]:
        """The nodes of a tree, each before the one that it leads to."""
        below: dict[int, list[int]] = {}
        for node, up in enumerate(before):
            if up >= 0:
                below.setdefault(up, []).append(node)
        order, todo = [], [root]
        while todo:
            node = todo.pop()
            order.append(node)
            todo += below.get(node, ())
        return order[:0:-1]


def height_of(unit: float, units: float = 1) -> float:
    """Millimetres over the floor of the middle of a thing that stands from `unit` upward.

    >>> height_of(1), height_of(1, 2)
    (122.225, 144.45)
    """
    return BASE + (unit - 1 + units / 2) * UNIT


def routes_between(trays: Trays, pairs: Sequence[Pair]) -> Routes:
    """The shortest way for each pair of racks."""
    sources = {rack: place for place, rack in enumerate(rack for rack in _fewer(pairs) if rack in trays.drops)}
    routes = Routes(trays, load=np.zeros(len(trays.sections)), _sources=sources)
    if sources:
        distances, routes._before = trays.ways(trays.graph(), [trays.drops[rack].node for rack in sources])
    for pair in pairs:
        source, target = routes._ends(pair)
        reached = source in sources and target in trays.drops
        length = float(distances[sources[source], trays.drops[target].node]) if reached else np.inf
        routes.lengths[pair] = round(length) if np.isfinite(length) else np.inf
    return routes


def _fewer(pairs: Sequence[Pair]) -> list[str]:
    """Racks such that each pair has one of them: of the two sides, the one with fewer."""
    ones, others = dict.fromkeys(pair.one for pair in pairs), dict.fromkeys(pair.other for pair in pairs)
    return list(ones if len(ones) <= len(others) else others)


def with_room(routes: Routes, areas: Mapping[Pair, float], fill: int) -> None:
    """Fill the trays, and lead bundles round those that would be fuller than `fill` per cent, where there is another way; `areas` are in mm².

    The bundles that stand last in the order of pairs give way first, so that a fabric that grows leaves laid cables where they are.
    """
    trays = routes.trays
    room = trays.rooms * fill / 100
    routes.load = routes.tally(areas)
    in_vain = 0
    for pair in reversed(list(areas)):
        if in_vain >= MOST_IN_VAIN or not (routes.load > room).any():
            return
        route, area = routes.of(pair), areas[pair]
        taken = list(route.sections)
        if not (routes.load[taken] > room[taken]).any():
            continue
        routes.load[taken] -= area
        full = np.flatnonzero(routes.load + area > room).tolist()
        start, end = trays.drops[pair.one].node, trays.drops[pair.other].node
        distances, before = trays.ways(trays.graph(full), [start])
        if np.isfinite(distances[0, end]):
            taken = list(trays.along(before[0], end)[::-1])
            routes.around[pair] = Route(tuple(taken), float(round(distances[0, end])), True)
        else:
            in_vain += 1
        routes.load[taken] += area


@dataclass(frozen=True, slots=True)
class Spread:
    """The ends of many cables as arrays, in the same order: rack (its place in `racks`), height in mm, and whether ports look to the rear."""

    racks: tuple[str, ...]
    a_rack: Ints
    b_rack: Ints
    a_height: Floats
    b_height: Floats
    a_rear: NDArray[np.bool_]
    b_rear: NDArray[np.bool_]


class Steps(NamedTuple):
    """What a cable's length is made of, in mm: up from its first unit, aside to the tray at both ends, along trays, down to the second."""

    up: Floats
    aside: Floats
    along: Floats
    down: Floats
    slack: float

    @property
    def total(self) -> Floats:
        return self.up + self.aside + self.along + self.down + self.slack


def steps_of(spread: Spread, plan: Plan, routes: Routes, slack: int) -> Steps:
    """The steps of every cable; not a number where a rack stands nowhere or no tray leads from one to the other.

    Inside a rack a cable goes to the side, up or down it, and back; between racks to the side, to the tray, along it and back.
    """
    drops = routes.trays.drops
    nothing = np.nan
    sides = [plan.spots[rack].sides if rack in plan.spots else (nothing, nothing) for rack in spread.racks]
    wide, deep = np.array(sides, dtype=np.float64).reshape(-1, 2).T
    tray = np.array([drops[rack].height if rack in drops else nothing for rack in spread.racks])
    aside = np.array(
        [[_aside(plan, drops.get(rack), rack, rear) for rear in (False, True)] for rack in spread.racks],
        dtype=np.float64,
    ).reshape(-1, 2)
    inside = spread.a_rack == spread.b_rack
    along = _along(spread, routes)
    through = np.where(spread.a_rear != spread.b_rear, deep[spread.a_rack], 0.0)
    to_tray = aside[spread.a_rack, spread.a_rear.astype(int)] + aside[spread.b_rack, spread.b_rear.astype(int)]
    up = np.where(inside, np.abs(spread.a_height - spread.b_height), np.abs(tray[spread.a_rack] - spread.a_height))
    down = np.where(inside, 0.0, np.abs(tray[spread.b_rack] - spread.b_height))
    sideways = np.where(inside, wide[spread.a_rack] + through, to_tray)
    return Steps(up, sideways, np.where(inside, 0.0, along), down, 2.0 * slack)


def _aside(plan: Plan, drop: Drop | None, rack: str, rear: bool) -> float:
    """From a port in the middle of a rack's front or rear to its side, and over to where its cables meet the tray."""
    if drop is None:
        return np.nan
    spot = plan.spots[rack]
    x, y = spot.face(rear)
    return spot.sides[0] / 2 + abs(x - drop.at[0]) + abs(y - drop.at[1])


def _along(spread: Spread, routes: Routes) -> Floats:
    """What each cable goes along trays, by its two racks."""
    size = len(spread.racks)
    place = {rack: at for at, rack in enumerate(spread.racks)}
    table = np.full((size, size), np.nan)
    for pair in routes.lengths:
        length = routes.length(pair) if np.isfinite(routes.length(pair)) else np.nan
        table[place[pair.one], place[pair.other]] = table[place[pair.other], place[pair.one]] = length
    return table[spread.a_rack, spread.b_rack]
