"""Work that nobody waits for any more: whoever does long work asks between its parts whether to go on."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextvars import ContextVar
from threading import Event
from typing import TypeVar

T = TypeVar("T")


class Left(Exception):
    """Whoever asked for this has gone."""


LEFT: ContextVar[Event | None] = ContextVar("left", default=None)
"""Set by whoever speaks to the person who asked; nothing when nobody can leave."""


def go_on() -> None:
    """Raises `Left` when nobody waits for the outcome any more."""
    left = LEFT.get()
    if left is not None and left.is_set():
        raise Left


def while_wanted(parts: Iterable[T]) -> Iterator[T]:
    """The parts of long work, as long as somebody waits for the whole. Raises `Left`."""
    for part in parts:
        go_on()
        yield part
