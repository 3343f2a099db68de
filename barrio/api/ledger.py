"""The ledger: pools with their strips, settings, ranges and reservations, their entries, and scopes."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Query, Request
from pydantic import BaseModel, Field

from barrio.api.fabrics import ERRORS, Store
from barrio.api.people import Who
from barrio.core import Fault
from barrio.core.checks.pools import check_range
from barrio.core.errors import refuse
from barrio.core.ledger.growth import Forecast, forecast
from barrio.core.ledger.pool import SITE, Family, Kind, Plan, Range
from barrio.store.pools import NewPool, Pools, RangeUse, Settings, bound_text, part_text
from barrio.store.strips import Run

router = APIRouter(prefix="/api", tags=["ledger"])


def pools_of(request: Request) -> Pools:
    found: Pools = request.app.state.pools
    return found


Ledger = Annotated[Pools, Depends(pools_of)]


class RunView(BaseModel):
    """A run of taken numbers. `start` and `end` are places on the strip, from 0 to 1; `state` may also be `leaving`, `kept`
    (reserved; `fabric` is then the note) or `cut` (`fabric` is then the pool cut from here)."""

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
    waiting: str
    kept: str
    free: str
    used_share: float
    findings: list[Fault]
    runs: list[RunView]


class PoolView(BaseModel):
    """A pool's settings. `rest` is in hours, `warn` a share from 0 to 1."""

    name: str
    kind: Kind
    plan: Plan
    scope: str
    parent: str | None
    private_to: str | None
    rest: float
    warn: float
    cut: list[str]


class LedgerView(BaseModel):
    pools: list[PoolView]
    ranges: list[RangeView]


class GrowthRow(BaseModel):
    """What a fabric takes of one pool and family; sizes are of integers, as text. `leaves` is how many more it lasts for."""

    pool: str
    family: Family
    now: str
    grown: str
    free: str
    share_now: float
    share_grown: float
    leaves: int | None
    low: bool
    short: bool


class GrowthView(BaseModel):
    """The pools of a fabric, the one that runs out first at the head; `refusal` says why the growth cannot be built."""

    rows: list[GrowthRow]
    refusal: str | None


class EntryView(BaseModel):
    id: int
    use: str
    key: str
    fabric: str
    space: str
    number: str
    state: str
    leaving: bool
    pinned: bool
    note: str
    since: datetime
    author: str | None
    act: str | None
    rests_until: datetime | None


class EntryPage(BaseModel):
    """Entries from an offset on, and how many there are in all."""

    total: int
    entries: list[EntryView]


class StripView(BaseModel):
    first: str
    last: str
    runs: list[RunView]


class ReservationView(BaseModel):
    id: int
    range: str
    note: str
    author: str
    at: datetime


class ScopeView(BaseModel):
    name: str
    note: str


Bound = Annotated[str, Query(pattern=r"^\d{1,39}$")]
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


class PoolSettings(BaseModel):
    """What to change; what is left out stays. `private_to` "" shares a pool again; `rest` is in hours."""

    plan: Plan | None = None
    rest: float | None = Field(None, ge=0, le=24 * 3650)
    warn: float | None = Field(None, gt=0, le=1)
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
    entries: list[int] | None = Field(None, max_length=100_000)


class Ended(BaseModel):
    ended: int


class Made(BaseModel):
    id: int


def _range_view(use: RangeUse) -> RangeView:
    part = use.range
    return RangeView(
        pool=use.pool.name, range=part.text, family=part.family, low=str(part.low), high=str(part.high),
        first=bound_text(part, part.low), last=bound_text(part, part.high), size=str(part.size), held=str(use.held),
        live=str(use.live), resting=str(use.resting), waiting=str(use.waiting), kept=str(use.kept),
        free=str(max(0, part.size - use.taken)), used_share=min(1.0, use.taken / part.size),
        findings=list(check_range(use.pool, part)), runs=_run_views(part, use.runs),
    )  # fmt: skip


