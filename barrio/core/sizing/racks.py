"""What stands in each rack: its switches by unit, and their power, units and weight."""

from __future__ import annotations

from dataclasses import dataclass

from barrio.core.structure.parts import Structure, Switch

HEIGHT = 42
"""Units of a rack."""


@dataclass(frozen=True, slots=True)
class RackLoad:
    """One rack: units used, power in watts, weight in kilograms, and the switches from the top down."""

    rack: str
    pod: str
    units: int
    power: int
    weight: float
    switches: tuple[Switch, ...]
    state: str


def rack_loads(structure: Structure) -> list[RackLoad]:
    """Every rack, in the order in which its first switch stands in the structure, leaf racks last."""
    racks: dict[str, list[Switch]] = {}
    for switch in structure.switches:
        racks.setdefault(switch.rack, []).append(switch)
    return [
        RackLoad(
            rack=rack,
            pod=switches[0].pod if switches[0].is_leaf else "",
            units=sum(switch.type.units for switch in switches),
            power=sum(switch.type.power for switch in switches),
            weight=round(sum(switch.type.weight for switch in switches), 1),
            switches=tuple(sorted(switches, key=lambda switch: -switch.unit)),
            state=switches[0].state if len({switch.state for switch in switches}) == 1 else "",
        )
        for rack, switches in racks.items()
    ]
