"""Staging: the roll call, who knocks, and editions that are put on switches wave by wave."""

from __future__ import annotations

import base64
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Path, Query, Request
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, Reading, Staging, Unboxing
from barrio.api.downloads import WORKBOOK, upload
from barrio.api.paging import PAGED, Paged
from barrio.app import draining, rollcall, stagings
from barrio.app.rollcall import Answered, Knocking
from barrio.app.stagings import Told, Wanted
from barrio.core.errors import refuse
from barrio.core.exchange.sheet import read_sheet
from barrio.core.staging.boxes import Row, box, scanned
from barrio.core.staging.steps import STEPS

router = APIRouter(prefix="/api/v1/fabrics/{name}/staging", tags=["staging"], responses=ERRORS)
Name = Annotated[str, Path(max_length=64)]
Number = Annotated[int, Path(ge=0, lt=2**63)]
Words = Annotated[str, Field(max_length=400)]


class SwitchExpected(BaseModel):
    """A switch of the roll call: where it stands, what it is planned as, its box, and whoever was admitted as it."""

    name: str
    rack: str
    unit: int
    role: str
    model: str
    airflow: str
    serial: str
    mac: str
    admitted: bool
    address: str
    last_heard: datetime | None
    faults: list[str]


class KnockView(BaseModel):
    """Somebody who knocks: `key` is how they are known. `expected` is the switch that their box was said to be, `planned_there` the one that the cabling plan
    has where they are plugged in."""

    key: str
    serial: str
    mac: str
    model: str
    address: str
    state: Literal["waits", "admitted", "refused"]
    why: str
    expected: str
    planned_there: str
    faults: list[str]
    first_at: datetime
    last_at: datetime


class BoxSaid(BaseModel):
    """A box: by serial number, MAC address, or both; or as a scanner typed it."""

    serial: Annotated[str, Field(max_length=80)] = ""
    mac: Annotated[str, Field(max_length=40)] = ""
    scanned: Annotated[str, Field(max_length=120)] = ""


class Why(BaseModel):
    why: Words = ""


class Out(Why):
    """`even_so` takes one out that is alive and was not drained."""

    even_so: bool = False


class DeliveryRow(BaseModel):
    line: int
    switch: str
    serial: str
    mac: str
    outcome: Literal["binds", "same", "changes", "refused"]
    reason: str


class NewStaging(BaseModel):
    """What to stage: an edition (0 is the newest), these switches or all, so many at once, stopped after so many failures; each confirmed within so many
    seconds; from and until when, or at any time."""

    edition: int = Field(0, ge=0, lt=2**31)
    switches: list[Annotated[str, Field(max_length=64)]] = Field([], max_length=5000)
    at_once: int = Field(8, ge=1, le=1000)
    stop_after: int = Field(1, ge=1, le=1000)
    confirm_seconds: int = Field(120, ge=10, le=3600)
    from_at: datetime | None = None
    until_at: datetime | None = None


class StagedView(BaseModel):
    name: str
    rack: str
    wave: int
    step: str
    state: Literal["waits", "works", "done", "failed", "skipped"]
    words: str
    task: str
    attempt: int
    since: datetime
    until_at: datetime | None


class StagingView(BaseModel):
    """A staging with its switches; `left` is about how many seconds it still takes, by what those already done took."""

    id: int
    edition: int
    state: Literal["runs", "paused", "back", "done", "left"]
    words: str
    at_once: int
    stop_after: int
    author: str
    began_at: datetime
    ended_at: datetime | None
    left: float | None
    steps: list[str]
    switches: list[StagedView]


class LogLine(BaseModel):
    at: datetime
    step: str
    words: str
    command: str
    code: int | None
    output: str
    seconds: float | None


@router.get("/roll", operation_id="callRoll", responses=PAGED)
def call_roll(name: str, at: Reading, page: Paged) -> list[SwitchExpected]:
    """Every switch that is expected by the newest edition, in the fabric's order."""
    return [_expected(one) for one in page.of(rollcall.roll(at, name))]


