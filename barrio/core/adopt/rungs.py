"""Settings placed on the highest rung that explains them with the fewest exceptions."""

from __future__ import annotations

import json
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from barrio.core.settings.ladder import Standing

_LEVELS = ("role", "model", "pod", "rack")
"""The rungs between the fabric and a switch that can be told from outside, from the widest."""


@dataclass(frozen=True, slots=True)
class Placed:
    """What a setting is in the whole fabric, and on which rungs it is otherwise; `count` is how often the brief has to speak of it."""

    fabric: Any
    rungs: tuple[tuple[str, Any], ...]
    count: int


def placed(values: Mapping[str, Any], standing: Mapping[str, Standing], default: Any) -> Placed:
    """Where a setting is said, for its `values` by switch key. Of two ways that explain all, the one that speaks less; Barrio's own value needs no word.

    >>> leaf = Standing("leaf", "m", "", "", "r01", "leaf/r01/a")
    >>> placed({"leaf/r01/a": 5}, {"leaf/r01/a": leaf}, 5).count
    0
    """
    said = {key: _frozen(value) for key, value in values.items()}
    real = {_frozen(value): value for value in values.values()}
    own = _frozen(default)
    real.setdefault(own, default)
    ways = [_explained(said, standing, fabric, fabric != own) for fabric in (own, *sorted(set(said.values()) - {own}))]
    best = min(ways, key=lambda way: way[0])
    return Placed(real[best[1]], tuple((rung, real[value]) for rung, value in best[2]), best[0])


_Way = tuple[int, str, list[tuple[str, str]]]


def _explained(said: Mapping[str, str], standing: Mapping[str, Standing], fabric: str, spoken: bool) -> _Way:
    """How many words it takes when the fabric says one value: rungs are added, the widest first, while each explains more than it costs."""
    now = dict.fromkeys(said, fabric)
    rungs: list[tuple[str, str]] = []
    for level in _LEVELS:
        for name, members in _groups(standing, said, level):
            before = sum(now[key] != said[key] for key in members)
            value, right = Counter(said[key] for key in members).most_common(1)[0]
            if before - (len(members) - right) > 1 or (before and right == len(members) > 1):
                rungs.append((f"{level} {name}", value))
                now |= dict.fromkeys(members, value)
    rungs += [(f"switch {key}", said[key]) for key in said if now[key] != said[key]]
    return len(rungs) + spoken, fabric, rungs


def _groups(standing: Mapping[str, Standing], said: Mapping[str, str], level: str) -> Iterator[tuple[str, list[str]]]:
    groups: dict[str, list[str]] = defaultdict(list)
    for key in said:
        name = getattr(standing[key], level)
        if name:
            groups[name].append(key)
    yield from groups.items()


def _frozen(value: Any) -> str:
    return json.dumps(value, sort_keys=True, default=str)
