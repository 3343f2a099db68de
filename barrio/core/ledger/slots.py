"""Blocks of like size in the ranges of a pool, counted over all of them."""

from __future__ import annotations

from collections.abc import Sequence

from barrio.core.ledger.pool import Range


def slot_of(ranges: Sequence[Range], low: int, size: int) -> int | None:
    """Which block of `size` integers of the ranges, counted from 0 over all of them, an integer lies in."""
    before = 0
    for part in ranges:
        first = -(-part.low // size)
        if part.low <= low <= part.high:
            return before + low // size - first
        before += max(0, (part.high + 1) // size - first)
    return None


def at_slot(ranges: Sequence[Range], slot: int, size: int) -> int | None:
    """The start of the block with this number, the reverse of `slot_of`; None past the end."""
    for part in ranges:
        first = -(-part.low // size)
        count = max(0, (part.high + 1) // size - first)
        if 0 <= slot < count:
            return (first + slot) * size
        slot -= count
    return None
