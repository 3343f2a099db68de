"""Links → brief: what was understood of who is linked to whom, written out."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from barrio.core.brief.hardware import PortPlan
from barrio.core.brief.ranges import contract_names
from barrio.core.catalogue.model import Catalogue, SwitchType
from barrio.core.errors import refuse
from barrio.core.exchange.links import PlainLink
from barrio.core.exchange.tiers import Tiers, tiers_of
from barrio.core.structure.ports import plan_ports


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


def understand(
    links: list[PlainLink], name: str, catalogue: Catalogue, models: Mapping[str, str] | None = None
) -> Understood:
    """A brief for these links; `models` are what switches say that they are, by name.

    Raises `Refused` (`import.shape`) naming the switch that does not fit a folded Clos, and how.
    """
    lanes: Counter[frozenset[str]] = Counter(frozenset((link.a, link.b)) for link in links)
    near: dict[str, set[str]] = defaultdict(set)
    for link in links:
        near[link.a].add(link.b)
        near[link.b].add(link.a)
    return _Writer(tiers_of(near), near, lanes, links, name, catalogue, models or {}).understood()


class _Writer:
    def __init__(
        self, tiers: Tiers, near: Mapping[str, set[str]], lanes: Counter[frozenset[str]], links: list[PlainLink],
        name: str, catalogue: Catalogue, models: Mapping[str, str],
    ) -> None:  # fmt: skip
        self.tiers, self.near, self.lanes, self.links, self.models = tiers, near, lanes, links, models
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
        top = self._model("super-spine", pods * up, 0, [name for plane in tiers.planes for name in plane])
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
        model = self._model("spine", needed, up, [name for pod in self.tiers.pods for name in pod])
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
        racks = _rack_names(stems, racks_there)
        groups: dict[tuple[int, int, str], list[tuple[str, list[str]]]] = defaultdict(list)
        for stem, members in stems.items():
            role = "border" if "border" in stem.lower() else "leaf"
            if len(members) == 2:
                groups[2, self._lanes_of(members[0], spines), role].append((racks[stem], members))
            else:
                # Two of one stem share a rack only as a pair.
                for at, leaf in enumerate(members):
                    rack = racks[stem] if at == 0 else f"{racks[stem]}-{at + 1}"
                    groups[1, self._lanes_of(leaf, spines), role].append((rack, [leaf]))
        lines: list[str] = []
        for (count, lanes, role), found in sorted(
            groups.items(), key=lambda group: (-group[0][0], group[0][2] != "leaf")
        ):
            for rack, members in found:
                for side, leaf in zip("ab", members, strict=False):
                    self._name_leaf(role, pods, rack, side if count > 1 else "", leaves.index(leaf), place)
            names = contract_names(tuple(rack for rack, _ in found))
            model = self._model("leaf", len(spines) * lanes, 0, [leaf for _, members in found for leaf in members])
            lines += [f"  - racks: {names}", f"    leaves: {count}", f"    model: {model.id}"]
            if role == "border":
                lines.append("    role: border")
            if lanes != usual:
                lines += [f"    kind: x{lanes}", f"    uplinks_per_spine: {lanes}"]
            if len(pods) == 1 and pods[0]:
                lines.append(f"    pods: {pods[0]}")
        return lines

    def _name_leaf(self, role: str, pods: list[str], rack: str, side: str, at: int, place: int) -> None:
        for further, pod in enumerate(pods):
            full = f"{pod}-{rack}" if pod else rack
            self._name(f"leaf/{full}/{side or 'a'}", f"{role}-{full}{side}", self.tiers.leaves[place + further][at])

    def _model(self, tier: str, down: int, up: int, members: list[str]) -> SwitchType:
        """The model that its switches say, or the smallest of the catalogue with the ports that the links need."""
        said = {self.models[name].lower() for name in members if name in self.models}
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
        named = [kind for *_, kind in fits if {kind.title.lower(), kind.id} & said]
        if named and len(said) == 1:
            return named[0]
        for one in sorted(said):
            self._note(f"No one {tier} model with these ports is called “{one[:40]}” in the catalogue.")
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


def _rack_names(stems: Iterable[str], racks_there: int) -> dict[str, str]:
    """The rack of each leaf or pair, by what its name begins with: what the name says last, or its number, where that tells all of them apart, so that one
    more moves no other; else they are numbered in order.

    >>> _rack_names(["leaf-r07", "border-b01"], 2), _rack_names(["tor3", "tor12"], 2), _rack_names(["east", "west"], 2)
    ({'leaf-r07': 'r07', 'border-b01': 'b01'}, {'tor3': 'r03', 'tor12': 'r12'}, {'east': 'r01', 'west': 'r02'})
    """
    every = list(stems)
    last = [re.fullmatch(r".*[-_.]([a-z]{1,8}\d{1,6})", stem.lower()) for stem in every]
    number = [re.search(r"(\d{1,6})$", stem) for stem in every]
    width = max(2, len(str(racks_there)))
    for found in ([one[1] for one in last if one], [f"r{int(one[1]):0{width}d}" for one in number if one]):
        if len(set(found)) == len(every):
            return dict(zip(every, found, strict=True))
    return {stem: f"r{place:0{width}d}" for place, stem in enumerate(every, 1)}
