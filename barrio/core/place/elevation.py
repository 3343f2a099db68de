"""Elevations: what stands in each rack, unit by unit, and which way air goes through it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from barrio.core.brief.model import Brief
from barrio.core.brief.place import Cabinet, Face, Gear
from barrio.core.brief.ranges import expand_names
from barrio.core.brief.reader import quoted
from barrio.core.catalogue.model import Airflow
from barrio.core.place.floor import cabinet_of
from barrio.core.structure.parts import Structure, Switch


@dataclass(frozen=True, slots=True)
class Stood:
    """A thing in a rack: `unit` is its lowest, power in watts, weight in kg. `kind` is a switch's role or that of gear; `faces` is the side of
    the rack that its ports look to; `airflow` is that to order it with, and empty for what is no switch."""

    name: str
    kind: str
    unit: int
    units: int
    watts: int
    weight: float
    faces: Face
    model: str = ""
    key: str = ""
    airflow: str = ""
    state: str = ""
    path: str = ""

    @property
    def top(self) -> int:
        return self.unit + self.units - 1


@dataclass(frozen=True, slots=True)
class Elevation:
    """A rack and what stands in it, from the top down."""

    rack: str
    cabinet: Cabinet
    things: tuple[Stood, ...]

    @property
    def watts(self) -> int:
        return sum(thing.watts for thing in self.things)

    @property
    def weight(self) -> float:
        return round(sum(thing.weight for thing in self.things), 1)

    @property
    def units(self) -> int:
        return sum(thing.units for thing in self.things)


def faces_of(brief: Brief, switch: Switch) -> Face:
    """The side of its rack that a switch's ports look to: by hand, or by its group or tier."""
    by_hand = brief.faces.get(switch.key)
    if by_hand:
        return by_hand
    if switch.group is not None:
        return switch.group.faces
    if switch.role == "super-spine":
        return brief.super_spines.faces if brief.super_spines else "front"
    return brief.spines.faces


def fitting_airflow(switch: Switch, faces: Face) -> Airflow | None:
    """The airflow that takes cold air in where ports look to `faces`, when its model can be ordered with it.

    A rack's front looks into the cold aisle: ports there need air from front to back, ports at the rear from back to front.
    """
    wanted: Airflow = "front to back" if faces == "front" else "back to front"
    return wanted if wanted in switch.type.airflows else None


def gear_of(brief: Brief) -> Iterator[tuple[str, str, Gear, str]]:
    """Every piece of gear: its name, its rack, what is said of it, and where."""
    for names, said in brief.gear.items():
        for name, rack in zip(expand_names(names), expand_names(said.rack), strict=True):
            yield name, rack, said, f"gear.{quoted(names)}"


def elevations(brief: Brief, structure: Structure) -> Mapping[str, Elevation]:
    """Every rack that something stands in, in the order in which the fabric names racks."""
    things: dict[str, list[Stood]] = {}
    for switch in structure.switches:
        faces = faces_of(brief, switch)
        flow = fitting_airflow(switch, faces) or switch.type.airflow
        things.setdefault(switch.rack, []).append(
            Stood(
                switch.name, switch.role, switch.unit, switch.type.units, switch.type.power, switch.type.weight, faces,
                switch.type.title, switch.key, flow, switch.state, switch.origin,
            )
        )  # fmt: skip
    for name, rack, said, path in gear_of(brief):
        things.setdefault(rack, []).append(
            Stood(
                name, said.kind, said.unit, said.units, said.watts, said.weight, said.faces, said.note, f"gear/{name}",
                path=path,
            )
        )  # fmt: skip
    return {
        rack: Elevation(rack, cabinet_of(brief, rack), tuple(sorted(found, key=lambda one: (-one.top, one.name))))
        for rack, found in things.items()
    }
