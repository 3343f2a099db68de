"""Cables and where they lie: the floor, racks to the unit, every cable with its way, length, part and labels."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from math import isnan

from fastapi import APIRouter
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.api.paging import PAGED, Paged
from barrio.app import drafts
from barrio.app.cabling import standing
from barrio.core.cabling.faults import faults_of
from barrio.core.cabling.lay import Laid, pair_of
from barrio.core.cabling.orders import pulls, runs_in
from barrio.core.cabling.plan import Cable
from barrio.core.cabling.routing import Pair
from barrio.core.errors import Fault
from barrio.core.place.aisles import aisles
from barrio.core.place.elevation import Elevation, elevations
from barrio.core.place.floor import XY
from barrio.store.errors import Missing

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["cabling"], responses=ERRORS)


class ViaView(BaseModel):
    """The panels that a link goes through: what stands at each end of the trunk, and the two cords with their kinds and lengths in metres."""

    trunk: str
    lower: str
    upper: str
    lower_cord: str
    upper_cord: str
    lower_stock: float | None
    upper_stock: float | None


class CableRow(BaseModel):
    """A cable; `length` is worked out, `measured` what somebody measured, `stock` the length to take, in metres."""

    label: str
    a_rack: str
    a_unit: int
    a_switch: str
    a_port: str
    b_rack: str
    b_unit: int
    b_switch: str
    b_port: str
    speed: int
    kind: str
    length: float | None
    measured: float | None
    stock: float | None
    part: str
    link: str
    label_a: str
    label_b: str
    use: str
    plug: str
    via: ViaView | None


@router.get("/cables", operation_id="listCables", responses=PAGED)
def list_cables(name: str, at: Reading, page: Paged) -> list[CableRow]:
    laid = standing(at, name).laid
    return [
        CableRow(
            label=cable.label, a_rack=cable.a.rack, a_unit=cable.a.unit, a_switch=cable.a.switch, a_port=cable.a.port,
            b_rack=cable.b.rack, b_unit=cable.b.unit, b_switch=cable.b.switch, b_port=cable.b.port, speed=cable.speed,
            kind=cable.kind, length=cable.length, measured=laid.measured.get(cable.link), stock=cable.stock, part=cable.part,
            link=cable.link, label_a=cable.label_a, label_b=cable.label_b, use=cable.use, plug=cable.plug,
            via=_via(laid, cable),
        )
        for cable in page.of(laid.cables)
    ]  # fmt: skip


def _via(laid: Laid, cable: Cable) -> ViaView | None:
    via, cords = cable.via, laid.cords.get(laid.by_label[cable.label]) if cable.via else None
    if via is None or cords is None:
        return None
    stocks = [None if isnan(length) else length for length in (cords.lower_stock, cords.upper_stock)]
    return ViaView(
        trunk=via.trunk, lower=via.lower.text, upper=via.upper.text, lower_cord=via.cords[0], upper_cord=via.cords[1],
        lower_stock=stocks[0], upper_stock=stocks[1],
    )  # fmt: skip


class RackSpot(BaseModel):
    """A rack on the plan, in mm: north-west corner, extent, the side its front looks to; units and watts used, and cables that end in it."""

    rack: str
    hall: str
    row: str
    x: int
    y: int
    width: int
    depth: int
    faces: str
    units: int
    height: int
    watts: int
    feed: int | None
    cables: int
    wrong: bool


class At(BaseModel):
    """A point of the plan, in mm."""

    x: int
    y: int


def _line(points: Iterable[XY]) -> list[At]:
    return [At(x=x, y=y) for x, y in points]


class RoomView(BaseModel):
    name: str
    x: int
    y: int
    width: int
    depth: int


class AisleView(BaseModel):
    kind: str
    x: int
    y: int
    width: int
    depth: int


class TrayView(BaseModel):
    """A tray, or a way between halls, by its corners in mm; `filled` is how full its fullest section is, in per cent."""

    hall: str
    name: str
    corners: list[At]
    height: int
    width: int
    filled: float


class FloorView(BaseModel):
    """The site from above. `placed` says whether the brief has places for racks; `nowhere` are racks that stand in none."""

    placed: bool
    rule: bool
    rooms: list[RoomView]
    racks: list[RackSpot]
    aisles: list[AisleView]
    trays: list[TrayView]
    nowhere: list[str]
    cables: int
    metres: float
    fill: int
    findings: list[Fault]


@router.get("/floor", operation_id="getFloor")
def get_floor(name: str, at: Reading) -> FloorView:
    """The site from above, with racks, aisles and trays, and what is wrong with cables."""
    found = drafts.load(at, name)
    compiled, lines = found.compiled, found.draft.document.lines
    laid = compiled.laid
    plan, brief = laid.plan, compiled.brief
    stood = elevations(brief, compiled.structure)
    faults = [
        fault
        for fault in compiled.findings
        if fault.code.startswith(("rack.", "gear.", "way.", "aisle.", "switch.airflow"))
    ]
    faults += faults_of(laid)
    ends: dict[str, int] = {}
    for cable in laid.cables:
        for rack in {cable.a.rack, cable.b.rack}:
            ends[rack] = ends.get(rack, 0) + 1
    lengths = [cable.length or 0 for cable in laid.cables]
    return FloorView(
        placed=laid.placed,
        rule=brief.floor is not None,
        rooms=[RoomView(name=room.name, x=room.x, y=room.y, width=room.width, depth=room.depth) for room in plan.rooms],
        racks=[
            RackSpot(
                rack=spot.rack, hall=spot.hall, row=spot.row, x=spot.x, y=spot.y, width=spot.width, depth=spot.depth,
                faces=spot.faces, units=stood[spot.rack].units, height=stood[spot.rack].cabinet.units,
                watts=stood[spot.rack].watts, feed=stood[spot.rack].cabinet.feed, cables=ends.get(spot.rack, 0),
                wrong=any(f" {spot.rack} " in fault.message for fault in faults),
            )
            for spot in plan.spots.values()
        ],
        aisles=[AisleView(kind=one.kind, x=one.x, y=one.y, width=one.width, depth=one.depth) for one in aisles(plan)],
        trays=_trays(laid),
        nowhere=[rack for rack in stood if rack not in plan.spots],
        cables=len(laid.cables),
        metres=round(sum(lengths), 1),
        fill=brief.cabling.fill,
        findings=[replace(fault, line=lines.get(fault.path, 0)) for fault in faults],
    )  # fmt: skip


def _trays(laid: Laid) -> list[TrayView]:
    fullest: dict[tuple[str, str], float] = {}
    for fill in laid.fills:
        key = (fill.section.hall, fill.section.run)
        share = fill.area / fill.section.room * 100 if fill.section.room else 0.0
        fullest[key] = max(fullest.get(key, 0.0), share)
    trays = [
        TrayView(
            hall=run.hall, name=run.name, corners=_line(run.corners), height=run.height, width=run.width,
            filled=round(fullest.get((run.hall, run.name), 0.0), 1),
        )
        for run in laid.plan.runs
    ]  # fmt: skip
    ways = [
        TrayView(
            hall=way.halls[0], name=way.name, corners=_line((way.start, way.end)), height=0, width=way.width,
            filled=round(fullest.get((way.halls[0], way.name), 0.0), 1),
        )
        for way in laid.plan.passages
    ]  # fmt: skip
    return trays + ways


class ThingView(BaseModel):
    """A thing in a rack; `unit` is its lowest. `key` is a switch's, and empty for gear."""

    name: str
    kind: str
    model: str
    unit: int
    units: int
    watts: int
    weight: float
    faces: str
    airflow: str
    key: str
    state: str


