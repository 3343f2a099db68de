"""Spots → rows: racks as they stand on the floor, said as a brief says them. What is drawn by rule becomes what is drawn by hand."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import contract_names
from barrio.core.place.floor import Plan, Run, Spot, floor_plan, racks_of
from barrio.core.structure.parts import Structure

Edits = list[tuple[str, object]]


def drawn_by_hand(brief: Brief, structure: Structure) -> Edits:
    """Edits that put the hall of a rule down as it stands, so that each row and tray can be moved. Nothing moves by that."""
    plan = floor_plan(brief, racks_of(brief, structure))
    if brief.floor is None or not plan.rooms:
        return []
    room = plan.rooms[0]
    hall = {
        "size": [_metres(room.width), _metres(room.depth)],
        "rows": rows_of(plan.spots.values()),
        "trays": {_name(run.name): _tray(run) for run in plan.runs},
    }
    return [("floor", None), ("halls", {"hall": hall})]


def rows_of(spots: Iterable[Spot], left: int = 0, top: int = 0) -> dict[str, Any]:
    """Rows that hold exactly these racks, as a brief says them; those that stood in one row keep its name as far as they can.

    `left` and `top` are where the hall's corner lies, in mm.
    """
    lines: dict[tuple[str, int, int, int], list[Spot]] = {}
    for spot in spots:
        flat = spot.faces in ("north", "south")
        lines.setdefault((spot.faces, spot.y if flat else spot.x, *spot.sides), []).append(spot)
    found: dict[str, Any] = {}
    runs = [run for line in lines.values() for run in _side_by_side(line)]
    for run in sorted(runs, key=lambda run: (run[0].y, run[0].x)):
        name = _name(run[0].row)
        number = 1
        while not name or name in found:
            name, number = f"row-{number}", number + 1
        found[name] = _row(run, left, top)
    return found


def _side_by_side(line: list[Spot]) -> list[list[Spot]]:
    """The racks of a line, parted where there is a gap."""
    flat = line[0].faces in ("north", "south")

    def at(spot: Spot) -> int:
        return spot.x if flat else spot.y

    runs: list[list[Spot]] = []
    for spot in sorted(line, key=at):
        if runs and at(spot) == at(runs[-1][-1]) + spot.sides[0] and runs[-1][-1].row == spot.row:
            runs[-1].append(spot)
        else:
            runs.append([spot])
    return runs


def _row(run: Sequence[Spot], left: int, top: int) -> dict[str, Any]:
    first = run[0]
    wide, deep = first.sides
    said: dict[str, Any] = {
        "racks": contract_names(tuple(spot.rack for spot in run)),
        "at": [_metres(first.x - left), _metres(first.y - top)],
        "faces": first.faces,
    }
    if wide != 600:
        said["pitch"] = _metres(wide)
    if deep != 1200:
        said["depth"] = _metres(deep)
    return said


def _tray(run: Run) -> dict[str, Any]:
    said: dict[str, Any] = {"along": [[_metres(x), _metres(y)] for x, y in run.corners]}
    for field, value, default in (("height", run.height, 2700), ("width", run.width, 300), ("depth", run.depth, 100)):
        if value != default:
            said[field] = _metres(value) if field == "height" else value
    return said


def _metres(mm: int) -> float:
    return round(mm / 1000, 3)


def _name(name: str) -> str:
    return name.replace(" ", "-")


def moved(plan: Plan, hall: str, spots: Iterable[Spot]) -> list[Spot]:
    """The racks of a hall with some of them elsewhere; those stood here or not."""
    others = {spot.rack: spot for spot in plan.spots.values() if spot.hall == hall}
    others |= {spot.rack: spot for spot in spots}
    return list(others.values())
