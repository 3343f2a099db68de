"""The path of a flow, asked of the switches themselves: asked for, and as far as it is known."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, Reading, Staging
from barrio.app import following
from barrio.core.observe.follow import Followed, Passed
from barrio.core.observe.whereabouts import Located
from barrio.store.flows import Asked

router = APIRouter(prefix="/api/v1", tags=["asking"], responses=ERRORS)
End = Annotated[str, Field(min_length=1, max_length=100)]


class FlowNew(BaseModel):
    """From whom to whom: a host's name or an address each; `target` may be an address outside."""

    source: End
    target: End


class FlowBegun(BaseModel):
    number: int


class FlowRow(BaseModel):
    """A path that was asked for, by whom, and whether switches are still waited for."""

    number: int
    source: str
    target: str
    author: str
    at: datetime
    waits: bool


class FlowHost(BaseModel):
    """A host as the tables have it: its address and MAC, its segment, and the leaves and ports it is at."""

    address: str
    mac: str
    segment: str
    seats: list[str]


class FlowWay(BaseModel):
    """A way on: by which port and cable, to which step (by its place), and its share of what came (0 to 1)."""

    port: str
    cable: str
    step: int
    share: float


class FlowEnd(BaseModel):
    """Where a part of it ends: in words, and whether it arrives there."""

    words: str
    arrives: bool


class FlowStep(BaseModel):
    """What a switch does with it. `share` is how much of the flow comes here (0 to 1), `depth` by how many links it came, `planned` to how many next hops the plan
    would spread it here (0 where it does not), `waits` whether the switch has not answered yet."""

    switch: str
    depth: int
    share: float
    words: list[str]
    ways: list[FlowWay]
    ends: list[FlowEnd]
    planned: int
    waits: bool


class FlowView(FlowRow):
    """A path as far as it is known. `words` is what came of it; `narrowest` the largest packet of a host that goes through, in bytes; `waits_for` whom one waits for,
    `silent` who cannot be asked or did not answer in time; `circle` whether it goes around."""

    words: str
    refused: bool
    arrives: float
    narrowest: int
    circle: bool
    edition: int
    begins: FlowHost | None
    ends: FlowHost | None
    steps: list[FlowStep]
    waits_for: list[str]
    silent: list[str]


@router.post("/fabrics/{name}/flows", operation_id="followFlow", status_code=201)
def follow_flow(name: str, said: FlowNew, at: Staging) -> FlowBegun:
    """Have the switches asked which way a flow takes."""
    return FlowBegun(number=following.begin(at, name, said.source, said.target))


@router.get("/fabrics/{name}/flows", operation_id="listFlows")
def list_flows(name: str, at: Reading) -> list[FlowRow]:
    """The paths that were asked for, the newest first."""
    return [FlowRow.model_validate(_row(one)) for one in following.every(at, name)]


@router.get("/fabrics/{name}/flows/{number}", operation_id="getFlow")
def get_flow(name: str, number: int, at: Reading) -> FlowView:
    """A path, as far as the switches have answered."""
    path = following.found(at, name, number)
    found = path.found
    said: dict[str, object] = {
        "words": path.words or (found.words(path.silent) if found else ""), "refused": found is None, "arrives": float(found.arrives) if found else 0.0,
        "narrowest": found.narrowest if found else 0, "circle": bool(found and found.circle), "edition": path.asked.edition,
        "begins": _host(found.source) if found else None, "ends": _host(found.target) if found else None,
        "steps": _steps(found) if found else [], "waits_for": path.waits_for, "silent": path.silent,
    }  # fmt: skip
    return FlowView.model_validate(_row(path.asked) | said)


def _row(one: Asked) -> dict[str, object]:
    return {"number": one.id} | {name: getattr(one, name) for name in ("source", "target", "author", "at", "waits")}


def _host(one: Located | None) -> FlowHost | None:
    if one is None:
        return None
    seats = [f"{seat.switch}:{seat.port}" for seat in one.seats]
    return FlowHost(address=str(one.address or ""), mac=one.mac, segment=one.segment, seats=seats)


def _steps(found: Followed) -> list[FlowStep]:
    places = {one.step.state: place for place, one in enumerate(found.passed)}

    def told(one: Passed) -> FlowStep:
        step = one.step
        ways = [
            FlowWay(port=way.port, cable=way.cable, step=places[way.state], share=float(way.share))
            for way in step.ways
            if way.state in places
        ]
        ends = [FlowEnd(words=end.words, arrives=end.arrives) for end in step.ends]
        return FlowStep(
            switch=step.state.switch, depth=step.depth, share=float(one.share), words=step.words, ways=ways, ends=ends,
            planned=one.planned, waits=step.waits,
        )  # fmt: skip

    return [told(one) for one in found.passed]
