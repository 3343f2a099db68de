"""Lay the cables of a fabric: places, routes, lengths and parts put together, and what is wrong with them.

This is the front door of `cabling`. It is worked out when somebody looks at cables, once for each state of a fabric.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from math import isnan, nan, pi, sqrt
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from barrio.core.brief.model import Brief
from barrio.core.cabling.choice import Choice, Need, Option, choose, options_for
from barrio.core.cabling.corded import Cords, corded
from barrio.core.cabling.plan import COPPER, POWER, Cable, Lead, cable_kind
from barrio.core.cabling.routing import (
    Pair,
    Route,
    Routes,
    Spread,
    Steps,
    routes_between,
    steps_of,
    with_room,
)
from barrio.core.catalogue.cables import PartList
from barrio.core.catalogue.madeparts import MADE_PARTS
from barrio.core.place.floor import XY, Plan, floor_plan, mm, racks_of
from barrio.core.place.routes import Section, Trays, trays_of
from barrio.core.structure.parts import Structure

Floats = NDArray[np.float64]


class Way(NamedTuple):
    """How one cable goes, in metres; `trays` are the trays that it lies in, in order, with what it goes along each."""

    up: float
    aside: float
    along: float
    down: float
    slack: float
    trays: tuple[tuple[str, float], ...]
    around: bool


class Fill(NamedTuple):
    """How full a section of tray is: mm² of cable against the mm² that may be filled."""

    section: Section
    area: float
    room: float
    cables: int


@dataclass(frozen=True)
class Laid:
    """All cables of a fabric with their ways. `leads`, `cables`, `chosen` (the place of an option, -1 for none) and `metres` (the length that
    counts: measured, or worked out) stand in the same order, that of the labels."""

    brief: Brief
    leads: tuple[Lead, ...]
    cables: tuple[Cable, ...]
    plan: Plan
    trays: Trays
    routes: Routes
    steps: Steps | None
    options: Mapping[Need, tuple[Option, ...]]
    chosen: NDArray[np.int64]
    metres: Floats
    parts: PartList
    measured: Mapping[str, float] = field(default_factory=dict)
    cords: Mapping[int, Cords] = field(default_factory=dict)

    @cached_property
    def by_label(self) -> dict[str, int]:
        """The place of each cable by its label."""
        return {cable.label: place for place, cable in enumerate(self.cables)}

    @property
    def placed(self) -> bool:
        """Whether the brief says where racks stand."""
        return self.steps is not None

    def option(self, place: int) -> Option | None:
        """What a cable is made of; nothing when no part reaches, or racks have no places."""
        chosen = int(self.chosen[place])
        return self.options[self.leads[place].need][chosen] if chosen >= 0 else None

    def way(self, place: int) -> Way | None:
        """How a cable goes; nothing when its length is unknown."""
        steps, lead = self.steps, self.leads[place]
        if steps is None or np.isnan(steps.total[place]):
            return None
        up, aside, along, down = (
            float(part[place]) / 1000 for part in (steps.up, steps.aside, steps.along, steps.down)
        )
        route = self.route(place)
        trays: list[tuple[str, float]] = []
        for index in route.sections if route else ():
            section = self.trays.sections[index]
            if trays and trays[-1][0] == section.run:
                trays[-1] = (section.run, trays[-1][1] + section.length / 1000)
            elif section.length:
                trays.append((section.run, section.length / 1000))
        if route and lead.a.rack != pair_of(lead).one:
            trays.reverse()
        return Way(up, aside, along, down, steps.slack / 1000, tuple(trays), bool(route and route.around))

    def route(self, place: int) -> Route | None:
        """The route of a cable's bundle; nothing inside a rack."""
        lead = self.leads[place]
        return None if lead.a.rack == lead.b.rack else self.routes.of(pair_of(lead))

    def points(self, place: int) -> list[XY]:
        """The way of a cable over the plan, in mm: from one port to the tray, along it, and to the other port."""
        lead, route = self.leads[place], self.route(place)
        ends = [
            self.plan.spots[end.rack].face(face == "rear")
            for end, face in zip((lead.a, lead.b), lead.faces, strict=True)
        ]
        if route is None:
            return ends
        drops = [self.trays.drops[end.rack] for end in (lead.a, lead.b)]
        walked = [drops[0].at]
        sections = route.sections if lead.a.rack == pair_of(lead).one else route.sections[::-1]
        for at in sections:
            section = self.trays.sections[at]
            walked += [section.end, section.start] if walked[-1] == section.end else [section.start, section.end]
        return list(dict.fromkeys([ends[0], *walked, drops[1].at, ends[1]]))

    def thickness(self, places: Iterable[int]) -> float:
        """How thick these cables are together, in mm: a round bundle of cables lies four fifths full."""
        options = (self.option(place) for place in places)
        area = sum(option.diameter**2 for option in options if option is not None)
        return float(sqrt(area / 0.8))

    @cached_property
    def bundles(self) -> dict[Pair, tuple[int, ...]]:
        """The cables between each two racks, by their places."""
        found: dict[Pair, list[int]] = {}
        for place, lead in enumerate(self.leads):
            if runs_between(lead):
                found.setdefault(pair_of(lead), []).append(place)
        return {pair: tuple(places) for pair, places in found.items()}

    def bundles_of(self, rack: str) -> Sequence[Pair]:
        """The bundles that leave a rack."""
        return self._by_rack.get(rack, ())

    @cached_property
    def _by_rack(self) -> dict[str, list[Pair]]:
        found: dict[str, list[Pair]] = {}
        for pair in self.bundles:
            for rack in pair:
                found.setdefault(rack, []).append(pair)
        return found

    @cached_property
    def inside(self) -> dict[str, list[int]]:
        """The cables that do not leave their rack, by their places; one through panels is a cord in each of its two."""
        found: dict[str, list[int]] = {}
        for place, lead in enumerate(self.leads):
            if not runs_between(lead):
                for rack in dict.fromkeys((lead.a.rack, lead.b.rack)):
                    found.setdefault(rack, []).append(place)
        return found

    @cached_property
    def fills(self) -> tuple[Fill, ...]:
        """How full each section of tray is that a cable lies in, or that could take some."""
        counts = self.routes.tally({pair: float(len(places)) for pair, places in self.bundles.items()})
        may = self.brief.cabling.fill / 100
        return tuple(
            Fill(section, float(self.routes.load[at]), section.room * may, int(counts[at]))
            for at, section in enumerate(self.trays.sections)
        )


