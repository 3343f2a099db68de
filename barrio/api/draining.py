"""Switches that are drained before they are touched, and the pages for whoever takes one out, replaces it or moves it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Path
from fastapi.responses import PlainTextResponse
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, Reading, Staging
from barrio.app import draining, errands
from barrio.store.drains import Drain

router = APIRouter(prefix="/api/v1/fabrics/{name}/staging", tags=["staging"], responses=ERRORS)
Name = Annotated[str, Path(max_length=64)]


class NeighbourKeeps(BaseModel):
    """A neighbour, and how many of its links in this direction it keeps."""

    name: str
    keeps: int
    of: int


class DrainCost(BaseModel):
    """What goes with a switch: hosts without another way, hosts with one, what its neighbours keep, and switches that nobody would reach any more."""

    dark: list[str]
    other_way: list[str]
    neighbours: list[NeighbourKeeps]
    cut_off: list[str]


class DrainView(BaseModel):
    """A switch that is drained: `told` to, `asked` about at its neighbours, `drained`, `kept` where somebody has no other way, `returns` when it is told to
    carry again."""

    switch: str
    state: Literal["told", "asked", "drained", "kept", "returns"]
    words: str
    why: str
    author: str
    began_at: datetime
    since: datetime


class DrainWhy(BaseModel):
    why: Annotated[str, Field(max_length=400)] = ""


@router.get("/drains", operation_id="listDrains")
def list_drains(name: str, at: Reading) -> list[DrainView]:
    """The switches of a fabric that are drained or on their way to be."""
    return [_view(one) for one in draining.every(at, name)]


def _view(one: Drain) -> DrainView:
    return DrainView(
        switch=one.name, state=one.state, words=one.words, why=one.why, author=one.author, began_at=one.began_at, since=one.since,
    )  # fmt: skip


@router.get("/drains/{switch}/cost", operation_id="getDrainCost")
def get_drain_cost(name: str, switch: Name, at: Reading) -> DrainCost:
    """What goes with a switch, before it is drained."""
    found = draining.cost(at, name, switch)
    return DrainCost(
        dark=list(found.dark), other_way=list(found.other_way), cut_off=list(found.cut_off),
        neighbours=[NeighbourKeeps(name=one, keeps=left, of=of) for one, left, of in found.keeps],
    )  # fmt: skip


@router.put("/drains/{switch}", operation_id="drainSwitch", status_code=204)
def drain_switch(name: str, switch: Name, said: DrainWhy, at: Staging) -> None:
    """Have a switch send others another way (RFC 8326), and its neighbours asked whether they do."""
    draining.begin(at, name, switch, said.why)


@router.delete("/drains/{switch}", operation_id="undrainSwitch", status_code=204)
def undrain_switch(name: str, switch: Name, at: Staging) -> None:
    """Have a switch carry again."""
    draining.back(at, name, switch)


@router.get("/errands/{errand}/{switch}", operation_id="readErrand", response_class=PlainTextResponse)
def read_errand(
    name: str, errand: Literal["replace", "take-out", "move"], switch: Name, at: Reading
) -> PlainTextResponse:
    """What a technician does to replace a switch, to take it out, or to move it: one page, in its order."""
    return PlainTextResponse(errands.page(at, name, switch, errand))