class BundleView(BaseModel):
    """The cables between two racks, pulled together: how many, from the shortest to the longest in metres, how thick in mm, and their way
    over the plan."""

    one: str
    other: str
    cables: int
    shortest: float | None
    longest: float | None
    thick: float
    first: str
    last: str
    points: list[At]


class ElevationView(BaseModel):
    """A rack to the unit, from the top down, with its loads and limits (watts of one feed, kilograms), the bundles that leave
    it, and its cables in the order in which they are best run."""

    rack: str
    height: int
    units: int
    watts: int
    feed: int | None
    weight: float
    most_weight: int | None
    things: list[ThingView]
    bundles: list[BundleView]
    runs: list[str]


@router.get("/elevations/{rack}", operation_id="getElevation")
def get_elevation(name: str, rack: str, at: Reading) -> ElevationView:
    compiled = drafts.load(at, name).compiled
    found = elevations(compiled.brief, compiled.structure).get(rack)
    if found is None:
        raise Missing(f"{name} has nothing in a rack called {rack}.")
    laid = compiled.laid
    numbers = {pull.pair: pull.number for pull in pulls(laid)}
    bundles = [bundle_view(laid, pair) for pair in laid.bundles_of(rack)]
    runs = [laid.cables[place].label for place in runs_in(laid, rack, numbers, laid.inside.get(rack, ()))]
    return elevation_view(found, bundles, runs)