def runs_between(lead: Lead) -> bool:
    """Whether a cable lies in trays from one rack to another by itself."""
    return bool(lead.a.rack and lead.b.rack) and lead.a.rack != lead.b.rack and lead.via is None


def pair_of(lead: Lead) -> Pair:
    """The bundle of a cable: its two racks, in the order of their names."""
    one, other = lead.a.rack, lead.b.rack
    return Pair(one, other) if one < other else Pair(other, one)


def lay(brief: Brief, structure: Structure, found: tuple[Lead, ...]) -> Laid:
    """All cables of a fabric, with their lengths and parts where racks have places."""
    plan = floor_plan(brief, racks_of(brief, structure))
    parts = MADE_PARTS.with_parts(brief.cabling.parts) if brief.cabling.parts.by_id else MADE_PARTS
    if not plan.spots:
        cables = tuple(_unplaced(brief, lead) for lead in found)
        trays = trays_of(plan)
        none, unknown = np.full(len(found), -1), np.full(len(found), nan)
        return Laid(brief, found, cables, plan, trays, Routes(trays), None, {}, none, unknown, parts)
    return _placed(brief, found, plan, parts)


def with_measured(laid: Laid, measured: Mapping[str, float]) -> Laid:
    """The same cables, with lengths in metres that somebody measured, by the key of a link, in place of those worked out."""
    # What goes through panels is two cords and a trunk; no one length says anything of it.
    places = {
        place: measured[lead.key] for place, lead in enumerate(laid.leads) if lead.key in measured and lead.via is None
    }
    if laid.steps is None or not places:
        return replace(laid, measured=measured) if measured else laid
    metres, chosen, cables = laid.metres.copy(), laid.chosen.copy(), list(laid.cables)
    for place, length in places.items():
        lead = laid.leads[place]
        wanted = None if lead.a.rack == lead.b.rack or lead.need in (COPPER, POWER) else laid.brief.cabling.kind
        found = choose(laid.options[lead.need], np.array([length]), wanted)
        metres[place], chosen[place] = length, found.option[0]
        option = laid.options[lead.need][int(found.option[0])] if found.option[0] >= 0 else None
        worked_out = laid.cables[place].length
        cables[place] = _cable(
            laid.brief, lead, nan if worked_out is None else worked_out, float(found.length[0]), option
        )
    return replace(laid, metres=metres, chosen=chosen, cables=tuple(cables), measured=dict(measured))


