"""Work on cables: what was done to each, and what switches hear of each other against the plan, with the moves that put it right."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from barrio.api import views
from barrio.api.desk import ERRORS, Cabling, Numbering, Reading, Version
from barrio.api.downloads import upload
from barrio.api.paging import PAGED, Paged
from barrio.app import cabling
from barrio.app.cabling import MOST_DEEDS, Checked
from barrio.core.cabling.heard import Port, read_heard
from barrio.core.cabling.work import MOST_WORDS, Deed, Kind, Worked, other_label
from barrio.core.errors import Fault
from barrio.store.errors import Missing

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["cabling"], responses=ERRORS)


class WorkRow(BaseModel):
    """What was done to a cable: who laid it and when, what was measured, read at its ends and received there, and a fault that is open.
    `wrong_label` says which end bears another cable's label."""

    label: str
    link: str
    laid_by: str
    laid_at: datetime | None
    measured: float | None
    measured_by: str
    scanned_a: str
    scanned_b: str
    light_a: float | None
    light_b: float | None
    fault: str
    fault_by: str
    wrong_label: str | None


@router.get("/cable-work", operation_id="listCableWork", responses=PAGED)
def list_cable_work(name: str, at: Reading, page: Paged) -> list[WorkRow]:
    """Every cable that anything was done to, in the order of labels."""
    found = cabling.standing(at, name)
    rows = [(cable, found.worked[cable.link]) for cable in found.laid.cables if cable.link in found.worked]
    return [_row(cable.label, cable.link, worked) for cable, worked in page.of(rows)]


def _row(label: str, link: str, worked: Worked) -> WorkRow:
    return WorkRow(
        label=label, link=link, laid_by=worked.laid_by, laid_at=worked.laid_at, measured=worked.measured,
        measured_by=worked.measured_by, scanned_a=worked.scanned.get("a", ""), scanned_b=worked.scanned.get("b", ""),
        light_a=worked.light.get("a"), light_b=worked.light.get("b"), fault=worked.fault, fault_by=worked.fault_by,
        wrong_label=other_label(label, worked),
    )  # fmt: skip


class DeedView(BaseModel):
    id: UUID
    kind: str
    text: str
    number: float | None
    author: str
    done_at: datetime


@router.get("/cable-work/{label}", operation_id="getCableWork")
def get_cable_work(name: str, label: str, at: Reading) -> list[DeedView]:
    """What was done to one cable, deed by deed."""
    laid = cabling.standing(at, name).laid
    if label not in laid.by_label:
        raise Missing(f"{name} has no cable {label}.")
    deeds = cabling.history(at, name, laid.cables[laid.by_label[label]].link)
    return [
        DeedView(id=one.id, kind=one.kind, text=one.text, number=one.number, author=one.author, done_at=one.done_at)
        for one in deeds
    ]


class NewDeed(BaseModel):
    """A deed: the device that records it gives it an id of its own, so that it may be sent again. `cable` is the key of a link."""

    id: UUID
    cable: Annotated[str, Field(min_length=1, max_length=120)]
    kind: Kind
    done_at: datetime
    text: Annotated[str, Field(max_length=MOST_WORDS)] = ""
    number: Annotated[float, Field(allow_inf_nan=False)] | None = None


class NewDeeds(BaseModel):
    deeds: Annotated[list[NewDeed], Field(min_length=1, max_length=MOST_DEEDS)]


class TakenDeeds(BaseModel):
    """How many were new, and the cables that the plan does not have any more; what was done to those is kept too."""

    new: int
    not_planned: list[str]


@router.post("/cable-work", operation_id="workOnCables")
def work_on_cables(name: str, said: NewDeeds, at: Cabling) -> TakenDeeds:
    """Record what was done, all of it or nothing. What was sent before is there once."""
    deeds = [
        Deed(one.id, one.cable, one.kind, _aware(one.done_at), text=one.text, number=one.number) for one in said.deeds
    ]
    taken = cabling.record(at, name, deeds)
    return TakenDeeds(new=taken.new, not_planned=list(taken.not_planned))


def _aware(when: datetime) -> datetime:
    """A time with its zone; one without is this machine's."""
    return when if when.tzinfo else when.astimezone()


class PortView(BaseModel):
    switch: str
    port: str


