"""The ledger in PostgreSQL: load what one fabric may know of it, and write what an allocation changed.

Writers hold one advisory lock for the length of their transaction, so that what was loaded is still true when it is
written; the constraints of the schema stand behind that.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from ipaddress import IPv6Address
from typing import Any

import psycopg
from psycopg.rows import dict_row

from barrio.core import Compiled, Ledger
from barrio.core.ledger.allocate import Foreign, Holdings, Taken
from barrio.core.ledger.demand import SITE_SPACES, demands_of
from barrio.core.ledger.pool import Family, Pool, Range, prefix_text
from barrio.store.database import statement

_LEDGER_LOCK = 8_710_002

Connection = psycopg.Connection[Any]


def lock(connection: Connection) -> None:
    """Wait for our turn to change the ledger; held until the transaction ends."""
    connection.execute("select pg_advisory_xact_lock(%s)", [_LEDGER_LOCK])


def load(
    connection: Connection, fabric: str, before: Compiled | None = None
) -> tuple[Ledger, dict[tuple[str, str], int]]:
    """The ledger as one fabric sees it, and the ids of the entries it rests, by use and key.

    What the fabric holds is what it was last compiled with. When that is at hand (`before`, of the draft as it is now, under
    the lock), it is taken from there, and only what rests and what others hold is read.
    """
    connection.execute(statement("end_rest"))
    held: dict[str, dict[str, Taken]] = {}
    resting: dict[str, dict[str, Taken]] = {}
    others: dict[str, list[Foreign]] = {}
    resting_ids: dict[tuple[str, str], int] = {}
    wanted = "load_entries" if before is None else "load_others"
    rows = connection.execute(statement(wanted), {"fabric": fabric, "shared": list(SITE_SPACES)})
    for entry, use, key, owner, space, host, length, number, state in rows:
        low, size = (number, 1) if host is None else bounds(host, length)
        if owner != fabric:
            others.setdefault(space, []).append(Foreign(low, size, f"{state} by {owner} as {use} of {key}"))
        elif state != "resting":
            held.setdefault(use, {})[key] = Taken(low, size)
        else:
            if key in resting.get(use, {}):
                older = resting[use][key]
                others.setdefault(space, []).append(Foreign(*older, f"resting, given back by {key}"))
            resting.setdefault(use, {})[key] = Taken(low, size)
            resting_ids[(use, key)] = entry
    mine: Mapping[str, Mapping[str, Taken]] = held if before is None else before.allocation.numbers
    return Ledger(load_pools(connection), Holdings(mine, resting, others)), resting_ids


def bounds(host: str, length: int) -> tuple[int, int]:
    """The lowest integer of a prefix, and how many it spans."""
    if ":" in host:
        return int(IPv6Address(host)), 1 << (128 - length)
    a, b, c, d = host.split(".")
    return int(a) << 24 | int(b) << 16 | int(c) << 8 | int(d), 1 << (32 - length)


def load_pools(connection: Connection) -> dict[str, Pool]:
    found: dict[str, list[Range]] = {}
    for name, prefix, low, high in connection.execute(statement("load_pools")):
        ranges = found.setdefault(name, [])
        if prefix is not None:
            first, size = bounds(*_split(prefix))
            ranges.append(Range(Family.V6 if ":" in prefix else Family.V4, first, first + size - 1))
        elif low is not None:
            ranges.append(Range(Family.NUMBER, low, high))
    return {name: Pool(name, tuple(ranges)) for name, ranges in found.items()}


def _split(prefix: str) -> tuple[str, int]:
    host, length = prefix.split("/")
    return host, int(length)


def write(connection: Connection, compiled: Compiled, resting_ids: dict[tuple[str, str], int]) -> None:
    """Write what an allocation changed, after the same connection loaded the ledger under the lock."""
    allocation, fabric = compiled.allocation, compiled.brief.fabric
    _write_pools(connection, compiled.pools.values())
    _rest(connection, fabric, allocation.given_back)
    returned = [resting_ids[entry] for entry in allocation.returned]
    connection.execute(
        "update entries set state = 'held', released_at = null, since = now() where id = any(%s)", [returned]
    )
    consumed = [resting_ids[entry] for entry in allocation.consumed]
    connection.execute("delete from entries where id = any(%s)", [consumed])
    _add(connection, fabric, compiled)


def _write_pools(connection: Connection, pools: Iterable[Pool]) -> None:
    known = load_pools(connection)
    for pool in pools:
        before = known[pool.name].ranges if pool.name in known else ()
        connection.execute("insert into pools (name) values (%s) on conflict do nothing", [pool.name])
        for place, part in enumerate(pool.ranges):
            if part in before:
                continue
            prefix = None if part.family is Family.NUMBER else part.text
            bounds = (part.low, part.high) if prefix is None else (None, None)
            connection.execute(
                "insert into pool_ranges (pool, place, prefix, low, high) values (%s, %s, %s, %s, %s)",
                [pool.name, place, prefix, *bounds],
            )


def _rest(connection: Connection, fabric: str, given_back: tuple[tuple[str, str], ...]) -> None:
    if given_back:
        connection.execute(
            "update entries set state = 'resting', released_at = now() "
            "from unnest(%s::text[], %s::text[]) as gone (use, key) "
            "where entries.fabric = %s and entries.state <> 'resting' and entries.use = gone.use and entries.key = gone.key",
            [[use for use, _ in given_back], [key for _, key in given_back], fabric],
        )


def _add(connection: Connection, fabric: str, compiled: Compiled) -> None:
    if not compiled.allocation.added:
        return
    demands = {demand.use: demand for demand in demands_of(compiled.brief, compiled.structure, compiled.pools)}
    columns = "use, key, fabric, pool, space, prefix, number, state"
    with connection.cursor().copy(f"copy entries ({columns}) from stdin") as copy:
        for use, key in compiled.allocation.added:
            demand = demands[use]
            low, size = compiled.allocation.numbers[use][key]
            if demand.family is Family.NUMBER:
                copy.write_row((use, key, fabric, demand.pool.name, demand.space, None, low, "held"))
            else:
                text = prefix_text(demand.family, low, size)
                copy.write_row((use, key, fabric, demand.pool.name, demand.space, text, None, "held"))


def entries(connection: Connection, pool: str) -> Iterator[dict[str, Any]]:
    """The entries of one pool, lowest number first."""
    with connection.cursor(row_factory=dict_row) as cursor:
        cursor.execute(statement("pool_entries"), {"pool": pool})
        yield from cursor
