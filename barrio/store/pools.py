"""Pools in PostgreSQL as people look at them: how full, who holds what, reservations, and the past of numbers."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from ipaddress import ip_network
from typing import Any

from psycopg.rows import class_row, dict_row

from barrio.core.ledger.nest import cut
from barrio.core.ledger.pool import Family, Pool, Range, parse_range
from barrio.core.ledger.runs import Runs
from barrio.store import entries as ledger
from barrio.store.database import Connection, statement
from barrio.store.errors import Missing
from barrio.store.occupancy import bounds
from barrio.store.records import Change, Entry, PastState
from barrio.store.strips import Run, around, kept_runs, runs


@dataclass(frozen=True, slots=True)
class RangeUse:
    """One range of a pool and what is taken from it; counts are of integers (addresses or numbers)."""

    pool: Pool
    range: Range
    held: int
    live: int
    resting: int
    waiting: int
    kept: int
    runs: tuple[Run, ...]

    @property
    def taken(self) -> int:
        return self.held + self.live + self.resting + self.waiting + self.kept


@dataclass(frozen=True, slots=True)
class Reservation:
    """A range that nobody is given, by whom and why."""

    id: int
    pool: str
    range: Range
    note: str
    author: str
    at: datetime


def known(connection: Connection) -> dict[str, Pool]:
    """Every pool with its settings, and what is cut from it among what it reserves."""
    return cut(ledger.load_pools(connection))


def find(pools: dict[str, Pool], name: str) -> Pool:
    """A pool by its name. Raises `Missing`."""
    if name not in pools:
        raise Missing(f"There is no pool called {name}.")
    return pools[name]


def overview(connection: Connection) -> list[RangeUse]:
    """Every range of every pool, with what is taken of it."""
    pools = known(connection)
    sums: dict[tuple[str, int], dict[str, int]] = {}
    for name, place, state, size in connection.execute(statement("pool_sums")):
        sums.setdefault((name, place), {})[state] = int(size)
    at: dict[str, list[int]] = {}
    for name, place in connection.execute("select pool, place from pool_ranges order by pool, place"):
        at.setdefault(name, []).append(place)
    return [
        _use(connection, pool, part, sums.get((pool.name, place), {}))
        for pool in pools.values()
        for part, place in zip(pool.ranges, at.get(pool.name, ()), strict=True)
    ]


def _use(connection: Connection, pool: Pool, part: Range, sums: dict[str, int]) -> RangeUse:
    kept = Runs.of((run.low, run.high) for run in kept_runs(pool, part))
    return RangeUse(
        pool, part, sums.get("held", 0), sums.get("live", 0), sums.get("resting", 0), sums.get("reserved", 0),
        sum(high - low + 1 for low, high in kept), runs(connection, pool, part),
    )  # fmt: skip


def entries(
    connection: Connection, pool: str, words: str, state: str, limit: int, offset: int
) -> tuple[list[Entry], int]:
    """Entries of a pool that hold some words, lowest number first, and how many there are in all."""
    asked = {"pool": pool, "words": words.strip().lower(), "state": state, "limit": limit, "offset": offset}
    with connection.cursor(row_factory=dict_row) as cursor:
        rows = cursor.execute(statement("pool_entries"), asked).fetchall()
    total = rows[0]["total"] if rows else 0
    return [Entry(**{name: value for name, value in row.items() if name != "total"}) for row in rows], total


def scopes(connection: Connection) -> list[tuple[str, str]]:
    """Every scope: (name, note)."""
    return connection.execute("select name, note from scopes order by created_at, name").fetchall()


def reservation(connection: Connection, number: int) -> tuple[str, str]:
    """A reservation: (pool, note). Raises `Missing`."""
    row = connection.execute("select pool, note from reserved where id = %s", [number]).fetchone()
    if row is None:
        raise Missing("There is no such reservation any more.")
    return str(row[0]), str(row[1])


def reservations(connection: Connection, pool: str) -> list[Reservation]:
    """What is reserved in a pool, lowest first."""
    rows = connection.execute(
        "select id, pool, family, low, high, note, author, at from reserved where pool = %s order by family, low",
        [pool],
    ).fetchall()
    return [Reservation(row[0], row[1], Range(Family(row[2]), int(row[3]), int(row[4])), *row[5:]) for row in rows]


def whose(connection: Connection, address: str | None, number: int | None) -> list[tuple[Any, ...]]:
    """Entries that hold an address or are a number, the most specific first."""
    asked: dict[str, Any] = {"around": [], "number": number}
    if address is not None:
        prefix = ip_network(address, strict=False)
        family = Family.V4 if prefix.version == 4 else Family.V6
        longest = prefix.max_prefixlen - prefix.prefixlen
        asked["around"] = around(family, int(prefix.network_address))[longest:]
    return connection.execute(statement("whose"), asked).fetchall()


def history(connection: Connection, space: str, number: str) -> list[PastState]:
    """All that ever was at a number of a space, how it is now first."""
    asked: dict[str, Any] = {"space": space, "around": [], "number": None}
    if number.isdigit():
        asked["number"] = int(number)
    else:
        part = parse_range(number)
        bits = part.size.bit_length() - 1
        asked["around"] = around(part.family, part.low)[bits:]
    with connection.cursor(row_factory=class_row(PastState)) as cursor:
        return cursor.execute(statement("number_history"), asked).fetchall()


def changes(connection: Connection, limit: int) -> list[Change]:
    """The newest acts that changed the ledger."""
    with connection.cursor(row_factory=class_row(Change)) as cursor:
        return cursor.execute(
            "select id, at, author, fabric, version, act, note from changes order by id desc limit %s", [limit]
        ).fetchall()


def audit(connection: Connection) -> list[tuple[str, str]]:
    """What must never be in the ledger, and is; believes no constraint."""
    return connection.execute(statement("audit")).fetchall()


def count(connection: Connection, pool: str) -> int:
    """How many numbers of a pool are taken."""
    row = connection.execute("select count(*) from entries where pool = %s", [pool]).fetchone()
    return int(row[0]) if row else 0


def count_in(connection: Connection, pool: str, part: Range) -> int:
    """How many numbers of a pool that lie in a range, or span it, are taken."""
    number = part.family is Family.NUMBER
    row = connection.execute(
        "select count(*) from entries where pool = %s and (prefix <<= %s::cidr or prefix >> %s::cidr or number between %s and %s)",
        [pool, *((None, None, part.low, part.high) if number else (part.text, part.text, None, None))],
    ).fetchone()
    return int(row[0]) if row else 0


def taken(connection: Connection, pool: Pool, family: Family) -> Iterator[tuple[int, int]]:
    """Bounds of every entry of a pool in one family."""
    wanted = {"v4": 4, "v6": 6}.get(family.value)
    for host, length, number in connection.execute(
        "select host(prefix), masklen(prefix), number from entries where pool = %s and family(prefix) is not distinct from %s::integer",
        [pool.name, wanted],
    ):
        low, size = (number, 1) if host is None else bounds(host, length)
        yield low, low + size - 1


def changed(connection: Connection) -> None:
    """Count a change of pools, so that what was compiled before it is not taken for current."""
    connection.execute("update pools_version set version = version + 1")


def drop_range(connection: Connection, pool: str, part: Range) -> None:
    """Take a range out of a pool."""
    number = part.family is Family.NUMBER
    connection.execute(
        "delete from pool_ranges where pool = %s and (prefix::text = %s or (low = %s and high = %s and prefix is null))",
        [pool, part.text, part.low if number else None, part.high if number else None],
    )


def delete(connection: Connection, pool: str) -> None:
    """Take a pool out with its ranges and reservations."""
    for query in (
        "delete from reserved where pool = %s",
        "delete from pool_ranges where pool = %s",
        "delete from pools where name = %s",
    ):
        connection.execute(query, [pool])


def add(connection: Connection, pool: Pool, note: str) -> None:
    """A new pool with its ranges; the schema refuses one that overlaps."""
    connection.execute(
        "insert into pools (name, kind, plan, scope, parent, private_to, note) values (%s, %s, %s, %s, %s, %s, %s)",
        [pool.name, pool.kind.value, pool.plan.value, pool.scope, pool.parent, pool.private_to, note],
    )
    for part in pool.ranges:
        ledger.add_range(connection, pool.name, part)
