"""The shapes in which pools, their ranges, entries and reservations are shown."""

from __future__ import annotations

from datetime import datetime, timedelta

from pydantic import BaseModel

from barrio.core import Fault
from barrio.core.checks.pools import check_range
from barrio.core.ledger.pool import Family, Kind, Plan, Pool, Range, bound_text
from barrio.store.pools import RangeUse
from barrio.store.records import Entry
from barrio.store.strips import Run


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


class EntryPage(BaseModel):
    """Entries from an offset on, and how many there are in all."""

    total: int
    entries: list[Entry]


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


def pool_view(pool: Pool, children: list[str]) -> PoolView:
    return PoolView(
        name=pool.name, kind=pool.kind, plan=pool.plan, scope=pool.scope, parent=pool.parent, private_to=pool.private_to,
        rest=pool.rest / timedelta(hours=1), warn=pool.warn, cut=children,
    )  # fmt: skip


def range_view(use: RangeUse) -> RangeView:
    part = use.range
    return RangeView(
        pool=use.pool.name, range=part.text, family=part.family, low=str(part.low), high=str(part.high),
        first=bound_text(part, part.low), last=bound_text(part, part.high), size=str(part.size), held=str(use.held),
        live=str(use.live), resting=str(use.resting), waiting=str(use.waiting), kept=str(use.kept),
        free=str(max(0, part.size - use.taken)), used_share=min(1.0, use.taken / part.size),
        findings=list(check_range(use.pool, part)), runs=run_views(part, use.runs),
    )  # fmt: skip


def run_views(part: Range, runs: tuple[Run, ...]) -> list[RunView]:
    return [
        RunView(
            start=max(0.0, (run.low - part.low) / part.size), end=min(1.0, (run.high + 1 - part.low) / part.size),
            low=str(run.low), high=str(run.high), first=bound_text(part, run.low), last=bound_text(part, run.high),
            state=run.state, fabric=run.fabric, count=run.count,
        )
        for run in runs
    ]  # fmt: skip
