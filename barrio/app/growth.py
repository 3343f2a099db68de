"""How full the pools of a fabric are, now and at the growth that its brief declares, beside all that others take."""

from __future__ import annotations

from dataclasses import dataclass

from barrio.app import pools
from barrio.app.desk import Desk
from barrio.core.ledger.growth import Forecast, forecast
from barrio.core.ledger.pool import Family, Kind


@dataclass(frozen=True, slots=True)
class PoolGrowth:
    """What a fabric takes of one pool and family, in integers. `leaves` is how many more leaves it lasts for, if it ends."""

    pool: str
    family: Family
    now: int
    grown: int
    free: int
    size: int
    warn: float
    leaves: int | None

    @property
    def share_now(self) -> float:
        return min(1, (self.size - self.free) / self.size)

    @property
    def share_grown(self) -> float:
        return (self.size - self.free + max(0, self.grown - self.now)) / self.size

    @property
    def low(self) -> bool:
        """Whether it is past the share that its pool warns at, once grown."""
        return self.share_grown >= self.warn

    @property
    def short(self) -> bool:
        """Whether the growth does not fit."""
        return self.grown - self.now > self.free


@dataclass(frozen=True, slots=True)
class Growth:
    """The pools of a fabric, the one that runs out first at the head; `refusal` says why the growth cannot be built."""

    pools: list[PoolGrowth]
    refusal: str | None


def of(desk: Desk, name: str) -> Growth:
    """The growth of a fabric. Raises `Missing`, or `Refused` for a draft that cannot be read."""
    with desk.reading() as tx:
        compiled = tx.compiled(tx.draft(name))
        uses = pools.overview_in(desk.house, tx)
    found = forecast(compiled.brief, compiled.catalogue, compiled.pools, compiled.demands)
    free: dict[tuple[str, Family], int] = {}
    size: dict[tuple[str, Family], int] = {}
    for use in uses:
        place = (use.pool.name, use.range.family)
        free[place] = free.get(place, 0) + max(0, use.range.size - use.taken)
        size[place] = size.get(place, 0) + use.range.size
    for place, count in found.now.items():
        if compiled.pools[place[0]].kind is Kind.VLAN:
            # Every fabric has all VLANs for itself.
            free[place] = size.get(place, 0) - count
    rows = [
        _row(place, found, free[place], size[place], compiled.pools[place[0]].warn)
        for place in found.now
        if place in size
    ]
    endless = 1 << 62
    return Growth(sorted(rows, key=lambda row: endless if row.leaves is None else row.leaves), found.refusal)


def _row(place: tuple[str, Family], found: Forecast, free: int, size: int, warn: float) -> PoolGrowth:
    now, grown, each = found.now[place], found.grown.get(place, 0), found.per_leaf.get(place, 0)
    return PoolGrowth(*place, now, grown, free, size, warn, int(free / each) if each else None)
