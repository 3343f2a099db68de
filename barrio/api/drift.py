"""What runs against what was meant: switches that drifted, line by line, and the ways out."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, date, datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Path, Query, Request
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, Editing, Reading, Staging
from barrio.api.downloads import upload
from barrio.app import backrules, changing, savedlooks, takingover, watching
from barrio.app.watching import Drifted
from barrio.core.compare.lines import LineChange
from barrio.core.observe.rows import KINDS

router = APIRouter(prefix="/api/v1/fabrics/{name}/drift", tags=["drift"], responses=ERRORS)
MOST_MOVED = 40
"""Rows of a table that are told of each switch; how many there are is told beside."""
Name = Annotated[str, Path(max_length=64)]


class DriftLine(BaseModel):
    """A line that is other: what was `meant` and what was `found`, of which one may be nothing, in which blocks; what that does to traffic. Where somebody
    leaves it as it is, `why`, until when."""

    path: str
    within: list[str]
    meant: str
    found: str
    effect: str
    why: str = ""
    until: date | None = None


class DriftPerson(BaseModel):
    """An account that was signed in at a switch between the look before and the one that found it as it is, from where, by the switch's own log."""

    who: str
    source: str
    at: datetime
    until: datetime | None


class DriftView(BaseModel):
    """A switch against the edition that it was handed over with: since when it is as it is, when it was seen last, lines, files that are gone, states in words,
    and what putting it `back` does to traffic. `left` are lines that somebody leaves as they are, `signed_in` who was there when it changed. Only where an
    `agent` runs can something be put back."""

    switch: str
    rack: str
    edition: int
    true: bool
    since: datetime
    seen: datetime
    effect: str
    back: str
    lines: list[DriftLine]
    gone: list[str]
    state: list[str]
    left: list[DriftLine]
    signed_in: list[DriftPerson]
    agent: bool


class SnapshotView(BaseModel):
    """What a switch ran from one moment to another: the files that were other than the edition, and what was not as it should be."""

    edition: int
    since: datetime
    until: datetime
    true: bool
    files: list[str]
    state: list[str]


class DriftLeave(BaseModel):
    """A drifted line, as it reads, to leave as it is until a day."""

    path: Annotated[str, Field(max_length=200)]
    line: Annotated[str, Field(max_length=1000)]
    why: Annotated[str, Field(max_length=400)] = ""
    until: date


class DriftBack(BaseModel):
    """The switches to put back, by name; all that drifted where none is named."""

    switches: Annotated[list[str], Field(max_length=2000)] = []


class BackBegun(BaseModel):
    """The staging that was begun."""

    staging: int


class DriftCounts(BaseModel):
    """How many switches were looked at, and how many of them are not as meant."""

    looked: int
    wrong: int


@router.get("/counts", operation_id="countDrift")
def count_drift(name: str, at: Reading) -> DriftCounts:
    """How far a fabric is as it was meant."""
    looked, wrong = watching.counts(at, name)
    return DriftCounts(looked=looked, wrong=wrong)


@router.get("", operation_id="getDrift")
def get_drift(name: str, at: Reading) -> list[DriftView]:
    """Every switch that was looked at, the worst first."""
    return [_view(one) for one in watching.drift(at, name)]


def _view(one: Drifted) -> DriftView:
    return DriftView(
        switch=one.switch, rack=one.rack, edition=one.snapshot.edition, true=one.true, since=one.snapshot.from_at, seen=one.snapshot.until_at,
        effect=one.texts.effect, back=one.texts.back, lines=[_line(each) for each in one.texts.lines], gone=list(one.texts.gone),
        state=one.snapshot.state,
        signed_in=[_person(person) for person in one.snapshot.signed_in],
        agent=one.agent,
        left=[_line(line).model_copy(update={"why": each.why, "until": each.until_on}) for line, each in one.left],
    )  # fmt: skip


def _line(one: LineChange) -> DriftLine:
    return DriftLine(path=one.path, within=list(one.within), meant=one.before, found=one.after, effect=one.effect)


class TableRow(BaseModel):
    """A row of a table that is other: its key, what was there and what is, of which one may be nothing."""

    key: str
    was: str
    now: str


class TableMoved(BaseModel):
    """What of a table is other, by its kind and as it is called: how many rows, and the first of them."""

    kind: str
    words: str
    count: int
    rows: list[TableRow]


class DriftChange(BaseModel):
    """A switch that ran otherwise at the later of two moments: lines from the one (`meant`) to the other (`found`), states in words that `came` and `went`,
    who was signed in between, and what of its tables is other."""

    switch: str
    rack: str
    lines: list[DriftLine]
    came: list[str]
    went: list[str]
    signed_in: list[DriftPerson]
    tables: list[TableMoved]


