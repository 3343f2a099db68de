"""A slice that is split over several grounds: which switch is on which, so that few cables go from one to another."""

from __future__ import annotations

from collections.abc import Sequence

from barrio.core import Compiled
from barrio.core.errors import refuse
from barrio.core.structure.parts import Switch

MOST = 16
"""Grounds of a rehearsal."""


def parts(compiled: Compiled, keys: Sequence[str], grounds: int) -> dict[str, int]:
    """The ground of each switch, counted from 0.

    The leaves of a rack stay together, since hosts are plugged into several of them; racks are dealt out in the fabric's order, so that those of a pod are
    neighbours; what is above them is shared out evenly, spines to grounds that have leaves of their pod as long as there are such. With fewer racks than
    grounds some of these stay empty.

    Raises `Refused` (`rehearse.machines`) for a number that cannot be.
    """
    if not 1 <= grounds <= MOST:
        raise refuse("rehearse.machines", f"A rehearsal is split over 1 to {MOST} machines.", "machines")
    there = [compiled.structure.by_key[key] for key in keys]
    leaves = [one for one in there if one.is_leaf]
    racks: dict[str, list[Switch]] = {}
    for one in leaves:
        racks.setdefault(str(one.rack), []).append(one)
    found: dict[str, int] = {}
    for members in racks.values():
        # By the middle of the rack, so that the last is not left with a sliver.
        at = min(grounds - 1, (len(found) + len(members) // 2) * grounds // max(1, len(leaves)))
        found |= dict.fromkeys((one.key for one in members), at)
    used = sorted(set(found.values())) or [0]
    held = {ground: sum(at == ground for at in found.values()) for ground in used}
    for one in (one for one in there if one.is_spine):
        near = {found[leaf.key] for leaf in leaves if one.pod and leaf.pod == one.pod} or set(used)
        at = min(used, key=lambda ground: (held[ground], ground not in near, ground))
        found[one.key] = at
        held[at] += 1
    order: dict[int, int] = {at: place for place, at in enumerate(used)}
    return {key: order[at] for key, at in found.items()}
