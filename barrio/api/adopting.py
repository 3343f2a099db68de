"""Adopting what runs: what was found, part by part, and what people say of it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, Editing, Looking, Reading
from barrio.api.downloads import upload
from barrio.app import adopting
from barrio.app.adopting import Discovery
from barrio.core.adopt.found import Part, Sure

router = APIRouter(prefix="/api/v1", tags=["adopting"], responses=ERRORS)
Key = Annotated[str, Field(max_length=400)]
Keys = Annotated[list[Key], Field(min_length=1, max_length=20_000)]
PROPOSALS_SHOWN, ODDITIES_SHOWN, DIFFERENCES_SHOWN = 20_000, 5_000, 500


class AdoptionEdit(BaseModel):
    """What the brief would say, and where."""

    path: str
    value: Any


class AdoptionProposal(BaseModel):
    """Something that the brief would say, from what that was told and how sure it is. `said` is what somebody said of it, if anybody did."""

    key: str
    part: Part
    title: str
    evidence: list[str]
    sure: Sure
    edits: list[AdoptionEdit]
    said: Literal["", "taken", "refused"]
    why: str
    by: str


class AdoptionOddity(BaseModel):
    """Something that runs and fits no pattern, and what was said of it."""

    key: str
    switch: str
    words: str
    said: Literal["", "kept", "mended", "left out"]
    why: str
    by: str


class AdoptionDifference(BaseModel):
    """A line that Barrio's files would have otherwise, with the switches that have it so; `effect` is what changing it does to traffic."""

    path: str
    within: list[str]
    before: str
    after: str
    switches: list[str]
    effect: str


class AdoptionSwitch(BaseModel):
    """A switch that was found: whether its files would be `alike`, line by line, to those that run; whether it could not be read; whether something of it is odd."""

    name: str
    tier: Literal["leaf", "spine", "super-spine"]
    rack: str
    alike: bool
    unread: bool
    odd: bool


class AdoptionView(BaseModel):
    """What was found of a network that runs, or of a drawing (`kind` is `runs` or `drawn`): the switches from the top, `numbers` that are pinned to their owners,
    and whether the fabric `exists` yet."""

    fabric: str
    kind: str
    source: str
    author: str
    at: datetime
    exists: bool
    switches: list[AdoptionSwitch]
    numbers: int
    proposals: list[AdoptionProposal]
    oddities: list[AdoptionOddity]
    differences: list[AdoptionDifference]


class AdoptionRow(BaseModel):
    """A discovery, by the name of its fabric."""

    fabric: str
    source: str
    author: str
    at: datetime


class AdoptionKeys(BaseModel):
    keys: Keys


class AdoptionRefusal(BaseModel):
    """Proposals that are refused, and why."""

    keys: Keys
    why: Annotated[str, Field(max_length=400)] = ""


class AdoptionWord(BaseModel):
    """What becomes of oddities: kept as an exception with a reason, to be mended in the draft, or left out."""

    keys: Keys
    said: Literal["kept", "mended", "left out"]
    why: Annotated[str, Field(max_length=400)] = ""


class AdoptionTaken(BaseModel):
    """The version of the draft that has what was taken."""

    version: int


def _view(found: Discovery) -> AdoptionView:
    said, stored = found.said, found.found

    def word(key: str) -> dict[str, str]:
        one = said.get(key)
        return {"said": one.said if one else "", "why": one.why if one else "", "by": one.author if one else ""}

    return AdoptionView.model_validate({
        "fabric": found.fabric, "kind": stored.get("kind", "runs"), "source": found.source, "author": found.author, "at": found.at, "exists": found.exists,
        "switches": stored["switches"], "numbers": len(stored["numbers"]),
        "proposals": [
            one | {"edits": [{"path": path, "value": value} for path, value in one["edits"]]} | word(one["key"])
            for one in stored["proposals"][:PROPOSALS_SHOWN]
        ],
        "oddities": [one | word(one["key"]) for one in stored["oddities"][:ODDITIES_SHOWN]],
        "differences": stored["differences"][:DIFFERENCES_SHOWN],
    })  # fmt: skip


@router.get("/adoptions", operation_id="listAdoptions")
def list_adoptions(at: Looking) -> list[AdoptionRow]:
    """The networks that were looked at, the newest first."""
    return [
        AdoptionRow.model_validate({"fabric": name, "source": source, "author": author, "at": when})
        for name, source, author, when in adopting.every(at)
    ]


@router.post(
    "/fabrics/{name}/adoption",
    operation_id="beginAdoption",
    status_code=201,
    openapi_extra=upload(
        "application/zip",
        "application/gzip",
        "application/graphml+xml",
        "text/vnd.graphviz",
        "text/csv",
        "application/yang-data+json",
    ),
)
async def begin_adoption(
    request: Request, name: str, at: Editing, source: Annotated[str, Field(max_length=120)] = "saved outputs"
) -> AdoptionView:
    """Look at saved outputs, a ZIP or tar.gz of them in the body as it is, or at a drawing (GraphML, DOT, links as CSV or RFC 8345), and keep what they seem
    to be; nothing enters a draft."""
    content = await request.body()
    return _view(await run_in_threadpool(adopting.discover, at, name, content, source))


@router.get("/fabrics/{name}/adoption", operation_id="getAdoption")
def get_adoption(name: str, at: Reading) -> AdoptionView:
    """What was found, and what was said of it."""
    return _view(adopting.show(at, name))


@router.post("/fabrics/{name}/adoption/take", operation_id="takeAdopted")
def take_adopted(name: str, said: AdoptionKeys, at: Editing) -> AdoptionTaken:
    """Take proposals into the draft, which begins with the first."""
    return AdoptionTaken(version=adopting.take(at, name, said.keys))


@router.post("/fabrics/{name}/adoption/refuse", operation_id="refuseAdopted", status_code=204)
def refuse_adopted(name: str, said: AdoptionRefusal, at: Editing) -> None:
    """Refuse proposals, so that none of them is made again."""
    adopting.refuse_proposals(at, name, said.keys, said.why)


@router.post("/fabrics/{name}/adoption/odd", operation_id="sayOfOddities", status_code=204)
def say_of_oddities(name: str, said: AdoptionWord, at: Editing) -> None:
    """Say what becomes of what fits no pattern."""
    adopting.odd(at, name, said.keys, said.said, said.why)


@router.post("/fabrics/{name}/adoption/again", operation_id="askAdoptedAgain", status_code=204)
def ask_adopted_again(name: str, said: AdoptionKeys, at: Editing) -> None:
    """Have refused proposals and settled oddities asked again."""
    adopting.again(at, name, said.keys)
