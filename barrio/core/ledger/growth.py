"""How far the pools of a fabric go: what it takes of each now, what the growth that its brief declares would take, and how
many more leaves each lasts for."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from barrio.core.brief.hardware import RackGroup
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import contract_names, expand_names
from barrio.core.catalogue.model import Catalogue
from barrio.core.errors import Refused
from barrio.core.ledger.demand import demands_of
from barrio.core.ledger.pool import Family, Pool
from barrio.core.ledger.position import split_name
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


def forecast(brief: Brief, catalogue: Catalogue, pools: Mapping[str, Pool]) -> Forecast:
    """What a fabric takes of its pools, now and grown."""
    now = _wanted(brief, catalogue, pools)
    grown, refusal = now, None
    bigger = grown_brief(brief)
    if bigger is not None:
        try:
            grown = _wanted(bigger, catalogue, pools)
        except Refused as error:
            refusal = error.faults[0].message
    return Forecast(now, grown, _per_leaf(brief, catalogue, pools, now), refusal)


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


def _wanted(brief: Brief, catalogue: Catalogue, pools: Mapping[str, Pool]) -> dict[Place, int]:
    found: dict[Place, int] = {}
    for demand in demands_of(brief, expand(brief, catalogue), pools):
        if demand.pool.name in pools and demand.keys:
            place = (demand.pool.name, demand.family)
            sizes = (demand.pins[key].size if key in demand.pins else demand.size_of(key) for key in demand.keys)
            found[place] = found.get(place, 0) + sum(sizes)
    return found


def _per_leaf(
    brief: Brief, catalogue: Catalogue, pools: Mapping[str, Pool], now: Mapping[Place, int]
) -> dict[Place, float]:
    """What one more leaf of the first kind takes, by the difference that one more rack makes."""
    if not brief.racks:
        return {}
    taken = {name for group in brief.racks for name in group.rack_names}
    first = brief.racks[0]
    racks = [_more(first, 1, taken), *brief.racks[1:]]
    try:
        more = _wanted(brief.model_copy(update={"racks": racks}), catalogue, pools)
    except Refused:
        # Without room for a rack there is still what the leaves that are there take on average.
        leaves = max(1, sum(group.leaves * len(group.rack_names) for group in brief.racks))
        return {place: count / leaves for place, count in now.items()}
    pods = len(expand_names(first.pods)) if first.pods else len(brief.pod_names)
    leaves = first.leaves * pods
    return {place: (more[place] - now.get(place, 0)) / leaves for place in more if more[place] > now.get(place, 0)}
