"""Brief → floor: where every rack stands and where trays run, in millimetres, on one plan of the site.

A hall is drawn by the brief, or made by the rule of `Floor` from the order in which racks are named. x grows to the east and y to the
south. What the brief says about racks that the fabric does not have is a finding, and so is a rack that stands nowhere or twice.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from math import ceil, hypot

from barrio.core.brief.model import Brief
from barrio.core.brief.place import EVERY_RACK, Cabinet, Floor, Side
from barrio.core.brief.ranges import expand_names
from barrio.core.brief.reader import quoted
from barrio.core.errors import Fault, nearest
from barrio.core.structure.parts import Structure

MARGIN = 1200
"""Millimetres between the racks of a hall made by rule and its walls."""

XY = tuple[int, int]
_ACROSS: dict[Side, Side] = {"north": "south", "south": "north", "east": "west", "west": "east"}


@dataclass(frozen=True, slots=True)
class Spot:
    """Where a rack stands: its north-west corner, its extent east and south, and the side that its front looks to; all in mm."""

    rack: str
    hall: str
    row: str
    x: int
    y: int
    width: int
    depth: int
    faces: Side
    path: str = ""

    @property
    def middle(self) -> XY:
        return self.x + self.width // 2, self.y + self.depth // 2

    def face(self, rear: bool) -> XY:
        """The middle of its front or its rear."""
        x, y = self.middle
        side = _ACROSS[self.faces] if rear else self.faces
        return {
            "north": (x, self.y),
            "south": (x, self.y + self.depth),
            "west": (self.x, y),
            "east": (self.x + self.width, y),
        }[side]

    @property
    def sides(self) -> tuple[int, int]:
        """How wide its front is, and how deep it is behind that."""
        return (self.width, self.depth) if self.faces in ("north", "south") else (self.depth, self.width)


@dataclass(frozen=True, slots=True)
class Run:
    """A tray on the plan: its corners, its height over the floor, and its section; all in mm."""

    hall: str
    name: str
    corners: tuple[XY, ...]
    height: int
    width: int
    depth: int
    path: str = ""


@dataclass(frozen=True, slots=True)
class Passage:
    """A way between two halls, from one point of the plan to another; `length` and section in mm."""

    name: str
    start: XY
    end: XY
    halls: tuple[str, str]
    length: int
    width: int
    depth: int
    path: str = ""


@dataclass(frozen=True, slots=True)
class Room:
    """The outline of a hall on the plan, in mm."""

    name: str
    x: int
    y: int
    width: int
    depth: int


@dataclass(frozen=True)
class Plan:
    """The plan of the site. `spots` are the racks that stand somewhere, in the order in which the fabric names racks."""

    rooms: tuple[Room, ...] = ()
    spots: Mapping[str, Spot] = field(default_factory=dict)
    runs: tuple[Run, ...] = ()
    passages: tuple[Passage, ...] = ()
    faults: tuple[Fault, ...] = ()


def racks_of(brief: Brief, structure: Structure) -> tuple[str, ...]:
    """Every rack that something stands in: those of switches, tier by tier from the top, then those of gear alone."""
    racks = dict.fromkeys(str(switch.rack) for switch in structure.switches)
    for gear in brief.gear.values():
        racks |= dict.fromkeys(expand_names(gear.rack))
    return tuple(racks)


def floor_plan(brief: Brief, racks: Sequence[str]) -> Plan:
    """The plan of the site, with the racks that the fabric has; an empty one when the brief says nothing of it."""
    if brief.floor is not None:
        return _by_rule(brief.floor, racks)
    return _as_drawn(brief, racks) if brief.halls else Plan()


def cabinet_of(brief: Brief, rack: str) -> Cabinet:
    """What a rack holds: by its own word, by that for every rack, or the default."""
    said = _cabinets(tuple(brief.cabinets.items()))
    return said.get(rack) or said.get(EVERY_RACK) or _PLAIN


_PLAIN = Cabinet()


@lru_cache(maxsize=16)
def _cabinets(said: tuple[tuple[str, Cabinet], ...]) -> Mapping[str, Cabinet]:
    return {rack: cabinet for racks, cabinet in said for rack in expand_names(racks)}


def _is_kept(rack: str, brief: Brief) -> bool:
    """Whether the brief has a word for a rack that nothing stands in yet."""
    return rack in _cabinets(tuple(brief.cabinets.items()))


def mm(metres: float) -> int:
    return round(metres * 1000)


def _by_rule(said: Floor, racks: Sequence[str]) -> Plan:
    pitch, depth = mm(said.pitch), mm(said.depth)
    rows = [racks[at : at + said.rows_of] for at in range(0, len(racks), said.rows_of)]
    across = MARGIN - 400
    spots: dict[str, Spot] = {}
    runs: list[Run] = []
    section = (mm(said.tray_height), said.tray_width, said.tray_depth)
    y, wide = MARGIN, MARGIN + pitch * min(said.rows_of, len(racks))
    for place, row in enumerate(rows):
        faces: Side = "south" if place % 2 == 0 else "north"
        for index, rack in enumerate(row):
            spots[rack] = Spot(
                rack, "hall", f"row {place + 1}", MARGIN + index * pitch, y, pitch, depth, faces, "floor"
            )
        back = y if faces == "south" else y + depth
        runs.append(Run("hall", f"row {place + 1}", ((across, back), (wide, back)), *section, "floor"))
        y += depth + mm(said.cold_aisle if place % 2 == 0 else said.hot_aisle)
    if len(runs) > 1:
        ends = ((across, runs[0].corners[0][1]), (across, runs[-1].corners[0][1]))
        runs.append(Run("hall", "across", ends, *section, "floor"))
    bottom = max((spot.y + depth for spot in spots.values()), default=0) + MARGIN
    room = Room("hall", 0, 0, wide + MARGIN, bottom)
    return Plan((room,) if spots else (), spots, tuple(runs))


def _as_drawn(brief: Brief, racks: Sequence[str]) -> Plan:
    rooms: list[Room] = []
    stands: dict[str, Spot] = {}
    runs: list[Run] = []
    faults: list[Fault] = []
    for name, hall in brief.halls.items():
        left, top = map(mm, hall.at)
        stem = f"halls.{quoted(name)}"
        for row_name, row in hall.rows.items():
            path = f"{stem}.rows.{quoted(row_name)}"
            pitch, depth = mm(row.pitch), mm(row.depth)
            flat = row.faces in ("north", "south")
            for index, rack in enumerate(expand_names(row.racks)):
                x = left + mm(row.at[0]) + (index * pitch if flat else 0)
                y = top + mm(row.at[1]) + (0 if flat else index * pitch)
                extent = (pitch, depth) if flat else (depth, pitch)
                spot = Spot(rack, name, row_name, x, y, *extent, row.faces, f"{path}.racks")
                if rack in stands:
                    faults.append(_twice(stands[rack], spot))
                stands.setdefault(rack, spot)
        for tray_name, tray in hall.trays.items():
            corners = tuple((left + mm(x), top + mm(y)) for x, y in tray.along)
            path = f"{stem}.trays.{quoted(tray_name)}"
            runs.append(Run(name, tray_name, corners, mm(tray.height), tray.width, tray.depth, path))
        rooms.append(_room(name, left, top, hall.size, stands.values(), runs))
    known = set(racks)
    spots = {rack: stands[rack] for rack in racks if rack in stands}
    faults += _in_one_place(list(spots.values())) + _outside_walls(brief, rooms, spots.values())
    faults += [
        _of_nothing(spot, known) for rack, spot in stands.items() if rack not in known and not _is_kept(rack, brief)
    ]
    faults += [_nowhere(rack) for rack in racks if rack not in stands]
    passages = tuple(_passages(brief, faults))
    return Plan(tuple(rooms), spots, tuple(runs), passages, tuple(faults))


def _room(
    name: str, left: int, top: int, size: Sequence[float] | None, spots: Iterable[Spot], runs: Sequence[Run]
) -> Room:
    """A hall's outline: as the brief says, or as much as holds what is in it."""
    if size is not None:
        return Room(name, left, top, mm(size[0]), mm(size[1]))
    here = [spot for spot in spots if spot.hall == name]
    points = [corner for run in runs if run.hall == name for corner in run.corners]
    right = max([spot.x + spot.width for spot in here] + [x for x, _ in points], default=left)
    bottom = max([spot.y + spot.depth for spot in here] + [y for _, y in points], default=top)
    return Room(name, left, top, right - left + MARGIN, bottom - top + MARGIN)


