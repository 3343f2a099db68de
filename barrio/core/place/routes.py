"""Routes along trays: a graph of where trays run, cross and are reached from racks, and the shortest ways on it.

Nodes are the points of a tray where something happens: its corners, its crossings with others, the point nearest to each rack, and the
ends of ways between halls. Edges are the pieces between; where two trays cross, the step from one height to the other. Lengths in mm.
Shortest ways by Dijkstra's algorithm (scipy.sparse.csgraph); of equally long ones always the same is taken.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from barrio.core.place.floor import XY, Passage, Plan, Run

if TYPE_CHECKING:
    from scipy.sparse import csr_array

MOST_REACH = 3000
"""Millimetres that a rack may stand away from the nearest tray."""

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Drop:
    """Where the cables of a rack meet a tray: node of the graph, point of the plan, and height of the tray in mm."""

    node: int
    at: XY
    height: int


@dataclass(frozen=True, slots=True)
class Section:
    """A piece of tray between two points where something happens; `room` is its section in mm²."""

    run: str
    hall: str
    start: XY
    end: XY
    length: int
    room: int
    path: str


@dataclass(frozen=True)
class Trays:
    """The graph of a plan. `edges` holds (node, node) of each section, in the order of `sections`."""

    points: tuple[XY, ...]
    sections: tuple[Section, ...]
    edges: Ints
    drops: Mapping[str, Drop]

    @cached_property
    def lengths(self) -> Floats:
        return np.array([section.length for section in self.sections], dtype=np.float64)

    @cached_property
    def rooms(self) -> Floats:
        return np.array([section.room for section in self.sections], dtype=np.float64)

    @cached_property
    def _section_at(self) -> dict[tuple[int, int], int]:
        """The section between two nodes; of several the shortest."""
        found: dict[tuple[int, int], int] = {}
        for index, (one, other) in enumerate(self.edges.tolist()):
            key = (min(one, other), max(one, other))
            if key not in found or self.lengths[index] < self.lengths[found[key]]:
                found[key] = index
        return found

    def between(self, one: int, other: int) -> int:
        """The section that joins two nodes."""
        return self._section_at[min(one, other), max(one, other)]

    def graph(self, without: Iterable[int] = ()) -> csr_array:
        """The graph, some sections left out."""
        # It takes half a second to load, and most fabrics have no trays.
        from scipy.sparse import csr_array

        out = set(without)
        kept = [index for index in self._section_at.values() if index not in out]
        ends, size = self.edges[kept], len(self.points)
        # A step of no length is still an edge: zero would be none to scipy.
        lengths = np.maximum(self.lengths[kept], 1e-6)
        return csr_array((lengths, (ends[:, 0], ends[:, 1])), shape=(size, size)) if kept else csr_array((size, size))

    def ways(self, graph: csr_array, sources: Sequence[int]) -> tuple[Floats, Ints]:
        """Distances (infinite where there is no way) and predecessors from each source to every node."""
        from scipy.sparse.csgraph import dijkstra

        distances, before = dijkstra(graph, directed=False, indices=list(sources), return_predecessors=True)
        return distances, before.astype(np.int64)

    def along(self, before: Ints, node: int) -> tuple[int, ...]:
        """The sections from a source to a node, by the source's row of predecessors, from the node's end."""
        found: list[int] = []
        while before[node] >= 0:
            last = int(before[node])
            found.append(self.between(last, node))
            node = last
        return tuple(found)


def trays_of(plan: Plan) -> Trays:
    """The graph of a plan's trays. Racks farther than `MOST_REACH` from every tray of their hall have no drop."""
    return _Maker(plan).made()


