"""A flow from one host to another, followed through the tables of the switches: which ways it takes, how much goes by each, and where it ends."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction

from barrio.core import paths
from barrio.core.compiled import Compiled
from barrio.core.errors import Refused, refuse
from barrio.core.model.switch import SwitchModel
from barrio.core.observe.flow import Said, State, Step, Wanted, shares, walk
from barrio.core.observe.tables import Ip, address_of
from barrio.core.observe.whereabouts import Located, locate, within
from barrio.core.structure.parts import LATER


@dataclass(frozen=True, slots=True)
class Passed:
    """A step with its share of the flow (0 to 1), and to how many next hops the plan would spread it there; 0 where the plan does not spread it."""

    step: Step
    share: Fraction
    planned: int

    @property
    def short(self) -> bool:
        """Whether it is spread over fewer ways than planned."""
        return 0 < len(self.step.ways) < self.planned


@dataclass(frozen=True, slots=True)
class Followed:
    """What came of following a flow. `wants` are the commands that switches were not asked yet, by switch; `narrowest` is the smallest MTU on the way, in
    bytes of what a host sends."""

    source: Located | None
    target: Located | None
    to: str
    passed: tuple[Passed, ...]
    wants: tuple[tuple[str, str], ...]
    circle: bool
    narrowest: int

    @property
    def arrives(self) -> Fraction:
        """How much of the flow comes to where it is for (0 to 1)."""
        return sum((one.share * end.share for one in self.passed for end in one.step.ends if end.arrives), Fraction(0))

    @property
    def lost(self) -> list[tuple[str, str, Fraction]]:
        """Where a part of it ends that does not arrive: the switch, what happens there, how much (0 to 1)."""
        return [
            (one.step.state.switch, end.words, one.share * end.share)
            for one in self.passed
            for end in one.step.ends
            if not end.arrives
        ]

    def words(self, silent: Collection[str] = ()) -> str:
        """What came of it, in a sentence; `silent` are those who do not answer."""
        if not self.passed:
            return f"{_some(silent)} did not say where they have it." if silent else "Where the two are is being asked."
        if self.circle:
            return "It goes around in a circle, and ends by its hop limit."
        if self.wants or any(one.step.waits for one in self.passed):
            return f"What {_some(silent)} would do with it is not known." if silent else "The switches are being asked."
        if self.arrives == 1:
            short = [one.step.state.switch for one in self.passed if one.short]
            at = {one.step.state.switch for one in self.passed for end in one.step.ends if end.arrives}
            fewer = f" {_some(short)} spread it over fewer ways than planned." if short else ""
            return f"It arrives, at {_some(at)}.{fewer}"
        ended = [f"{switch} {words}" for switch, words, _ in self.lost[:2]]
        if not self.arrives:
            return f"It does not arrive: {'; '.join(ended)}."
        return f"{float(self.arrives):.0%} of it arrives; the rest does not: {'; '.join(ended)}."


def _some(names: Collection[str]) -> str:
    first = sorted(set(names))
    return " and ".join([", ".join(first[:3]), *([f"{len(first) - 3} more"] if len(first) > 3 else [])])


def follow(compiled: Compiled, answers: Mapping[tuple[str, str], str], source: str, target: str) -> Followed:
    """Follow a flow as far as what switches answered (by name and command) says where it goes. Both ends are a host's name or an address; the target may be
    an address outside.

    Raises `Refused`: as `locate`, and `flow.from` for a source that is at no leaf.
    """
    models = {str(one.name): one for one in compiled.models.values() if one.state != LATER}
    said = Said(answers)
    one = _located(models, said, source)
    try:
        other = _located(models, said, target, one.segment if one else "")
    except Refused:
        # In which segment the target is meant may be open until the source is known.
        if not said.wants:
            raise
    if said.wants:
        return Followed(None, None, target, (), tuple(said.wants), False, 0)
    if one is None:
        raise refuse("flow.from", f"{source} is in no segment of {compiled.brief.fabric}. A flow begins at a host.")
    if not one.seats:
        words = f"No leaf has {source} at a port: it has not spoken to its gateway lately, or it is not there. Name the host instead, as the plan has it."
        raise refuse("flow.from", words)
    to = other.address if other else address_of(target)
    if to and one.address and to.version != one.address.version and address_of(source):
        raise refuse("flow.from", f"{one.address} and {to} are of two families.")
    starts = tuple(_starts(models, said, one, other, to))
    steps = walk(models, said, starts)
    parts = shares(steps, starts)
    planned = _Planned(compiled, models)
    passed = tuple(
        Passed(step, parts[state] if parts else Fraction(0), planned.ways(step)) for state, step in steps.items()
    )
    narrowest = min((one.narrowest for one in steps.values() if one.narrowest), default=0)
    return Followed(one, other, str(to or target), passed, tuple(said.wants), parts is None, narrowest)


def _located(models: Mapping[str, SwitchModel], said: Said, who: str, near: str = "") -> Located | None:
    try:
        return locate(models, said, who, near)
    except Wanted:
        return None


def _starts(
    models: Mapping[str, SwitchModel], said: Said, one: Located, other: Located | None, to: Ip | None
) -> Iterator[State]:
    """How the first packet comes to each leaf that the host is at: to the other host beside it, or to its gateway."""
    for seat in one.seats:
        segment = next(each for each in models[seat.switch].segments if each.vlan == seat.vlan)
        beside = within(segment, to) if to else other is not None and other.segment == segment.label
        svi = said.devices(seat.switch).get(str(segment.svi))
        gateway = svi.mac if svi else str(models[seat.switch].common.gateway_mac)
        if beside and svi and any(to == each.ip for each in svi.addresses):
            yield State(seat.switch, to, seat.vlan, gateway)
        elif beside:
            if other is None or not other.mac:
                words = f"No leaf has {to} among its neighbours: it speaks to hosts of {segment.label} only, or not at all. Name the host instead."
                raise refuse("flow.to", words)
            yield State(seat.switch, to, seat.vlan, other.mac)
        elif to is None:
            words = f"No address of {other.mac if other else ''} is known, since it speaks to hosts of its own segment only. Say its address."
            raise refuse("flow.to", words)
        else:
            yield State(seat.switch, to, seat.vlan, gateway)


class _Planned:
    """To how many next hops the plan spreads what is on its way to a tunnel end, worked out once for each."""

    def __init__(self, compiled: Compiled, models: Mapping[str, SwitchModel]) -> None:
        self.models = models
        self.joined = paths.neighbours(compiled, [one.key for one in models.values()])
        self.most = {one.key: one.max_paths for one in models.values()}
        self.owners: dict[str, list[str]] = {}
        for one in models.values():
            self.owners.setdefault(str(one.vtep), []).append(one.key)
        self.widths: dict[str, dict[str, int]] = {}

    def ways(self, step: Step) -> int:
        """What a step sends into one tunnel, or on within it; 0 where it sends into none, into several, or to an end that a pair shares."""
        ends = {str(one.state.end) for one in step.ways if one.state.end is not None}
        owners = [key for end in ends for key in self.owners.get(end, ())]
        if len(owners) != 1:
            return 0
        if owners[0] not in self.widths:
            self.widths[owners[0]] = paths.widths(self.joined, owners[0], self.most)
        return self.widths[owners[0]].get(self.models[step.state.switch].key, 0)
