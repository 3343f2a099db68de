"""A flow from one host to another, followed through the tables of the switches: which ways it takes, how much goes by each, and where it ends."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from ipaddress import ip_address

from barrio.core import paths
from barrio.core.compile import Compiled
from barrio.core.errors import Refused, refuse
from barrio.core.model.switch import SwitchModel
from barrio.core.observe.flow import Said, State, Step, Wanted, shares, walk
from barrio.core.observe.tables import Ip
from barrio.core.observe.whereabouts import Located, locate, within
from barrio.core.structure.parts import LATER


@dataclass(frozen=True, slots=True)
class Passed:
    """A step with its share of the flow (0 to 1), how far from the start it is, and to how many next hops the plan would spread it there; 0 where the plan
    does not spread it."""

    step: Step
    share: Fraction
    depth: int
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
    starts: tuple[State, ...]
    passed: tuple[Passed, ...]
    wants: tuple[tuple[str, str], ...]
    circle: bool
    narrowest: int

    @property
    def arrives(self) -> Fraction:
        """How much of the flow comes to where it is for (0 to 1)."""
        return sum((one.share * _kept(one.step, True) for one in self.passed), Fraction(0))

    @property
    def lost(self) -> list[tuple[str, str, Fraction]]:
        """Where a part of it ends that does not arrive: the switch, what happens there, how much (0 to 1)."""
        return [
            (one.step.state.switch, words, one.share * _kept(one.step, False))
            for one in self.passed
            for words, there in one.step.ends
            if not there
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
            at = sorted({one.step.state.switch for one in self.passed for _, there in one.step.ends if there})
            fewer = f" {_some(short)} spread it over fewer ways than planned." if short else ""
            return f"It arrives, at {_some(at)}.{fewer}"
        ended = [f"{switch} {words}" for switch, words, _ in self.lost[:2]]
        if not self.arrives:
            return f"It does not arrive: {'; '.join(ended)}."
        return f"{_percent(self.arrives)} of it arrives; the rest does not: {'; '.join(ended)}."


def _some(names: Collection[str]) -> str:
    first = sorted(set(names))
    return " and ".join([", ".join(first[:3]), *([f"{len(first) - 3} more"] if len(first) > 3 else [])])


def _percent(part: Fraction) -> str:
    return f"{float(part):.0%}"


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
        return Followed(None, None, target, (), (), tuple(said.wants), False, 0)
    if one is None:
        raise refuse("flow.from", f"{source} is in no segment of {compiled.brief.fabric}. A flow begins at a host.")
    if not one.seats:
        words = f"No leaf has {source} at a port: it has not spoken to its gateway lately, or it is not there. Name the host instead, as the plan has it."
        raise refuse("flow.from", words)
    to = other.address if other else ip_address(target)
    if to and one.address and to.version != one.address.version and _is_address(source):
        raise refuse("flow.from", f"{one.address} and {to} are of two families.")
    starts = tuple(_starts(models, said, one, other, to))
    steps: dict[State, Step] = {}
    for start in starts:
        steps |= walk(models, said, start)
    parts, depths, circle = _spread(steps, starts)
    passed = tuple(
        Passed(step, parts.get(state, Fraction(0)), depths.get(state, 0), _planned(compiled, models, step))
        for state, step in sorted(steps.items(), key=lambda pair: depths.get(pair[0], 0))
    )
    narrowest = min((one.narrowest for one in steps.values() if one.narrowest), default=0)
    return Followed(one, other, str(to or target), starts, passed, tuple(said.wants), circle, narrowest)


def _is_address(who: str) -> bool:
    try:
        ip_address(who)
    except ValueError:
        return False
    return True


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


def _spread(
    steps: Mapping[State, Step], starts: tuple[State, ...]
) -> tuple[dict[State, Fraction], dict[State, int], bool]:
    """The share of each state, how far it is from a start, and whether there is a circle."""
    parts: dict[State, Fraction] = {}
    circle = False
    for start in starts:
        found = shares(steps, start)
        if found is None:
            circle = True
        for state, part in (found or {}).items():
            parts[state] = parts.get(state, Fraction(0)) + part / len(starts)
    depths = dict.fromkeys(starts, 0)
    waiting = list(starts)
    while waiting:
        state = waiting.pop(0)
        for way in steps[state].ways if state in steps else ():
            if way.state not in depths:
                depths[way.state] = depths[state] + 1
                waiting.append(way.state)
    return parts, depths, circle


def _planned(compiled: Compiled, models: Mapping[str, SwitchModel], step: Step) -> int:
    """To how many next hops the plan spreads what a step sends into a tunnel, or on within one."""
    ends = {str(one.state.end) for one in step.ways if one.state.end is not None}
    owners = [one for one in models.values() if str(one.vtep) in ends]
    if len(owners) != 1:
        return 0
    keys = [one.key for one in models.values()]
    joined = paths.neighbours(compiled, keys)
    most = {one.key: one.max_paths for one in models.values()}
    return paths.widths(joined, owners[0].key, most).get(models[step.state.switch].key, 0)


def _kept(step: Step, arrived: bool) -> Fraction:
    """How much of what comes to a step ends there in one way: what does not go on, by as many ends as there are."""
    ends = [there for _, there in step.ends]
    rest = 1 - sum((one.share for one in step.ways), Fraction(0))
    return rest * Fraction(ends.count(arrived), len(ends)) if ends else Fraction(0)