def _expected(one: Answered) -> SwitchExpected:
    switch, knock = one.switch, one.knock
    return SwitchExpected(
        name=str(switch.name), rack=str(switch.rack), unit=switch.unit, role=switch.role, model=switch.type.title, airflow=one.airflow,
        serial=one.box.serial, mac=one.box.mac, admitted=knock is not None, address=knock.address if knock else "",
        last_heard=knock.last_at if knock else None, faults=list(one.faults),
    )  # fmt: skip


@router.put("/roll/{switch}/box", operation_id="bindBox", status_code=204)
def bind_box(name: str, switch: Name, said: BoxSaid, at: Unboxing) -> None:
    """Say which box a switch is."""
    rollcall.bind(at, name, switch, scanned(said.scanned) if said.scanned else box(said.serial, said.mac))


@router.delete("/roll/{switch}/box", operation_id="loosenBox", status_code=204)
def loosen_box(name: str, switch: Name, at: Unboxing) -> None:
    """Say no more which box a switch is."""
    rollcall.loosen(at, name, switch)


@router.post("/roll/{switch}/out", operation_id="takeBoxOut", status_code=204)
def take_box_out(name: str, switch: Name, said: Out, at: Staging) -> None:
    """Take a switch's box out for good: it never comes back by itself, and another may take its place."""
    draining.take_out(at, name, switch, said.why, said.even_so)


@router.post("/back", operation_id="letBoxBack", status_code=204)
def let_box_back(name: str, said: BoxSaid, at: Staging) -> None:
    """Let a box that was taken out be bound again."""
    rollcall.let_back(at, name, box(said.serial, said.mac))


_SHEET = upload("text/csv", WORKBOOK)


@router.post("/delivery/preview", operation_id="previewDelivery", openapi_extra=_SHEET)
async def preview_delivery(name: str, request: Request, at: Unboxing) -> list[DeliveryRow]:
    """A delivery's list (the body: CSV or a workbook) row by row: which switch each box would be, and why a row cannot be taken. Writes nothing."""
    data = await request.body()
    rows = await run_in_threadpool(lambda: rollcall.preview(at, name, read_sheet(data)))
    return [_row(one) for one in rows]


@router.post("/delivery/take", operation_id="takeDelivery", openapi_extra=_SHEET)
async def take_delivery(name: str, request: Request, at: Unboxing) -> int:
    """Take a delivery's list whole, or nothing when one row is refused. How many boxes were bound."""
    data = await request.body()
    return await run_in_threadpool(lambda: rollcall.take(at, name, read_sheet(data)))


def _row(one: Row) -> DeliveryRow:
    return DeliveryRow(
        line=one.line, switch=one.switch, serial=one.box.serial, mac=one.box.mac, outcome=one.outcome, reason=one.reason
    )


@router.get("/knocks", operation_id="listKnocks")
def list_knocks(name: str, at: Reading) -> list[KnockView]:
    """Who knocks and is of no fabric yet, those that wait first; the newest thousand."""
    return [_knock(one) for one in rollcall.knocking(at, name)]


def _knock(one: Knocking) -> KnockView:
    knock = one.knock
    return KnockView.model_validate(
        {
            "key": base64.urlsafe_b64encode(knock.key).decode().rstrip("="), "serial": knock.serial, "mac": knock.mac,
            "model": str(knock.said.get("model", "")), "address": knock.address, "state": knock.state, "why": knock.why,
            "expected": one.expected.name if one.expected else "", "planned_there": one.planned_there,
            "faults": list(one.faults), "first_at": knock.first_at, "last_at": knock.last_at,
        }
    )  # fmt: skip


Key = Annotated[str, Path(pattern="^[A-Za-z0-9_-]{43}$")]


def _key(text: str) -> bytes:
    return base64.urlsafe_b64decode(text + "=")


class Admitted(BaseModel):
    switch: Annotated[str, Field(max_length=64)]


