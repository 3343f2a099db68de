"""Drafts as they are read, what was made of them before, and what can go wrong when one is changed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from functools import cached_property

from barrio.core.brief.document import Document, read


class Missing(Exception):
    """There is no such fabric, pool or revision; the message names it."""


class Stale(Exception):
    """The fabric changed after the caller had read it."""

    def __init__(self, fabric: str, seen: int, now: int, note: str) -> None:
        self.fabric, self.seen, self.now = fabric, seen, now
        super().__init__(
            f"{fabric} was changed elsewhere while you were editing (“{note}”); you saw version {seen}, it is now {now}. "
            "Nothing of yours was saved over it. Look at the newer draft, then make your change again."
        )


class Raced(Exception):
    """The database refused a number that had looked free: somebody else was faster."""

    def __init__(self, detail: str) -> None:
        super().__init__(
            "Somebody else took one of these numbers at the same moment. Nothing was saved; do it again, and others are "
            f"drawn. ({detail})"
        )


@dataclass(frozen=True)
class Draft:
    """A fabric as it is being changed. `undo` and `redo` are what those would take back or bring back, in words.

    `fresh` are the keys of the switches that the last change brought in,
    and `text_before` the text before it. The text may be one that an earlier Barrio took and this one refuses.
    """

    name: str
    title: str
    version: int
    text: str
    text_before: str | None
    note: str
    saved_at: datetime
    effect: dict[str, int]
    fresh: list[str]
    sealed: int | None
    undo: str | None
    redo: str | None

    @cached_property
    def document(self) -> Document:
        """The text as it is understood. Raises `Refused` when it is not."""
        return read(self.text)


@dataclass(frozen=True, slots=True)
class Revision:
    id: int
    note: str
    author: str
    saved_at: datetime
    effect: dict[str, int]
    current: bool


@dataclass(frozen=True, slots=True)
class ModelEffect:
    """What a changed model does to one fabric that uses it: counts, or why it cannot be."""

    fabric: str
    effect: dict[str, int] | None
    refusal: str | None
