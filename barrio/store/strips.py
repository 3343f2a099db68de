"""Strips: what is taken in a part of a pool, as a picture of a few hundred runs however many entries there are.

PostgreSQL gathers the entries of each place of the strip; places that hold one entry, or lie apart, are drawn as they are.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from barrio.core.ledger.pool import Family, Pool, Range, address_text
from barrio.core.ledger.runs import aligned
from barrio.store.database import Connection, statement
from barrio.store.occupancy import bounds

PLACES = 900
"""Into how many places a strip is divided; a screen has hardly more columns."""


@dataclass(frozen=True, slots=True)
class Run:
    """Neighbouring numbers of one fabric and state: integers `low` to `high`, holding `count` entries.

    `state` is that of the entries (live numbers that the draft leaves are `leaving`), or `kept` for what is reserved and
    `cut` for a pool cut from this one; then `fabric` is the note, or the pool's name.
    """

    low: int
    high: int
    state: str
    fabric: str
    count: int


def around(family: Family, low: int) -> list[str]:
    """Every prefix that holds an address, longest first."""
    width = 32 if family is Family.V4 else 128
    text = address_text
    return [f"{text(family, low >> bits << bits)}/{width - bits}" for bits in range(width + 1)]


def runs(connection: Connection, pool: Pool, part: Range) -> tuple[Run, ...]:
    """The runs of one part of a pool, lowest first; what is reserved comes last."""
    found = _gathered(connection, pool.name, part)
    return tuple(_joined(found, part)) + tuple(kept_runs(pool, part))


def kept_runs(pool: Pool, part: Range) -> list[Run]:
    """What nobody is given, within one part of a pool."""
    return [
        Run(
            max(kept.low, part.low), min(kept.high, part.high),
            "cut" if kept.note.startswith("pool ") else "kept", kept.note.removeprefix("pool "), 1,
        )
        for kept in pool.kept(part.family)
        if kept.low <= part.high and part.low <= kept.high
    ]  # fmt: skip


def _gathered(connection: Connection, pool: str, part: Range) -> list[Run]:
    rows = connection.execute(statement("strip"), _question(pool, part))
    found = []
    for _, state, leaving, fabric, count, first, last, length, number in rows:
        if number is not None:
            low, high = int(first), int(number)
        else:
            # A wide prefix that begins before the window counts in its first place.
            low = bounds(first, 128 if ":" in first else 32)[0]
            begin, size = bounds(last, length)
            high = begin + size - 1
        if low <= part.high and part.low <= high:
            if count > 1:
                low, high = max(low, part.low), min(high, part.high)
            found.append(Run(low, high, "leaving" if leaving else state, fabric, count))
    return found


def _question(pool: str, part: Range) -> dict[str, Any]:
    """The parameters of `strip.sql` for a window."""
    asked: dict[str, Any] = {
        "pool": pool, "how": "number", "start_number": 0, "end_number": 0, "width": 32, "start": None,
        "first": None, "last": None, "around": [], "base": 0, "step": max(1, -(-part.size // PLACES)),
    }  # fmt: skip
    if part.family is Family.NUMBER:
        return asked | {"start_number": part.low, "end_number": part.high}
    width = 32 if part.family is Family.V4 else 128
    block = next(aligned(part.low, part.high))[1]
    length = width - (block.bit_length() - 1)
    first = f"{address_text(part.family, part.low)}/{length}"
    asked |= {
        "how": "near", "width": width, "start": address_text(part.family, part.low), "first": first,
        "last": f"{address_text(part.family, part.high)}/{width}",
        "around": around(part.family, part.low)[block.bit_length() :],
    }  # fmt: skip
    if part.size <= 1 << 62:
        return asked
    shift = 2 if part.size <= 1 << 64 else 66
    low, high = part.low >> shift, part.high >> shift
    mask = (1 << 62) - 1
    how = "lower" if shift == 2 else "upper"
    return asked | {"how": how, "base": low & mask, "step": max(1, -(-(high - low + 1) // PLACES))}


def _joined(found: list[Run], part: Range) -> list[Run]:
    """Runs of one state and fabric that lie closer together than a hair of the strip are one."""
    hair = part.size // PLACES
    joined: list[Run] = []
    for run in sorted(found, key=lambda run: (run.low, run.high)):
        last = joined[-1] if joined else None
        alike = last is not None and (last.state, last.fabric) == (run.state, run.fabric)
        wide = (run.high - run.low + 1) * 300 > part.size
        if last and alike and run.low - last.high - 1 <= hair and not (wide and run.count == 1):
            joined[-1] = Run(last.low, max(run.high, last.high), last.state, last.fabric, last.count + run.count)
        else:
            joined.append(run)
    return joined
