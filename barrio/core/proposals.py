"""Proposals: every design over the catalogue that meets a need, sorted by a rule, and why the others fail.

The search is exhaustive: each leaf model under each spine model, with every number of spines and parallel links that the leaf's
uplinks allow; in three tiers each super-spine model as well, with every number of super-spines that the spine's ports
allow. All of it is arithmetic on port plans, so that thousands of designs are weighed in well under a second; only
those shown are written out as briefs and added up.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from math import ceil
from typing import Literal

from barrio.core.brief.document import read
from barrio.core.brief.hardware import PortPlan
from barrio.core.catalogue.model import Catalogue, SwitchType
from barrio.core.errors import Fault, Refused, refuse
from barrio.core.structure.expand import expand
from barrio.core.structure.ports import Plan, plan_ports
from barrio.core.sums import Sums, add_up

Rule = Literal["fewest switches", "fewest cables", "least power", "least oversubscribed", "most room"]
MOST_RACKS = 2048


@dataclass(frozen=True, slots=True)
class Need:
    """What is asked for. `hosts` have `homes` ports each, on as many leaves of their rack; speeds in Gbit/s.

    `racks` may be 0 for as many as the hosts need. `growth` is a share of racks to come, 0.25 for a quarter more, that
    must fit without another model. `models` are the ids allowed, none for all.
    """

    hosts: int
    host_speed: int = 25
    homes: int = 2
    racks: int = 0
    oversubscription: float = 3.0
    growth: float = 0.0
    models: tuple[str, ...] = ()
    rule: Rule = "fewest switches"


@dataclass(frozen=True, slots=True)
class Design:
    """One design: models, counts, and what it comes to. `supers` is per plane; without pods there are two tiers."""

    leaf: str
    spine: str
    super_spine: str
    racks: int
    leaves_per_rack: int
    spines: int
    lanes: int
    pods: int
    supers: int
    switches: int
    cables: int
    power: int
    oversubscription: float
    room: int


@dataclass(frozen=True, slots=True)
class Proposal:
    """A design written out, with its sums."""

    design: Design
    text: str
    sums: Sums


@dataclass(frozen=True, slots=True)
class Failure:
    """Why no design with these models meets the need: the nearest miss, in words."""

    models: str
    reason: str


@dataclass(frozen=True)
class Answer:
    """The proposals, best first, how many designs were weighed and how many meet the need, and why the others fail."""

    proposals: tuple[Proposal, ...]
    weighed: int
    met: int
    failures: tuple[Failure, ...]


@dataclass
class _Search:
    need: Need
    catalogue: Catalogue
    designs: list[Design] = field(default_factory=list)
    failures: dict[str, tuple[float, str]] = field(default_factory=dict)
    weighed: int = 0

    def miss(self, models: str, nearness: float, reason: str) -> None:
        """Remember the nearest miss of some models: the larger `nearness`, the nearer it was."""
        if models not in self.failures or self.failures[models][0] < nearness:
            self.failures[models] = (nearness, reason)


def propose(need: Need, catalogue: Catalogue, name: str = "proposal", most: int = 6) -> Answer:
    """The best designs for a need.

    Raises `Refused` (`need.*`) when the need itself makes no sense.
    """
    _check(need, catalogue)
    search = _Search(need, catalogue)
    kinds = [kind for kind in catalogue.models if not need.models or kind.id in need.models]
    for leaf in (kind for kind in kinds if "leaf" in kind.tiers):
        for spine in (kind for kind in kinds if "spine" in kind.tiers):
            _two_tiers(search, leaf, spine)
            for top in (kind for kind in kinds if "super-spine" in kind.tiers):
                _three_tiers(search, leaf, spine, top)
    search.designs.sort(key=lambda design: _order(need.rule, design))
    met = {title for design in search.designs for title in _titles(catalogue, design)}
    failures = [Failure(models, words) for models, (_, words) in search.failures.items() if models not in met]
    shown: list[Proposal] = []
    for design in _different(search.designs):
        if len(shown) == most:
            break
        text = write(design, need, name)
        brief = read(text).brief
        try:
            shown.append(Proposal(design, text, add_up(brief, expand(brief, catalogue))))
        except Refused as error:  # pragma: no cover - a design that does not expand would be a fault of ours
            raise AssertionError(f"{design}: {error}") from error
    return Answer(
        tuple(shown), search.weighed, len(search.designs), tuple(sorted(failures, key=lambda one: one.models))
    )


def _check(need: Need, catalogue: Catalogue) -> None:
    faults = []
    limits = {"hosts": (1, 200_000), "host_speed": (1, 3200), "homes": (1, 2), "racks": (0, MOST_RACKS)}
    for name, (low, high) in limits.items():
        value = getattr(need, name)
        if not low <= value <= high:
            faults.append(
                Fault(f"need.{name.replace('_', '-')}", f"{name} must be {low:,} to {high:,}, not {value:,}.", name)
            )
    if not 0.1 <= need.oversubscription <= 100:
        faults.append(Fault("need.oversubscription", "Oversubscription must be 0.1 to 100 to 1.", "oversubscription"))
    if not 0 <= need.growth <= 10:
        faults.append(Fault("need.growth", "Growth must be 0 to 10 times the racks of today.", "growth"))
    strange = [model for model in need.models if catalogue.find(model) is None]
    if strange:
        faults.append(Fault("need.models", f"No switch model is called {strange[0][:60]}.", "models"))
    if faults:
        raise Refused(faults)


def _plan(kind: SwitchType, tier: str, under: bool = True) -> Plan:
    return plan_ports(kind, tier, PortPlan(), has_upper=under)


@dataclass(frozen=True, slots=True)
class _Access:
    """The leaves of one model that the need takes: racks now and to come, leaves in each, and a leaf's host bandwidth."""

    racks: int
    to_come: int
    per_rack: int
    bandwidth: int
    plan: Plan


