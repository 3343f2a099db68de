"""What differs between two briefs, as the paths of their fields."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from barrio.core.brief.document import split_path
from barrio.core.brief.model import Brief


def changed_paths(before: Brief, after: Brief) -> list[str]:
    """The paths of the fields that differ, the deepest there are: `spines.count`, `racks[1].model`, `segments.buoys`."""
    return list(_differences(before.model_dump(mode="json"), after.model_dump(mode="json"), ""))


def touch(one: str, other: str) -> bool:
    """Whether two paths are the same field, or one of them is within the other.

    >>> touch("spines.count", "spines"), touch("racks[1].model", "racks[1].kind"), touch('names."spine/1"', "names.spine/1")
    (True, False, True)
    """
    a, b = one.replace('"', ""), other.replace('"', "")
    return a == b or a.startswith((f"{b}.", f"{b}[")) or b.startswith((f"{a}.", f"{a}["))


def words_at(brief: Brief, path: str) -> str:
    """What a brief says at a path, in a word or two: `5`, `nothing`, `3 entries`.

    >>> words_at(Brief.model_validate({"fabric": "tern", "spines": {"count": 5}}), "spines.count")
    '5'
    """
    here: Any = brief.model_dump(mode="json")
    for step in split_path(path):
        try:
            here = here[step]
        except (KeyError, IndexError, TypeError):
            return "nothing"
    if isinstance(here, dict | list):
        return f"{len(here)} {'entry' if len(here) == 1 else 'entries'}"
    return (
        {None: "nothing", True: "yes", False: "no"}.get(here) or str(here)
        if isinstance(here, bool | None)
        else str(here)
    )


def _differences(before: Any, after: Any, path: str) -> Iterator[str]:
    if isinstance(before, dict) and isinstance(after, dict):
        for key in dict.fromkeys([*before, *after]):
            yield from _differences(before.get(key), after.get(key), f"{path}.{key}" if path else key)
    elif isinstance(before, list) and isinstance(after, list) and len(before) == len(after):
        for index, (one, two) in enumerate(zip(before, after, strict=True)):
            yield from _differences(one, two, f"{path}[{index}]")
    elif before != after:
        yield path
