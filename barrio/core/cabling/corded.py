"""Links through panels, laid: two cords and the trunk between, and the optics that reach through all of it."""

from __future__ import annotations

from collections.abc import Mapping
from math import nan
from typing import NamedTuple

from barrio.core.brief.model import Brief
from barrio.core.cabling.choice import Choice, Need, Option
from barrio.core.cabling.plan import Lead
from barrio.core.cabling.routing import Steps, height_of
from barrio.core.place.floor import Plan


class Cords(NamedTuple):
    """The two cords of a link through panels, at its lower and its upper end: how long they have to be and which length is taken, in metres;
    and the length of the trunk between."""

    lower: float
    upper: float
    lower_stock: float
    upper_stock: float
    trunk: float


def corded(
    brief: Brief,
    found: tuple[Lead, ...],
    plan: Plan,
    steps: Steps,
    options: Mapping[Need, tuple[Option, ...]],
    chosen: Choice,
) -> dict[int, Cords]:
    """The cords of every link through panels, and with them its part: optics for the trunk's medium, as far as they reach through all."""
    trunks = {
        lead.key.removeprefix("trunk/"): float(steps.total[place]) / 1000
        for place, lead in enumerate(found)
        if lead.use == "trunk"
    }
    cords: dict[int, Cords] = {}
    for place, lead in enumerate(found):
        if lead.via is None:
            continue
        lengths = [
            (abs(height - height_of(hole.unit)) + plan.spots[hole.rack].sides[0]) / 1000 + 2 * brief.cabling.slack
            if hole.rack in plan.spots
            else nan
            for height, hole in zip(lead.heights, (lead.via.lower, lead.via.upper), strict=True)
        ]
        whole = sum(lengths) + trunks.get(lead.via.trunk, nan)
        fitting = [
            at
            for at, option in enumerate(options[lead.need])
            if option.medium == lead.via.medium
            and whole <= option.limit
            and option.stocked(max(lengths))
            and all(lead.via.cords)
        ]
        chosen.option[place], chosen.length[place] = -1, nan
        stocks = [nan, nan]
        if fitting:
            option = options[lead.need][fitting[0]]
            stocks = [option.stocked(length) or nan for length in lengths]
            chosen.option[place], chosen.length[place] = fitting[0], max(stocks)
        cords[place] = Cords(lengths[0], lengths[1], stocks[0], stocks[1], trunks.get(lead.via.trunk, nan))
    return cords