def _access(search: _Search, leaf: SwitchType) -> _Access | None:
    need, models = search.need, leaf.title
    plan = _plan(leaf, "leaf")
    usable = [port for port in plan.hosts if need.host_speed in port.speeds]
    if not usable:
        speeds = sorted({speed for port in plan.hosts for speed in port.speeds})
        has = f"{', '.join(map(str, speeds))}G" if speeds else "none"
        search.miss(models, -1, f"needs host ports of {need.host_speed}G, has {has}")
        return None
    per_rack = need.homes
    ports_needed = need.hosts * need.homes
    fit = len(usable) * per_rack
    racks = need.racks or ceil(ports_needed / fit)
    if racks * fit < ports_needed:
        words = f"needs {ceil(ports_needed / racks / per_rack)} host ports a leaf, has {len(usable)}"
        search.miss(models, -len(usable) / ports_needed, words)
        return None
    if racks > MOST_RACKS:
        search.miss(models, 0, f"needs {racks:,} racks, and the most is {MOST_RACKS:,}")
        return None
    return _Access(racks, racks + ceil(racks * need.growth), per_rack, len(usable) * need.host_speed, plan)


def _two_tiers(search: _Search, leaf: SwitchType, spine: SwitchType) -> None:
    models = f"{leaf.title} under {spine.title}"
    access = _access(search, leaf)
    if access is None:
        return
    under = _plan(spine, "spine", under=False)
    speed = max(access.plan.up_speeds & under.down_speeds, default=0)
    if not speed:
        search.miss(models, 0, "have no speed in common")
        return
    for lanes, spines in _uplinks(len(access.plan.up)):
        search.weighed += 1
        ratio = access.bandwidth / (lanes * spines * speed)
        needed = access.to_come * access.per_rack * lanes
        if ratio > search.need.oversubscription:
            search.miss(models, 1 - ratio, f"{spines} × {lanes} uplinks of {speed}G give {ratio:.2f} : 1 at best")
            continue
        if needed > len(under.down):
            search.miss(models, 2 - needed / len(under.down), f"needs {needed} spine ports, has {len(under.down)}")
            continue
        leaves = access.racks * access.per_rack
        search.designs.append(
            Design(
                leaf.id, spine.id, "", access.racks, access.per_rack, spines, lanes, 0, 0, leaves + spines,
                leaves * spines * lanes, leaves * leaf.power + spines * spine.power, ratio,
                len(under.down) // lanes - leaves,
            )
        )  # fmt: skip


def _three_tiers(search: _Search, leaf: SwitchType, spine: SwitchType, top: SwitchType) -> None:
    models = f"{leaf.title} under {spine.title} and {top.title}"
    access = _access(search, leaf)
    if access is None:
        return
    middle, upper = _plan(spine, "spine"), _plan(top, "super-spine", under=False)
    speed = max(access.plan.up_speeds & middle.down_speeds, default=0)
    speed_up = max(middle.up_speeds & upper.down_speeds, default=0)
    if not speed or not speed_up:
        search.miss(models, 0, "have no speed in common")
        return
    for lanes, spines in _uplinks(len(access.plan.up)):
        per_pod = len(middle.down) // (access.per_rack * lanes)
        if not per_pod:
            continue
        pods, pods_to_come = ceil(access.racks / per_pod), ceil(access.to_come / per_pod)
        racks = ceil(access.racks / pods)
        if pods < 2:
            search.miss(models, 1, "fits two tiers, so a third would only cost")
            continue
        ratio = access.bandwidth / (lanes * spines * speed)
        for supers in range(1, min(64, len(middle.up)) + 1):
            search.weighed += 1
            whole = ratio * max(1.0, racks * access.per_rack * lanes * speed / (supers * speed_up))
            if whole > search.need.oversubscription:
                search.miss(models, 1 - whole, f"give {whole:.2f} : 1 at best")
                continue
            if pods_to_come > len(upper.down):
                search.miss(
                    models, 2 - pods_to_come / len(upper.down),
                    f"needs {pods_to_come} super-spine ports, has {len(upper.down)}",
                )  # fmt: skip
                continue
            leaves, below = pods * racks * access.per_rack, pods * spines
            above = spines * supers
            search.designs.append(
                Design(
                    leaf.id, spine.id, top.id, pods * racks, access.per_rack, spines, lanes, pods, supers,
                    leaves + below + above, leaves * spines * lanes + below * supers,
                    leaves * leaf.power + below * spine.power + above * top.power, whole,
                    len(upper.down) * per_pod * access.per_rack - leaves,
                )
            )  # fmt: skip
            break  # More super-spines only cost more.


