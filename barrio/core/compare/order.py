"""A safe order: waves of switches that are changed together, such that no wave takes two of what stands in for each other.

What stands in for each other is a redundant set: the spines of a pod, the super-spines of a plane, the leaves of a rack. Sets share
no switch, so within a tier the fewest waves are as many as its largest set has changed members, and taking the n-th of every set in the n-th
wave reaches that: the order is exact. Where switches must change in the same moment, since both ends of a session must say the same, they
are a group; groups are put into waves by the conflicts between them (greedy colouring, largest first), and the clique of the set with most
groups is a bound from below (Diestel, Graph Theory, 5.2). A group that itself has two of a set is looked at by what it takes: sessions whose far end changes with them take
nothing else away. What would take two at once is told, and not hidden in a wave.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from barrio.core.compare.left import Left, left_in
from barrio.core.compare.ripple import Ripple, SwitchRipple
from barrio.core.compiled import Compiled
from barrio.core.structure.parts import Switch


@dataclass(frozen=True, slots=True)
class Wave:
    """Switches that are changed together, by name, and why the wave stands where it does. `left` is what any two other leaves have between
    them meanwhile."""

    number: int
    switches: tuple[str, ...]
    why: str
    left: Left


@dataclass(frozen=True, slots=True)
class Order:
    """The waves of a change. `exact` says that no order with fewer waves keeps the rule; otherwise `bound` is the number that none goes below.
    `unsafe` says what could not be ordered safely, each with the way out."""

    waves: tuple[Wave, ...]
    exact: bool
    bound: int
    unsafe: tuple[str, ...]

    @property
    def least(self) -> Left:
        """The least that is left in any wave."""
        return min(
            (wave.left for wave in self.waves), key=lambda one: (one.bandwidth, one.paths), default=Left(1.0, 1.0)
        )


@dataclass(frozen=True, slots=True)
class _Group:
    """Switches that change in the same moment, by key."""

    keys: frozenset[str]
    tier: int


_NEW, _FIRST_BORDER, _GONE = 0, 5, 6
_WHY = {
    0: "first what is new: nobody speaks through it yet",
    1: "one super-spine of each plane: every pod has its other ways",
    2: "one spine of each pod: every leaf has the others",
    3: "one leaf of each rack: its hosts have the other",
    4: "border leaves after the others, since what they lead out of is everybody's",
    5: "the first border leaf by itself and last of all that stays: the way out is there until then",
    6: "what goes is switched off when nobody speaks through it any more",
}


def order(before: Compiled | None, after: Compiled, what: Ripple) -> Order:
    """The order in which the switches of a change are put right."""
    switches = {one.key: (after.structure.by_key.get(one.key) or _of(before, one.key)) for one in what.switches}
    places = (before.structure.places if before else {}) | after.structure.places
    sets = _sets(before or after)
    first = _first_border(after, what)
    groups = [
        _Group(keys, max(_tier(switches[key], what.by_key[key], first) for key in keys)) for keys in _together(what)
    ]
    unsafe = [words for group in groups for words in _takes_two(group, sets, what, before or after)]
    waves: list[tuple[int, list[_Group]]] = []
    bound = 0
    for tier in sorted({group.tier for group in groups}):
        of_tier = [group for group in groups if group.tier == tier]
        if tier in (_NEW, _GONE):
            waves.append((tier, of_tier))
            bound += 1
            continue
        colours, least = _coloured(of_tier, sets)
        bound += least
        waves += [(tier, colour) for colour in colours]
    rates = left_in(before or after, any(one.sessions or one.falls or one.state == "gone" for one in what.switches))
    made = [
        Wave(at, _names(members, switches, places), _why(tier, members), rates.without(_taken(members, what), what))
        for at, (tier, members) in enumerate(waves, 1)
    ]
    return Order(tuple(made), len(made) == bound, bound, tuple(unsafe))


def _of(compiled: Compiled | None, key: str) -> Switch:
    assert compiled is not None
    return compiled.structure.by_key[key]


def _names(members: Iterable[_Group], switches: Mapping[str, Switch], places: Mapping[str, int]) -> tuple[str, ...]:
    found = [switches[key] for group in members for key in group.keys]
    return tuple(one.name for one in sorted(found, key=lambda one: (places[one.key], one.name)))


def _tier(switch: Switch, one: SwitchRipple, first: str) -> int:
    if one.state == "new":
        return _NEW
    if one.state == "gone":
        return _GONE
    if switch.key == first:
        return _FIRST_BORDER
    return {"super-spine": 1, "spine": 2, "border": 4}.get(switch.role, 3)


def _first_border(after: Compiled, what: Ripple) -> str:
    """The border leaf that comes last: the first of those that change and were there before."""
    changed = (one for one in after.staged if one.role == "border" and one.key in what.by_key)
    return next((one.key for one in changed if what.by_key[one.key].state == "changed"), "")


def _sets(compiled: Compiled) -> dict[str, str]:
    """The redundant set of each switch, in words; one that nothing stands in for is in none."""
    structure = compiled.structure
    sets: dict[str, list[str]] = defaultdict(list)
    for pod, spines in structure.pods.items():
        sets[f"the spines of {pod}" if pod else "the spines"] += [one.key for one in spines]
    for plane, supers in structure.planes.items():
        sets[f"the super-spines of plane {plane + 1}"] += [one.key for one in supers]
    for leaf in structure.leaves:
        sets[f"the leaves of {leaf.rack}"].append(leaf.key)
    return {key: name for name, keys in sets.items() if len(keys) > 1 for key in keys}


def _together(what: Ripple) -> Iterator[frozenset[str]]:
    """The switches of a change, those together that must be changed in the same moment."""
    above: dict[str, str] = {one.key: one.key for one in what.switches}

    def root(key: str) -> str:
        while above[key] != key:
            above[key] = above[above[key]]
            key = above[key]
        return key

    said: dict[str, str] = {}
    for one in what.switches:
        for session in one.agree:
            if session in said:
                above[root(one.key)] = root(said[session])
            said.setdefault(session, one.key)
    groups: dict[str, set[str]] = defaultdict(set)
    for key in above:
        groups[root(key)].add(key)
    return (frozenset(keys) for keys in groups.values())


def _coloured(groups: Sequence[_Group], sets: Mapping[str, str]) -> tuple[list[list[_Group]], int]:
    """Groups in as few waves as a greedy choice finds, and how many it cannot be below. Groups conflict when both have one of a set."""
    waves: list[tuple[set[str], list[_Group]]] = []
    per_set: dict[str, int] = defaultdict(int)
    for group in sorted(groups, key=lambda one: (-len(one.keys), min(one.keys))):
        mine = {sets.get(key, key) for key in group.keys}
        for name in mine:
            per_set[name] += 1
        free = next((wave for wave in waves if not wave[0] & mine), None)
        if free is None:
            waves.append((set(mine), [group]))
        else:
            free[0].update(mine)
            free[1].append(group)
    return [members for _, members in waves], max(per_set.values(), default=0)


def _why(tier: int, members: Sequence[_Group]) -> str:
    joined = sum(len(group.keys) > 1 for group in members)
    if not joined:
        return _WHY[tier]
    together = "both ends of their sessions must say the same, so they change in the same moment"
    return together if joined == len(list(members)) else f"{_WHY[tier]}; of some, {together}"


def _taken(members: Iterable[_Group], what: Ripple) -> list[SwitchRipple]:
    return [what.by_key[key] for group in members for key in group.keys if what.by_key[key].state != "new"]


def _takes_two(group: _Group, sets: Mapping[str, str], what: Ripple, compiled: Compiled) -> Iterator[str]:
    """What a group that changes in one moment takes two of, in words with the way out."""
    if len(group.keys) == 1:
        return
    lost = _all_lost(group, what, compiled)
    by_set: dict[str, list[str]] = defaultdict(list)
    for key in lost:
        by_set[sets.get(key, key)].append(key)
    for name, keys in by_set.items():
        if len(keys) > 1:
            names = " and ".join(what.by_key[key].name for key in sorted(keys)[:4])
            more = f" and {len(keys) - 4} more" if len(keys) > 4 else ""
            yield (
                f"{names}{more} lose all their sessions in the same moment, and they are {name}. Make this change in two drafts, with "
                "one of them in each, and seal the first before the second."
            )


def _all_lost(group: _Group, what: Ripple, compiled: Compiled) -> list[str]:
    """The switches of a group whose every session restarts."""
    restarting = frozenset[str]().union(*(what.by_key[key].sessions for key in group.keys))
    down = {what.sessions[one].link for one in restarting}
    found = []
    for key in group.keys:
        model = compiled.models.get(key)
        if model is not None and model.fabric_ports:
            all_down = all(port.link in down for port in model.fabric_ports)
            if all_down or what.by_key[key].falls:
                found.append(key)
    return sorted(found)
