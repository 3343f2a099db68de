"""What can go wrong with what is stored, whatever was asked."""

from __future__ import annotations

from collections.abc import Mapping


class Missing(Exception):
    """There is no such fabric, pool or revision; the message names it."""


class Stale(Exception):
    """The fabric changed after the caller had read it."""

    def __init__(self, fabric: str, seen: int, now: int, note: str, words: Mapping[str, str] | None = None) -> None:
        """`words` are the fields that both changed, by path, with what stands there now, in words."""
        self.fabric, self.seen, self.now, self.words = fabric, seen, now, words or {}
        super().__init__(
            f"{fabric} was changed elsewhere while you were editing (“{note}”); you saw version {seen}, it is now {now}. "
            "Nothing of yours was saved over it. Look at the newer draft, then make your change again."
        )


class Unreachable(Exception):
    """The database is not there; the message says why, and whether anything was saved."""


class Raced(Exception):
    """The database refused a number that had looked free: somebody else was faster."""

    def __init__(self, detail: str) -> None:
        super().__init__(
            "Somebody else took one of these numbers at the same moment. Nothing was saved; do it again, and others are "
            f"drawn. ({detail})"
        )
