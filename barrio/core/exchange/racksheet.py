"""Where racks stand, from a sheet: a row for each with its hall, its north-west corner in metres, and the side that it faces."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from barrio.core.brief.document import Edits
from barrio.core.brief.model import Brief
from barrio.core.brief.place import MOST_METRES, Side
from barrio.core.brief.ranges import expand_names
from barrio.core.brief.reader import quoted
from barrio.core.errors import Refused, nearest
from barrio.core.exchange.sheet import Sheet, guess_columns
from barrio.core.place.drawing import moved, rows_of
from barrio.core.place.floor import Spot, floor_plan, mm, racks_of
from barrio.core.structure.parts import Structure

COLUMNS = ("rack", "hall", "x", "y", "faces", "width", "depth")
_KNOWN = {
    "rack": ("rack", "cabinet", "name"), "hall": ("hall", "room"), "x": ("x", "east"), "y": ("y", "south"),
    "faces": ("faces", "front", "side"), "width": ("width", "pitch"), "depth": ("depth", "deep"),
}  # fmt: skip
_SIDES: dict[str, Side] = {"n": "north", "s": "south", "e": "east", "w": "west"}


@dataclass(frozen=True, slots=True)
class RackRow:
    """A row of the sheet: `outcome` is `new`, `moves`, `same` or `refused`, with the reason; `now` is where the rack stood before."""

    line: int
    rack: str
    place: str
    outcome: str
    reason: str = ""
    now: str = ""


def guess(columns: tuple[str, ...]) -> dict[str, int]:
    return guess_columns(columns, _KNOWN)


def understand(
    sheet: Sheet, mapping: Mapping[str, int], brief: Brief, structure: Structure
) -> tuple[list[RackRow], Edits]:
    """What each row would do, and the edits that do all of it."""
    racks = racks_of(brief, structure)
    plan = floor_plan(brief, racks)
    rows: list[RackRow] = []
    spots: dict[str, list[Spot]] = {}
    seen: dict[str, int] = {}
    for cells, line in zip(sheet.rows, sheet.lines, strict=True):
        said = {name: cells[place] for name, place in mapping.items()}
        was = plan.spots.get(said.get("rack", "").lower()) if brief.floor is None else None
        spot, why = _spot(said, set(racks), next(iter(brief.halls), "hall"), was.sides if was else (600, 1200))
        if spot is None:
            rows.append(RackRow(line, said.get("rack", ""), "", "refused", why))
            continue
        if spot.rack in seen:
            rows.append(RackRow(line, spot.rack, "", "refused", f"{spot.rack} stands on line {seen[spot.rack]} too."))
            continue
        seen[spot.rack] = line
        hall = brief.halls.get(spot.hall)
        left, top = map(mm, hall.at) if hall else (0, 0)
        there = Spot(
            spot.rack,
            spot.hall,
            was.row if was else "",
            left + spot.x,
            top + spot.y,
            spot.width,
            spot.depth,
            spot.faces,
        )
        same = was is not None and (was.hall, was.x, was.y, was.faces, was.sides) == (
            there.hall,
            there.x,
            there.y,
            there.faces,
            there.sides,
        )
        outcome = "same" if same else "moves" if was else "new"
        rows.append(RackRow(line, spot.rack, _words(spot, 0, 0), outcome, now=_words(was, left, top) if was else ""))
        if not same:
            spots.setdefault(spot.hall, []).append(there)
    return rows, _edits(brief, structure, spots)


def _edits(brief: Brief, structure: Structure, spots: Mapping[str, list[Spot]]) -> Edits:
    """The halls with these racks in them; a rack that comes from another hall leaves it."""
    if not spots:
        return []
    plan = floor_plan(brief, racks_of(brief, structure)) if brief.floor is None else floor_plan(brief, ())
    gone = {spot.rack for there in spots.values() for spot in there}
    edits: list[tuple[str, object]] = [("floor", None)] if brief.floor is not None else []
    for name in dict.fromkeys([*brief.halls, *spots]):
        hall = brief.halls.get(name)
        left, top = map(mm, hall.at) if hall else (0, 0)
        leaving = any(rack in gone for row in (hall.rows.values() if hall else ()) for rack in expand_names(row.racks))
        if name in spots or leaving:
            here = [
                spot
                for spot in moved(plan, name, spots.get(name, ()))
                if spot.rack not in gone or spot in spots.get(name, ())
            ]
            edits.append((f"halls.{quoted(name)}.rows", rows_of(here, left, top) or None))
    return edits


def _spot(said: Mapping[str, str], racks: set[str], only: str, sides: tuple[int, int]) -> tuple[Spot | None, str]:
    """Where a row puts its rack, as wide and deep as it is where the row does not say; or why it cannot be."""
    rack = said.get("rack", "").lower()
    if rack not in racks:
        return None, f"The fabric has no rack {said.get('rack', '')[:40]}.{nearest(rack, racks)}"
    side = _SIDES.get(said.get("faces", "south").lower()[:1] or "s")
    if side is None:
        return None, f"A rack faces north, south, east or west, not “{said.get('faces', '')[:20]}”."
    try:
        x, y = (_length(said, name, None) for name in ("x", "y"))
        wide, deep = _length(said, "width", sides[0]), _length(said, "depth", sides[1])
        hall = expand_names((said.get("hall") or only).lower().replace(" ", "-"))
    except ValueError as error:
        return None, str(error)
    except Refused:
        return None, f"“{said.get('hall', '')[:40]}” cannot be the name of a hall: use letters, digits and hyphens."
    extent = (wide, deep) if side in ("north", "south") else (deep, wide)
    return Spot(rack, hall[0], "", x, y, *extent, side), ""


def _length(said: Mapping[str, str], name: str, default: int | None) -> int:
    text = said.get(name, "").lower().removesuffix("m").strip().replace(",", ".")
    if not text and default is not None:
        return default
    try:
        value = float(text)
    except ValueError:
        raise ValueError(f"{name} is a number of metres, not “{text[:20]}”.") from None
    if not 0 <= value <= MOST_METRES:
        raise ValueError(f"{name} is between 0 and {MOST_METRES} metres, not {text[:20]}.")
    return mm(value)


def _words(spot: Spot, left: int, top: int) -> str:
    return f"{spot.hall}, {(spot.x - left) / 1000:g} by {(spot.y - top) / 1000:g} m, facing {spot.faces}"
