"""The shape of a fabric: tiers by who neighbours whom, pods, planes, pairs and racks, and the model of each switch."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any

from barrio.core.adopt.found import Findings
from barrio.core.adopt.fronts import Front, front_of, merged
from barrio.core.adopt.places import Place, places
from barrio.core.adopt.running import Known, clean
from barrio.core.adopt.wired import Wired
from barrio.core.brief.ranges import contract_names, expand_names
from barrio.core.catalogue.model import Catalogue, SwitchType, Tier
from barrio.core.errors import Refused, refuse
from barrio.core.exchange.tiers import Near, Tiers, natural, tiers_of

_RACK = re.compile(r"\brack ([a-z][a-z0-9-]*)")


@dataclass(frozen=True)
class Shape:
    """Every switch that fits: its key, and from it back; models by key; the edits that say all of it. `left` are those that fit no folded Clos, with the reason."""

    keys: Mapping[str, str]
    fronts: Mapping[str, Front]
    tier: Mapping[str, Tier]
    edits: Mapping[str, Any]
    new_models: tuple[SwitchType, ...]
    left: Mapping[str, str]
    group_of: Mapping[str, int]
    uneven: tuple[tuple[str, str, str], ...] = ()


def shape(known: Mapping[str, Known], links: Wired, catalogue: Catalogue, found: Findings) -> Shape:
    """The shape of what runs. Raises `Refused` (`import.shape`) where hardly anything of it is a folded Clos."""
    near: dict[str, set[str]] = defaultdict(set)
    for link in links.links:
        near[link.a].add(link.b)
        near[link.b].add(link.a)
    left = {name: "it has no link to another switch" for name in known if name not in near}
    tiers = clos(near, left, links.unread)
    return _Shaping(known, links, catalogue, found, tiers, left).shaped()


def clos(near: dict[str, set[str]], left: dict[str, str], unread: Collection[str] = ()) -> Tiers:
    """The tiers of the part that is a folded Clos; who does not fit is moved to `left` one after the other, a fifth of all at most. Of those that are known by
    others alone (`unread`), whoever is like one that was read stands beside it; the rest is left where the whole makes no shape."""
    refused: Refused | None = None
    try:
        return tiers_of(near)
    except Refused:
        _beside_read(near, left, unread)
    most, there = len(near) // 5, set(near)
    while near:
        try:
            return tiers_of(near)
        except Refused as error:
            refused = refused or error
            if len(there & set(left)) >= most:
                raise
            name = _misfit(near)
            left[name] = error.faults[0].message
            for far in near.pop(name):
                near[far].discard(name)
                if not near[far]:
                    left[far] = f"its only link leads to {name}"
                    del near[far]
    raise refused or refuse("adopt.nothing", "No switch that was read has a link to another.")


def _beside_read(near: dict[str, set[str]], left: dict[str, str], unread: Collection[str]) -> None:
    """Have those that could not be read, whom others see just as one that was, stand as that one does; the others are left."""
    read = set(near).difference(unread)
    models = {frozenset(near[one] & read): one for one in sorted(read, key=natural, reverse=True)}
    beside = {one: models[frozenset(near[one])] for one in unread if one in near and frozenset(near[one]) in models}
    for one in set(unread).intersection(near).difference(beside):
        left[one] = "it could not be read, and what others tell of it does not say where it stands"
        for far in near.pop(one):
            near.get(far, set()).discard(one)
    for one in [name for name, far in near.items() if not far]:
        left[one] = "its links lead to switches that could not be read"
        del near[one]
    for one, model in beside.items():
        near[one] = set(near[model])
    for one in beside:
        for far in near[one]:
            near[far].add(one)


def _misfit(near: Near) -> str:
    """The switch without which most of the others are alike: whose neighbours fewest others have, and whoever has few links before others."""
    alike = Counter(frozenset(far) for far in near.values())
    return min(near, key=lambda name: (alike[frozenset(near[name])], len(near[name]), natural(name)))


class _Shaping:
    def __init__(
        self, known: Mapping[str, Known], links: Wired, catalogue: Catalogue, found: Findings, tiers: Tiers, left: Mapping[str, str]
    ) -> None:  # fmt: skip
        self.known, self.links, self.catalogue, self.found, self.tiers, self.left = (
            known,
            links,
            catalogue,
            found,
            tiers,
            left,
        )
        self.keys: dict[str, str] = {}
        self.usual: dict[str, str] = {}
        self.tier: dict[str, Tier] = {}
        self.fronts: dict[str, Front] = {}
        self.edits: dict[str, Any] = {}
        self.uneven: list[tuple[str, str, str]] = []
        self.lanes = Counter(frozenset((link.a, link.b)) for link in links.links)
        self.up: dict[str, set[str]] = defaultdict(set)
        for link in links.links:
            self.up[link.a].add(link.a_port)
            self.up[link.b].add(link.b_port)

    def shaped(self) -> Shape:
        tiers = self.tiers
        pods = self._pods()
        supers = [name for plane in tiers.planes for name in plane]
        spines = [name for pod in tiers.pods for name in pod]
        leaves = [name for pod in tiers.leaves for name in pod]
        of_tier: list[tuple[Tier, list[str]]] = [("super-spine", supers), ("spine", spines), ("leaf", leaves)]
        for tier, names in of_tier:
            self.tier |= dict.fromkeys(names, tier)
            for name in sorted(names, key=lambda name: self.known[name].unread):
                self.fronts[name] = self._front(name, names)
        self.fronts = merged(self.fronts)
        self._upper(pods, supers, spines)
        pod_of = {leaf: pod for pod, members in zip(pods, tiers.leaves, strict=True) for leaf in members}
        stands = places(leaves, pod_of, self.known)
        for leaf, (rack, side) in stands.items():
            full = f"{pod_of[leaf]}-{rack}" if pod_of[leaf] else rack
            alone = sum(other.rack == rack and pod_of[one] == pod_of[leaf] for one, other in stands.items()) == 1
            self._key(leaf, f"leaf/{full}/{side}", f"leaf-{full}{'' if alone else side}")
        groups = self._groups(stands, pod_of, pods)
        self.edits["racks"] = groups
        called = {f"names.{key}": clean(name) for name, key in self.keys.items() if clean(name) != self.usual[name]}
        told = [
            f"{len(leaves)} leaves meet {len(spines)} spines"
            + (f", which meet {len(supers)} super-spines in {len(tiers.planes)} planes" if supers else "")
        ]
        self.found.propose(
            "shape",
            "shape",
            f"{len(self.keys)} switches in {3 if supers else 2} tiers",
            dict(self.edits),
            told + self.links.evidence,
        )
        self.found.propose(
            "shape",
            "names",
            "names of switches",
            called,
            [f"{len(called)} switches are called otherwise than after their place"],
        )
        new = {front.kind.id: front.kind for front in self.fronts.values() if front.new}
        for kind in new.values():
            count = sum(front.kind.id == kind.id for front in self.fronts.values())
            ports = ", ".join(
                f"{group.prefix}{group.first}..{group.prefix}{group.first + group.count - 1}" for group in kind.groups
            )
            self.found.propose(
                "models",
                f"model/{kind.id}",
                f"model {kind.title}, {ports}",
                {},
                [f"{count} switches have these ports, and no model of the catalogue"],
                "likely",
            )
        for name, why in self.left.items():
            self.found.odd(f"switch/{name}", name, f"{name} is no part of the folded Clos: {why}")
        by_key = {self.keys[name]: front for name, front in self.fronts.items()}
        return Shape(
            self.keys,
            by_key,
            self.tier,
            self.edits | called,
            tuple(new.values()),
            self.left,
            self._group_of(groups),
            tuple(self.uneven),
        )

    def _group_of(self, groups: list[dict[str, Any]]) -> dict[str, int]:
        """The place of each leaf's kind of rack."""
        found: dict[str, int] = {}
        for place, group in enumerate(groups):
            racks, pods = (
                set(expand_names(group["racks"])),
                set(expand_names(group["pods"])) if "pods" in group else None,
            )
            for key in self.keys.values():
                if key.startswith("leaf/"):
                    pod, _, rack = (
                        key.split("/")[1].rpartition("-") if self.tiers.planes else ("", "", key.split("/")[1])
                    )
                    if rack in racks and (pods is None or pod in pods):
                        found[key] = place
        return found

    def _front(self, name: str, alike: list[str]) -> Front:
        """The model of a switch; one that could not be read is taken to be as most others of its tier."""
        one = self.known[name]
        there = [self.fronts[other].kind for other in alike if other in self.fronts]
        if one.unread and there:
            usual, _ = Counter(kind.id for kind in there).most_common(1)[0]
            kind = next(kind for kind in there if kind.id == usual)
            return Front(kind, f"{name} could not be read, and most others are such")
        return front_of(one, self.tier[name], frozenset(self.up[name]), self.catalogue)

    def _pods(self) -> list[str]:
        """A name for each pod: as its switches say it where all do, else in turn; one without a name in two tiers."""
        if not self.tiers.planes:
            return [""]
        width = max(2, len(str(len(self.tiers.pods))))
        told: list[str] = []
        for spines, leaves in zip(self.tiers.pods, self.tiers.leaves, strict=True):
            parts = [set(re.findall(r"(?:^|-)([a-z]+\d+)(?=-)", name)) for name in spines + leaves]
            common = set.intersection(*parts) if parts else set()
            told.append(min(common, key=natural) if common else "")
        if all(told) and len(set(told)) == len(told):
            return told
        return [f"p{number:0{width}d}" for number in range(1, len(self.tiers.pods) + 1)]

    def _upper(self, pods: list[str], supers: list[str], spines: list[str]) -> None:
        tiers = self.tiers
        self.edits |= {
            "spines.count": len(tiers.pods[0]),
            "spines.model": self._model(spines),
            "spines.racks": self._racks(spines),
        }
        for pod, members in zip(pods, tiers.pods, strict=True):
            for number, name in enumerate(members, 1):
                where = f"{pod}/{number}" if pod else str(number)
                self._key(name, f"spine/{where}", f"spine-{where.replace('/', '-')}")
        if not supers:
            return
        links = self._lanes(
            [
                (spine, top)
                for pod in tiers.pods
                for spine, plane in zip(pod, tiers.planes, strict=True)
                for top in plane
            ]
        )
        self.edits |= {
            "pods": contract_names(tuple(pods)), "super_spines.per_plane": len(tiers.planes[0]), "super_spines.model": self._model(supers),
            "super_spines.racks": self._racks(supers), "super_spines.links": links,
        }  # fmt: skip
        for place, plane in enumerate(tiers.planes, 1):
            for number, name in enumerate(plane, 1):
                self._key(name, f"super/{place}/{number}", f"super-{place}-{number}")

    def _model(self, names: list[str]) -> str:
        counts = Counter(self.fronts[name].kind.id for name in names)
        return counts.most_common(1)[0][0]

    def _racks(self, names: list[str]) -> str:
        """The racks in which switches without hosts stand, as they say."""
        read = [name for name in names if not self.known[name].unread]
        told = [found[1] for name in read if (found := _RACK.search(self.known[name].description))]
        default = "s01" if self.tier[names[0]] == "spine" else "x01"
        return (
            contract_names(tuple(sorted(dict.fromkeys(told), key=natural)))
            if told and len(told) == len(read)
            else default
        )

    def _lanes(self, pairs: list[tuple[str, str]]) -> int:
        """The parallel links that most crossings have; others are told."""
        counts = Counter(self.lanes[frozenset(pair)] for pair in pairs)
        usual = counts.most_common(1)[0][0]
        self.uneven += [
            (one, far, f"{self.lanes[frozenset((one, far))]} links to {far}, where others have {usual}")
            for one, far in pairs
            if self.lanes[frozenset((one, far))] != usual
        ]
        return usual

    def _groups(self, stands: Mapping[str, Place], pod_of: Mapping[str, str], pods: list[str]) -> list[dict[str, Any]]:
        """The kinds of racks: as many leaves of the same model, role, pairing and number of uplinks."""
        racks: dict[tuple[str, str], list[str]] = defaultdict(list)
        for leaf, place in stands.items():
            racks[pod_of[leaf], place.rack].append(leaf)
        spines_of = {
            leaf: spines for spines, leaves in zip(self.tiers.pods, self.tiers.leaves, strict=True) for leaf in leaves
        }
        kinds: dict[tuple[Any, ...], dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
        usual_lanes = Counter(self._lanes_of(leaf, spines_of[leaf]) for leaf in stands).most_common(1)[0][0]
        self.edits["uplinks_per_spine"] = usual_lanes
        for (pod, rack), members in racks.items():
            lanes = self._lanes_of(members[0], spines_of[members[0]])
            kinds[len(members), self._model(members), self._role(members), lanes][pod].append(rack)
            if self._role(members) == "border":
                for leaf in members:
                    self.usual[leaf] = f"border{self.usual[leaf].removeprefix('leaf')}"
        groups: list[dict[str, Any]] = []
        many = sorted(kinds.items(), key=lambda kind: (kind[0][2] == "border", -sum(map(len, kind[1].values()))))
        for (count, model, role, lanes), by_pod in many:
            # A rack whose hosts are all on one leaf does not show it: it is as others of its kind.
            pairing = any(self._pairing(racks[pod, rack]) for pod, there in by_pod.items() for rack in there)
            alike: dict[tuple[str, ...], list[str]] = defaultdict(list)
            for pod, there in by_pod.items():
                alike[tuple(sorted(there, key=natural))].append(pod)
            for names, where in alike.items():
                group: dict[str, Any] = {"racks": contract_names(names), "leaves": count, "model": model}
                if role == "border":
                    group["role"] = role
                if pairing:
                    group["pairing"] = "multihoming"
                if lanes != usual_lanes:
                    group |= {"kind": f"x{lanes}", "uplinks_per_spine": lanes}
                if pods != [""] and sorted(where) != sorted(pods):
                    group["pods"] = contract_names(tuple(sorted(where, key=natural)))
                groups.append(group)
        return groups

    def _lanes_of(self, leaf: str, spines: list[str]) -> int:
        return Counter(self.lanes[frozenset((leaf, spine))] for spine in spines).most_common(1)[0][0]

    def _role(self, members: list[str]) -> str:
        """A border leaf says so, or has a session of a VRF with a system outside."""
        for name in members:
            one = self.known[name]
            if re.search(r"\bborder\b", one.description) or any(
                router.sessions for vrf, router in one.text.routers.items() if vrf
            ):
                return "border"
        return "leaf"

    def _pairing(self, members: list[str]) -> bool:
        """Whether two leaves share hosts: by their Ethernet segments, or by how they mark what the other of the two flooded."""
        said = [line for name in members for block in self.known[name].text.blocks.values() for line in block]
        ups = [up for name in members for one in self.known[name].devices.values() for up in one.said.get("up", ())]
        return len(members) == 2 and (
            any(line.startswith("evpn mh ") for line in said) or any("dst_port 4789 action skbedit" in up for up in ups)
        )

    def _key(self, name: str, key: str, usual: str) -> None:
        self.keys[name], self.usual[name] = key, usual