class FoundCable(BaseModel):
    """A cable that does not lie as planned, and what its ends hear in place of each other."""

    label: str
    state: str
    a_hears: PortView | None
    b_hears: PortView | None
    speed: int | None


class MoveView(BaseModel):
    """Take the plug out of `out` and put it into `into`; the cable's other end stays. A `loose` one hangs until the last of its list is moved."""

    label: str
    out: PortView
    into: PortView
    stays: PortView
    loose: bool


class PairView(BaseModel):
    one: PortView
    other: PortView


class MendView(BaseModel):
    """What puts one group of cables right, in this order: pull, move, lay."""

    pull: list[PairView]
    moves: list[MoveView]
    lay: list[PairView]


class PinView(BaseModel):
    use: str
    key: str
    number: str


class InsteadView(BaseModel):
    """The plan that would follow the cables: positions that change, and the moves that would be left of `moves`."""

    pins: list[PinView]
    moves: int
    left: int


class CheckedView(BaseModel):
    """The newest neighbour table against the plan: how many cables are in which state, the labels of those that are right, those that are not, ports that hear somebody
    where no cable is planned, and the smallest set of moves that puts all right."""

    taken_at: datetime
    author: str
    counts: dict[str, int]
    right: list[str]
    cables: list[FoundCable]
    unknown: list[PairView]
    moves: int
    mends: list[MendView]
    instead: InsteadView | None
    findings: list[Fault]


@router.get("/neighbours", operation_id="getNeighbours")
def get_neighbours(name: str, at: Reading) -> CheckedView:
    """The newest neighbour table against the plan as it is now."""
    return _checked(cabling.checked(at, name))


@router.post(
    "/neighbours", operation_id="takeNeighbours", openapi_extra=upload("application/json", "text/csv", "text/plain")
)
async def take_neighbours(
    name: str, request: Request, at: Cabling, switch: Annotated[str, Query(max_length=63)] = ""
) -> CheckedView:
    """Take a neighbour table (lldpd's JSON of a switch or of many, CSV, or lines) as the newest one. `switch` is whose it is, where it does not say."""
    table = await run_in_threadpool(read_heard, await request.body(), switch)
    return _checked(await run_in_threadpool(cabling.take_table, at, name, table))


@router.post("/neighbours/follow", operation_id="followCables")
def follow_cables(name: str, version: Version, at: Numbering) -> views.FabricView:
    """Let the plan follow the cables, where that spares moves: the positions that `instead` names change in the Ledger."""
    return views.fabric_view(cabling.follow(at, name, version))


def _port(port: Port | None) -> PortView | None:
    return None if port is None else PortView(switch=port.system, port=port.name)


def _sure(port: Port) -> PortView:
    return PortView(switch=port.system, port=port.name)


def _pair(ends: tuple[Port, Port]) -> PairView:
    return PairView(one=_sure(ends[0]), other=_sure(ends[1]))


def _checked(found: Checked) -> CheckedView:
    compared, instead = found.compared, found.instead
    return CheckedView(
        taken_at=found.kept.taken_at,
        author=found.kept.author,
        counts=compared.counts,
        right=[one.label for one in compared.cables if one.state == "right"],
        cables=[
            FoundCable(
                label=one.label, state=one.state, a_hears=_port(one.a_hears), b_hears=_port(one.b_hears), speed=one.speed
            )
            for one in compared.cables
            if one.state not in ("right", "not heard of")
        ],
        unknown=[_pair(ends) for ends in compared.unknown],
        moves=compared.moves,
        mends=[
            MendView(
                pull=[_pair(ends) for ends in mend.pull],
                moves=[
                    MoveView(
                        label=found.labels.get(move.stays, ""), out=_sure(move.out), into=_sure(move.into),
                        stays=_sure(move.stays), loose=move.loose,
                    )
                    for move in mend.moves
                ],
                lay=[_pair(ends) for ends in mend.lay],
            )
            for mend in compared.mends
        ],
        instead=None
        if instead is None
        else InsteadView(
            pins=[PinView(use=use, key=key, number=str(place)) for use, key, place in instead.pins],
            moves=instead.moves, left=instead.left,
        ),
        findings=list(compared.faults),
    )  # fmt: skip
