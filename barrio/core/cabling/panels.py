"""Links through panels: port, cord, panel, trunk, panel, cord, port, with positions, and cords that keep polarity and lanes straight.

Polarity by TIA-568.3: a signal that leaves at Tx has to arrive at Rx, so that the fibres are turned over an odd number of times in all. A
duplex cord A-to-B turns them, A-to-A does not; a trunk by method A does not, those by B and C do. An MPO cord of type B turns all twelve
fibres round and one of type A none; a trunk by method C swaps them in pairs, and parallel optics find no lane through it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

from barrio.core.brief.model import Brief
from barrio.core.brief.place import Gear, Trunk
from barrio.core.ledger.wanted import ByKey
from barrio.core.place.elevation import gear_of
from barrio.core.place.wiring import trunked
from barrio.core.structure.parts import Link, Structure


class Hole(NamedTuple):
    """A position of a panel, where it stands."""

    rack: str
    unit: int
    panel: str
    position: int

    @property
    def text(self) -> str:
        return f"{self.rack}.U{self.unit} {self.panel}:{self.position}"


@dataclass(frozen=True, slots=True)
class Via:
    """The panels that a link goes through: a position on the lower switch's side and one on the upper's, the trunk between, and the kinds of
    the two cords (empty where no cord would do)."""

    trunk: str
    medium: str
    lower: Hole
    upper: Hole
    cords: tuple[str, str]


def cords_for(medium: str, polarity: str) -> tuple[str, str]:
    """The kinds of the two cords at the ends of a trunk; empty where polarity cannot be kept.

    >>> cords_for("OM4 duplex", "A"), cords_for("OM4 MPO-12", "B"), cords_for("OM4 MPO-12", "C")
    (('A-to-B', 'A-to-A'), ('type B', 'type B'), ('', ''))
    """
    if medium.endswith("duplex"):
        return ("A-to-B", "A-to-A") if polarity == "A" else ("A-to-B", "A-to-B")
    return {"A": ("type A", "type B"), "B": ("type B", "type B")}.get(polarity, ("", ""))


def vias(brief: Brief, structure: Structure, numbers: ByKey) -> dict[str, Via]:
    """The way through panels of each link that has one, by its key."""
    through = trunked(brief, structure)
    if not through:
        return {}
    stand = {name: (rack, said) for name, rack, said, _ in gear_of(brief)}
    links = {link.key: link for link in structure.links}
    return {
        key: _via(brief.trunks[name], name, links[key], stand, numbers[f"port.trunk.{name}"][key].low)
        for key, name in through.items()
    }


def _via(trunk: Trunk, name: str, link: Link, stand: Mapping[str, tuple[str, Gear]], position: int) -> Via:
    near = _hole(stand, trunk.panel, trunk.first + position - 1)
    far = _hole(stand, trunk.to, trunk.to_first + position - 1)
    lower, upper = (near, far) if near.rack == link.lower.rack else (far, near)
    return Via(name, trunk.medium, lower, upper, cords_for(trunk.medium, trunk.polarity))


def _hole(stand: Mapping[str, tuple[str, Gear]], panel: str, position: int) -> Hole:
    rack, said = stand[panel]
    return Hole(rack, said.unit, panel, position)
