"""What is wrong with cables as they would be laid: no way, no part that reaches, a tray too full."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from barrio.core.brief.model import Brief
from barrio.core.cabling.choice import Need
from barrio.core.cabling.lay import Laid
from barrio.core.errors import Fault
from barrio.core.place.routes import MOST_REACH


def faults_of(laid: Laid) -> tuple[Fault, ...]:
    """Findings about the cables of a fabric whose racks have places, like ones together."""
    if laid.steps is None:
        return ()
    return (
        *_away(laid),
        *_without_way(laid),
        *_without_part(laid),
        *_through_panels(laid),
        *_not_as_wanted(laid),
        *_full(laid),
    )


def _some(names: list[str]) -> str:
    return f"{names[0]} and {len(names) - 1} more" if len(names) > 1 else names[0]


def _away(laid: Laid) -> Iterator[Fault]:
    """Racks that no tray comes near, of those with a cable to another rack."""
    wanted = {rack for pair in laid.bundles for rack in pair}
    far = [rack for rack in laid.plan.spots if rack in wanted and rack not in laid.trays.drops]
    if far:
        words = f"No tray comes within {MOST_REACH / 1000:g} m of rack {_some(far)}, so cables to other racks have no way. Lead a tray past it."
        yield Fault("rack.no-tray", words, laid.plan.spots[far[0]].path)


def _without_way(laid: Laid) -> Iterator[Fault]:
    drops = laid.trays.drops
    apart = [
        (pair, places)
        for pair, places in laid.bundles.items()
        if pair.one in drops and pair.other in drops and not np.isfinite(laid.routes.length(pair))
    ]
    if apart:
        (one, other), _ = apart[0]
        count = sum(len(places) for _, places in apart)
        rooms = {laid.plan.spots[one].hall, laid.plan.spots[other].hall}
        way = "Join their trays" if len(rooms) == 1 else f"Join {' and '.join(sorted(rooms))} by a way"
        words = f"No tray leads from rack {one} to rack {other}, and {count} cables have no way. {way}."
        yield Fault("cable.no-way", words, "ways" if len(rooms) > 1 else laid.plan.spots[one].path.split(".rows")[0])


def _without_part(laid: Laid) -> Iterator[Fault]:
    none: dict[Need, list[int]] = {}
    for place in np.flatnonzero((laid.chosen < 0) & ~np.isnan(laid.metres)).tolist():
        if laid.leads[place].via is None:
            none.setdefault(laid.leads[place].need, []).append(place)
    for need, places in none.items():
        longest = max(places, key=lambda place: laid.metres[place])
        options = laid.options[need]
        names = _some([laid.cables[place].label for place in (longest, *[one for one in places if one != longest])])
        if not options:
            legs = f" in {need.legs} legs" if need.legs > 1 else ""
            words = f"No part joins {need.one} to {need.other} at {need.speed}G{legs}, as {names} would need. Add one under cabling.parts, or choose other models."
        else:
            best = max(options, key=lambda option: option.reach)
            words = f"{names} would be {laid.metres[longest]:.1f} m, and no part reaches farther than {best.reach:g} m ({best.name}). Stand the racks nearer, or add a part under cabling.parts."
        yield Fault("cable.no-part" if not options else "cable.too-long", words, "cabling.parts")


def _through_panels(laid: Laid) -> Iterator[Fault]:
    """Links that no optics carry through the trunk that they are to go through, one finding for each trunk."""
    wrong: dict[str, list[int]] = {}
    for place in laid.cords:
        via = laid.leads[place].via
        if via is not None and laid.chosen[place] < 0 and all(via.cords):
            wrong.setdefault(via.trunk, []).append(place)
    for trunk, places in wrong.items():
        lead = laid.leads[places[0]]
        medium = lead.via.medium if lead.via else ""
        some = _some([laid.cables[place].label for place in places])
        words = f"No optics at {lead.speed}G for {lead.need.one} and {lead.need.other} reach over {medium} through trunk {trunk}, as {some} would need. Choose another medium, or take the trunk out."
        yield Fault("trunk.medium", words, f"trunks.{trunk}.medium")


def _not_as_wanted(laid: Laid) -> Iterator[Fault]:
    wanted = laid.brief.cabling.kind
    if wanted is None:
        return
    others = [
        cable.label
        for cable, lead in zip(laid.cables, laid.leads, strict=True)
        if cable.stock is not None
        and cable.use in ("fabric", "outside")
        and cable.via is None
        and cable.kind != wanted
        and lead.a.rack != lead.b.rack
    ]
    if others:
        kind = laid.cables[laid.by_label[others[0]]].kind
        words = f"The brief asks for {wanted} between racks, which does not reach or fit for {_some(others)}: there it is {kind}."
        yield Fault("cable.kind", words, "cabling.kind")


def _full(laid: Laid) -> Iterator[Fault]:
    """The fullest section of every tray that is too full."""
    worst: dict[tuple[str, str], int] = {}
    for place, fill in enumerate(laid.fills):
        key = (fill.section.hall, fill.section.run)
        if fill.area > fill.room and (key not in worst or fill.area > laid.fills[worst[key]].area):
            worst[key] = place
    for (hall, run), place in worst.items():
        fill = laid.fills[place]
        share = fill.area / fill.room * laid.brief.cabling.fill
        words = f"Tray {run} of {hall} would be {share:.0f} % full with {fill.cables} cables, and {laid.brief.cabling.fill} % is the most. Make it wider, add another beside it, or take thinner cables."
        yield Fault("tray.full", words, _width_path(laid.brief, fill.section.path))


def _width_path(brief: Brief, path: str) -> str:
    return "floor.tray_width" if path == "floor" else f"{path}.width"
