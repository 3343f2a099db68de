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


def understand(links: list[PlainLink], name: str, catalogue: Catalogue) -> Understood:
    """A brief for these links.

    Raises `Refused` (`import.shape`) naming the switch that does not fit a folded Clos, and how.
    """
    lanes: Counter[frozenset[str]] = Counter(frozenset((link.a, link.b)) for link in links)
    near: dict[str, set[str]] = defaultdict(set)
    for link in links:
        near[link.a].add(link.b)
        near[link.b].add(link.a)
    return _Writer(tiers_of(near), near, lanes, links, name, catalogue).understood()


class _Writer:
    def __init__(
        self, tiers: Tiers, near: Mapping[str, set[str]], lanes: Counter[frozenset[str]], links: list[PlainLink],
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
