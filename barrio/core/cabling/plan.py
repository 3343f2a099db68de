"""The cabling plan: one row per cable, and what is printed on its ends.

Labels follow TIA-606: each end names the cable, its own end first and then the other. Lengths wait for measured rack
distances; the kind is a DAC inside a rack and what the brief says between racks.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from barrio.core.brief.model import Brief
from barrio.core.model.build import Ends
from barrio.core.structure.expand import Switch


@dataclass(frozen=True, slots=True)
class CableEnd:
    rack: str
    unit: int
    switch: str
    port: str

    @property
    def text(self) -> str:
        return f"{self.rack}.U{self.unit} {self.switch}:{self.port}"


@dataclass(frozen=True, slots=True)
class Cable:
    """`a` is the leaf's end, `b` the spine's; speed in Gbit/s."""

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


def plan_cables(brief: Brief, ends: Iterable[Ends]) -> list[Cable]:
    """Every cable of the fabric, in the order of their labels."""
    cables = [
        Cable(
            end.label,
            _end(end.link.leaf, end.leaf_port),
            _end(end.link.spine, end.spine_port),
            end.link.speed,
            "DAC" if end.link.leaf.rack == end.link.spine.rack else brief.cabling.kind,
            end.link.key,
        )
        for end in ends
    ]
    return sorted(cables, key=lambda cable: (len(cable.label), cable.label))


def _end(switch: Switch, port: str) -> CableEnd:
    return CableEnd(switch.rack, switch.unit, switch.name, port)
