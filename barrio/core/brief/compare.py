"""What differs between two briefs, as the paths of their fields."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from barrio.core.brief.model import Brief


def changed_paths(before: Brief, after: Brief) -> list[str]:
    """The paths of the fields that differ, the deepest there are: `spines.count`, `racks[1].model`, `segments.buoys`."""
    return list(_differences(before.model_dump(mode="json"), after.model_dump(mode="json"), ""))


def _differences(before: Any, after: Any, path: str) -> Iterator[str]:
    if isinstance(before, dict) and isinstance(after, dict):
        for key in dict.fromkeys([*before, *after]):
            yield from _differences(before.get(key), after.get(key), f"{path}.{key}" if path else key)
    elif isinstance(before, list) and isinstance(after, list) and len(before) == len(after):
        for index, (one, two) in enumerate(zip(before, after, strict=True)):
            yield from _differences(one, two, f"{path}[{index}]")
    elif before != after:
        yield path
