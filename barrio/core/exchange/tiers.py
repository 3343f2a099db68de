"""Tiers, pods and planes, told from who is linked to whom.

In a folded Clos the links join two sides that never link within themselves. In two tiers every leaf meets every spine. In
three, the spines are one side, and the other falls into groups with the same spines: a pod's leaves share the
pod's spines, a plane's super-spines share the plane's. Both kinds of groups split the spines, and each pod meets each plane in
one spine. Names decide which kind is which when they can; else the more numerous are leaves.
"""

from __future__ import annotations

import re
from collections import defaultdict, deque
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from barrio.core.errors import Refused, refuse

_TOP = ("super", "core", "ssw", "tier3")
_SPINE = ("spine", "agg", "spn", "fabric")
_LEAF = ("leaf", "tor", "edge", "access", "border", "rack")
Near = Mapping[str, set[str]]
"""The neighbours of each switch."""
_Groups = dict[frozenset[str], list[str]]


@dataclass(frozen=True)
class Tiers:
    """Spines by pod in the order of their planes, leaves by pod, and super-spines by plane; one pod in two tiers."""

    pods: list[list[str]]
    leaves: list[list[str]]
    planes: list[list[str]]


def tiers_of(near: Near) -> Tiers:
    """The tiers of these switches. Raises `Refused` (`import.shape`) naming the switch that does not fit a folded Clos, and how."""
    one, other = _sides(near)
    flat = _two_tiers(one, other, near)
    mixed = flat is not None and any(_hint(side, _TOP) and _hint(side, _LEAF) for side in (one, other))
    tall = None if flat and not mixed else _three_tiers(one, other, near) or _three_tiers(other, one, near)
    if mixed and tall is None and 1 in (len(one), len(other)):
        tall = _by_name(*((one, other) if len(one) == 1 else (other, one)))
    found = tall or flat
    if found is None:
        raise _misfit(one, other, near)
    return found


def natural(name: str) -> tuple[object, ...]:
    """A key that sorts names as people do: leaf-2 before leaf-10."""
    return tuple((0, int(part), "") if part.isdigit() else (1, 0, part) for part in re.split(r"(\d+)", name))


def _sides(near: Near) -> tuple[list[str], list[str]]:
    """The two sides of the graph. Raises `Refused` when links join switches of one side, or it falls apart."""
    side: dict[str, int] = {}
    start = min(near, key=natural)
    side[start] = 0
    queue = deque([start])
    while queue:
        here = queue.popleft()
        for there in near[here]:
            if there not in side:
                side[there] = 1 - side[here]
                queue.append(there)
            elif side[there] == side[here]:
                raise refuse(
                    "import.shape",
                    f"{here[:60]} and {there[:60]} are linked, but stand in the same tier by their other links. In a folded "
                    "Clos links go up and down only; take peer links and the like out of the sheet.",
                )
    lost = next((switch for switch in near if switch not in side), None)
    if lost is not None:
        raise refuse(
            "import.shape", f"{lost[:60]} has no way to {start[:60]}: these are two fabrics. Import one at a time."
        )
    return [name for name in near if side[name] == 0], [name for name in near if side[name] == 1]


def _hint(names: Iterable[str], words: tuple[str, ...]) -> int:
    return sum(1 for name in names if any(word in name.lower() for word in words))


def _two_tiers(one: list[str], other: list[str], near: Near) -> Tiers | None:
    if any(len(near[name]) != len(other) for name in one):
        return None
    score = _hint(one, _SPINE) + _hint(other, _LEAF) - _hint(other, _SPINE) - _hint(one, _LEAF)
    first_is_spines = score > 0 or (score == 0 and len(one) <= len(other))
    spines, leaves = (one, other) if first_is_spines else (other, one)
    return Tiers([sorted(spines, key=natural)], [sorted(leaves, key=natural)], [])


def _by_name(spines: list[str], rest: list[str]) -> Tiers:
    """Where one spine is between leaves and super-spines, names alone tell them apart."""
    tops = [name for name in rest if _hint([name], _TOP)]
    leaves = [name for name in rest if name not in tops]
    return Tiers([spines], [sorted(leaves, key=natural)], [sorted(tops, key=natural)])


def _three_tiers(spines: list[str], rest: list[str], near: Near) -> Tiers | None:
    groups: _Groups = defaultdict(list)
    for name in rest:
        groups[frozenset(near[name])].append(name)
    halves = _partitions(list(groups), set(spines))
    if halves is None:
        return None
    one, two = halves
    if any(len(pod & plane) != 1 for pod in one for plane in two):
        return None

    def score(pods: list[frozenset[str]]) -> tuple[int, int]:
        members = [name for pod in pods for name in groups[pod]]
        return _hint(members, _LEAF) - _hint(members, _TOP), len(members)

    if score(two) > score(one):
        one, two = two, one
    planes = sorted(two, key=lambda plane: natural(min(groups[plane], key=natural)))
    pods = sorted(one, key=lambda pod: natural(min(groups[pod], key=natural)))
    return Tiers(
        [[next(iter(pod & plane)) for plane in planes] for pod in pods],
        [sorted(groups[pod], key=natural) for pod in pods],
        [sorted(groups[plane], key=natural) for plane in planes],
    )


def _partitions(
    sets: list[frozenset[str]], whole: set[str]
) -> tuple[list[frozenset[str]], list[frozenset[str]]] | None:
    """Two families out of these sets, each of which splits the whole; none when there are no such two."""
    by_member: dict[str, list[frozenset[str]]] = defaultdict(list)
    for one in sets:
        for name in one:
            by_member[name].append(one)
    if any(len(by_member[name]) != 2 for name in whole):
        return None
    family: dict[frozenset[str], int] = {sets[0]: 0}
    queue = deque([sets[0]])
    while queue:
        here = queue.popleft()
        for name in here:
            for there in by_member[name]:
                if there is here:
                    continue
                if there not in family:
                    family[there] = 1 - family[here]
                    queue.append(there)
                elif family[there] == family[here]:
                    return None
    if len(family) != len(sets):
        return None
    return [one for one in sets if family[one] == 0], [one for one in sets if family[one] == 1]


def _misfit(one: list[str], other: list[str], near: Near) -> Refused:
    few, many = (one, other) if len(one) <= len(other) else (other, one)
    least = min(many, key=lambda name: len(near[name]))
    missing = sorted(set(few) - near[least], key=natural)
    lacks = f"{missing[0][:60]} and {len(missing) - 1} more" if len(missing) > 1 else (missing or ["another"])[0][:60]
    return refuse(
        "import.shape",
        f"This is not a folded Clos of two or three tiers: {least[:60]} has no link to {lacks}. Every leaf meets every spine "
        "of its pod; correct the sheet, or take what is no spine or leaf out.",
    )