def _run_views(part: Range, runs: tuple[Run, ...]) -> list[RunView]:
    return [
        RunView(
            start=max(0.0, (run.low - part.low) / part.size), end=min(1.0, (run.high + 1 - part.low) / part.size),
            low=str(run.low), high=str(run.high), first=bound_text(part, run.low), last=bound_text(part, run.high),
            state=run.state, fabric=run.fabric, count=run.count,
        )
        for run in runs
    ]  # fmt: skip


@router.get("/pools", operation_id="listPools")
def list_pools(ledger: Ledger) -> LedgerView:
    """Every pool with its settings, and every range with what is taken of it."""
    pools = ledger.known()
    children: dict[str, list[str]] = {}
    for pool in pools.values():
        if pool.parent:
            children.setdefault(pool.parent, []).append(pool.name)
    return LedgerView(
        pools=[
            PoolView(
                name=pool.name, kind=pool.kind, plan=pool.plan, scope=pool.scope, parent=pool.parent,
                private_to=pool.private_to, rest=pool.rest / timedelta(hours=1), warn=pool.warn,
                cut=children.get(pool.name, []),
            )
            for pool in pools.values()
        ],
        ranges=[_range_view(use) for use in ledger.all()],
    )  # fmt: skip


@router.post("/pools", operation_id="createPool", responses=ERRORS, status_code=204)
def create_pool(new: NewPoolBody, ledger: Ledger, who: Who) -> None:
    """Make a pool; with a parent, cut it from that one."""
    said = new.model_dump()
    ledger.create(NewPool(**{**said, "ranges": tuple(new.ranges)}), who)


@router.patch("/pools/{pool}", operation_id="changePool", responses=ERRORS, status_code=204)
def change_pool(pool: str, said: PoolSettings, ledger: Ledger, who: Who) -> None:
    """Change a pool's plan, rest, threshold or owner; no number moves."""
    rest = None if said.rest is None else timedelta(hours=said.rest)
    ledger.change(pool, Settings(said.plan, rest, said.warn, said.private_to, said.note), who)


@router.delete("/pools/{pool}", operation_id="deletePool", responses=ERRORS, status_code=204)
def delete_pool(pool: str, ledger: Ledger, who: Who) -> None:
    ledger.delete(pool, who)


@router.get("/pools/{pool}/entries", operation_id="listEntries", responses=ERRORS)
def list_entries(
    pool: str,
    ledger: Ledger,
    words: Annotated[str, Query(max_length=100)] = "",
    state: Literal["", "held", "live", "resting", "reserved"] = "",
    limit: Annotated[int, Query(ge=1, le=100_000)] = 5000,
    offset: Annotated[int, Query(ge=0)] = 0,
) -> EntryPage:
    """Entries of a pool that hold some words, lowest number first."""
    rows, total = ledger.entries(pool, words, state, limit, offset)
    for row in rows:
        row["number"] = bare(row["number"])
    return EntryPage(total=total, entries=[EntryView.model_validate(row) for row in rows])


@router.get("/pools/{pool}/strip", operation_id="getStrip", responses=ERRORS)
def get_strip(pool: str, family: Family, low: Bound, high: Bound, ledger: Ledger) -> StripView:
    """The runs between two integers of a pool, as closely as a strip can show them."""
    if int(high) < int(low):
        raise refuse("range.reversed", "The window runs backwards.", "high")
    most = {Family.V4: 2**32, Family.V6: 2**128, Family.NUMBER: 2**63}[family]
    if int(high) >= most:
        raise refuse("range.syntax", "The window ends past the last number there is.", "high")
    part, runs = ledger.window(pool, family, int(low), int(high))
    return StripView(first=bound_text(part, part.low), last=bound_text(part, part.high), runs=_run_views(part, runs))


def bare(number: str) -> str:
    """A number without the length that every address has."""
    return number.removesuffix("/128" if ":" in number else "/32")


@router.post("/pools/{pool}/ranges", operation_id="addRange", responses=ERRORS, status_code=204)
def add_range(pool: str, new: NewRange, ledger: Ledger, who: Who) -> None:
    ledger.add_range(pool, new.range, who)


