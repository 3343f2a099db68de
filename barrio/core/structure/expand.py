"""Brief → structure: the switches and racks that the brief asks for, with their keys and port plans.

Racks of a fabric with pods stand in each of their pods: rack r07 of pod p01 is `p01-r07`, its leaves `leaf/p01-r07/a`. Spine n
of every pod meets the super-spines of plane n.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import replace

from barrio.core.brief.hardware import PortPlan, RackGroup
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import expand_names
from barrio.core.catalogue.model import Catalogue, SwitchType
from barrio.core.errors import Fault, Refused
from barrio.core.printed import Name
from barrio.core.settings.resolved import Resolved, closest
from barrio.core.structure.extent import check_extent
from barrio.core.structure.fit import fit_faults
from barrio.core.structure.outside import outside_ends
from barrio.core.structure.parts import LATER, OUT, Link, OutsideEnd, Structure, Switch, link_speed
from barrio.core.structure.ports import Plan, plan_ports
from barrio.core.structure.standing import stand_up

__all__ = ["Link", "OutsideEnd", "Structure", "Switch", "expand", "link_speed"]


def expand(brief: Brief, catalogue: Catalogue, before: Structure | None = None) -> Structure:
    """The structure of a brief. Switches that are what they were in the structure `before`, made with the same catalogue, are the very same.

    Raises `Refused` with every fault found: unknown models, ports that do not suffice, names and racks used twice, and
    segments that contradict each other. What is too large for one fabric is refused before anything is made.
    """
    check_extent(brief)
    faults: list[Fault] = _racks_named_twice(brief) + _pods_unknown(brief)
    builder = _Builder(brief, catalogue, faults, before)
    supers, spines = builder.supers(), builder.spines()
    leaves = builder.leaves()
    if faults:
        raise Refused(faults)
    numbered = tuple(_as_before(stand_up(brief, supers + spines + leaves), before))
    first, second = len(supers), len(supers) + len(spines)
    faults += _names_used_twice(numbered) + _keys_of_nothing(brief, numbered)
    links = brief.super_spines.links if brief.super_spines else 1
    structure = Structure(
        numbered[:first], numbered[first:second], numbered[second:], links, (), builder.marked, builder.made,
        before.links_up if before else {},
    )  # fmt: skip
    faults += fit_faults(brief, structure)
    outside = outside_ends(brief, structure, faults)
    if faults:
        raise Refused(faults)
    return replace(structure, outside=outside) if outside else structure


class _Builder:
    """Makes switches tier by tier; what is wrong goes to `faults`, and such a switch is left out."""

    def __init__(self, brief: Brief, catalogue: Catalogue, faults: list[Fault], before: Structure | None) -> None:
        self.brief, self.catalogue, self.faults = brief, catalogue, faults
        self.marked = {key: (OUT, why) for key, why in brief.out_of_service.items()}
        self.marked |= {key: (LATER, why) for key, why in brief.planned_later.items()}
        self._plans: dict[tuple[str, str, str, bool, int], Plan | None] = dict(before.plans) if before else {}
        self._kinds = list({id(leaf.group): leaf.group for leaf in before.leaves}.values()) if before else []

    @property
    def made(self) -> dict[tuple[str, str, str, bool, int], Plan]:
        return {known: plan for known, plan in self._plans.items() if plan}

    def supers(self) -> list[Switch]:
        said = self.brief.super_spines
        if said is None:
            return []
        racks = expand_names(said.racks, "super_spines.racks")
        made: list[Switch | None] = []
        for plane in range(1, self.brief.spines.count + 1):
            for number in range(1, said.per_plane + 1):
                key, rack = f"super/{plane}/{number}", racks[len(made) % len(racks)]
                name = f"super-{plane}-{number}"
                switch = self._stand(
                    key, name, "super-spine", rack, said.model, said.ports, "super_spines.model", "super_spines.per_plane",
                    slot=f"super/{number}", plane=plane,
                )  # fmt: skip
                made.append(switch)
        return [switch for switch in made if switch]

    def spines(self) -> list[Switch]:
        said = self.brief.spines
        racks = expand_names(said.racks, "spines.racks")
        made: list[Switch | None] = []
        for pod in self.brief.pod_names:
            for number in range(1, said.count + 1):
                key = f"spine/{pod}/{number}" if pod else f"spine/{number}"
                name = f"spine-{pod}-{number}" if pod else f"spine-{number}"
                rack = racks[len(made) % len(racks)]
                switch = self._stand(
                    key, name, "spine", rack, said.model, said.ports, "spines.model", "spines.count",
                    slot=f"spine/{number}", plane=number, pod=pod,
                )  # fmt: skip
                made.append(switch)
        return [switch for switch in made if switch]

    def leaves(self) -> list[Switch]:
        made = []
        for index, group in enumerate(self.brief.racks):
            path, own = f"racks[{index}]", group.uplinks_per_spine
            lanes = closest((self.brief.uplinks_per_spine, "uplinks_per_spine"), (own, f"{path}.uplinks_per_spine"))
            kind = self._kind_of(group)
            for pod, rack in self.brief.places(group):
                for place in range(group.leaves):
                    side = "abcdefgh"[place]
                    key = f"leaf/{rack}/{side}"
                    name = f"{group.role}-{rack}{side if group.leaves > 1 else ''}"
                    switch = self._stand(
                        key, name, group.role, rack, group.model, group.ports, f"{path}.model", f"{path}.racks",
                        slot=f"leaf/{rack.removeprefix(f'{pod}-') if pod else rack}/{side}", pod=pod, group=kind, lanes=lanes,
                    )  # fmt: skip
                    made.append(switch)
        return [switch for switch in made if switch]

    def _stand(
        self, key: str, name: str, role: str, rack: str, model: str, ports: PortPlan, path: str, origin: str, *, slot: str,
        plane: int = 0, pod: str = "", group: RackGroup | None = None, lanes: Resolved[int] | None = None,
    ) -> Switch | None:  # fmt: skip
        tier = role if group is None else "leaf"
        chosen = closest((model, path), (self.brief.models.get(key), f'models."{key}"'))
        called = closest((name, ""), (self.brief.names.get(key), f'names."{key}"'))
        if key in self.brief.ports:
            ports = self.brief.ports[key]
        kind = self._type(chosen.value, tier, chosen.path)
        if kind is None:
            return None
        plan = self._plan(kind, tier, ports, group, f'ports."{key}"' if key in self.brief.ports else chosen.path)
        if plan is None:
            return None
        state, why = self.marked.get(key) or self.marked.get(f"rack/{rack}") or ("", "")
        return Switch(
            key,
            Name(called.value),
            role,
            Name(rack),
            1,
            kind,
            origin,
            plan,
            chosen,
            called,
            lanes,
            pod,
            plane,
            state,
            why,
            slot,
            group,
        )

    def _kind_of(self, group: RackGroup) -> RackGroup:
        """What a group says of its racks, and not which they are; the very same as before where it says the same."""
        kind = group.model_copy(update={"racks": "", "growth": 0})
        for known in self._kinds:
            if known == kind:
                return known
        self._kinds.append(kind)
        return kind

    def _type(self, model: str, tier: str, path: str) -> SwitchType | None:
        found = self.catalogue.find(model)
        if found is not None and tier in found.tiers:
            return found
        choice = ", ".join(self.catalogue.ids(tier))
        if found is None:
            words = f"No switch model is called “{model[:60]}”. For a {tier} there are: {choice}."
            fault = Fault("model.unknown", words, path)
        else:
            fault = Fault("model.tier", f"{found.title} cannot be a {tier}. Use one of: {choice}.", path)
        if fault not in self.faults:
            self.faults.append(fault)
        return None

    def _plan(self, kind: SwitchType, tier: str, said: PortPlan, group: RackGroup | None, path: str) -> Plan | None:
        has_upper = tier == "leaf" or (tier == "spine" and self.brief.super_spines is not None)
        peer = group.peer_links if group is not None and group.pairing == "peer-link" else 0
        known = (kind.id, tier, said.model_dump_json() if said.model_fields_set else "", has_upper, peer)
        if known not in self._plans:
            try:
                made = plan_ports(kind, tier, said, has_upper=has_upper, peer_links=peer)
                self._plans[known] = replace(made, front=len(self._plans))
            except Refused as error:
                self._plans[known] = None
                stem = path if path.startswith("ports.") else path.replace(".model", ".ports")
                self.faults += [Fault(fault.code, fault.message, f"{stem}.{fault.path}") for fault in error.faults]
        return self._plans[known]


def _as_before(switches: list[Switch], before: Structure | None) -> Iterator[Switch]:
    known = before.by_key if before else {}
    for switch in switches:
        was = known.get(switch.key)
        yield was if was == switch and was is not None else switch


def _racks_named_twice(brief: Brief) -> list[Fault]:
    home: set[str] = set()
    faults = []
    for index, group in enumerate(brief.racks):
        for _, rack in brief.places(group):
            if rack in home:
                faults.append(
                    Fault(
                        "rack.twice",
                        f"Rack {rack} is named in two groups. Take it out of one.",
                        f"racks[{index}].racks",
                    )
                )
            home.add(rack)
    return faults


def _pods_unknown(brief: Brief) -> list[Fault]:
    known = set(brief.pod_names)
    faults = []
    for index, group in enumerate(brief.racks):
        strange = [pod for pod in expand_names(group.pods) if pod not in known] if group.pods else []
        if strange:
            has = f"the fabric has {brief.pods}" if brief.pods else "the fabric has none"
            words = (
                f"Racks {group.racks} are to be in pod {strange[0]}, but {has}. Name it under “pods”, or take it out."
            )
            faults.append(Fault("pod.unknown", words, f"racks[{index}].pods"))
    return faults


def _names_used_twice(switches: tuple[Switch, ...]) -> list[Fault]:
    count = Counter(switch.name for switch in switches)
    return [
        Fault(
            "name.twice",
            f"{times} switches would be called {name}: {', '.join(s.key for s in switches if s.name == name)}. "
            "Give one of them another name under “names”.",
            "names",
        )
        for name, times in count.items()
        if times > 1
    ]


def _keys_of_nothing(brief: Brief, switches: tuple[Switch, ...]) -> list[Fault]:
    said: dict[str, Mapping[str, object]] = {
        "names": brief.names,
        "models": brief.models,
        "ports": brief.ports,
        "leaf_plugs": brief.leaf_plugs,
        "units": brief.units,
        "faces": brief.faces,
    }
    verbs = {
        "names": "renames",
        "models": "gives a model to",
        "ports": "plans the ports of",
        "leaf_plugs": "gives a plug to",
        "units": "gives a unit to",
        "faces": "turns",
    }
    if not any(said.values()):
        return []
    keys = {switch.key for switch in switches}
    return [
        Fault(
            "name.of-nothing",
            f"“{field}” {verbs[field]} {key}, but the fabric has no such switch. Take the line out.",
            f'{field}."{key}"',
        )
        for field, entries in said.items()
        for key in entries
        if key not in keys
    ]