def _twice(first: Spot, second: Spot) -> Fault:
    words = (
        f"Rack {first.rack} stands in two places: {first.row} of {first.hall} and {second.row} of {second.hall}. "
        "Take it out of one."
    )
    return Fault("rack.places", words, second.path)


def _of_nothing(spot: Spot, known: set[str]) -> Fault:
    words = (
        f"{spot.row} of {spot.hall} has rack {spot.rack}, and the fabric puts nothing there.{nearest(spot.rack, known)}"
    )
    return Fault(
        "rack.of-nothing", f"{words} Take it out, or list it under cabinets when it is to stay empty.", spot.path
    )


def _nowhere(rack: str) -> Fault:
    words = (
        f"Rack {rack} stands in no row of a hall, so its cables have no length. Add it to a row, or move what is in it."
    )
    return Fault("rack.nowhere", words, "halls")


def _in_one_place(spots: Sequence[Spot]) -> list[Fault]:
    """Racks that overlap on the floor, each with the first it is in the way of."""
    faults: list[Fault] = []
    ordered = sorted(spots, key=lambda spot: (spot.x, spot.y, spot.rack))
    for at, spot in enumerate(ordered):
        for other in ordered[at + 1 :]:
            if other.x >= spot.x + spot.width:
                break
            if other.y < spot.y + spot.depth and spot.y < other.y + other.depth:
                words = f"Racks {spot.rack} and {other.rack} stand in each other's way. Move a row, or widen its pitch."
                faults.append(Fault("rack.overlap", words, other.path))
                break
    return faults


