"""Which units of a rack each switch stands in: those that the brief says, the rest by its rule around what stands there already."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from barrio.core.brief.model import Brief
from barrio.core.brief.place import EVERY_RACK, Cabinet, Placing
from barrio.core.brief.ranges import expand_names
from barrio.core.structure.parts import Switch


def stand_up(brief: Brief, switches: Sequence[Switch]) -> list[Switch]:
    """The switches, each with its lowest unit. What finds no room stands at the bottom; the checks say so."""
    cabinets = {rack: said for racks, said in brief.cabinets.items() for rack in expand_names(racks)}
    plain = cabinets.get(EVERY_RACK) or Cabinet()
    full: dict[str, int] = {}
    for said in brief.gear.values():
        for rack in expand_names(said.rack):
            full[rack] = full.get(rack, 0) | _mask(said.unit, said.units)
    wanted = [_said(brief, switch) for switch in switches]
    for switch, unit in zip(switches, wanted, strict=True):
        if unit:
            full[switch.rack] = full.get(switch.rack, 0) | _mask(unit, switch.type.units)
    stood: list[Switch] = []
    for switch, said_unit in zip(switches, wanted, strict=True):
        unit = said_unit
        if not unit:
            taken, height = full.get(switch.rack, 0), cabinets.get(switch.rack, plain).units
            unit = _free(taken, height, switch.type.units, brief.placing)
            full[switch.rack] = taken | _mask(unit, switch.type.units)
        stood.append(switch if unit == switch.unit else replace(switch, unit=unit))
    return stood


def _said(brief: Brief, switch: Switch) -> int:
    """The unit that the brief says for a switch: by hand, or for its place in its kind of rack."""
    by_hand = brief.units.get(switch.key)
    if by_hand or switch.group is None or not switch.group.units:
        return by_hand or 0
    place = ord(switch.key[-1]) - ord("a")
    return switch.group.units[place] if place < len(switch.group.units) else 0


def _mask(unit: int, units: int) -> int:
    return ((1 << units) - 1) << unit


def _free(taken: int, height: int, units: int, placing: Placing) -> int:
    """The first unit by the rule at which so many are free; the lowest of all when there is none.

    >>> _free(0, 42, 2, "top down"), _free(0b110, 42, 1, "bottom up"), _free(0, 42, 1, "middle")
    (41, 3, 22)
    """
    down, up = range(height - units + 1, 0, -1), range(1, height - units + 2)
    middle = height // 2 + 2 - units
    order = {
        "top down": down,
        "bottom up": up,
        "middle": (*range(middle, 0, -1), *range(middle + 1, height - units + 2)),
    }
    want = (1 << units) - 1
    return next((unit for unit in order[placing] if not taken >> unit & want), 1)
