"""The cabling plan: one row per cable, and what is printed on its ends.

Labels follow TIA-606: each end names the cable, its own end first and then the other. Lengths wait for measured rack
distances; the kind is a DAC inside a rack and what the brief says between racks. A cable to what is planned for later
keeps its number and is not in the plan yet.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from barrio.core.brief.model import Brief
from barrio.core.ledger.wanted import Taken
from barrio.core.model.links import Ends
from barrio.core.structure.parts import LATER, Structure, Switch


@dataclass(frozen=True, slots=True)
class CableEnd:
    """An end of a cable. That of a system outside has no rack."""

    rack: str
    unit: int
    switch: str
    port: str

    @property
    def text(self) -> str:
        where = f"{self.rack}.U{self.unit} " if self.rack else ""
        return f"{where}{self.switch}:{self.port}" if self.port else f"{where}{self.switch}"


@dataclass(frozen=True, slots=True)
class Cable:
    """`a` is the lower end, `b` the upper one or the system outside; speed in Gbit/s."""

    label: str
    a: CableEnd
    b: CableEnd
    speed: int
    kind: str
    link: str

    @property
    def label_a(self) -> str:
        return f"{self.label} | {self.a.text} | {self.b.text}"

    @property
    def label_b(self) -> str:
        return f"{self.label} | {self.b.text} | {self.a.text}"


def plan_cables(brief: Brief, structure: Structure, ends: Iterable[Ends], numbers: dict[str, Taken]) -> list[Cable]:
    """Every cable that is to be laid now, in the order of their labels."""
    marked = bool(structure.marked)
    cables = [
        Cable(
            end.label,
            _end(end.link.lower, end.lower_port),
            _end(end.link.upper, end.upper_port),
            end.link.speed,
            cable_kind(brief, end.link.lower.rack, end.link.upper.rack),
            end.link.key,
        )
        for end in ends
        if not (marked and structure.state_of(end.link)[0] == LATER)
    ]
    for out in structure.outside:
        if structure.state_of_outside(out)[0] != LATER:
            label = f"{brief.cable_prefix}-{numbers[out.key].low:04d}"
            far = CableEnd("", 0, out.system, out.said.far_port)
            kind = brief.cabling.kind
            cables.append(Cable(label, _end(out.switch, out.said.port), far, out.speed, kind, out.key))
    return sorted(cables, key=lambda cable: (len(cable.label), cable.label))


def cable_kind(brief: Brief, one: str, other: str) -> str:
    """What a cable between two racks is: a DAC inside one rack, what the brief says between two."""
    return "DAC" if one == other else brief.cabling.kind


def _end(switch: Switch, port: str) -> CableEnd:
    return CableEnd(switch.rack, switch.unit, switch.name, port)
