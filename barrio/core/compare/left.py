"""What any two leaves have between them while some switches are changed: bandwidth and paths, as shares of what there is.

Between two leaves a folded Clos is a bundle of planes that share no link (as in `core.sizing.loss`), so what is left is the sum over planes
of the least stage that still stands. Switches that stop and links whose session restarts carry nothing meanwhile.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from barrio.core.compare.ripple import Ripple, SwitchRipple
from barrio.core.compiled import Compiled
from barrio.core.structure.parts import link_speed

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Left:
    """Shares from 0 to 1 of what there is, for the two leaves that suffer most, `names`. Leaves that nothing leads to meanwhile are not counted; they
    are `out`."""

    bandwidth: float
    paths: float
    names: tuple[str, str] | tuple[()] = ()
    out: tuple[str, ...] = ()


class Rates:
    """The uplinks of every leaf, leaf × spine place, and of spines to super-spines, as bandwidth (Gbit/s)."""

    def __init__(self, compiled: Compiled) -> None:
        structure = compiled.structure
        self._structure = structure
        self._width = max((len(spines) for spines in structure.pods.values()), default=0)
        self._leaves = [leaf for leaf in structure.leaves if leaf.state == ""]
        self._places = {spine.key: at for spines in structure.pods.values() for at, spine in enumerate(spines)}
        self._rows = {leaf.key: at for at, leaf in enumerate(self._leaves)}
        self._up = np.zeros((len(self._leaves), self._width))
        for row, leaf in enumerate(self._leaves):
            lanes = structure.lanes_of(leaf)
            for at, spine in enumerate(structure.pods.get(leaf.pod, ())):
                if spine.state == "":
                    self._up[row, at] = lanes * link_speed(spine.plan, leaf.plan)
        self._links = {
            port.link: (
                self._rows[key],
                self._places[other.key],
                link_speed(other.plan, self._leaves[self._rows[key]].plan),
            )
            for key in self._rows
            for port in compiled.models[key].fabric_ports
            if (other := compiled.switch(str(port.peer))) is not None and other.key in self._places
        }

    def without(self, taken: Iterable[SwitchRipple], what: Ripple) -> Left:
        """What is left while these change."""
        if not len(self._leaves) or not self._width:
            return Left(1.0, 1.0)
        up = self._up.copy()
        out: set[int] = set()
        down: set[str] = set()
        planes: dict[str, set[int]] = {}
        for one in taken:
            whole = one.falls or one.state == "gone"
            if one.key in self._rows and whole:
                out.add(self._rows[one.key])
            elif one.key in self._places and whole:
                pod = self._structure.by_key[one.key].pod
                planes.setdefault(pod, set()).add(self._places[one.key])
            down.update(what.sessions[session].link for session in one.sessions)
        for link in down & self._links.keys():
            at, place, rate = self._links[link]
            up[at, place] = max(0.0, up[at, place] - rate)
        for row, leaf in enumerate(self._leaves):
            for place in planes.get(leaf.pod, ()):
                up[row, place] = 0.0
        out.update(row for row in range(len(self._leaves)) if self._up[row].any() and not up[row].any())
        staying = [row for row in range(len(self._leaves)) if row not in out]
        least = self._least(up, staying)
        return replace(least, out=tuple(self._leaves[row].name for row in sorted(out)))

    def _least(self, up: Array, rows: list[int]) -> Left:
        """The least over all pairs of these leaves, by classes of leaves whose uplinks are alike."""
        classes: dict[tuple[bytes, bytes], list[int]] = {}
        for row in rows:
            classes.setdefault((self._up[row].tobytes(), up[row].tobytes()), []).append(row)
        least = Left(1.0, 1.0)
        kinds = list(classes.values())
        for at, mine in enumerate(kinds):
            for theirs in kinds[at:]:
                if theirs is mine and len(mine) < 2:
                    continue
                one, other = mine[0], theirs[-1]
                whole = np.minimum(self._up[one], self._up[other])
                now = np.minimum(up[one], up[other])
                if not whole.sum():
                    continue
                bandwidth, paths = float(now.sum() / whole.sum()), float((now > 0).sum() / (whole > 0).sum())
                if (bandwidth, paths) < (least.bandwidth, least.paths):
                    least = Left(bandwidth, paths, (self._leaves[one].name, self._leaves[other].name))
        return least


class Whole:
    """Uplinks of which nothing is ever taken."""

    def without(self, taken: Iterable[SwitchRipple], what: Ripple) -> Left:
        return Left(1.0, 1.0)


def left_in(compiled: Compiled, any_taken: bool = True) -> Rates | Whole:
    """The uplinks of a fabric, to ask what is left of them; there is little to ask where nothing is taken."""
    return Rates(compiled) if any_taken else Whole()
