"""What a change of a fabric would do: switch by switch in lines and their effect, and over all in sessions, links, cables and numbers."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from barrio.core.compare.effects import Concerned, concern
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.compare.sessions import Session
from barrio.core.compiled import Compiled
from barrio.core.render.effects import Effect, worst
from barrio.core.structure.parts import Switch
from barrio.core.sums import effect as counts


@dataclass(frozen=True, slots=True)
class SwitchRipple:
    """What happens to one switch. `state` is `new`, `gone` or `changed`; lines are counted by meaning, so that one that only moves is none. `sessions` are the ids of
    those that its own lines restart, `agree` of those where both ends must say the same, `links` the cables whose link goes down, `devices` the ports
    and bridges that stop carrying for a moment."""

    key: str
    name: str
    role: str
    rack: str
    state: str
    added: int
    removed: int
    effect: Effect
    changes: tuple[LineChange, ...] = field(repr=False)
    sessions: frozenset[str] = frozenset()
    agree: frozenset[str] = frozenset()
    links: frozenset[str] = frozenset()
    devices: frozenset[str] = frozenset()

    @property
    def falls(self) -> bool:
        """Whether the switch as a whole stops for a moment."""
        return self.effect.rank >= Effect.DAEMON.rank


@dataclass(frozen=True)
class Ripple:
    """All that a change does. `sessions` are those that restart, by id, with the switches whose lines do it; `untouched` counts switches that stay as
    they are. `counts` are switches, cables and numbers."""

    switches: tuple[SwitchRipple, ...]
    sessions: Mapping[str, Session]
    untouched: int
    counts: Mapping[str, int]

    @cached_property
    def by_key(self) -> dict[str, SwitchRipple]:
        return {one.key: one for one in self.switches}

    @property
    def effect(self) -> Effect:
        """The worst of all."""
        return worst(one.effect for one in self.switches)

    @property
    def lines(self) -> tuple[int, int]:
        """Lines added and removed, over all switches."""
        return sum(one.added for one in self.switches), sum(one.removed for one in self.switches)

    @property
    def links(self) -> frozenset[str]:
        """The labels of the cables whose link goes down."""
        return frozenset[str]().union(*(one.links for one in self.switches))

    @property
    def gateways(self) -> dict[str, list[str]]:
        """The segments that have no gateway for a moment, with the switches where."""
        found: dict[str, list[str]] = {}
        for one in self.switches:
            for device in sorted(one.devices):
                if device.startswith("segment "):
                    found.setdefault(device.removeprefix("segment "), []).append(one.name)
        return found


def ripple(before: Compiled | None, after: Compiled, tell: Callable[[int], None] = lambda done: None) -> Ripple:
    """What it does to go from one compiled fabric to another; from nothing when there is none before.

    Renders the files of both where they can differ. `tell` is told after each switch how many are looked at. Raises `Refused` as `files` does.
    """
    old = {one.key: one for one in before.staged} if before else {}
    new = {one.key: one for one in after.staged}
    found: list[SwitchRipple] = []
    sessions: dict[str, Session] = {}
    readers: dict[int, Reader] = {}
    for done, (key, switch) in enumerate(new.items(), 1):
        if before is None or key not in old:
            found.append(_whole(after, switch, "new"))
        else:
            one = _changed(before, after, switch, sessions, readers)
            if one is not None:
                found.append(one)
        tell(done)
    if before is not None:
        found += [_whole(before, switch, "gone") for key, switch in old.items() if key not in new]
    untouched = len(new) - sum(one.state != "gone" for one in found)
    return Ripple(tuple(found), sessions, untouched, counts(before, after))


def _whole(compiled: Compiled, switch: Switch, state: str) -> SwitchRipple:
    """A switch that comes or goes with all its lines."""
    files = _files(compiled, switch.key)
    lines = sum(text.count("\n") for text in files.values())
    effect = Effect.NEW if state == "new" else Effect.GONE
    return SwitchRipple(
        switch.key, switch.name, switch.role, switch.rack, state,
        lines if state == "new" else 0, 0 if state == "new" else lines, effect, (),
    )  # fmt: skip


def _changed(
    before: Compiled, after: Compiled, switch: Switch, sessions: dict[str, Session], readers: dict[int, Reader]
) -> SwitchRipple | None:
    """What is other about a switch that stays, or nothing when all its files are the same."""
    key = switch.key
    swapped = before.structure.by_key[key].type.id != switch.type.id
    if before.models[key] is after.models[key] and before.targets[key] == after.targets[key] and not swapped:
        return None
    ours, theirs = _files(before, key), _files(after, key)
    if ours == theirs and not swapped:
        return None
    effects = after.targets[key].effects()
    reader = readers.setdefault(id(effects), Reader(effects))
    lines: list[LineChange] = []
    for path in dict.fromkeys((*ours, *theirs)):
        if ours.get(path) != theirs.get(path):
            lines += reader.changes(path, ours.get(path, ""), theirs.get(path, ""))
    known = Concerned(before.models[key], after.models[key], ours)
    told = [concern(one, known) for one in lines]
    told += _reboots(before.structure.by_key[key], switch, told)
    moved = _moved(known)
    # Another language is another system: nothing of the old one runs on.
    other_language = before.targets[key] != after.targets[key]
    effect = (
        Effect.REBOOT if other_language else worst([*(one.effect for one in told), *([Effect.LINK] if moved else [])])
    )
    if effect is Effect.REBOOT:
        # Who is at the other end of a cable sees its light go.
        known.links.update(str(port.cable) for port in (*known.was.fabric_ports, *known.model.fabric_ports))
    if effect.rank >= Effect.DAEMON.rank:
        known.restarting.update({one.id: one for one in known.stay(known.before.every.values())})
    sessions.update(known.restarting)
    return SwitchRipple(
        key, switch.name, switch.role, switch.rack, "changed",
        sum(bool(one.after) for one in told), sum(bool(one.before) for one in told), effect, tuple(told),
        frozenset(known.restarting), frozenset(known.agreeing), frozenset(known.links), frozenset(known.devices),
    )  # fmt: skip


def _reboots(was: Switch, switch: Switch, told: list[LineChange]) -> list[LineChange]:
    """For what of a change its model reboots, as its catalogue entry says; another model is another machine."""
    if was.type.id != switch.type.id:
        why = f"a {switch.type.title} takes the place of a {was.type.title}: it is unplugged, and the new one starts from its own files"
        title = f"a {was.type.title}"
        return [
            LineChange("the switch itself", (), title, f"a {switch.type.title}", Effect.REBOOT, {}, None, why, "brief")
        ]
    found: list[LineChange] = []
    if "breakout" in switch.type.reboots_for:
        lanes, now = was.plan.lanes_at, switch.plan.lanes_at
        others = [hole for hole in now if hole in lanes and lanes[hole] != now[hole]]
        if others:
            words = f"{', '.join(sorted(others)[:4])}{' and others' if len(others) > 4 else ''} broken out otherwise"
            found.append(_reboot(words, switch))
    if "speed" in switch.type.reboots_for and any(
        line.rule and line.rule.line.startswith("link-speed") for line in told
    ):
        found.append(_reboot("ports at another speed", switch))
    return found


def _reboot(words: str, switch: Switch) -> LineChange:
    why = f"a {switch.type.title} reads this when it starts"
    return LineChange("the switch itself", (), "", words, Effect.REBOOT, {}, None, why, "catalogue")


def _moved(known: Concerned) -> bool:
    """Whether cables of a switch are in other ports than before; their links go down by hand, and the sessions over them."""
    was = {port.link: port.label for port in known.was.fabric_ports}
    moved = [port for port in known.model.fabric_ports if was.get(port.link, port.label) != port.label]
    for port in moved:
        known.links.add(str(port.cable))
        over = known.before.by_device.get(was[port.link], ())
        known.restarting.update({one.id: one for one in known.stay(over)})
    return bool(moved)


def _files(compiled: Compiled, key: str) -> Mapping[str, str]:
    """The files of a switch; none where its target refuses it."""
    return {} if key in compiled.without_files else compiled.files(key)


def touched(one: Ripple) -> Iterator[SwitchRipple]:
    """The switches where traffic notices."""
    return (switch for switch in one.switches if switch.effect.touches)
