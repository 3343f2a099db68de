"""The ledger: pools with their strips, entries, ranges, and rests; and what models of switches there are."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Query, Request
from pydantic import BaseModel, Field

from barrio.api.fabrics import ERRORS
from barrio.core.errors import refuse
from barrio.core.ledger.pool import Family, Range
from barrio.store.pools import Pools, RangeUse, Run, bound_text

router = APIRouter(prefix="/api", tags=["ledger"])


def pools_of(request: Request) -> Pools:
    found: Pools = request.app.state.pools
    return found


Ledger = Annotated[Pools, Depends(pools_of)]


class RunView(BaseModel):
    """A run of taken numbers. `start` and `end` are places on the strip, from 0 to 1."""

    start: float
    end: float
    low: str
    high: str
    first: str
    last: str
    state: str
    fabric: str
    count: int


class RangeView(BaseModel):
    """A range of a pool. Sizes are text, since IPv6 ranges pass what JSON numbers hold exactly."""

    pool: str
    range: str
    family: Family
    low: str
    high: str
    first: str
    last: str
    size: str
    held: str
    live: str
    resting: str
    free: str
    used_share: float
    runs: list[RunView]


class EntryView(BaseModel):
    id: int
    use: str
    key: str
    fabric: str
    space: str
    number: str
    state: str
    since: datetime
    rests_until: datetime | None


class StripView(BaseModel):
    first: str
    last: str
    runs: list[RunView]


Bound = Annotated[str, Query(pattern=r"^\d{1,39}$")]


class NewRange(BaseModel):
    range: str = Field(max_length=100)


class Ended(BaseModel):
    ended: int


def _range_view(use: RangeUse) -> RangeView:
    part = use.range
    taken = use.held + use.live + use.resting
    return RangeView(
        pool=use.pool,
        range=part.text,
        family=part.family,
        low=str(part.low),
        high=str(part.high),
        first=bound_text(part, part.low),
        last=bound_text(part, part.high),
        size=str(part.size),
        held=str(use.held),
        live=str(use.live),
        resting=str(use.resting),
        free=str(part.size - taken),
        used_share=taken / part.size,
        runs=_run_views(part, use.runs),
    )


def _run_views(part: Range, runs: tuple[Run, ...]) -> list[RunView]:
    return [
        RunView(
            start=(run.low - part.low) / part.size, end=(run.high + 1 - part.low) / part.size,
            low=str(run.low), high=str(run.high), first=bound_text(part, run.low), last=bound_text(part, run.high),
            state=run.state, fabric=run.fabric, count=run.count,
        )
        for run in runs
    ]  # fmt: skip


@router.get("/pools", operation_id="listPools")
def list_pools(ledger: Ledger) -> list[RangeView]:
    return [_range_view(use) for use in ledger.all()]


@router.get("/pools/{pool}/entries", operation_id="listEntries", responses=ERRORS)
def list_entries(pool: str, ledger: Ledger) -> list[EntryView]:
    return [EntryView.model_validate(entry) for entry in ledger.entries(pool)]


@router.get("/pools/{pool}/strip", operation_id="getStrip", responses=ERRORS)
def get_strip(pool: str, family: Family, low: Bound, high: Bound, ledger: Ledger) -> StripView:
    """The runs between two integers of a pool, as closely as a strip can show them."""
    if int(high) < int(low):
        raise refuse("range.reversed", "The window runs backwards.", "high")
    part, runs = ledger.window(pool, family, int(low), int(high))
    return StripView(first=bound_text(part, part.low), last=bound_text(part, part.high), runs=_run_views(part, runs))


@router.post("/pools/{pool}/ranges", operation_id="addRange", responses=ERRORS, status_code=204)
def add_range(pool: str, new: NewRange, ledger: Ledger) -> None:
    ledger.add_range(pool, new.range)


@router.post("/pools/{pool}/end-rest", operation_id="endRest", responses=ERRORS)
def end_rest(pool: str, ledger: Ledger) -> Ended:
    return Ended(ended=ledger.end_rest(pool))
