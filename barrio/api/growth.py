"""How far the pools of a fabric go."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.app import growth
from barrio.core.ledger.pool import Family

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["pools"], responses=ERRORS)


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


@router.get("/growth", operation_id="getGrowth")
def get_growth(name: str, at: Reading) -> GrowthView:
    """How full the pools of a fabric are now and at its declared growth, and how many more leaves each lasts for."""
    found = growth.of(at, name)
    return GrowthView(rows=[_row(one) for one in found.pools], refusal=found.refusal)


def _row(one: growth.PoolGrowth) -> GrowthRow:
    return GrowthRow(
        pool=one.pool, family=one.family, now=str(one.now), grown=str(one.grown), free=str(one.free),
        share_now=one.share_now, share_grown=one.share_grown, leaves=one.leaves, low=one.low, short=one.short,
    )  # fmt: skip
