"""Checks of where things stand: units, power with one feed lost, weight, air, and names that stand for two things."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from barrio.core.brief.model import Brief
from barrio.core.brief.place import EVERY_RACK
from barrio.core.brief.reader import quoted
from barrio.core.checks.trunks import check_trunks
from barrio.core.errors import Fault
from barrio.core.place.aisles import aisles
from barrio.core.place.elevation import Elevation, Stood, elevations, fitting_airflow, gear_of
from barrio.core.place.floor import Plan, floor_plan, racks_of
from barrio.core.place.wiring import serving
from barrio.core.structure.parts import Structure


def check_place(brief: Brief, structure: Structure) -> tuple[Fault, ...]:
    """Findings about racks and halls, in a fixed order."""
    stood = elevations(brief, structure)
    plan = floor_plan(brief, racks_of(brief, structure))
    return (
        *plan.faults,
        *_mixed_aisles(brief, plan),
        *_names(brief, structure),
        *(fault for one in stood.values() for fault in _rack(brief, one)),
        *_air(brief, structure, stood),
        *_served(brief, structure),
        *check_trunks(brief),
    )


def _served(brief: Brief, structure: Structure) -> Iterator[Fault]:
    """Racks whose switches are to be managed or watched over a console, and that nothing serves."""
    racks = list(dict.fromkeys(str(switch.rack) for switch in structure.switches))
    for kind, noun in (("management", "management switch"), ("console", "console server")):
        if kind in brief.cabling.plans:
            served = serving(brief, kind, racks)
            without = [rack for rack in racks if rack not in served]
            if without:
                some = f"{without[0]} and {len(without) - 1} more" if len(without) > 1 else without[0]
                words = f"No {noun} serves rack {some}, so its switches have no {kind} cable. Add gear of kind {kind}, or name the rack under what one serves."
                yield Fault(f"{kind}.nowhere", words, "gear")


def _rack(brief: Brief, one: Elevation) -> Iterator[Fault]:
    height, path = one.cabinet.units, _cabinet_path(brief, one.rack)
    high = next((thing for thing in one.things if thing.top > height), None)
    if one.units > height:
        words = f"Rack {one.rack} is full: its {height} units would hold {one.units} units of gear. Spread it over more racks, or take a higher cabinet."
        yield Fault("rack.full", words, path)
    elif high is not None:
        words = f"{high.name} would reach up to U{high.top}, and rack {one.rack} ends at U{height}. Stand it lower, or say a higher cabinet."
        yield Fault("rack.height", words, high.path)
    if one.units <= height:
        yield from _overlaps(one)
    feed = one.cabinet.feed
    if feed is not None and one.watts > feed:
        words = f"Rack {one.rack} draws {one.watts:,} W, and one feed gives {feed:,} W: with the other lost it would go dark. Move something to another rack, or order stronger feeds."
        yield Fault("rack.power", words, path)
    if one.cabinet.weight is not None and one.weight > one.cabinet.weight:
        words = f"Rack {one.rack} would weigh {one.weight:g} kg, and {one.cabinet.weight} kg is the most. Move something to another rack."
        yield Fault("rack.weight", words, path)


def _overlaps(one: Elevation) -> Iterator[Fault]:
    lowest: Stood | None = None
    for thing in one.things:
        if lowest is not None and thing.top >= lowest.unit:
            words = f"{thing.name} and {lowest.name} are in each other's way in rack {one.rack} at U{lowest.unit}. Give one of them another unit."
            yield Fault("rack.units", words, (thing if thing.key.startswith("gear/") else lowest).path)
        if lowest is None or thing.unit < lowest.unit:
            lowest = thing


def _cabinet_path(brief: Brief, rack: str) -> str:
    found = next((said for said in brief.cabinets if said != EVERY_RACK and rack in said), None)
    return f"cabinets.{quoted(found)}" if found else "cabinets"


def _air(brief: Brief, structure: Structure, stood: Mapping[str, Elevation]) -> Iterator[Fault]:
    """Switches that would take in hot air and blow it into the cold aisle, one finding for all of a model on one side."""
    wrong: dict[tuple[str, str, str], list[Stood]] = {}
    for one in stood.values():
        for thing in one.things:
            switch = structure.by_key.get(thing.key)
            if switch is not None and fitting_airflow(switch, thing.faces) is None:
                wrong.setdefault((switch.type.title, switch.type.airflow, thing.faces), []).append(thing)
    for (model, airflow, faces), things in wrong.items():
        names = f"{things[0].name} and {len(things) - 1} more" if len(things) > 1 else things[0].name
        aisle = "the cold aisle" if faces == "front" else "the hot aisle"
        if airflow == "side to side":
            words = f"{model} blows from side to side, into the racks beside {names}. Choose a model with air from front to back, or leave its neighbours empty."
        else:
            takes = "takes in hot air at the rear and blows it into the cold aisle"
            words = f"With its ports at the {faces}, towards {aisle}, {names} ({model}, air {airflow} only) {takes}. Turn it round (faces), or choose a model with the other airflow."
        yield Fault("switch.airflow", words, things[0].path)


def _mixed_aisles(brief: Brief, plan: Plan) -> Iterator[Fault]:
    for aisle in aisles(plan):
        if aisle.kind == "mixed":
            one, other = aisle.rows
            words = f"In {aisle.hall}, one of {one} and {other} turns its back to the other's front, so that it breathes hot air. Turn one of the rows round."
            yield Fault("aisle.mixed", words, f"halls.{quoted(aisle.hall)}.rows.{quoted(other)}.faces")


def _names(brief: Brief, structure: Structure) -> Iterator[Fault]:
    names = {str(switch.name) for switch in structure.switches}
    for name, rack, _, path in gear_of(brief):
        if name in names:
            words = f"{name} in rack {rack} is named twice: labels could not tell the two apart. Give one another name."
            yield Fault("gear.twice", words, path)
        names.add(name)
