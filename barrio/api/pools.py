"""Pools: settings, ranges and reservations, their entries and strips, and scopes."""

from __future__ import annotations

from datetime import timedelta
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from fastapi import Path as ApiPath
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, KeepingPools, Looking
from barrio.api.paging import PAGED, Paged
from barrio.api.poolviews import (
    EntryPage,
    LedgerView,
    PoolView,
    ReservationView,
    StripView,
    pool_view,
    range_view,
    run_views,
)  # fmt: skip
from barrio.app import poolchanges, pools
from barrio.app.desk import Desk
from barrio.app.poolchanges import NewPool, PoolSettings
from barrio.core.errors import refuse
from barrio.core.ledger.pool import SITE, Family, Kind, Plan, Pool, Range, bound_text, part_text

router = APIRouter(prefix="/api/v1", tags=["pools"], responses=ERRORS)


class ScopeView(BaseModel):
    name: str
    note: str


Bound = Annotated[str, Query(pattern=r"^\d{1,39}$")]
Id = Annotated[int, ApiPath(ge=0, lt=2**63)]
Words = Annotated[str, Field(max_length=300, pattern=r"^[^\x00-\x1f]*$")]
ScopeName = Annotated[str, Field(pattern=r"^[a-z][a-z0-9-]{0,30}$")]
PoolName = Annotated[str, Field(pattern=r"^[a-z]([a-z0-9-]{0,61}[a-z0-9])?$")]


class NewRange(BaseModel):
    range: str = Field(max_length=100)


class NewPoolBody(BaseModel):
    name: PoolName
    ranges: list[Annotated[str, Field(max_length=100)]] = Field(min_length=1, max_length=200)
    kind: Kind = Kind.ADDRESSES
    plan: Plan = Plan.LOWEST
    scope: ScopeName = SITE
    parent: PoolName | None = None
    private_to: PoolName | None = None
    note: Words = ""


class PoolChange(BaseModel):
    """What to change; what is left out stays. `private_to` "" shares a pool again; `rest` is in hours."""

    plan: Plan | None = None
    rest: float | None = Field(None, ge=0, le=24 * 3650)
    warn: float | None = Field(None, ge=0.001, le=1)
    private_to: str | None = Field(None, max_length=63)
    note: Words | None = None


class NewReservation(BaseModel):
    range: str = Field(max_length=200)
    note: Words = Field(min_length=1)


class NewScope(BaseModel):
    name: ScopeName
    note: Words = ""


class EndRest(BaseModel):
    """Which entries may be taken again, all of the pool's when left out; and why, for the record."""

    reason: Words = Field(min_length=1)
    entries: list[Annotated[int, Field(ge=0, lt=2**63)]] | None = Field(None, max_length=100_000)


class Ended(BaseModel):
    ended: int


class Made(BaseModel):
    id: int


@router.get("/pools", operation_id="listPools")
def list_pools(at: Looking) -> LedgerView:
    """Every pool with its settings, and every range with what is taken of it."""
    known, uses = pools.ledger(at)
    return LedgerView(pools=_pool_views(known), ranges=[range_view(use) for use in uses])


def _pool_views(known: dict[str, Pool]) -> list[PoolView]:
    children: dict[str, list[str]] = {}
    for pool in known.values():
        if pool.parent:
            children.setdefault(pool.parent, []).append(pool.name)
    return [pool_view(pool, children.get(pool.name, [])) for pool in known.values()]


def _pool(at: Desk, name: str) -> PoolView:
    return next(view for view in _pool_views(pools.known(at)) if view.name == name)


@router.post("/pools", operation_id="createPool", status_code=201)
def create_pool(new: NewPoolBody, at: KeepingPools) -> PoolView:
    """Make a pool; with a parent, cut it from that one."""
    poolchanges.create(at, NewPool(**{**new.model_dump(), "ranges": tuple(new.ranges)}))
    return _pool(at, new.name)


