"""Aisles: the strips of floor between rows, cold where fronts look into them, hot where backs do."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from barrio.core.place.floor import Plan, Spot

WIDEST = 4000
"""Millimetres between two rows above which the floor between them is no aisle."""

Kind = Literal["cold", "hot", "mixed"]


@dataclass(frozen=True, slots=True)
class Aisle:
    """A strip between two rows, in mm on the plan; `rows` are those on its north (or west) and on its south (or east)."""

    hall: str
    kind: Kind
    x: int
    y: int
    width: int
    depth: int
    rows: tuple[str, str]


def aisles(plan: Plan) -> tuple[Aisle, ...]:
    """Every aisle between two rows that stand along each other."""
    rows: dict[tuple[str, str], list[Spot]] = {}
    for spot in plan.spots.values():
        rows.setdefault((spot.hall, spot.row), []).append(spot)
    boxes = [_Box(hall, row, spots) for (hall, row), spots in rows.items()]
    return (
        *_between([box for box in boxes if box.flat], True),
        *_between([box for box in boxes if not box.flat], False),
    )


class _Box:
    """A row's outline."""

    def __init__(self, hall: str, row: str, spots: list[Spot]) -> None:
        self.hall, self.row, self.faces = hall, row, spots[0].faces
        self.flat = self.faces in ("north", "south")
        self.left, self.top = min(spot.x for spot in spots), min(spot.y for spot in spots)
        self.right = max(spot.x + spot.width for spot in spots)
        self.bottom = max(spot.y + spot.depth for spot in spots)


def _between(boxes: list[_Box], flat: bool) -> Iterator[Aisle]:
    ordered = sorted(boxes, key=lambda box: (box.hall, box.top if flat else box.left))
    for one, other in pairwise(ordered):
        if one.hall != other.hall:
            continue
        if flat:
            left, right = max(one.left, other.left), min(one.right, other.right)
            box = (left, one.bottom, right - left, other.top - one.bottom)
            into = (one.faces == "south", other.faces == "north")
        else:
            top, bottom = max(one.top, other.top), min(one.bottom, other.bottom)
            box = (one.right, top, other.left - one.right, bottom - top)
            into = (one.faces == "east", other.faces == "west")
        across = box[3] if flat else box[2]
        if min(box[2:]) > 0 and across <= WIDEST:
            kind: Kind = "cold" if all(into) else "mixed" if any(into) else "hot"
            yield Aisle(one.hall, kind, *box, (one.row, other.row))
