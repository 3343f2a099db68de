"""One change of a brief taken back, with those after it left as they are."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from barrio.core.brief import reader
from barrio.core.brief.document import apply
from barrio.core.errors import refuse

_PLAIN = re.compile(r"[A-Za-z0-9_-]+")
_NOTHING = object()


def take_back(before: str, after: str, now: str) -> str:
    """The text `now` without what changed from `before` to `after`; what changed elsewhere since stays.

    Raises `Refused` (`history.overlaid`) when a word of that change was changed again since, naming it.
    """
    then, later, here = (reader.load(text)[0] for text in (before, after, now))
    edits: list[tuple[str, object]] = []
    for steps, old, new in _differences(then, later, ()):
        current = _at(here, steps)
        path = _path(steps)
        if current != new:
            raise refuse(
                "history.overlaid",
                f"{path} was changed again since, so this change cannot be taken back by itself. Take that one back first, or change {path} by hand.",
                path,
            )
        edits.append((path, None if old is _NOTHING else old))
    # What stands later in a list goes first, so that no place moves before it is reached.
    return apply(now, edits[::-1])


def _differences(
    before: Any, after: Any, steps: tuple[str | int, ...]
) -> Iterator[tuple[tuple[str | int, ...], Any, Any]]:
    if isinstance(before, dict) and isinstance(after, dict):
        for key in dict.fromkeys([*before, *after]):
            one, other = before.get(key, _NOTHING), after.get(key, _NOTHING)
            if one is _NOTHING or other is _NOTHING:
                yield (*steps, key), one, other
            else:
                yield from _differences(one, other, (*steps, key))
    elif isinstance(before, list) and isinstance(after, list) and len(before) == len(after):
        for index, (one, two) in enumerate(zip(before, after, strict=True)):
            yield from _differences(one, two, (*steps, index))
    elif before != after:
        yield steps, before, after


def _at(document: Any, steps: tuple[str | int, ...]) -> Any:
    for step in steps:
        try:
            document = document[step]
        except (KeyError, IndexError, TypeError):
            return _NOTHING
    return document


def _path(steps: tuple[str | int, ...]) -> str:
    """How edits write these steps."""
    words = ""
    for step in steps:
        if isinstance(step, int):
            words += f"[{step}]"
        else:
            name = step if _PLAIN.fullmatch(str(step)) else f'"{step}"'
            words += f".{name}" if words else str(name)
    return words
