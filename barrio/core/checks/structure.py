"""Checks of the structure: growth that does not fit, marks on what is not there, and models at their limits."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import expand_names
from barrio.core.errors import Fault
from barrio.core.structure.parts import Structure


def check_structure(brief: Brief, structure: Structure) -> tuple[Fault, ...]:
    """Findings about a structure, in a fixed order."""
    return (*_growth(brief, structure), *_marks(brief, structure), *_mixed_pairs(structure), *_tables(brief, structure))


def _growth(brief: Brief, structure: Structure) -> Iterator[Fault]:
    """Whether the ports suffice for the growth that the brief declares."""
    there = min((len(spine.plan.down) for spine in structure.spines), default=0)
    worst = 0
    for pod in brief.pod_names:
        groups = [group for group in brief.racks if not pod or pod in _pods(brief, group.pods)]
        worst = max(
            worst,
            sum((len(group.rack_names) + group.growth) * group.leaves * brief.lanes_of(group) for group in groups),
        )
    if worst > there:
        path = next((f"racks[{index}].growth" for index, group in enumerate(brief.racks) if group.growth), "racks")
        yield Fault(
            "growth.spine-ports",
            f"With the racks to come, leaves need {worst} ports on every spine; there are {there}. "
            "Choose a larger spine now, or plan for fewer racks.",
            path,
        )
    more = brief.spines.count + brief.spines.growth
    for index, group in enumerate(brief.racks):
        leaf = next((leaf for leaf in structure.leaves if leaf.origin == f"racks[{index}].racks"), None)
        needed = more * brief.lanes_of(group)
        if leaf and brief.spines.growth and needed > len(leaf.plan.up):
            yield Fault(
                "growth.uplinks",
                f"With {more} spines, leaves in {group.racks} need {needed} uplinks; {leaf.type.title} has "
                f"{len(leaf.plan.up)}. Choose another leaf now, or plan for fewer spines.",
                f"racks[{index}].model",
            )
    if brief.super_spines is not None and brief.pods_growth:
        ports = min((len(switch.plan.down) for switch in structure.supers), default=0)
        needed = (len(structure.pods) + brief.pods_growth) * brief.super_spines.links
        if needed > ports:
            yield Fault(
                "growth.super-ports",
                f"With the pods to come, {needed} ports are needed on every super-spine; there are {ports}. "
                "Choose a larger super-spine now, or plan for fewer pods.",
                "pods_growth",
            )


def _pods(brief: Brief, text: str | None) -> tuple[str, ...]:
    return expand_names(text) if text else brief.pod_names


def _marks(brief: Brief, structure: Structure) -> Iterator[Fault]:
    if not structure.marked:
        return
    racks = {f"rack/{switch.rack}" for switch in structure.switches}
    links = {link.key for link in structure.links} if any("~" in key for key in structure.marked) else set()
    outside = {end.key for end in structure.outside}
    for field in ("out_of_service", "planned_later"):
        for key in getattr(brief, field):
            switch, _, port = key.partition(":")
            there = structure.by_key.get(switch)
            known = key in racks or key in links or key in outside
            known = known or (there is not None and (not port or port in there.plan.by_name))
            if not known:
                word = field.replace("_", " ")
                yield Fault(
                    "state.of-nothing",
                    f"{key} is marked {word}, but the fabric has no such thing. Take the mark out.",
                    f'{field}."{key}"',
                )
    both = set(brief.out_of_service) & set(brief.planned_later)
    for key in sorted(both):
        yield Fault(
            "state.twice",
            f"{key} is marked both out of service and planned later; it counts as planned later. Take one mark out.",
            f'out_of_service."{key}"',
        )


def _mixed_pairs(structure: Structure) -> Iterator[Fault]:
    for one, two in structure.pairs:
        if one.type.id != two.type.id:
            yield Fault(
                "pair.models",
                f"{one.name} and {two.name} are a pair of two models, {one.type.title} and {two.type.title}. "
                "Their ports and tables differ; finish the migration, or give both one model.",
                f'models."{one.key}"',
            )


def _tables(brief: Brief, structure: Structure) -> Iterator[Fault]:
    """ECMP groups against what the forwarding chips hold."""
    for kind in {leaf.type.id: leaf.type for leaf in structure.leaves}.values():
        width = max((structure.lanes_of(leaf) for leaf in structure.leaves if leaf.type is kind), default=1)
        paths = brief.underlay.max_paths or width * brief.spines.count
        if paths > kind.tables.ecmp:
            yield Fault(
                "tables.ecmp",
                f"A leaf would spread over {paths} paths; {kind.title} can over {kind.tables.ecmp}. Set underlay.max_paths "
                "to that, or use fewer spines.",
                "underlay.max_paths",
            )
