"""The largest fabric that a design can grow to without changing a model, and what stops it."""

from __future__ import annotations

from dataclasses import dataclass

from barrio.core.brief.model import Brief
from barrio.core.sizing.classes import LeafClass
from barrio.core.structure.fit import fronts
from barrio.core.structure.parts import Structure


@dataclass(frozen=True, slots=True)
class Largest:
    """As many leaves like the last kind as fit, beside those there are; `stopped_by` says what runs out first."""

    leaves: int
    hosts: int
    pods: int
    spines: int
    stopped_by: str


def largest(brief: Brief, structure: Structure, classes: list[LeafClass]) -> Largest:
    """Grow by leaves like those of the last group: fill every pod, then add pods like the fullest."""
    spine = min(fronts(structure.spines), key=lambda switch: len(switch.plan.down))
    last = classes[-1] if classes else None
    lanes = last.lanes if last else brief.uplinks_per_spine
    used: dict[str, tuple[int, int]] = dict.fromkeys(structure.pods, (0, 0))
    hosts = 0
    for leaf in structure.leaves:
        ports, leaves = used[leaf.pod]
        used[leaf.pod] = (ports + structure.lanes_of(leaf), leaves + 1)
        hosts += len(leaf.plan.hosts)
    there = len(spine.plan.down)
    room = {pod: (there - ports) // lanes for pod, (ports, _) in used.items()}
    more = sum(room.values())
    pods, words = len(structure.pods), f"the {there} ports of {spine.type.title} spines"
    if structure.supers:
        top = min(fronts(structure.supers), key=lambda switch: len(switch.plan.down))
        pods = len(top.plan.down) // structure.super_links
        full = max((leaves + room[pod] for pod, (_, leaves) in used.items()), default=0)
        more += (pods - len(structure.pods)) * full
        words = (
            f"the {len(top.plan.down)} ports of {top.type.title} super-spines, with {there} on each spine for leaves"
        )
    per_leaf = len(last.leaf.plan.hosts) if last else 0
    uplinks = min((len(one.leaf.plan.up) // one.lanes for one in classes), default=0)
    spines = min(uplinks, 64) if classes else brief.spines.count
    return Largest(len(structure.leaves) + more, hosts + more * per_leaf, pods, spines, words)