class _Maker:
    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.pieces = [
            (index, start, end)
            for index, run in enumerate(plan.runs)
            for start, end in zip(run.corners, run.corners[1:], strict=False)
        ]
        self.on: list[dict[float, XY]] = [{0.0: start, 1.0: end} for _, start, end in self.pieces]
        self.nodes: dict[tuple[int, XY], int] = {}
        self.points: list[XY] = []
        self.edges: list[tuple[int, int]] = []
        self.sections: list[Section] = []

    def made(self) -> Trays:
        halls = np.array([_place_of(self.plan.runs[run].hall, self.plan) for run, _, _ in self.pieces], dtype=np.int64)
        starts = np.array([start for _, start, _ in self.pieces], dtype=np.float64).reshape(-1, 2)
        ends = np.array([end for _, _, end in self.pieces], dtype=np.float64).reshape(-1, 2)
        joints = self._crossings(starts, ends, halls)
        reached = {
            spot.rack: self._nearest(spot.middle, spot.hall, starts, ends, halls) for spot in self.plan.spots.values()
        }
        doors = [
            (
                way,
                self._nearest(way.start, way.halls[0], starts, ends, halls),
                self._nearest(way.end, way.halls[1], starts, ends, halls),
            )
            for way in self.plan.passages
        ]
        for index, (run, _, _) in enumerate(self.pieces):
            places = sorted(self.on[index])
            for one, other in itertools.pairwise(places):
                self._join(run, self.on[index][one], self.on[index][other])
        for (one, at), (other, there) in joints:
            self._step(one, other, at, there)
        for way, start, end in doors:
            self._passage(way, start, end)
        drops = {rack: self._drop(found) for rack, found in reached.items() if found and found[2] <= MOST_REACH}
        edges = np.array(self.edges, dtype=np.int64).reshape(-1, 2)
        return Trays(tuple(self.points), tuple(self.sections), edges, drops)

    def _node(self, run: int, at: XY) -> int:
        known = self.nodes.get((run, at))
        if known is None:
            known = self.nodes[run, at] = len(self.points)
            self.points.append(at)
        return known

    def _crossings(self, starts: Floats, ends: Floats, halls: Ints) -> list[tuple[tuple[int, XY], tuple[int, XY]]]:
        """Where pieces of different trays cross or touch, each point put on both; as ((run, point), (run, point))."""
        found: list[tuple[tuple[int, XY], tuple[int, XY]]] = []
        along = ends - starts
        for one in range(len(self.pieces)):
            rest = slice(one + 1, None)
            gap = starts[rest] - starts[one]
            turn = along[one, 0] * along[rest, 1] - along[one, 1] * along[rest, 0]
            with np.errstate(divide="ignore", invalid="ignore"):
                here = (gap[:, 0] * along[rest, 1] - gap[:, 1] * along[rest, 0]) / turn
                there = (gap[:, 0] * along[one, 1] - gap[:, 1] * along[one, 0]) / turn
            # A millimetre of play, for trays that were drawn to touch.
            play, far = (
                1.5 / max(1.0, float(np.hypot(*along[one]))),
                1.5 / np.maximum(1.0, np.hypot(along[rest, 0], along[rest, 1])),
            )
            meets = (
                (turn != 0)
                & (halls[rest] == halls[one])
                & (here >= -play)
                & (here <= 1 + play)
                & (there >= -far)
                & (there <= 1 + far)
            )
            for offset in np.flatnonzero(meets).tolist():
                other = one + 1 + offset
                first, second = self.pieces[one][0], self.pieces[other][0]
                if first == second:
                    continue
                at = self._put(one, float(np.clip(here[offset], 0, 1)))
                found.append(((first, at), (second, self._put(other, float(np.clip(there[offset], 0, 1))))))
            found += self._in_line(one, starts, ends, halls)
        return found

    def _in_line(
        self, one: int, starts: Floats, ends: Floats, halls: Ints
    ) -> list[tuple[tuple[int, XY], tuple[int, XY]]]:
        """Parallel pieces of different trays that touch: an end of the later one that lies on this one."""
        found: list[tuple[tuple[int, XY], tuple[int, XY]]] = []
        along = ends[one] - starts[one]
        length = float(along @ along) or 1.0
        for places in (starts, ends):
            gap = places[one + 1 :] - starts[one]
            share = gap @ along / length
            off = np.abs(gap[:, 0] * along[1] - gap[:, 1] * along[0]) / length**0.5
            others = ends[one + 1 :] - starts[one + 1 :]
            flat = others[:, 0] * along[1] == others[:, 1] * along[0]
            meets = flat & (off <= 1.5) & (share >= 0) & (share <= 1) & (halls[one + 1 :] == halls[one])
            for offset in np.flatnonzero(meets).tolist():
                other = one + 1 + offset
                first, second = self.pieces[one][0], self.pieces[other][0]
                if first != second:
                    point = (round(places[other][0]), round(places[other][1]))
                    found.append(((first, self._put(one, float(share[offset]))), (second, point)))
        return found

    def _put(self, piece: int, share: float) -> XY:
        """A point on a piece, by its share of the piece's length, kept as a node of it."""
        _, start, end = self.pieces[piece]
        point = (round(start[0] + share * (end[0] - start[0])), round(start[1] + share * (end[1] - start[1])))
        if point == start:
            return start
        if point == end:
            return end
        known = next((there for there in self.on[piece].values() if there == point), None)
        if known is None:
            self.on[piece][share] = point
        return point

    def _nearest(self, point: XY, hall: str, starts: Floats, ends: Floats, halls: Ints) -> tuple[int, XY, int] | None:
        """The nearest point of a tray of a hall to one of its points: (run, point on it, distance in mm)."""
        if not self.pieces:
            return None
        along = ends - starts
        length = np.maximum(1.0, (along * along).sum(axis=1))
        share = np.clip(((np.array(point) - starts) * along).sum(axis=1) / length, 0, 1)
        foot = starts + share[:, None] * along
        away = np.hypot(*(foot - np.array(point)).T)
        away[halls != _place_of(hall, self.plan)] = np.inf
        best = int(np.argmin(away))
        if not np.isfinite(away[best]):
            return None
        return self.pieces[best][0], self._put(best, float(share[best])), round(float(away[best]))

    def _join(self, run: int, one: XY, other: XY) -> None:
        tray = self.plan.runs[run]
        self._edge(tray, self._node(run, one), self._node(run, other), one, other, distance(one, other))

    def _step(self, one: int, other: int, at: XY, there: XY) -> None:
        upper, lower = self.plan.runs[one], self.plan.runs[other]
        narrow = min(upper, lower, key=lambda run: run.width * run.depth)
        step = abs(upper.height - lower.height) + distance(at, there)
        self._edge(narrow, self._node(one, at), self._node(other, there), at, there, step)

    def _passage(self, way: Passage, start: tuple[int, XY, int] | None, end: tuple[int, XY, int] | None) -> None:
        if start is None or end is None or max(start[2], end[2]) > MOST_REACH:
            return
        one, other = self._node(start[0], start[1]), self._node(end[0], end[1])
        steps = start[2] + end[2]
        self.edges.append((one, other))
        room = way.width * way.depth
        self.sections.append(Section(way.name, way.halls[0], way.start, way.end, way.length + steps, room, way.path))

    def _edge(self, run: Run, one: int, other: int, start: XY, end: XY, length: int) -> None:
        if one != other:
            self.edges.append((one, other))
            self.sections.append(Section(run.name, run.hall, start, end, length, run.width * run.depth, run.path))

    def _drop(self, found: tuple[int, XY, int]) -> Drop:
        run, at, _ = found
        return Drop(self._node(run, at), at, self.plan.runs[run].height)


def _place_of(hall: str, plan: Plan) -> int:
    """The place of a hall among those of a plan."""
    return next((place for place, room in enumerate(plan.rooms) if room.name == hall), -1)


def distance(one: XY, other: XY) -> int:
    """Millimetres between two points of the plan, rounded up."""
    return int(np.ceil(np.hypot(one[0] - other[0], one[1] - other[1]) - 1e-9))
