"""Pools as a person looks at them: how full, who holds what, and runs of like numbers for the strips."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from barrio.core.errors import refuse
from barrio.core.ledger.pool import Family, Range, parse_range, prefix_text
from barrio.store import ledger
from barrio.store.database import statement
from barrio.store.fabrics import Connections, Missing

MOST_RUNS = 1200
SEEN_ALONE = 400
"""A number that spans at least this fraction of a strip is drawn by itself."""


@dataclass(frozen=True, slots=True)
class Run:
    """Neighbouring numbers of one fabric and state: integers `low` to `high`, holding `count` entries."""

    low: int
    high: int
    state: str
    fabric: str
    count: int


@dataclass(frozen=True, slots=True)
class RangeUse:
    """One range of a pool and what is taken from it; counts are of integers (addresses or numbers)."""

    pool: str
    range: Range
    held: int
    live: int
    resting: int
    runs: tuple[Run, ...]


class Pools:
    def __init__(self, connections: Connections) -> None:
        self._connections = connections

    def all(self) -> list[RangeUse]:
        """Every range of every pool, with its runs."""
        with self._connections.connection() as connection:
            connection.execute(statement("end_rest"))
            pools = ledger.load_pools(connection)
            taken = {name: list(_taken(connection, name)) for name in pools}
        return [_use(name, part, taken[name]) for name, pool in pools.items() for part in pool.ranges]

    def window(self, pool: str, family: Family, low: int, high: int) -> tuple[Range, tuple[Run, ...]]:
        """The runs within a part of a pool, as closely as a strip can show them."""
        with self._connections.connection() as connection:
            self._known(connection, pool)
            taken = list(_taken(connection, pool))
        part = Range(family, low, high)
        return part, _runs(part, taken)

    def entries(self, pool: str) -> list[dict[str, Any]]:
        with self._connections.connection() as connection:
            self._known(connection, pool)
            return list(ledger.entries(connection, pool))

    def add_range(self, pool: str, text: str) -> None:
        """Add a range to a pool. Raises `Missing`, or `Refused` when it overlaps with a range of any pool."""
        part = parse_range(text, "range")
        with self._connections.connection() as connection:
            ledger.lock(connection)
            self._known(connection, pool)
            for name, other in ledger.load_pools(connection).items():
                for old in other.ranges:
                    clash = old.family is part.family and old.low <= part.high and part.low <= old.high
                    if clash and (part.family is not Family.NUMBER or name == pool):
                        raise refuse(
                            "pool.overlap",
                            f"{part.text} overlaps {old.text} in pool {name}. Choose another range.",
                            "range",
                        )
            place = connection.execute(
                "select coalesce(max(place), -1) + 1 from pool_ranges where pool = %s", [pool]
            ).fetchone()
            assert place is not None
            prefix = None if part.family is Family.NUMBER else part.text
            bounds = (part.low, part.high) if prefix is None else (None, None)
            connection.execute(
                "insert into pool_ranges (pool, place, prefix, low, high) values (%s, %s, %s, %s, %s)",
                [pool, place[0], prefix, *bounds],
            )

    def end_rest(self, pool: str) -> int:
        """Let the resting numbers of a pool be used again now; returns how many there were."""
        with self._connections.connection() as connection:
            ledger.lock(connection)
            self._known(connection, pool)
            return connection.execute("delete from entries where pool = %s and state = 'resting'", [pool]).rowcount

    def whose(self, address: str | None, number: int | None) -> list[tuple[str, str, str, str, str, str]]:
        """Entries that hold an address or are a number: (use, key, fabric, pool, number, state)."""
        with self._connections.connection() as connection:
            return connection.execute(statement("whose"), {"address": address, "number": number}).fetchall()

    def _known(self, connection: ledger.Connection, pool: str) -> None:
        if connection.execute("select 1 from pools where name = %s", [pool]).fetchone() is None:
            raise Missing(f"There is no pool called {pool}.")


def _taken(connection: ledger.Connection, pool: str) -> Iterator[tuple[Family, int, int, str, str]]:
    """What is taken from a pool, lowest first: (family, low, size, state, fabric)."""
    for host, length, number, state, fabric in connection.execute(statement("pool_taken"), {"pool": pool}):
        if host is None:
            yield Family.NUMBER, number, 1, state, fabric
        else:
            low, size = ledger.bounds(host, length)
            yield (Family.V6 if ":" in host else Family.V4), low, size, state, fabric


def _use(pool: str, part: Range, taken: list[tuple[Family, int, int, str, str]]) -> RangeUse:
    sums = {"held": 0, "live": 0, "resting": 0}
    for family, low, size, state, _ in taken:
        if family is part.family and part.low <= low <= part.high:
            sums[state] += size
    return RangeUse(pool, part, sums["held"], sums["live"], sums["resting"], _runs(part, taken))


def _runs(part: Range, taken: list[tuple[Family, int, int, str, str]]) -> tuple[Run, ...]:
    runs: list[Run] = []
    # Numbers closer together than a hair of the strip are drawn as one run.
    hair = max(0, part.size // MOST_RUNS)
    for family, low, size, state, fabric in taken:
        if family is not part.family or not part.low <= low <= part.high:
            continue
        last = runs[-1] if runs else None
        alike = last is not None and (last.state, last.fabric) == (state, fabric)
        if last and alike and low - last.high - 1 <= hair and size * SEEN_ALONE < part.size:
            runs[-1] = Run(last.low, low + size - 1, state, fabric, last.count + 1)
        else:
            runs.append(Run(low, low + size - 1, state, fabric, 1))
    return tuple(runs)


def bound_text(part: Range, value: int) -> str:
    """A bound of a range as people read it."""
    return prefix_text(part.family, value, 1)