def _outside_walls(brief: Brief, rooms: Sequence[Room], spots: Iterable[Spot]) -> list[Fault]:
    by_name = {room.name: room for room in rooms if brief.halls[room.name].size is not None}
    faults = []
    for spot in spots:
        room = by_name.get(spot.hall)
        if room and (spot.x + spot.width > room.x + room.width or spot.y + spot.depth > room.y + room.depth):
            words = f"Rack {spot.rack} stands outside {room.name}, which is {room.width / 1000:g} by {room.depth / 1000:g} m. Move its row, or say the hall's size anew."
            faults.append(Fault("rack.outside", words, spot.path))
    return faults


def _passages(brief: Brief, faults: list[Fault]) -> Iterable[Passage]:
    for name, way in brief.ways.items():
        path = f"ways.{quoted(name)}"
        missing = next((hall for hall in (way.hall, way.to) if hall not in brief.halls), None)
        if missing is not None:
            words = f"Way {name} joins a hall {missing}, which is not there.{nearest(missing, brief.halls)} Name one of: {', '.join(brief.halls)}."
            faults.append(Fault("way.hall", words, path))
            continue
        start, end = _on_site(brief, way.hall, way.leaves), _on_site(brief, way.to, way.enters)
        apart = hypot(start[0] - end[0], start[1] - end[1])
        if mm(way.length) < apart - 1:
            words = f"Way {name} is said to be {way.length:g} m long, and its ends lie {apart / 1000:.1f} m apart on the plan. It counts as that; measure it, or move a hall."
            faults.append(Fault("way.short", words, f"{path}.length"))
        length = max(mm(way.length), ceil(apart))
        yield Passage(name, start, end, (way.hall, way.to), length, way.width, way.depth, path)


def _on_site(brief: Brief, hall: str, point: Sequence[float]) -> XY:
    left, top = brief.halls[hall].at
    return mm(left) + mm(point[0]), mm(top) + mm(point[1])