@router.post("/knocks/{knock}/admit", operation_id="admitKnock", status_code=204)
def admit_knock(name: str, knock: Key, said: Admitted, at: Unboxing) -> None:
    """Let somebody in who knocks, as a switch."""
    rollcall.admit(at, name, _key(knock), said.switch)


@router.post("/knocks/{knock}/refuse", operation_id="refuseKnock", status_code=204)
def refuse_knock(name: str, knock: Key, said: Why, at: Unboxing) -> None:
    """Turn somebody away who knocks, for good."""
    rollcall.turn_away(at, name, _key(knock), said.why)


@router.post("", operation_id="beginStaging", status_code=201)
def begin_staging(name: str, said: NewStaging, at: Staging) -> StagingView:
    """Put an edition on its switches, wave by wave, in the order of its Ripple."""
    if (said.from_at and said.from_at.tzinfo is None) or (said.until_at and said.until_at.tzinfo is None):
        raise refuse("stage.window", "Say the time with its zone, as in 2026-11-27T22:00:00+01:00.", "from_at")
    number = stagings.begin(
        at, name,
        Wanted(said.edition, tuple(said.switches), said.at_once, said.stop_after, said.confirm_seconds, said.from_at, said.until_at),
    )  # fmt: skip
    return _told(stagings.told(at, name, number))


Which = Annotated[int, Query(ge=0, lt=2**63)]


@router.get("", operation_id="getStaging")
def get_staging(name: str, at: Reading, number: Which = 0) -> StagingView:
    """A staging with all its switches, or the newest one."""
    return _told(stagings.told(at, name, number))


def _told(one: Told) -> StagingView:
    said = one.staging
    return StagingView.model_validate(
        {
            "id": said.id, "edition": said.edition, "state": said.state, "words": said.words, "at_once": said.at_once,
            "stop_after": said.stop_after, "author": said.author, "began_at": said.began_at, "ended_at": said.ended_at, "left": one.left,
            "steps": STEPS,
            "switches": [
                {
                    "name": each.name, "rack": each.rack, "wave": each.wave, "step": each.step, "state": each.state, "words": each.words, "task": each.task,
                    "attempt": each.attempt, "since": each.since, "until_at": each.until_at,
                }
                for each in one.switches
            ],
        }
    )  # fmt: skip


@router.get("/log/{number}/{switch}", operation_id="readStagingLog")
def read_staging_log(name: str, number: Number, switch: Name, at: Reading) -> list[LogLine]:
    """What was done to a switch in a staging, and what it answered."""
    return [
        LogLine(
            at=one.at,
            step=one.step,
            words=one.words,
            command=one.command,
            code=one.code,
            output=one.output,
            seconds=one.seconds,
        )
        for one in stagings.lines(at, name, number, switch)
    ]


@router.post("/pause", operation_id="pauseStaging", status_code=204)
def pause_staging(name: str, at: Staging) -> None:
    """Let what is under way come to its end, and begin nothing more."""
    stagings.pause(at, name)


@router.post("/on", operation_id="goOnStaging", status_code=204)
def go_on_staging(name: str, at: Staging) -> None:
    """Go on with a staging that was paused."""
    stagings.go_on(at, name)


@router.post("/leave", operation_id="leaveStaging", status_code=204)
def leave_staging(name: str, at: Staging) -> None:
    """End a staging where it is."""
    stagings.leave(at, name)


@router.post("/putback", operation_id="putBackStaging", status_code=204)
def put_back_staging(name: str, at: Staging) -> None:
    """End a staging, and have what it changed put back, the last wave first."""
    stagings.put_back(at, name)


@router.post("/switches/{switch}/again", operation_id="stageAgain", status_code=204)
def stage_again(name: str, switch: Name, at: Staging) -> None:
    """Try a switch again that failed."""
    stagings.again(at, name, switch)


@router.post("/switches/{switch}/skip", operation_id="skipSwitch", status_code=204)
def skip_switch(name: str, switch: Name, said: Why, at: Staging) -> None:
    """Leave a switch out of the staging, with a reason."""
    stagings.skip(at, name, switch, said.why)