def elevation_view(found: Elevation, bundles: list[BundleView], runs: list[str]) -> ElevationView:
    return ElevationView(
        rack=found.rack, height=found.cabinet.units, units=found.units, watts=found.watts, feed=found.cabinet.feed,
        weight=found.weight, most_weight=found.cabinet.weight,
        things=[
            ThingView(
                name=one.name, kind=one.kind, model=one.model, unit=one.unit, units=one.units, watts=one.watts,
                weight=one.weight, faces=one.faces, airflow=one.airflow, key="" if one.key.startswith("gear/") else one.key,
                state=one.state,
            )
            for one in found.things
        ],
        bundles=bundles,
        runs=runs,
    )  # fmt: skip


class TrayStep(BaseModel):
    tray: str
    metres: float


class RouteView(BaseModel):
    """How a cable lies, or the cables of two racks: the points on the plan in mm, the steps in metres, and its bundle."""

    points: list[At]
    up: float
    aside: float
    along: float
    down: float
    slack: float
    trays: list[TrayStep]
    around: bool
    bundle: BundleView | None


@router.get("/cables/{label}/route", operation_id="getRoute")
def get_route(name: str, label: str, at: Reading) -> RouteView:
    """The way of one cable over the floor."""
    laid = standing(at, name).laid
    place = laid.by_label.get(label)
    if place is None:
        raise Missing(f"{name} has no cable {label}.")
    way, lead = laid.way(place), laid.leads[place]
    bundle = bundle_view(laid, pair_of(lead)) if lead.a.rack != lead.b.rack and lead.a.rack and lead.b.rack else None
    if way is None:
        return RouteView(points=[], up=0, aside=0, along=0, down=0, slack=0, trays=[], around=False, bundle=bundle)
    return RouteView(
        points=_line(laid.points(place)), up=round(way.up, 2), aside=round(way.aside, 2), along=round(way.along, 2),
        down=round(way.down, 2), slack=way.slack, trays=[TrayStep(tray=tray, metres=round(length, 2)) for tray, length in way.trays],
        around=way.around, bundle=bundle,
    )  # fmt: skip


def bundle_view(laid: Laid, pair: Pair) -> BundleView:
    places = laid.bundles[pair]
    metres = [float(laid.metres[place]) for place in places if not isnan(laid.metres[place])]
    return BundleView(
        one=pair.one, other=pair.other, cables=len(places), shortest=round(min(metres), 1) if metres else None,
        longest=round(max(metres), 1) if metres else None, thick=round(laid.thickness(places), 0),
        first=laid.cables[places[0]].label, last=laid.cables[places[-1]].label,
        points=_line(laid.points(places[0])) if metres else [],
    )  # fmt: skip