@router.delete("/pools/{pool}/ranges", operation_id="dropRange", responses=ERRORS, status_code=204)
def drop_range(pool: str, range: Annotated[str, Query(max_length=100)], ledger: Ledger, who: Who) -> None:
    """Take a range out again, when nothing of it is taken."""
    ledger.drop_range(pool, range, who)


@router.get("/pools/{pool}/reservations", operation_id="listReservations", responses=ERRORS)
def list_reservations(pool: str, ledger: Ledger) -> list[ReservationView]:
    return [
        ReservationView(id=one.id, range=part_text(one.range), note=one.note, author=one.author, at=one.at)
        for one in ledger.reservations(pool)
    ]


@router.post("/pools/{pool}/reservations", operation_id="reserve", responses=ERRORS, status_code=201)
def reserve(pool: str, new: NewReservation, ledger: Ledger, who: Who) -> Made:
    """Keep a span from being handed out."""
    return Made(id=ledger.reserve(pool, new.range, new.note, who))


@router.delete("/reservations/{reservation}", operation_id="endReservation", responses=ERRORS, status_code=204)
def end_reservation(reservation: int, ledger: Ledger, who: Who) -> None:
    ledger.end_reservation(reservation, who)


@router.post("/pools/{pool}/end-rest", operation_id="endRest", responses=ERRORS)
def end_rest(pool: str, asked: EndRest, ledger: Ledger, who: Who) -> Ended:
    """Let resting numbers be taken again before their time, with a reason."""
    return Ended(ended=ledger.end_rest(pool, who, asked.reason, asked.entries))


@router.get("/scopes", operation_id="listScopes")
def list_scopes(ledger: Ledger) -> list[ScopeView]:
    return [ScopeView(name=name, note=note) for name, note in ledger.scopes()]


@router.post("/scopes", operation_id="createScope", responses=ERRORS, status_code=204)
def create_scope(new: NewScope, ledger: Ledger, who: Who) -> None:
    """Make a scope: a set of numbers that may be the same as those of another."""
    ledger.add_scope(new.name, new.note, who)


@router.get("/fabrics/{name}/growth", operation_id="getGrowth", responses=ERRORS)
def get_growth(name: str, store: Store, ledger: Ledger) -> GrowthView:
    """How full the pools of a fabric are now and at its declared growth, and how many more leaves each lasts for."""
    compiled = store.compiled(store.draft(name))
    found = forecast(compiled.brief, compiled.catalogue, compiled.pools, compiled.demands)
    free: dict[tuple[str, Family], int] = {}
    size: dict[tuple[str, Family], int] = {}
    warn: dict[str, float] = {}
    for use in ledger.all():
        place = (use.pool.name, use.range.family)
        free[place] = free.get(place, 0) + max(0, use.range.size - use.taken)
        size[place] = size.get(place, 0) + use.range.size
        warn[use.pool.name] = use.pool.warn
    for place, count in found.now.items():
        if compiled.pools[place[0]].kind is Kind.VLAN:
            # Every fabric has all VLANs for itself.
            free[place] = size.get(place, 0) - count
    rows = [_growth_row(place, found, free[place], size[place], warn[place[0]]) for place in found.now if place in size]
    endless = 1 << 62
    return GrowthView(
        rows=sorted(rows, key=lambda row: endless if row.leaves is None else row.leaves), refusal=found.refusal
    )


def _growth_row(place: tuple[str, Family], found: Forecast, free: int, size: int, warn: float) -> GrowthRow:
    now, grown, each = found.now[place], found.grown.get(place, 0), found.per_leaf.get(place, 0)
    taken = size - free
    share = (taken + max(0, grown - now)) / size
    return GrowthRow(
        pool=place[0], family=place[1], now=str(now), grown=str(grown), free=str(free), share_now=min(1, taken / size),
        share_grown=share, leaves=int(free / each) if each else None, low=share >= warn, short=grown - now > free,
    )  # fmt: skip