def _uplinks(ports: int) -> Iterator[tuple[int, int]]:
    """Every number of parallel links and of spines (two or more) that a leaf's uplinks allow."""
    for lanes in range(1, min(16, ports // 2) + 1):
        for spines in range(2, min(64, ports // lanes) + 1):
            yield lanes, spines


def _order(rule: Rule, design: Design) -> tuple[float | str, ...]:
    first = {
        "fewest switches": design.switches,
        "fewest cables": design.cables,
        "least power": design.power,
        "least oversubscribed": design.oversubscription,
        "most room": -design.room,
    }[rule]
    return (first, design.switches, design.cables, design.power, design.leaf, design.spine, design.spines)


def _titles(catalogue: Catalogue, design: Design) -> Iterator[str]:
    names = [
        found.title for model in (design.leaf, design.spine, design.super_spine) if (found := catalogue.find(model))
    ]
    yield from (names[0], f"{names[0]} under {' and '.join(names[1:])}")


def _different(designs: list[Design]) -> Iterator[Design]:
    """The best designs with each set of models first, then the rest, so that what is shown side by side differs."""
    seen: set[tuple[str, str, str]] = set()
    rest = []
    for design in designs:
        models = (design.leaf, design.spine, design.super_spine)
        if models in seen:
            rest.append(design)
        else:
            seen.add(models)
            yield design
    yield from rest


def write(design: Design, need: Need, name: str) -> str:
    """The brief of a design, as text."""
    pods = max(1, design.pods)
    racks = design.racks // pods
    width, pod_width = max(2, len(str(racks))), max(2, len(str(design.pods)))
    to_come = ceil(design.racks * need.growth / pods)
    lines = [f"fabric: {name}", ""]
    if design.pods:
        lines += [
            f"pods: {'p' + '1'.zfill(pod_width)}..p{design.pods:0{pod_width}d}", "super_spines:", f"  per_plane: {design.supers}", f"  model: {design.super_spine}",
            "",
        ]  # fmt: skip
    if design.pods and need.growth:
        lines.insert(3, f"pods_growth: {ceil(design.pods * need.growth)}")
    lines += [
        "spines:", f"  count: {design.spines}", f"  model: {design.spine}", "", "racks:",
        f"  - racks: {'r' + '1'.zfill(width)}" + (f"..r{racks:0{width}d}" if racks > 1 else ""),
        f"    leaves: {design.leaves_per_rack}", f"    model: {design.leaf}", f"    host_speed: {need.host_speed}",
    ]  # fmt: skip
    if to_come and not design.pods:
        lines.append(f"    growth: {to_come}")
    lines += ["", f"uplinks_per_spine: {design.lanes}", ""]
    return "\n".join(lines)


def fat_tree(k: int, model: str, catalogue: Catalogue, name: str = "fat-tree") -> str:
    """The brief of a k-ary fat tree (Al-Fares, Loukissas, Vahdat 2008): k pods of k/2 edge and k/2 aggregation switches.

    (k/2)² core switches join them, and k³/4 hosts. All switches are of one model with k ports or more, of which each uses k.
    Raises `Refused` (`fat-tree.*`) when k is odd or out of bounds, or the model has too few ports.
    """
    if k % 2 or not 4 <= k <= 48:
        raise refuse("fat-tree.k", f"A fat tree has an even number of ports a switch, 4 to 48, not {k}.", "k")
    kind = catalogue.find(model)
    if kind is None or not {"leaf", "spine", "super-spine"} <= set(kind.tiers):
        can = [one.id for one in catalogue.models if len(one.tiers) == 3]
        raise refuse("fat-tree.model", f"All tiers of a fat tree are one model. Possible: {', '.join(can)}.", "model")
    ports = list(kind.group_of)
    if len(ports) < k:
        raise refuse(
            "fat-tree.ports", f"A fat tree with k = {k} needs {k} ports; {kind.title} has {len(ports)}.", "model"
        )
    half = k // 2
    low, high = f"{ports[0]}..{ports[half - 1]}", f"{ports[half]}..{ports[k - 1]}"
    return "\n".join(
        [
            f"# A fat tree of {k}-port switches: {k**3 // 4:,} hosts (Al-Fares and others, SIGCOMM 2008).",
            f"fabric: {name}", f"pods: p01..p{k:02d}", "", "super_spines:", f"  per_plane: {half}", f"  model: {model}",
            f"  ports: {{downlinks: {ports[0]}..{ports[k - 1]}}}", f"  racks: x01..x{half:02d}", "", "spines:", f"  count: {half}",
            f"  model: {model}", f"  ports: {{downlinks: {low}, uplinks: {high}}}", f"  racks: s01..s{k:02d}", "", "racks:",
            f"  - racks: r01..r{half:02d}", "    leaves: 1", f"    model: {model}", f"    ports: {{hosts: {low}, uplinks: {high}}}",
            "",
        ]
    )  # fmt: skip