@router.get("/changes", operation_id="getDriftChanges")
def get_drift_changes(name: str, at: Reading, since: datetime, until: datetime | None = None) -> list[DriftChange]:
    """What changed between two moments over the whole fabric, meant or not; until now where no second one is said."""
    ends = until or datetime.now(UTC)
    utc = [one if one.tzinfo else one.replace(tzinfo=UTC) for one in (since, ends)]
    return [
        DriftChange(
            switch=one.switch, rack=one.rack, lines=[_line(each) for each in one.lines], came=list(one.came), went=list(one.went),
            signed_in=[_person(each) for each in one.people],
            tables=[
                TableMoved(kind=kind, words=KINDS[kind].words, count=len(rows), rows=rows_of(rows[:MOST_MOVED]))
                for kind, rows in one.tables.items()
            ],
        )
        for one in changing.between(at, name, utc[0], utc[1])
    ]  # fmt: skip


def rows_of(rows: Iterable[tuple[str, str, str]]) -> list[TableRow]:
    return [TableRow(key=key, was=was, now=now) for key, was, now in rows]


def _person(one: dict[str, str]) -> DriftPerson:
    return DriftPerson.model_validate(one | {"until": one["until"] or None})


@router.get("/{switch}/history", operation_id="getDriftHistory")
def get_drift_history(name: str, switch: Name, at: Reading) -> list[SnapshotView]:
    """What a switch ran, the newest first."""
    return [
        SnapshotView(
            edition=one.edition, since=one.from_at, until=one.until_at, true=one.true, files=list(one.files), state=one.state
        )
        for one in watching.history(at, name, switch)
    ]  # fmt: skip


@router.put("/{switch}/left", operation_id="leaveDrift", status_code=204)
def leave_drift(name: str, switch: Name, said: DriftLeave, at: Staging) -> None:
    """Leave a drifted line as it is, with a reason, until a day."""
    watching.leave(at, name, switch, said.path, said.line, said.why, said.until)


class DriftWay(BaseModel):
    """A way by which the draft would say what runs: in words, with the places of the brief or the numbers that it changes, and how many other switches
    would have other files by it."""

    key: str
    title: str
    places: list[str]
    others: int


class DriftWays(BaseModel):
    """The ways to take a drifted line over; `said` is whether the draft says it already."""

    said: bool
    ways: list[DriftWay]


class DriftOver(BaseModel):
    """A drifted line, as it reads, and the way to take it over."""

    path: Annotated[str, Field(max_length=200)]
    line: Annotated[str, Field(max_length=1000)]
    key: Annotated[str, Field(max_length=20_000)]


class TakenOver(BaseModel):
    """The version of the draft that says what runs."""

    version: int


@router.get("/{switch}/ways", operation_id="getDriftWays")
def get_drift_ways(
    name: str, switch: Name, at: Reading, path: Annotated[str, Query(max_length=200)], line: Annotated[str, Query(max_length=1000)]
) -> DriftWays:  # fmt: skip
    """The ways by which the draft would say what a drifted line says, tried one by one."""
    found = takingover.ways_of(at, name, switch, path, line)
    return DriftWays(
        said=found.said,
        ways=[
            DriftWay(
                key=one.key, title=one.title, others=one.others,
                places=[place for place, _ in one.edits] + [f"{use} of {owner}" for use, owner, _ in one.pins],
            )
            for one in found.ways
        ],
    )  # fmt: skip


@router.post("/{switch}/over", operation_id="takeDriftOver")
def take_drift_over(name: str, switch: Name, said: DriftOver, at: Editing) -> TakenOver:
    """Have the draft say what a drifted line says."""
    return TakenOver(version=takingover.take_over(at, name, switch, said.path, said.line, said.key))


class DriftRule(BaseModel):
    """What of a fabric's drift is put back by itself: `nothing`, what takes nothing away and touches nobody (`harmless`), or `all` files."""

    back: Literal["nothing", "harmless", "all"]


@router.get("/rule", operation_id="getDriftRule")
def get_drift_rule(name: str, at: Reading) -> DriftRule:
    """What is put back by itself."""
    return DriftRule.model_validate({"back": backrules.rule(at, name)})


@router.put("/rule", operation_id="sayDriftRule", status_code=204)
def say_drift_rule(name: str, said: DriftRule, at: Staging) -> None:
    """Say what is put back by itself; each finding once, as a staging like any other."""
    backrules.say(at, name, said.back)


class OutputsHeld(BaseModel):
    """What came of holding saved outputs against editions: switches that are as meant, those that are not, and those
    that were not held against any, each with the reason."""

    true: list[str]
    drifted: list[str]
    unheld: list[str]


@router.post("/outputs", operation_id="holdOutputs", openapi_extra=upload("application/zip", "application/gzip"))
async def hold_outputs(request: Request, name: str, at: Staging) -> OutputsHeld:
    """Hold saved outputs of switches, a ZIP or tar.gz of them in the body as it is, against the edition that each was handed over with, else the newest."""
    content = await request.body()
    held = await run_in_threadpool(savedlooks.hold, at, name, content)
    return OutputsHeld(true=list(held.true), drifted=list(held.drifted), unheld=list(held.unheld))


@router.post("/back", operation_id="putDriftBack", status_code=202)
def put_drift_back(name: str, said: DriftBack, at: Staging) -> BackBegun:
    """Have what drifted put back, as a staging; nothing else of these switches is touched."""
    return BackBegun(staging=watching.put_back(at, name, said.switches))
