"""Rehearsals: what a wish would boot, asking for one, looking at it while it runs and when it is over, and what to hand on."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Path, Query, Response
from pydantic import BaseModel, Field, TypeAdapter

from barrio.api.desk import ERRORS, Reading, Rehearsing
from barrio.api.downloads import attachment, download
from barrio.app import rehearsals
from barrio.app.desk import Desk
from barrio.app.rehearsals import Wanted
from barrio.core.rehearse.slices import Wish
from barrio.jobs import queue
from barrio.paper.change_board import change_board
from barrio.rehearsal.asking.claims import Claim
from barrio.rehearsal.drilling import Drilled
from barrio.rehearsal.report import page
from barrio.store.errors import Missing
from barrio.store.rehearsals import Rehearsed

router = APIRouter(prefix="/api/v1/fabrics/{name}/rehearsals", tags=["rehearsals"], responses=ERRORS)
Job = Annotated[int, Path(ge=0, lt=2**63)]
Most = Annotated[int, Query(ge=1, le=20_000)]
_DRILLED = TypeAdapter(Drilled)
Rack = Annotated[str, Field(max_length=32)]


class NewRehearsal(BaseModel):
    """What to rehearse: an edition, or the draft (0); the `whole` fabric, or a slice of so many `spines` of each pod and these `racks`, which Barrio
    chooses when they are left out, `most` switches in all. `ground` is best, here or apart; `drills` are what is taken away: names of the preview, two with +
    between, or a group: spine, super-spine, leaf, border, link, daemon, restart, singles. It is ended when it takes longer than so many
    `minutes`. With a `change`, the edition is booted, and the draft is put on it in the order of its Ripple. It is split over
    so many `machines`: this one, and other workers that lend theirs."""

    edition: int = Field(0, ge=0, lt=2**31)
    whole: bool = False
    spines: int | None = Field(None, ge=1, le=64)
    racks: list[Rack] = Field([], max_length=200)
    most: int = Field(12, ge=3, le=500)
    ground: Literal["best", "here", "apart"] = "best"
    questions: list[Annotated[str, Field(max_length=32)]] = Field(["all"], max_length=64)

    drills: list[Annotated[str, Field(max_length=200)]] = Field([], max_length=100)
    minutes: int = Field(60, ge=1, le=1440)
    change: bool = False
    machines: int = Field(1, ge=1, le=16)

    def wanted(self) -> Wanted:
        wish = Wish(self.whole, self.spines, tuple(self.racks), self.most)
        return Wanted(
            self.edition, wish, self.ground, tuple(self.questions), tuple(self.drills), self.minutes, self.change,
            self.machines,
        )  # fmt: skip


class QuestionTold(BaseModel):
    """A question that can be asked: its id, and what it claims."""

    id: str
    title: str


class LossTold(BaseModel):
    """Something that can be taken away in a drill."""

    id: str
    words: str


class SlicePreview(BaseModel):
    """What a wish would boot: switches, hosts of how many that hang there, what is not there and what is therefore not proven; `parts` are
    how many switches each machine has."""

    whole: bool
    switches: list[str]
    outside: list[str]
    hosts: int
    of_hosts: int
    left_out: list[str]
    cannot: list[str]
    questions: list[QuestionTold]
    losses: list[LossTold]
    parts: list[int] = []


class SwitchRehearsed(BaseModel):
    """How far a switch is: `waits`, `boots` or `runs`, or why it did not."""

    key: str
    name: str
    rack: str
    words: str
    seconds: float
    failed: bool


class Joined(BaseModel):
    """Two switches with a cable between, by their names."""

    upper: str
    lower: str


class AnswerTold(BaseModel):
    """What came of a question, without its claims: `yes`, `no` or `not asked`."""

    question: str
    title: str
    state: str
    why: str
    seconds: float
    claims: int
    failed: int


class DrillBrief(BaseModel):
    """A drill in a line: whether it went as foretold, flows that lost something, packets lost, and the longest silence."""

    id: str
    words: str
    as_foretold: bool
    flows: int
    touched: int
    lost: int
    longest: float


class RehearsalTold(BaseModel):
    """A rehearsal. `state` is its job's; `other` says that the draft has changed since, so that it is of another state; with
    a `change`, the draft was put on the edition."""

    job: int
    version: int
    edition: int
    other: bool
    change: bool
    state: str
    words: str
    author: str
    asked_at: datetime
    began_at: datetime | None
    ended_at: datetime | None
    ground: str
    under_way: str
    switches: list[SwitchRehearsed]
    hosts: int
    of_hosts: int
    whole: bool
    left_out: list[str]
    cannot: list[str]
    not_run: list[str]
    outside: list[str]
    booted: float
    seconds: float
    questions: int
    joined: list[Joined]
    answers: list[AnswerTold]
    to_drill: int
    drills: list[DrillBrief]


@router.get("", operation_id="listRehearsals")
def list_rehearsals(name: str, at: Reading) -> list[RehearsalTold]:
    """The newest fifty."""
    found, now = rehearsals.every(at, name)
    return [_told(one, now) for one in found]


@router.post("/preview", operation_id="previewRehearsal")
def preview_rehearsal(name: str, new: NewRehearsal, at: Reading) -> SlicePreview:
    found = rehearsals.preview(at, name, new.wanted())
    return SlicePreview(
        whole=found.slice.whole, switches=list(found.switches), outside=list(found.slice.outside), hosts=found.hosts, of_hosts=found.of_hosts,
        left_out=list(found.slice.left_out), cannot=list(found.slice.cannot),
        questions=[QuestionTold(id=one, title=title) for one, title in rehearsals.questions()],
        losses=[LossTold(id=one.id, words=one.words) for one in found.losses], parts=list(found.parts),
    )  # fmt: skip


@router.post("", operation_id="beginRehearsal", status_code=202)
def begin_rehearsal(name: str, new: NewRehearsal, at: Rehearsing) -> RehearsalTold:
    said = rehearsals.values(new.wanted())
    job = queue.ask(at, "rehearsal", name, said, lambda tx, job: rehearsals.begin(tx, job, name, said))
    return _told(*rehearsals.one(at, name, job.id))


@router.get("/{job}", operation_id="getRehearsal")
def get_rehearsal(name: str, job: Job, at: Reading) -> RehearsalTold:
    return _told(*rehearsals.one(at, name, job))


@router.get("/{job}/report.html", operation_id="getRehearsalReport", **download("text/html"))
def get_rehearsal_report(name: str, job: Job, at: Reading) -> Response:
    """What came of it, as one page for people that works offline."""
    found, of, asked = _reported(name, job, at)
    return attachment(
        page(found.found, found.words, of, asked).encode(), "text/html; charset=utf-8", f"{name}-rehearsal-{job}.html"
    )


@router.get("/{job}/report.pdf", operation_id="getRehearsalPaper", **download("application/pdf"))
def get_rehearsal_paper(name: str, job: Job, at: Reading) -> Response:
    """What came of it, on paper for a change board."""
    found, of, asked = _reported(name, job, at)
    return attachment(
        change_board(found.found, found.words, of, asked), "application/pdf", f"{name}-rehearsal-{job}.pdf"
    )


def _reported(name: str, job: int, at: Desk) -> tuple[Rehearsed, str, str]:
    found, _ = rehearsals.one(at, name, job)
    if found.state != "done":
        raise Missing("This rehearsal has not come to its end, so there is nothing to report yet.")
    draft = f"the draft, version {found.version}"
    of = f"edition {found.edition}{f', then {draft}' if found.wish.get('change') else ''}" if found.edition else draft
    return found, of, f"Asked for by {found.author}, {found.asked_at:%Y-%m-%d %H:%M} UTC"


@router.post("/{job}/stop", operation_id="stopRehearsal")
def stop_rehearsal(name: str, job: Job, at: Rehearsing) -> RehearsalTold:
    """Stop it, whoever asked for it: at once when it waits, within seconds when it runs, with everything that it started."""
    rehearsals.one(at, name, job)
    queue.halt(at, job)
    return _told(*rehearsals.one(at, name, job))


@router.get("/{job}/answers/{question}", operation_id="getAnswer")
def get_answer(
    name: str, job: Job, question: str, at: Reading, holds: bool | None = None, most: Most = 500
) -> list[Claim]:
    """The claims of a question, those that failed first; all, or only those that hold or do not, as many as asked for."""
    found, _ = rehearsals.one(at, name, job)
    said = next((one for one in found.found.get("answers", ()) if one["question"] == question), None)
    if said is None:
        raise Missing(f"This rehearsal has no answer to {question}.")
    wanted = [one for one in said["claims"] if holds is None or one["holds"] == holds]
    return [Claim(**one) for one in wanted[:most]]


@router.get("/{job}/drills/{drill}", operation_id="getDrill")
def get_drill(name: str, job: Job, drill: str, at: Reading) -> Drilled:
    """A drill with its score."""
    found, _ = rehearsals.one(at, name, job)
    said = next((one for one in found.found.get("drills", ()) if one["id"] == drill), None)
    if said is None:
        raise Missing(f"This rehearsal has no drill {drill}.")
    return _DRILLED.validate_python(said)


def _brief(said: dict[str, Any]) -> dict[str, Any]:
    kept = {part: said[part] for part in ("id", "words", "touched", "lost", "longest")}
    return {**kept, "as_foretold": not said["faults"], "flows": said["count"]}


def _told(one: Rehearsed, now: bytes) -> RehearsalTold:
    found = one.found
    part = found.get("slice", {})
    return RehearsalTold(
        job=one.job, version=one.version, edition=one.edition, other=(not one.edition or bool(one.wish.get("change"))) and one.inputs != now, change=bool(one.wish.get("change")), state=one.state, words=one.words,
        author=one.author, asked_at=one.asked_at, began_at=one.began_at, ended_at=one.ended_at, ground=found.get("ground", ""),
        under_way=found.get("state", "") if one.state == "working" else "", switches=[SwitchRehearsed(**each) for each in found.get("switches", ())],
        hosts=found.get("hosts", 0), of_hosts=found.get("of_hosts", 0), whole=not part.get("left_out"), left_out=part.get("left_out", []), cannot=part.get("cannot", []),
        not_run=found.get("left_out", []), outside=part.get("outside", []), booted=found.get("booted", 0), seconds=found.get("seconds", 0),
        questions=found.get("total", 0), joined=[Joined(upper=upper, lower=lower) for upper, lower in found.get("joined", ())], answers=[_answer(each) for each in found.get("answers", ())],
        to_drill=found.get("to_drill", 0), drills=[DrillBrief(**_brief(each)) for each in found.get("drills", ())],
    )  # fmt: skip


def _answer(said: dict[str, Any]) -> AnswerTold:
    kept = {part: said[part] for part in ("question", "title", "state", "why", "seconds", "count", "failed")}
    return AnswerTold(claims=kept.pop("count"), **kept)
