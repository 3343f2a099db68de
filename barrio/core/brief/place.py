"""The part of the brief that says where things stand: halls with rows and trays, racks, and what stands in them beside switches.

Lengths are in metres, to the millimetre; tray sections and diameters in millimetres; power in watts, weight in kilograms. A hall is seen
from above: x grows to the east, y to the south, from its north-west corner.
"""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, model_validator

from barrio.core.brief.hosts import HostNames
from barrio.core.brief.ranges import expand_names
from barrio.core.brief.terms import Name, NameKey, OneLine, Part, RackRange, SwitchKey

MOST_METRES = 2000


def _to_the_millimetre(value: float) -> float:
    if abs(value) > MOST_METRES:
        raise ValueError(f"{value:g} m is farther than {MOST_METRES} m, the most that a place may be away")
    if abs(value * 1000 - round(value * 1000)) > 1e-6:
        raise ValueError(f"{value} m is finer than a millimetre; round it")
    return value


Metres = Annotated[float, Field(ge=0), AfterValidator(_to_the_millimetre)]
Height = Annotated[float, AfterValidator(_to_the_millimetre)]
"""Metres above the floor; below it when negative."""
Point = Annotated[list[Metres], Field(min_length=2, max_length=2)]
Side = Literal["north", "south", "east", "west"]
Face = Literal["front", "rear"]

EVERY_RACK = "every"
"""The key under which `cabinets` says what all racks are that have no word of their own."""


class Tray(Part):
    """A tray along its corner points, `height` above the floor (below it when negative), with its section in millimetres.

    Trays of a hall are joined where they cross or touch.
    """

    along: Annotated[list[Point], Field(min_length=2, max_length=60)]
    height: Height = 2.7
    width: int = Field(300, ge=10, le=2000)
    depth: int = Field(100, ge=10, le=1000)


class Row(Part):
    """Racks side by side from `at`, the north-west corner of the first: eastward when they face north or south, else southward."""

    racks: RackRange
    at: Point
    faces: Side = "south"
    pitch: Annotated[Metres, Field(ge=0.1, le=5)] = 0.6
    depth: Annotated[Metres, Field(ge=0.1, le=5)] = 1.2


class Hall(Part):
    """One hall; `at` is where its north-west corner lies on the site."""

    size: Point | None = None
    at: Point = Field([0.0, 0.0])
    rows: dict[NameKey, Row] = Field({}, max_length=400)
    trays: dict[NameKey, Tray] = Field({}, max_length=400)


class Way(Part):
    """A way for cables from a point in one hall to a point in another, through whatever lies between, `length` metres long."""

    hall: Name
    leaves: Point
    to: Name
    enters: Point
    length: Annotated[Metres, Field(gt=0)]
    width: int = Field(300, ge=10, le=2000)
    depth: int = Field(100, ge=10, le=1000)


_ONE_LINE = re.compile(r"racks (\d+(?:\.\d+)?) m apart in rows of (\d+)")


class Floor(Part):
    """One hall by rule: racks in rows of `rows_of`, `pitch` apart, in the order in which the fabric names them.

    Rows face each other in twos over a cold aisle and stand back to back over a hot one; a tray runs over the cable side of each row, and
    one across at their western end. In a brief it may be one line: `racks 0.6 m apart in rows of 12`.
    """

    rows_of: int = Field(12, ge=1, le=400)
    pitch: Annotated[Metres, Field(ge=0.1, le=5)] = 0.6
    depth: Annotated[Metres, Field(ge=0.1, le=5)] = 1.2
    cold_aisle: Annotated[Metres, Field(ge=0.3, le=20)] = 1.8
    hot_aisle: Annotated[Metres, Field(ge=0.3, le=20)] = 1.2
    tray_height: Height = 2.7
    tray_width: int = Field(300, ge=10, le=2000)
    tray_depth: int = Field(100, ge=10, le=1000)

    @model_validator(mode="before")
    @classmethod
    def _one_line(cls, said: Any) -> Any:
        if not isinstance(said, str):
            return said
        found = _ONE_LINE.fullmatch(said)
        if not found:
            raise ValueError("write it as “racks 0.6 m apart in rows of 12”, or as fields such as rows_of and pitch")
        return {"pitch": float(found[1]), "rows_of": int(found[2])}


class Cabinet(Part):
    """What a rack holds: units, watts of each of its feeds A and B, their outlets, and kilograms; no limit where nothing is said."""

    units: int = Field(42, ge=4, le=60)
    feed: int | None = Field(None, ge=100, le=100_000)
    outlets: int = Field(24, ge=1, le=96)
    weight: int | None = Field(None, ge=10, le=10_000)


class Gear(Part):
    """Something that stands in a rack beside switches; or as many as its name is a range of, one in each rack of `rack`.

    `ports` are those of a management switch or console server, or the positions of a panel; `serves` the racks whose switches come to it
    (every rack when left out). `unit` is its lowest.
    """

    kind: Literal["management", "console", "panel", "other"] = "other"
    rack: RackRange
    unit: int = Field(ge=1, le=60)
    units: int = Field(1, ge=1, le=60)
    watts: int = Field(0, ge=0, le=100_000)
    weight: Annotated[float, Field(ge=0, le=5000)] = 0
    faces: Face = "front"
    ports: int = Field(48, ge=1, le=1152)
    serves: RackRange | None = None
    note: OneLine = Field("", max_length=120)


def _as_many_as(said: dict[str, Gear]) -> dict[str, Gear]:
    for names, gear in said.items():
        things, racks = len(expand_names(names)), len(expand_names(gear.rack))
        if things != racks:
            raise ValueError(f"“{names}” names {things}, and {gear.rack} {racks} to stand in; name as many racks")
    return said


GearByName = Annotated[dict[HostNames, Gear], AfterValidator(_as_many_as)]
CabinetsByRack = dict[RackRange, Cabinet]


class Trunk(Part):
    """Fibres between two panels, laid once: `positions` of `panel` from `first` on, and as many of `to` from `to_first` on.

    A position is a duplex pair or an MPO-12, by `medium`; `polarity` is the method of TIA-568 by which the trunk is made. `serves` are the
    switches whose links it carries (all between the two racks when left out).
    """

    panel: Name
    to: Name
    positions: int = Field(ge=1, le=288)
    first: int = Field(1, ge=1, le=1152)
    to_first: int = Field(1, ge=1, le=1152)
    medium: Literal["OM4 duplex", "OM4 MPO-12", "OS2 duplex", "OS2 MPO-12"]
    polarity: Literal["A", "B", "C"] = "B"
    serves: list[SwitchKey] = Field([], max_length=400)


Placing = Literal["top down", "middle", "bottom up"]
"""Where in a rack switches stand, in their order, when nobody says a unit."""
Unit = Annotated[int, Field(ge=1, le=60)]
