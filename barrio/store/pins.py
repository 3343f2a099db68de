"""Pins and reservations in PostgreSQL: numbers that a person fixed for a key, and ranges that nobody is given.

A pin of a key that is there is a move to that number, and the row is marked; a pin of a key that is not there yet waits for
it as a `reserved` row. Both are part of the revision that made them, so that undo takes them back.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from barrio.core import Compiled
from barrio.core.brief.model import Brief
from barrio.core.compiled import Asked
from barrio.core.errors import Fault, Refused
from barrio.core.ledger.demand import pool_name
from barrio.core.ledger.pool import Family, Pool, family_of, prefix_text
from barrio.core.ledger.refusals import not_in_pool
from barrio.core.ledger.wanted import ByKey, Taken
from barrio.store import entries
from barrio.store.database import Connection, statement
from barrio.store.occupancy import bounds


class Pin(NamedTuple):
    """A number fixed by hand, and the note that says why."""

    low: int
    size: int
    note: str = ""


Wishes = Mapping[str, Mapping[str, Pin | None]]
"""Pins by use and key; None lets a pin go."""


class Keep(NamedTuple):
    """A range of a pool to be reserved; bounds are inclusive."""

    pool: str
    family: Family
    low: int
    high: int
    note: str


@dataclass(frozen=True, slots=True)
class Numbering:
    """What a revision moves and pins, and how it was before."""

    moves: ByKey
    pins: Wishes
    before: ByKey = field(default_factory=dict)
    pins_before: Wishes = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        return {
            "moves": self.moves, "pins": self.pins, "before": self.before, "pins_before": self.pins_before,
        }  # fmt: skip

    @classmethod
    def read(cls, said: Mapping[str, Any], back: bool) -> Numbering:
        """From JSON; `back` turns it round, for undo."""
        moves, pins = ("before", "pins_before") if back else ("moves", "pins")
        return cls(
            {use: {key: Taken(*at) for key, at in keys.items()} for use, keys in said[moves].items()},
            {use: {key: Pin(*at) if at else None for key, at in keys.items()} for use, keys in said[pins].items()},
        )


def words(wished: Wishes) -> str:
    """What a set of pins does, in the words of the history."""
    found = [(use, key, pin) for use, keys in wished.items() for key, pin in keys.items()]
    if len(found) != 1:
        return f"pinned {len(found)} numbers"
    use, key, pin = found[0]
    if pin is None:
        return f"let the {use} of {key} go from its pin"
    return f"pinned the {use} of {key} to {prefix_text(family_of(use), pin.low, pin.size)}"


def of(connection: Connection, fabric: str, keys: Mapping[str, Any]) -> dict[str, dict[str, Pin | None]]:
    """The pins that these keys have now."""
    found: dict[str, dict[str, Pin | None]] = {use: dict.fromkeys(wanted) for use, wanted in keys.items()}
    for use, key, pin in _rows(connection, fabric):
        if key in found.get(use, {}):
            found[use][key] = pin
    return found


def all_of(connection: Connection, fabric: str) -> dict[str, dict[str, Taken]]:
    """Every number that is pinned for a key of a fabric, whether the key is there or not."""
    found: dict[str, dict[str, Taken]] = {}
    for use, key, pin in _rows(connection, fabric):
        found.setdefault(use, {})[key] = Taken(pin.low, pin.size)
    return found


def _rows(connection: Connection, fabric: str) -> Iterator[tuple[str, str, Pin]]:
    rows = connection.execute(
        "select use, key, host(prefix), masklen(prefix), number, note from entries where fabric = %s and pinned",
        [fabric],
    )
    for use, key, host, length, number, note in rows:
        low, size = (number, 1) if host is None else bounds(host, length)
        yield use, key, Pin(low, size, note)


def prepare(connection: Connection, asked: Asked, wished: Wishes, now: Compiled | None) -> dict[str, dict[str, Taken]]:
    """Let the old pins of these keys go, and put down those that have to wait; returns the moves of the others.

    Raises `Refused` with a fault for each number that cannot be pinned.
    """
    brief, spaces = asked.brief, asked.spaces
    uses = [use for use, keys in wished.items() for _ in keys]
    keys = [key for found in wished.values() for key in found]
    connection.execute(statement("unpin_waiting"), {"fabric": brief.fabric, "uses": uses, "keys": keys})
    connection.execute(statement("unpin_held"), {"fabric": brief.fabric, "uses": uses, "keys": keys})
    moves: dict[str, dict[str, Taken]] = {}
    faults: list[Fault] = []
    waiting: list[tuple[str, str, Pin]] = []
    for use, found in wished.items():
        there = now.allocation.numbers.get(use, {}) if now else {}
        for key, pin in found.items():
            if pin is None:
                continue
            fault = fault_of(brief, asked.pools, use, key, Taken(pin.low, pin.size))
            if fault:
                faults.append(fault)
            elif key in there:
                moves.setdefault(use, {})[key] = Taken(pin.low, pin.size)
            else:
                waiting.append((use, key, pin))
    for use, key, pin in waiting:
        space = spaces[use]
        said = entries.words_of(connection, space, pin.low, pin.low + pin.size - 1)
        text = prefix_text(family_of(use), pin.low, pin.size)
        if said:
            faults.append(Fault("pin.taken", f"{text} cannot be pinned for {key}: it is {said}. Choose another.", key))
            continue
        number = (None, pin.low) if family_of(use) is Family.NUMBER else (text, None)
        connection.execute(
            "insert into entries (use, key, fabric, pool, space, prefix, number, state, pinned, note) "
            "values (%s, %s, %s, %s, %s, %s, %s, 'reserved', true, %s)",
            [use, key, brief.fabric, pool_name(brief, use), space, *number, pin.note],
        )
    if faults:
        raise Refused(faults)
    return moves


def fault_of(brief: Brief, pools: Mapping[str, Pool], use: str, key: str, taken: Taken) -> Fault | None:
    """Why a number cannot be pinned whoever has it: it is not in the pool, or reserved there."""
    name = pool_name(brief, use)
    if name is None:
        return Fault("pin.use", f"Numbers of {use} cannot be pinned.", key)
    return not_in_pool(pools[name], use, key, taken)


def mark(connection: Connection, fabric: str, wished: Wishes) -> None:
    """Mark what the keys that are there hold as pinned."""
    found = [(use, key, pin.note) for use, keys in wished.items() for key, pin in keys.items() if pin]
    if found:
        uses, keys, notes = zip(*found, strict=True)
        connection.execute(
            statement("mark_pins"), {"fabric": fabric, "uses": list(uses), "keys": list(keys), "notes": list(notes)}
        )


def reserve(connection: Connection, keep: Keep, author: str) -> int:
    """Reserve a range of a pool; what is held in it stays until it is given back. Returns its id."""
    row = connection.execute(
        "insert into reserved (pool, family, low, high, note, author) values (%s, %s, %s, %s, %s, %s) returning id",
        [keep.pool, keep.family.value, keep.low, keep.high, keep.note, author],
    ).fetchone()
    connection.execute("update pools_version set version = version + 1")
    assert row is not None
    return int(row[0])