def _unplaced(brief: Brief, lead: Lead) -> Cable:
    kind = cable_kind(brief, lead.a.rack, lead.b.rack)
    kind = {"management": "copper", "console": "copper", "power": "power"}.get(lead.use, kind)
    return Cable(lead.label, lead.a, lead.b, lead.speed, kind, lead.key, plug=lead.plug, use=lead.use, via=lead.via)


def _placed(brief: Brief, found: tuple[Lead, ...], plan: Plan, parts: PartList) -> Laid:
    trays = trays_of(plan)
    pairs = sorted({pair_of(lead) for lead in found if runs_between(lead)})
    routes = routes_between(trays, pairs)
    options = {need: options_for(need, parts) for need in dict.fromkeys(lead.need for lead in found)}
    spread, slack = _spread(found, plan), mm(brief.cabling.slack)
    steps = steps_of(spread, plan, routes, slack)
    metres = steps.total / 1000
    chosen = _chosen(brief, found, options, metres)
    if _load(found, routes, options, chosen, brief.cabling.fill):
        steps = steps_of(spread, plan, routes, slack)
        metres = steps.total / 1000
        chosen = _chosen(brief, found, options, metres)
    worked_out = np.ceil(steps.total / 100) / 10
    cords = corded(brief, found, plan, steps, options, chosen)
    for place, cord in cords.items():
        worked_out[place] = np.ceil((cord.lower + cord.trunk + cord.upper) * 10) / 10
        metres[place] = cord.lower + cord.trunk + cord.upper
    cables = tuple(
        _cable(brief, lead, length, stock, options[lead.need][option] if option >= 0 else None)
        for lead, length, stock, option in zip(
            found, worked_out.tolist(), chosen.length.tolist(), chosen.option.tolist(), strict=True
        )
    )
    return Laid(brief, found, cables, plan, trays, routes, steps, options, chosen.option, metres, parts, cords=cords)


def _cable(brief: Brief, lead: Lead, length: float, stock: float, option: Option | None) -> Cable:
    if option is None:
        return Cable(
            lead.label, lead.a, lead.b, lead.speed, "none fits", lead.key, _known(length), plug=lead.plug, use=lead.use
        )
    return Cable(
        lead.label,
        lead.a,
        lead.b,
        lead.speed,
        option.kind,
        lead.key,
        _known(length),
        stock,
        option.name,
        lead.plug,
        lead.use,
        lead.via,
    )


def _known(length: float) -> float | None:
    return None if isnan(length) else length


def _chosen(
    brief: Brief, found: tuple[Lead, ...], options: Mapping[Need, tuple[Option, ...]], metres: Floats
) -> Choice:
    """The part of every cable. What the brief wants for cables between racks counts between racks alone; a DAC is enough inside one."""
    option, length = np.full(len(found), -1, dtype=np.int64), np.full(len(found), nan)
    alike: dict[tuple[Need, bool], list[int]] = {}
    for place, lead in enumerate(found):
        alike.setdefault((lead.need, lead.a.rack == lead.b.rack), []).append(place)
    for (need, inside), places in alike.items():
        chosen = choose(
            options[need], metres[places], None if inside or need in (COPPER, POWER) else brief.cabling.kind
        )
        option[places], length[places] = chosen.option, chosen.length
    return Choice(option, length)


def _load(
    found: tuple[Lead, ...],
    routes: Routes,
    options: Mapping[Need, tuple[Option, ...]],
    chosen: Choice,
    fill: int,
) -> bool:
    """Fill the trays, leading bundles round full ones; whether any was led round."""
    areas: dict[Pair, float] = dict.fromkeys(routes.lengths, 0.0)
    for lead, option in zip(found, chosen.option.tolist(), strict=True):
        if option >= 0 and runs_between(lead):
            areas[pair_of(lead)] += pi / 4 * options[lead.need][option].diameter ** 2
    with_room(routes, areas, fill)
    return bool(routes.around)


def _spread(found: tuple[Lead, ...], plan: Plan) -> Spread:
    racks = dict.fromkeys(end.rack for lead in found for end in (lead.a, lead.b))
    place = {rack: at for at, rack in enumerate(racks)}
    return Spread(
        tuple(racks),
        np.array([place[lead.a.rack] for lead in found], dtype=np.int64),
        np.array([place[lead.b.rack] for lead in found], dtype=np.int64),
        np.array([lead.heights[0] for lead in found]),
        np.array([lead.heights[1] for lead in found]),
        np.array([lead.faces[0] == "rear" for lead in found]),
        np.array([lead.faces[1] == "rear" for lead in found]),
    )
