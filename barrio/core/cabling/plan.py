"""The cabling plan: every cable with its two ends, what it is, how long, and what is printed on it.

Labels follow TIA-606: each end names the cable, its own end first and then the other. While the brief does not say where racks stand,
cables have no length: one is a DAC inside a rack and what the brief says between racks. A cable to what is planned for later keeps its
number and is not in the plan yet.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import NamedTuple

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.brief.place import Face, Gear
from barrio.core.cabling.choice import TRUNK, Need
from barrio.core.cabling.panels import Via, vias
from barrio.core.cabling.routing import height_of
from barrio.core.ledger.demand import FURTHER
from barrio.core.ledger.wanted import ByKey, Taken
from barrio.core.model.links import Ends
from barrio.core.place.elevation import faces_of, gear_of
from barrio.core.place.floor import cabinet_of
from barrio.core.place.wiring import Wire, is_later, wires
from barrio.core.structure.parts import LATER, Structure, Switch


class CableEnd(NamedTuple):
    """An end of a cable. That of a system outside has no rack, unless the brief says where it stands; `unit` is 0 where it is not known."""

    rack: str
    unit: int
    switch: str
    port: str

    @property
    def text(self) -> str:
        unit = f".U{self.unit}" if self.unit else ""
        where = f"{self.rack}{unit} " if self.rack else ""
        return f"{where}{self.switch}:{self.port}" if self.port else f"{where}{self.switch}"


class Cable(NamedTuple):
    """`a` is the lower end, `b` the upper one or the system outside; speed in Gbit/s.

    `length` is what was worked out and `stock` the length to take, in metres; both are nothing where racks have no places. `plug` is the
    label of the plug that several cables share, where a port is broken out into them.
    """

    label: str
    a: CableEnd
    b: CableEnd
    speed: int
    kind: str
    link: str
    length: float | None = None
    stock: float | None = None
    part: str = ""
    plug: str = ""
    use: str = "fabric"
    via: Via | None = None

    @property
    def label_a(self) -> str:
        return f"{self.label} | {self.a.text} | {self.b.text}"

    @property
    def label_b(self) -> str:
        return f"{self.label} | {self.b.text} | {self.a.text}"


class Lead(NamedTuple):
    """A cable before its length is known: its two ends, the heights of its ports in mm, the sides they look to, and what they ask for.

    `hole` is the broken-out port that it shares with other leads, as the key of the switch and the name of the port, and `plug` the label of
    the plug there. `use` is what the cable is for.
    """

    label: str
    key: str
    a: CableEnd
    b: CableEnd
    speed: int
    need: Need
    heights: tuple[float, float]
    faces: tuple[Face, Face]
    hole: str = ""
    plug: str = ""
    use: str = "fabric"
    via: Via | None = None


def leads(
    brief: Brief,
    structure: Structure,
    ends: Iterable[Ends],
    numbers: ByKey,
    attachments: Attachments,
    known: Mapping[str, Lead] | None = None,
) -> tuple[Lead, ...]:
    """Every cable that is to be laid now, in the order of their labels. What is `known` of links by their key is as it was, but where they go through trunks."""
    plugs = numbers.get(FURTHER, {})
    found = [
        *_links(brief, structure, ends, plugs, vias(brief, structure, numbers), known or {}),
        *_outside(brief, structure, numbers["cable"]),
        *_further(brief, structure, numbers, attachments),
        *_trunks(brief, plugs),
    ]
    return tuple(sorted(found, key=lambda lead: (len(lead.label), lead.label)))


def _label(brief: Brief, number: Taken) -> str:
    return f"{brief.cable_prefix}-{number.low:04d}"


def _links(
    brief: Brief,
    structure: Structure,
    ends: Iterable[Ends],
    plugs: Mapping[str, Taken],
    through: Mapping[str, Via],
    known: Mapping[str, Lead],
) -> Iterator[Lead]:
    marked = bool(structure.marked)
    stands = {switch.key: _stands(brief, switch) for switch in structure.switches}
    needs: dict[tuple[int, str, int, str, int], tuple[Need, str, str]] = {}
    for end in ends:
        link = end.link
        if link.key in known and link.key not in through:
            yield known[link.key]
            continue
        if marked and structure.state_of(link)[0] == LATER:
            continue
        lower, upper = link.lower, link.upper
        alike = (lower.plan.front, end.lower_port, upper.plan.front, end.upper_port, link.speed)
        if alike not in needs:
            needs[alike] = _need(lower, end.lower_port, upper, end.upper_port, link.speed)
        need, lower_hole, upper_hole = needs[alike]
        hole = f"{lower.key}:{lower_hole}" if lower_hole else f"{upper.key}:{upper_hole}" if upper_hole else ""
        plug = _label(brief, plugs[f"plug/{hole}"]) if hole else ""
        (low, low_face), (high, high_face) = stands[lower.key], stands[upper.key]
        yield Lead(
            end.label, link.key, _end(lower, end.lower_port), _end(upper, end.upper_port), link.speed, need, (low, high),
            (low_face, high_face), hole, plug, via=through.get(link.key),
        )  # fmt: skip


def _need(lower: Switch, lower_port: str, upper: Switch, upper_port: str, speed: int) -> tuple[Need, str, str]:
    """What two ports ask for, and the holes that they are lanes of; the broken-out end stands first."""
    low, high = lower.plan.by_name[lower_port], upper.plan.by_name[upper_port]
    low_lanes, high_lanes = lower.plan.lanes_at[low.parent], upper.plan.lanes_at[high.parent]
    if high_lanes > 1:
        return Need(high.connector, low.connector, speed, high_lanes), "", high.parent
    return Need(low.connector, high.connector, speed, low_lanes), low.parent if low_lanes > 1 else "", ""


def _outside(brief: Brief, structure: Structure, numbers: Mapping[str, Taken]) -> Iterator[Lead]:
    stand = {name: (rack, said) for name, rack, said, _ in gear_of(brief)}
    for out in structure.outside:
        if structure.state_of_outside(out)[0] == LATER:
            continue
        label = _label(brief, numbers[out.key])
        port = out.switch.plan.by_name[out.said.port]
        mine, my_face = _stands(brief, out.switch)
        far, theirs, their_face = CableEnd("", 0, out.system, out.said.far_port), mine, my_face
        if out.system in stand:
            rack, gear = stand[out.system]
            far = CableEnd(rack, gear.unit, out.system, out.said.far_port)
            theirs, their_face = height_of(gear.unit, gear.units), gear.faces
        yield Lead(
            label, out.key, _end(out.switch, out.said.port), far, out.speed, Need(port.connector, port.connector, out.speed),
            (mine, theirs), (my_face, their_face), use="outside",
        )  # fmt: skip


def _further(brief: Brief, structure: Structure, numbers: ByKey, attachments: Attachments) -> Iterator[Lead]:
    gear = {name: (rack, said) for name, rack, said, _ in gear_of(brief)}
    for wire in wires(brief, structure, attachments):
        if is_later(wire):
            continue
        switch = wire.switch
        mine, my_face = _stands(brief, switch)
        use, key = wire.position
        place = numbers[use][key].low if use else 0
        their_face: Face
        if wire.use == "power":
            cabinet = cabinet_of(brief, switch.rack)
            far = CableEnd(switch.rack, 0, wire.far, f"outlet {place}")
            # Outlets are counted from the top, where switches stand.
            theirs = height_of(cabinet.units - (place - 1) * cabinet.units / cabinet.outlets)
            their_face, need = "rear", POWER
        elif wire.use == "host":
            far, theirs, their_face, need = _host(brief, wire, gear)
        else:
            rack, said = gear[wire.far]
            far = CableEnd(rack, said.unit, wire.far, f"port {place}")
            theirs, their_face, need = height_of(said.unit, said.units), said.faces, COPPER
        yield Lead(
            _label(brief, numbers[FURTHER][wire.key]), wire.key, _end(switch, wire.port), far, need.speed, need, (mine, theirs),
            (my_face, their_face), use=wire.use,
        )  # fmt: skip


def _trunks(brief: Brief, numbers: Mapping[str, Taken]) -> Iterator[Lead]:
    """The fibres between panels, each laid once."""
    stand = {name: (rack, said) for name, rack, said, _ in gear_of(brief)}
    for name, trunk in brief.trunks.items():
        if trunk.panel not in stand or trunk.to not in stand:
            continue
        ends, heights, faces = [], [], []
        for panel, first in ((trunk.panel, trunk.first), (trunk.to, trunk.to_first)):
            rack, said = stand[panel]
            ends.append(CableEnd(rack, said.unit, panel, f"{first}..{first + trunk.positions - 1}"))
            heights.append(height_of(said.unit, said.units))
            faces.append(said.faces)
        yield Lead(
            _label(brief, numbers[f"trunk/{name}"]), f"trunk/{name}", ends[0], ends[1], 1, Need(TRUNK, trunk.medium, 1),
            (heights[0], heights[1]), (faces[0], faces[1]), use="trunk",
        )  # fmt: skip


COPPER, POWER = Need("RJ45", "RJ45", 1), Need("C13", "C14", 1)


def _host(brief: Brief, wire: Wire, gear: Mapping[str, tuple[str, Gear]]) -> tuple[CableEnd, float, Face, Need]:
    """The end of a host's cable: where its gear stands, or at the bottom of its leaf's rack, the farthest that it could be."""
    port = wire.switch.plan.by_name[wire.port]
    speed = wire.speed or max(port.speeds)
    need = Need(port.connector, port.connector, speed)
    if wire.far in gear:
        rack, said = gear[wire.far]
        return CableEnd(rack, said.unit, wire.far, ""), height_of(said.unit, said.units), said.faces, need
    return CableEnd(wire.switch.rack, 0, wire.far, ""), height_of(1), "rear", need


def _stands(brief: Brief, switch: Switch) -> tuple[float, Face]:
    return height_of(switch.unit, switch.type.units), faces_of(brief, switch)


def cable_kind(brief: Brief, one: str, other: str) -> str:
    """What a cable is before its length is known: a DAC inside one rack; between two what the brief says, or an AOC while racks have no
    places."""
    if one == other:
        return "DAC"
    return brief.cabling.kind or ("by length" if brief.floor or brief.halls else "AOC")


def _end(switch: Switch, port: str) -> CableEnd:
    return CableEnd(switch.rack, switch.unit, switch.name, port)