@router.patch("/pools/{pool}", operation_id="changePool")
def change_pool(pool: str, said: PoolChange, at: KeepingPools) -> PoolView:
    """Change a pool's plan, rest, threshold or owner; no number moves."""
    rest = None if said.rest is None else timedelta(hours=said.rest)
    poolchanges.change(at, pool, PoolSettings(said.plan, rest, said.warn, said.private_to, said.note))
    return _pool(at, pool)


@router.delete("/pools/{pool}", operation_id="deletePool", status_code=204)
def delete_pool(pool: str, at: KeepingPools) -> None:
    poolchanges.delete(at, pool)


@router.get("/pools/{pool}/entries", operation_id="listEntries")
def list_entries(
    pool: str,
    at: Looking,
    words: Annotated[str, Query(max_length=100)] = "",
    state: Literal["", "held", "live", "resting", "reserved"] = "",
    limit: Annotated[int, Query(ge=1, le=100_000)] = 5000,
    offset: Annotated[int, Query(ge=0, le=1_000_000_000)] = 0,
) -> EntryPage:
    """Entries of a pool that hold some words, lowest number first."""
    rows, total = pools.page(at, pool, words, state, limit, offset)
    return EntryPage(total=total, entries=rows)


@router.get("/pools/{pool}/strip", operation_id="getStrip")
def get_strip(pool: str, family: Family, low: Bound, high: Bound, at: Looking) -> StripView:
    """The runs between two integers of a pool, as closely as a strip can show them."""
    if int(high) < int(low):
        raise refuse("range.reversed", "The window runs backwards.", "high")
    most = {Family.V4: 2**32, Family.V6: 2**128, Family.NUMBER: 2**63}[family]
    if int(high) >= most:
        raise refuse("range.syntax", "The window ends past the last number there is.", "high")
    part = Range(family, int(low), int(high))
    runs = run_views(part, pools.window(at, pool, part))
    return StripView(first=bound_text(part, part.low), last=bound_text(part, part.high), runs=runs)


@router.post("/pools/{pool}/ranges", operation_id="addRange", status_code=201)
def add_range(pool: str, new: NewRange, at: KeepingPools) -> NewRange:
    """Add a range to a pool; answers with it."""
    poolchanges.add_range(at, pool, new.range)
    return new


@router.delete("/pools/{pool}/ranges", operation_id="dropRange", status_code=204)
def drop_range(pool: str, range: Annotated[str, Query(max_length=100)], at: KeepingPools) -> None:
    """Take a range out again, when nothing of it is taken."""
    poolchanges.drop_range(at, pool, range)


@router.get("/pools/{pool}/reservations", operation_id="listReservations", responses=PAGED)
def list_reservations(pool: str, at: Looking, page: Paged) -> list[ReservationView]:
    return [
        ReservationView(id=one.id, range=part_text(one.range), note=one.note, author=one.author, at=one.at)
        for one in page.of(pools.reservations(at, pool))
    ]


@router.post("/pools/{pool}/reservations", operation_id="reserve", status_code=201)
def reserve(pool: str, new: NewReservation, at: KeepingPools) -> Made:
    """Keep a span from being handed out."""
    return Made(id=poolchanges.reserve(at, pool, new.range, new.note))


@router.delete("/reservations/{reservation}", operation_id="endReservation", status_code=204)
def end_reservation(reservation: Id, at: KeepingPools) -> None:
    poolchanges.end_reservation(at, reservation)


@router.post("/pools/{pool}/end-rest", operation_id="endRest")
def end_rest(pool: str, asked: EndRest, at: KeepingPools) -> Ended:
    """Let resting numbers be taken again before their time, with a reason."""
    return Ended(ended=poolchanges.end_rest(at, pool, asked.reason, asked.entries))


@router.get("/scopes", operation_id="listScopes")
def list_scopes(at: Looking) -> list[ScopeView]:
    return [ScopeView(name=name, note=note) for name, note in pools.scopes(at)]


@router.post("/scopes", operation_id="createScope", status_code=201)
def create_scope(new: NewScope, at: KeepingPools) -> ScopeView:
    """Make a scope: a set of numbers that may be the same as those of another."""
    poolchanges.add_scope(at, new.name, new.note)
    return ScopeView(name=new.name, note=new.note)
