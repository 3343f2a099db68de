"""What is left when switches above the leaves are lost, of every choice of them.

Between two leaves a folded Clos is a bundle of planes that share no link: plane i leads through the i-th spine of either pod
and, in three tiers, the super-spines between. The most that flows is therefore the sum over planes of the least of the
plane's stages (series and parallel; Ford and Fulkerson 1956), and a lost switch takes from its own plane only. So
every choice of lost switches can be weighed exactly with array sums, without a search for flows: the worst two are
the spines of the two planes that carry most, or two super-spines of one plane, whichever takes more.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations_with_replacement

import numpy as np

from barrio.core.sizing.classes import Array, LeafClass
from barrio.core.structure.parts import Structure


@dataclass(frozen=True, slots=True)
class Loss:
    """With `lost` switches lost: shares of what was there, from 0 to 1, between two leaves.

    `bandwidth` and `paths` are means over all choices of lost spines of one pod; the `worst` are the least over all choices
    of spines and super-spines, for the pair of leaves that suffers most, and `names` says which choice. `choices` counts them.
    """

    lost: int
    bandwidth: float
    paths: float
    worst_bandwidth: float
    worst_paths: float
    names: str
    choices: int


@dataclass(frozen=True)
class _Between:
    """What lies between two leaves: for each plane its flow and paths, and both again without one or two super-spines."""

    flow: Array
    paths: Array
    one: Array
    one_paths: Array
    two: Array
    two_paths: Array
    width: int


def losses(structure: Structure, classes: list[LeafClass]) -> tuple[Loss, ...]:
    """With one and with two switches lost. None when there is no leaf, or no spine to lose.

    Pairs of leaves are taken of every two classes, in one pod and in two.
    """
    bundles = [bundle for bundle in _bundles(structure, classes) if bundle.flow.sum() > 0]
    if not bundles:
        return ()
    return tuple(_loss(structure, bundles, lost) for lost in (1, 2))


def _bundles(structure: Structure, classes: list[LeafClass]) -> list[_Between]:
    found = []
    for one, two in combinations_with_replacement(classes, 2):
        if set(one.pods) & set(two.pods):
            found.append(_between(one, two, structure, across=False))
        if len(set(one.pods) | set(two.pods)) > 1:
            found.append(_between(one, two, structure, across=True))
    return found


def _between(one: LeafClass, two: LeafClass, structure: Structure, across: bool) -> _Between:
    ends = np.minimum(one.up, two.up)
    ways = np.full(len(ends), float(one.lanes * two.lanes))
    if not across:
        none = np.full(len(ends), -1.0)
        return _Between(ends, ways, none, none, none, none, 0)
    above = np.sort(np.minimum(one.above, two.above), axis=1)[:, ::-1]
    total = above.sum(axis=1)
    width = above.shape[1]
    each = structure.super_links**2
    # The widest super-spine is the worst to lose; the next widest with it is the worst two.
    without_one, without_two = total - above[:, 0], total - above[:, :2].sum(axis=1)
    return _Between(
        np.minimum(ends, total), ways * width * each,
        np.minimum(ends, without_one), ways * (width - 1) * each,
        np.minimum(ends, without_two), ways * max(width - 2, 0) * each, width,
    )  # fmt: skip


def _loss(structure: Structure, bundles: list[_Between], lost: int) -> Loss:
    means, ways, worst, worst_ways, names, choices = [], [], 2.0, 2.0, "", 0
    for bundle in bundles:
        planes = len(bundle.flow)
        shares = _spine_shares(bundle.flow, lost)
        means.append(shares.mean())
        ways.append(_spine_shares(bundle.paths, lost).mean())
        flow = _worst(bundle.flow, bundle.one, bundle.two, lost)
        paths = _worst(bundle.paths, bundle.one_paths, bundle.two_paths, lost)
        choices += len(shares) + _choices(planes, bundle.width, lost)
        if flow[0] < worst:
            worst, names = flow[0], _names(structure, flow[1])
        worst_ways = min(worst_ways, paths[0])
    return Loss(lost, float(min(means)), float(min(ways)), float(worst), float(worst_ways), names, choices)


def _spine_shares(per_plane: Array, lost: int) -> Array:
    """The share left for every choice of `lost` spines of one pod."""
    total = per_plane.sum()
    if lost == 1 or len(per_plane) == 1:
        return np.asarray((total - per_plane) / total)
    first, second = np.triu_indices(len(per_plane), 1)
    return np.asarray((total - per_plane[first] - per_plane[second]) / total)


def _worst(full: Array, one: Array, two: Array, lost: int) -> tuple[float, list[tuple[str, int]]]:
    """The least share left, and the choice that leaves it, as (tier, plane): spines and super-spines, singly or two."""
    total = full.sum()
    choices: list[tuple[float, list[tuple[str, int]]]] = []
    by_spine = np.argsort(-full, kind="stable")
    if lost == 1 or len(full) == 1:
        at = int(by_spine[0])
        choices.append((float(full[at]), [("spine", at)]))
    else:
        a, b = int(by_spine[0]), int(by_spine[1])
        choices.append((float(full[a] + full[b]), [("spine", a), ("spine", b)]))
    if one[0] >= 0:
        single = full - one
        at = int(np.argmax(single))
        if lost == 1:
            choices.append((float(single[at]), [("super-spine", at)]))
        else:
            double = full - two
            at = int(np.argmax(double))
            choices.append((float(double[at]), [("super-spine", at), ("super-spine", at)]))
    best = max(choices, key=lambda choice: choice[0])
    return float((total - best[0]) / total), best[1]


def _choices(planes: int, width: int, lost: int) -> int:
    supers = planes * width
    if not supers:
        return 0
    return supers if lost == 1 else supers * (supers - 1) // 2 + planes * supers


def _names(structure: Structure, choice: list[tuple[str, int]]) -> str:
    taken: list[str] = []
    for tier, plane in choice:
        if tier == "spine":
            switches = [spine for spine in structure.spines if spine.plane == plane + 1]
        else:
            switches = list(structure.planes.get(plane + 1, ()))
        taken.append(next((switch.name for switch in switches if switch.name not in taken), ""))
    return " and ".join(name for name in taken if name)
