"""The order of the work: bundles as they are best pulled, and the cables of a rack as they are best run.

Far ends first: a long bundle that is pulled late lies over all others. Bundles that share a route follow each other. Within a rack, the
bundles of far racks come before near ones and cables inside the rack last; within a bundle from the top of the rack down, port by port.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import isnan

from barrio.core.cabling.lay import Laid
from barrio.core.cabling.routing import Pair


@dataclass(frozen=True, slots=True)
class Pull:
    """A bundle to pull: its number, counted from 1 in the order of pulling, its racks, the trays on its way, its cables by their places,
    and the shortest and longest of them in metres (none where there is no way)."""

    number: int
    pair: Pair
    trays: tuple[str, ...]
    places: tuple[int, ...]
    shortest: float | None
    longest: float | None


def pulls(laid: Laid) -> tuple[Pull, ...]:
    """Every bundle, in the order in which they are pulled."""
    found = []
    for pair, places in laid.bundles.items():
        metres = [float(laid.metres[place]) for place in places if not isnan(laid.metres[place])]
        way = laid.way(places[0])
        trays = tuple(dict.fromkeys(tray for tray, _ in way.trays)) if way else ()
        found.append((pair, trays, places, min(metres, default=None), max(metres, default=None)))
    found.sort(key=lambda one: (-(one[4] or 0), sorted(one[1]), one[0]))
    return tuple(Pull(number, *one) for number, one in enumerate(found, 1))


def runs_in(laid: Laid, rack: str, numbers: Mapping[Pair, int], inside: Sequence[int]) -> list[int]:
    """The cables that end in a rack, by their places, in the order in which they are best run. `numbers` are those of the pulls, and `inside`
    the cables that do not leave it."""
    here: list[tuple[tuple[int, int, str], int]] = []
    for pair in laid.bundles_of(rack):
        here += [((numbers[pair], *_height(laid, place, rack)), place) for place in laid.bundles[pair]]
    here += [((len(numbers) + 1, *_height(laid, place, rack)), place) for place in inside]
    return [place for _, place in sorted(here)]


def _height(laid: Laid, place: int, rack: str) -> tuple[int, str]:
    """From the top of the rack down, then by label."""
    lead = laid.leads[place]
    end = lead.a if lead.a.rack == rack else lead.b
    return -end.unit, f"{len(lead.label):03d}{lead.label}"
