"""Links → brief: tell tiers, pods and planes from who is linked to whom, and say what was understood.

In a folded Clos the links join two sides that never link within themselves. In two tiers every leaf meets every spine. In
three, the spines are one side, and the other falls into groups with the same spines: a pod's leaves share the
pod's spines, a plane's super-spines share the plane's. Both kinds of groups split the spines, and each pod meets each plane in
one spine. Names decide which kind is which when they can; else the more numerous are leaves.
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict, deque
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from barrio.core.brief.hardware import PortPlan
from barrio.core.brief.ranges import contract_names
from barrio.core.catalogue.model import Catalogue, SwitchType
from barrio.core.errors import Refused, refuse
from barrio.core.exchange.links import PlainLink
from barrio.core.structure.ports import plan_ports

_TOP = ("super", "core", "ssw", "tier3")
_SPINE = ("spine", "agg", "spn", "fabric")
_LEAF = ("leaf", "tor", "edge", "access", "border", "rack")
Groups = dict[frozenset[str], list[str]]


@dataclass(frozen=True, slots=True)
class Understood:
    """What was read: counts, the brief as text, and notes on what was guessed or left out, for a person to check."""

    text: str
    tiers: int
    leaves: int
    spines: int
    super_spines: int
    pods: int
    links: int
    notes: tuple[str, ...]


def understand(links: list[PlainLink], name: str, catalogue: Catalogue) -> Understood:
    """A brief for these links.

    Raises `Refused` (`import.shape`) naming the switch that does not fit a folded Clos, and how.
    """
    lanes: Counter[frozenset[str]] = Counter(frozenset((link.a, link.b)) for link in links)
    near: dict[str, set[str]] = defaultdict(set)
    for link in links:
        near[link.a].add(link.b)
        near[link.b].add(link.a)
    one, other = _sides(near)
    found = _two_tiers(one, other, near)
    if found is None:
        found = _three_tiers(one, other, near) or _three_tiers(other, one, near)
    if found is None:
        raise _misfit(one, other, near)
    return _Writer(found, near, lanes, links, name, catalogue).understood()


@dataclass(frozen=True)
class _Tiers:
    """Spines by pod in the order of their planes, leaves by pod, and super-spines by plane; one pod in two tiers."""

    pods: list[list[str]]
    leaves: list[list[str]]
    planes: list[list[str]]


def natural(name: str) -> tuple[object, ...]:
    """A key that sorts names as people do: leaf-2 before leaf-10."""
    return tuple((0, int(part), "") if part.isdigit() else (1, 0, part) for part in re.split(r"(\d+)", name))


def _sides(near: Mapping[str, set[str]]) -> tuple[list[str], list[str]]:
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


def _two_tiers(one: list[str], other: list[str], near: Mapping[str, set[str]]) -> _Tiers | None:
    if any(len(near[name]) != len(other) for name in one):
        return None
    score = _hint(one, _SPINE) + _hint(other, _LEAF) - _hint(other, _SPINE) - _hint(one, _LEAF)
    first_is_spines = score > 0 or (score == 0 and len(one) <= len(other))
    spines, leaves = (one, other) if first_is_spines else (other, one)
    return _Tiers([sorted(spines, key=natural)], [sorted(leaves, key=natural)], [])


def _three_tiers(spines: list[str], rest: list[str], near: Mapping[str, set[str]]) -> _Tiers | None:
    groups: Groups = defaultdict(list)
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
    return _Tiers(
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


def _misfit(one: list[str], other: list[str], near: Mapping[str, set[str]]) -> Refused:
    few, many = (one, other) if len(one) <= len(other) else (other, one)
    least = min(many, key=lambda name: len(near[name]))
    missing = sorted(set(few) - near[least], key=natural)
    lacks = f"{missing[0][:60]} and {len(missing) - 1} more" if len(missing) > 1 else (missing or ["another"])[0][:60]
    return refuse(
        "import.shape",
        f"This is not a folded Clos of two or three tiers: {least[:60]} has no link to {lacks}. Every leaf meets every spine "
        "of its pod; correct the sheet, or take what is no spine or leaf out.",
    )


class _Writer:
    def __init__(
        self, tiers: _Tiers, near: Mapping[str, set[str]], lanes: Counter[frozenset[str]], links: list[PlainLink],
        name: str, catalogue: Catalogue,
    ) -> None:  # fmt: skip
        self.tiers, self.near, self.lanes, self.links = tiers, near, lanes, links
        self.name, self.catalogue = name, catalogue
        self.notes: list[str] = []
        self.names: dict[str, str] = {}

    def understood(self) -> Understood:
        tiers = self.tiers
        leaves = sum(map(len, tiers.leaves))
        body = self._tall() if tiers.planes else self._flat()
        lines = [f"fabric: {self.name}", *body, *self._named()]
        self.notes.append(
            "Ports are planned anew by the rule of each model: the sheet's are not kept, so compare before recabling."
        )
        return Understood(
            "\n".join(lines) + "\n", 3 if tiers.planes else 2, leaves, sum(map(len, tiers.pods)),
            sum(map(len, tiers.planes)), len(tiers.pods), len(self.links), tuple(self.notes),
        )  # fmt: skip

    def _flat(self) -> list[str]:
        spines, leaves, usual = self.tiers.pods[0], self.tiers.leaves[0], self._usual_lanes()
        for number, spine in enumerate(spines, 1):
            self._name(f"spine/{number}", f"spine-{number}", spine)
        racks = self._racks(0, [""], usual, len(leaves))
        return [*self._spines(), "racks:", *racks, f"uplinks_per_spine: {usual}"]

    def _tall(self) -> list[str]:
        tiers = self.tiers
        pods = len(tiers.pods)
        width = max(2, len(str(pods)))
        pod_names = [f"p{number:0{width}d}" for number in range(1, pods + 1)]
        sizes = {len(leaves) for leaves in tiers.leaves}
        per_plane = {len(plane) for plane in tiers.planes}
        if len(per_plane) > 1:
            raise refuse(
                "import.shape", f"Planes have {min(per_plane)} to {max(per_plane)} super-spines; give all the same."
            )
        for place, plane in enumerate(tiers.planes, 1):
            for number, switch in enumerate(plane, 1):
                self._name(f"super/{place}/{number}", f"super-{place}-{number}", switch)
        for pod, spines in zip(pod_names, tiers.pods, strict=True):
            for number, spine in enumerate(spines, 1):
                self._name(f"spine/{pod}/{number}", f"spine-{pod}-{number}", spine)
        up = self._same_lanes(
            (spine, top) for pod in tiers.pods for spine, plane in zip(pod, tiers.planes, strict=True) for top in plane
        )
        count, usual = next(iter(per_plane)), self._usual_lanes()
        top = self._model("super-spine", pods * up, 0)
        lines = [
            f"pods: {contract_names(tuple(pod_names))}", "super_spines:", f"  per_plane: {count}", f"  model: {top.id}",
            f"  links: {up}", *self._spines(count * up), "racks:",
        ]  # fmt: skip
        most = max(sizes)
        alike = len({tuple(self._lanes_of(leaf, spines) for leaf in leaves)
                     for leaves, spines in zip(tiers.leaves, tiers.pods, strict=True)}) == 1  # fmt: skip
        if alike:
            lines += self._racks(0, pod_names, usual, most)
        for place, pod in enumerate([] if alike else pod_names):
            lines += self._racks(place, [pod], usual, most)
        return [*lines, f"uplinks_per_spine: {usual}"]

    def _spines(self, up: int = 0) -> list[str]:
        needed = max(
            sum(self._lanes_of(leaf, spines) for leaf in leaves)
            for leaves, spines in zip(self.tiers.leaves, self.tiers.pods, strict=True)
        )
        model = self._model("spine", needed, up)
        return ["spines:", f"  count: {len(self.tiers.pods[0])}", f"  model: {model.id}"]

    def _usual_lanes(self) -> int:
        """The number of parallel links that most leaves have to each spine."""
        counts = Counter(
            self._lanes_of(leaf, spines)
            for leaves, spines in zip(self.tiers.leaves, self.tiers.pods, strict=True)
            for leaf in leaves
        )
        return counts.most_common(1)[0][0]

    def _lanes_of(self, leaf: str, spines: list[str]) -> int:
        return self._same_lanes((leaf, spine) for spine in spines)

    def _same_lanes(self, pairs: Iterable[tuple[str, str]]) -> int:
        counts = Counter(self.lanes[frozenset(pair)] for pair in pairs)
        most = max(counts)
        if len(counts) > 1:
            odd = sum(count for lanes, count in counts.items() if lanes != most)
            self._note(
                f"Some crossings have fewer links than others of the same switch; {odd} are filled up to {most}."
            )
        return most

    def _note(self, words: str) -> None:
        if words not in self.notes:
            self.notes.append(words)

    def _racks(self, place: int, pods: list[str], usual: int, racks_there: int) -> list[str]:
        """The groups of racks of one pod, or of all when they are alike.

        Leaves whose names differ in a last a or b share a rack; every other has one of its own. Leaves with another number of
        links than usual are a kind of their own.
        """
        leaves, spines = self.tiers.leaves[place], self.tiers.pods[place]
        stems: dict[str, list[str]] = defaultdict(list)
        for leaf in leaves:
            pair = re.fullmatch(r"(.*\d)[-_]?([ab])", leaf)
            stems[pair[1] if pair else leaf].append(leaf)
        groups: dict[tuple[int, int], list[list[str]]] = defaultdict(list)
        for members in stems.values():
            if len(members) == 2:
                groups[2, self._lanes_of(members[0], spines)].append(members)
            else:
                for leaf in members:
                    groups[1, self._lanes_of(leaf, spines)].append([leaf])
        lines: list[str] = []
        number, width = 0, max(2, len(str(racks_there)))
        for (count, lanes), found in sorted(groups.items(), key=lambda group: -group[0][0]):
            racks = []
            for members in found:
                number += 1
                rack = f"r{number:0{width}d}"
                racks.append(rack)
                for side, leaf in zip("ab", members, strict=False):
                    self._name_leaf(pods, rack, side if count > 1 else "", leaves.index(leaf), place)
            model = self._model("leaf", len(spines) * lanes, 0)
            lines += [f"  - racks: {contract_names(tuple(racks))}", f"    leaves: {count}", f"    model: {model.id}"]
            if lanes != usual:
                lines += [f"    kind: x{lanes}", f"    uplinks_per_spine: {lanes}"]
            if len(pods) == 1 and pods[0]:
                lines.append(f"    pods: {pods[0]}")
        return lines

    def _name_leaf(self, pods: list[str], rack: str, side: str, at: int, place: int) -> None:
        for further, pod in enumerate(pods):
            full = f"{pod}-{rack}" if pod else rack
            self._name(f"leaf/{full}/{side or 'a'}", f"leaf-{full}{side}", self.tiers.leaves[place + further][at])

    def _model(self, tier: str, down: int, up: int) -> SwitchType:
        """The smallest model of the catalogue with the ports that the links need."""
        fits = []
        for kind in self.catalogue.models:
            if tier not in kind.tiers:
                continue
            plan = plan_ports(kind, tier, PortPlan(), has_upper=up > 0 or tier == "leaf")
            there, above = (len(plan.up), 0) if tier == "leaf" else (len(plan.down), len(plan.up))
            if there >= down and above >= up:
                fits.append((len(kind.tiers) if tier == "leaf" else 1, len(kind.group_of), kind.power, kind))
        if not fits:
            raise refuse(
                "import.model",
                f"No {tier} of the catalogue has {down + up} ports for these links. Add the real model first.",
            )
        kind = min(fits, key=lambda fit: (*fit[:3], fit[3].id))[3]
        self._note(f"The {tier} model is a guess: {kind.title} is the smallest that fits.")
        return kind

    def _name(self, key: str, usual: str, name: str) -> None:
        clean = re.sub(r"[^a-z0-9-]+", "-", name.lower()).strip("-")
        if clean != name:
            self._note("Names are written in lower-case letters, digits and hyphens.")
        if not re.match(r"[a-z]", clean):
            clean = f"sw-{clean}"
        if clean != usual:
            self.names[key] = clean

    def _named(self) -> list[str]:
        twice = [name for name, count in Counter(self.names.values()).items() if count > 1]
        if twice:
            raise refuse(
                "import.names", f"Two switches would be called {twice[0]} once written in lower case. Rename one."
            )
        return ["names:"] + [f"  {key}: {name}" for key, name in self.names.items()] if self.names else []
