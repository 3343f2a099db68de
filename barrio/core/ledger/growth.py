"""How far the pools of a fabric go: what it takes of each now, what the growth that its brief declares would take, and how
many more leaves each lasts for."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from barrio.core.brief.hardware import RackGroup
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import contract_names, expand_names
from barrio.core.catalogue.model import Catalogue
from barrio.core.errors import Refused
from barrio.core.ledger.demand import demands_of
from barrio.core.ledger.pool import Family, Pool
from barrio.core.ledger.position import split_name
from barrio.core.ledger.wanted import Demand
from barrio.core.structure.expand import expand

Place = tuple[str, Family]
"""A pool and a family of it."""


@dataclass(frozen=True, slots=True)
class Forecast:
    """Integers (addresses or numbers) that one fabric takes of each pool and family: now, at its declared growth, and for
    one more leaf. `refusal` says why the growth cannot be built at all, in words; then `grown` is what is there now."""

    now: Mapping[Place, int]
    grown: Mapping[Place, int]
    per_leaf: Mapping[Place, float]
    refusal: str | None = None


def forecast(
    brief: Brief, catalogue: Catalogue, pools: Mapping[str, Pool], demands: Sequence[Demand] | None = None
) -> Forecast:
    """What a fabric takes of its pools, now and grown; `demands` are those of its compile, when that is at hand."""
    now = _sums(_demands(brief, catalogue, pools) if demands is None else demands, pools)
    grown, refusal = now, None
    bigger = grown_brief(brief)
    if bigger is not None:
        try:
            grown = _sums(_demands(bigger, catalogue, pools), pools)
        except Refused as error:
            refusal = error.faults[0].message
    return Forecast(now, grown, _per_leaf(brief, catalogue, pools), refusal)


def grown_brief(brief: Brief) -> Brief | None:
    """The brief with the growth that it declares built; None when it declares none."""
    spines, supers = brief.spines, brief.super_spines
    some = brief.pods_growth or spines.growth or (supers and supers.growth) or any(one.growth for one in brief.racks)
    if not some:
        return None
    taken = {name for group in brief.racks for name in group.rack_names}
    return brief.model_copy(
        update={
            "pods": _longer(brief.pods, brief.pods_growth, set(brief.pod_names)) if brief.pods else None,
            "pods_growth": 0,
            "spines": spines.model_copy(update={"count": min(64, spines.count + spines.growth), "growth": 0}),
            "super_spines": supers
            and supers.model_copy(update={"per_plane": min(64, supers.per_plane + supers.growth), "growth": 0}),
            "racks": [_more(group, group.growth, taken) for group in brief.racks],
        }
    )


def _more(group: RackGroup, count: int, taken: set[str]) -> RackGroup:
    return group.model_copy(update={"racks": _longer(group.racks, count, taken), "growth": 0})


def _longer(names: str, count: int, taken: set[str]) -> str:
    """Names and as many more in their manner; those are then taken."""
    have = list(expand_names(names))
    stem, number = split_name(have[-1])
    width = len(have[-1]) - len(stem)
    while count:
        number += 1
        name = f"{stem}{number:0{width}d}"
        if name not in taken:
            have.append(name)
            taken.add(name)
            count -= 1
    return contract_names(tuple(have))


def _demands(brief: Brief, catalogue: Catalogue, pools: Mapping[str, Pool]) -> list[Demand]:
    return demands_of(brief, expand(brief, catalogue), pools)


def _sums(demands: Iterable[Demand], pools: Mapping[str, Pool]) -> dict[Place, int]:
    found: dict[Place, int] = {}
    for demand in demands:
        if demand.pool.name in pools and demand.keys:
            place = (demand.pool.name, demand.family)
            own = {key: demand.pins[key].size for key in demand.keys if key in demand.pins} if demand.pins else {}
            odd = {key: size for key, size in demand.sizes.items() if key not in own}
            plain = len(demand.keys) - len(own) - len(odd)
            found[place] = found.get(place, 0) + plain * demand.size + sum(own.values()) + sum(odd.values())
    return found


def _per_leaf(brief: Brief, catalogue: Catalogue, pools: Mapping[str, Pool]) -> dict[Place, float]:
    """What one more leaf of the first kind takes: the difference between one rack of it and two, with nothing else there."""
    if not brief.racks:
        return {}
    first = brief.racks[0].model_copy(update={"growth": 0})
    left_out = ("segments", "vrfs", "outside", "names", "models", "ports", "out_of_service", "planned_later")
    alone: dict[str, object] = {field: {} for field in left_out}
    one = first.model_copy(update={"racks": first.rack_names[0]})
    two = _more(one, 1, {first.rack_names[0]})
    try:
        less, more = (
            _sums(_demands(brief.model_copy(update={**alone, "racks": [group]}), catalogue, pools), pools)
            for group in (one, two)
        )
    except Refused:
        return {}
    leaves = first.leaves * (len(expand_names(first.pods)) if first.pods else len(brief.pod_names))
    return {place: (more[place] - less.get(place, 0)) / leaves for place in more if more[place] > less.get(place, 0)}
