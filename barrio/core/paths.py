"""By how many links each switch reaches each other one, counted over the links that are there: the shortest ways, as the underlay takes them."""

from __future__ import annotations

from collections import deque
from collections.abc import Collection, Mapping

from barrio.core.compiled import Compiled
from barrio.core.structure.parts import OUT


def neighbours(compiled: Compiled, keys: Collection[str], without: Collection[str] = ()) -> dict[str, dict[str, int]]:
    """Which switches are joined by how many fabric links that carry traffic, of some of them; `without` are switches and links (by key) that are
    away. A switch that is out of service carries nothing for others, and its sessions are shut."""
    found: dict[str, dict[str, int]] = {key: {} for key in keys}
    for end in compiled.ends:
        upper, lower = end.link.upper, end.link.lower
        if end.link.kind != "fabric" or end.link.key in without or {upper.key, lower.key} & set(without):
            continue
        if upper.key in found and lower.key in found and OUT not in (upper.state, lower.state):
            found[upper.key][lower.key] = found[upper.key].get(lower.key, 0) + 1
            found[lower.key][upper.key] = found[lower.key].get(upper.key, 0) + 1
    return found


def widths(joined: Mapping[str, Mapping[str, int]], target: str, most: Mapping[str, int]) -> dict[str, int]:
    """By how many next hops each switch that gets there forwards to a target: the links to all neighbours that are one step nearer, `most` at most."""
    away = {target: 0}
    waiting = deque([target])
    while waiting:
        here = waiting.popleft()
        for other in joined[here]:
            if other not in away:
                away[other] = away[here] + 1
                waiting.append(other)
    return {
        key: min(most[key], sum(links for other, links in joined[key].items() if away[other] == away[key] - 1))
        for key in away
        if key != target
    }
