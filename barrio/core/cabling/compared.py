"""What lies there against what is planned: each cable right, missing, swapped or slow, and each port that hears what it should not."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass
from typing import Literal

from barrio.core.cabling.heard import Heard, Port, Table
from barrio.core.cabling.moves import Mend, Move, mends
from barrio.core.cabling.plan import Cable
from barrio.core.errors import Fault, nearest, refuse

State = Literal["right", "missing", "swapped", "wrong speed", "not heard of"]


@dataclass(frozen=True, slots=True)
class Found:
    """How a planned cable lies. `a_hears` and `b_hears` are what its two ports hear in its place, where that is something else.

    `right`: both ends hear each other, or the one that was asked does. `swapped`: an end hears another. `missing`: an end was asked and hears
    nobody. `not heard of`: neither switch was asked.
    """

    label: str
    state: State
    a_hears: Port | None = None
    b_hears: Port | None = None
    speed: int | None = None


@dataclass(frozen=True)
class Compared:
    """What a neighbour table says of a cabling plan. `unknown` are ports that no cable is planned for and that hear somebody."""

    cables: tuple[Found, ...]
    unknown: tuple[tuple[Port, Port], ...]
    mends: tuple[Mend[Port], ...]
    faults: tuple[Fault, ...]

    @property
    def counts(self) -> dict[str, int]:
        return dict(Counter(one.state for one in self.cables))

    @property
    def moves(self) -> int:
        return sum(len(mend.moves) for mend in self.mends)


def compare(cables: Sequence[Cable], table: Table) -> Compared:
    """The plan against what was heard. Of a switch that was not asked nothing is concluded from its silence.

    Raises `Refused` (`neighbours.stranger`) when the table is of none of the plan's switches: it is another fabric's.
    """
    heard, asked = table.rows, table.asked
    # Management, console, power and hosts are not heard by name and port.
    cables = [cable for cable in cables if cable.use in ("fabric", "outside")]
    planned = _planned(cables)
    switches = {port.system for port in planned}
    _known(switches, asked, heard)
    hears, faults = _hears(heard)
    lying = _lying(hears, asked, faults)
    speeds = {row.at: row.speed for row in heard if row.speed is not None}
    found = tuple(_found(cable, hears, lying, asked, speeds) for cable in cables)
    unknown = tuple((port, far) for port, far in hears.items() if port.system in switches and port not in planned)
    told = _reachable(planned, lying, asked)
    todo = mends(told, lying, Distance(_racks(cables)))
    return Compared(found, unknown, tuple(mend for mend in todo if _touches(mend, planned)), tuple(faults))


def lying_of(table: Table) -> dict[Port, Port]:
    """The cables that lie there by a table, from both ends; those that its rows contradict each other over are left out."""
    return _lying(_hears(table.rows)[0], table.asked, [])


def _planned(cables: Sequence[Cable]) -> dict[Port, Port]:
    planned: dict[Port, Port] = {}
    for cable in cables:
        one, other = Port(cable.a.switch, cable.a.port), Port(cable.b.switch, cable.b.port)
        planned[one], planned[other] = other, one
    return planned


def _known(switches: set[str], asked: Set[str], heard: Sequence[Heard]) -> None:
    everybody = asked | {row.far.system for row in heard}
    if not everybody & switches:
        first = min(asked)
        raise refuse(
            "neighbours.stranger",
            f"The table is of {len(asked)} switches, {first} among them, and none of them is in this fabric.{nearest(first, switches)} "
            "Is it another fabric's table?",
        )


def _hears(heard: Sequence[Heard]) -> tuple[dict[Port, Port], list[Fault]]:
    """Who is heard at each port. A port that hears two is told, and the first one counts."""
    hears: dict[Port, Port] = {}
    faults: list[Fault] = []
    for row in heard:
        if row.at in hears and hears[row.at] != row.far:
            words = f"{row.at.text} hears two: {hears[row.at].text} and {row.far.text}. Something that passes LLDP on stands between, or the table holds two times of day. The first counts."
            faults.append(Fault("neighbours.two", words, line=row.line))
        hears.setdefault(row.at, row.far)
    return hears, faults


def _lying(hears: Mapping[Port, Port], asked: Set[str], faults: list[Fault]) -> dict[Port, Port]:
    """The cables that lie there, each from both ends. Where the two ends contradict each other, neither is believed."""
    lying: dict[Port, Port] = {}
    doubtful: set[Port] = set()
    for port, far in hears.items():
        back = hears.get(far)
        if far.system in asked and back is not None and back != port:
            doubtful |= {port, far}
            words = f"{port.text} hears {far.text}, and that hears {back.text}. The two were asked at different times; ask both again."
            faults.append(Fault("neighbours.contradict", words))
    for port, far in hears.items():
        if port in doubtful or far in doubtful or lying.get(port, far) != far or lying.get(far, port) != port:
            continue
        lying[port], lying[far] = far, port
    return lying


def _found(
    cable: Cable, hears: Mapping[Port, Port], lying: Mapping[Port, Port], asked: Set[str], speeds: Mapping[Port, int]
) -> Found:
    one, other = Port(cable.a.switch, cable.a.port), Port(cable.b.switch, cable.b.port)
    at_a, at_b = hears.get(one) or lying.get(one), hears.get(other) or lying.get(other)
    if (at_a == other or at_b == one) and (at_a or other) == other and (at_b or one) == one:
        speed = speeds.get(one, speeds.get(other))
        return Found(cable.label, "right" if speed in (None, cable.speed) else "wrong speed", speed=speed)
    if at_a is None and at_b is None:
        silent = one.system in asked or other.system in asked
        return Found(cable.label, "missing" if silent else "not heard of")
    return Found(cable.label, "swapped", at_a if at_a != other else None, at_b if at_b != one else None)


def _reachable(planned: Mapping[Port, Port], lying: Mapping[Port, Port], asked: Set[str]) -> dict[Port, Port]:
    """The planned cables that something is known of: one of their switches was asked, or something is heard at an end."""
    return {
        port: far
        for port, far in planned.items()
        if port.system in asked or far.system in asked or port in lying or far in lying
    }


def _touches(mend: Mend[Port], planned: Mapping[Port, Port]) -> bool:
    """Whether a mend has to do with the plan; a cable between two ports that are none of it is left alone."""
    return bool(mend.moves or mend.lay) or any(port in planned for pair in mend.pull for port in pair)


def _racks(cables: Sequence[Cable]) -> dict[str, str]:
    return {end.switch: end.rack for cable in cables for end in (cable.a, cable.b)}


@dataclass(frozen=True)
class Distance:
    """What a move costs a person: one within a rack is nearer than one from a rack to another."""

    racks: Mapping[str, str]

    def __call__(self, move: Move[Port]) -> float:
        return float(self.racks.get(move.out.system) != self.racks.get(move.into.system))
