"""Classes of leaves that are alike, which is what keeps the sums small: all leaves of a class have the same uplinks.

Bandwidths in Gbit/s. Arrays over spines are indexed by a spine's place in its pod, from 0.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from barrio.core.brief.hardware import RackGroup
from barrio.core.structure.parts import Structure, Switch, link_speed

Array = NDArray[np.float64]


@dataclass(frozen=True)
class LeafClass:
    """Leaves that are alike: of one group and one front, under spines that are alike.

    `up` is the bandwidth to each spine, `lanes` the links of one crossing; `above[i, n]` the bandwidth from spine i to
    super-spine n of its plane (no columns in two tiers).
    """

    leaf: Switch
    group: RackGroup
    pods: tuple[str, ...]
    count: int
    lanes: int
    up: Array
    above: Array
    host: int

    @property
    def host_bandwidth(self) -> int:
        return self.leaf.plan.host_bandwidth(self.group.host_speed)


def leaf_classes(structure: Structure) -> list[LeafClass]:
    """The classes of a structure's leaves, in the order of the first leaf of each."""
    fronts = {pod: tuple((spine.plan.front, spine.plane) for spine in spines) for pod, spines in structure.pods.items()}
    counts: Counter[tuple[str, int, object]] = Counter()
    first: dict[tuple[str, int, object], Switch] = {}
    pods: dict[tuple[str, int, object], dict[str, None]] = {}
    for leaf in structure.leaves:
        key = (leaf.origin, leaf.plan.front, fronts.get(leaf.pod, ()))
        counts[key] += 1
        first.setdefault(key, leaf)
        pods.setdefault(key, {})[leaf.pod] = None
    return [_class(structure, leaf, counts[key], tuple(pods[key])) for key, leaf in first.items()]


def _class(structure: Structure, leaf: Switch, count: int, pods: tuple[str, ...]) -> LeafClass:
    assert leaf.group is not None
    lanes = structure.lanes_of(leaf)
    spines = structure.pods.get(leaf.pod, ())
    up = np.array([lanes * link_speed(spine.plan, leaf.plan) for spine in spines], dtype=float)
    above = np.array(
        [
            [structure.super_links * link_speed(top.plan, spine.plan) for top in structure.planes.get(spine.plane, ())]
            for spine in spines
        ],
        dtype=float,
    ).reshape(len(spines), -1)
    return LeafClass(leaf, leaf.group, pods, count, lanes, up, above, leaf.plan.host_speed(leaf.group.host_speed))
