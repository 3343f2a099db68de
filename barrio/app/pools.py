"""Pools as people look at them: how full they are, who holds what, what is reserved, and what was."""

from __future__ import annotations

from dataclasses import replace

from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core.ledger.pool import Family, Pool, Range
from barrio.core.ledger.runs import Holes, Runs
from barrio.store import entries, pools
from barrio.store.pools import RangeUse, Reservation
from barrio.store.records import Change, Entry, PastState, bare
from barrio.store.strips import Run, runs


def overview_in(house: House, tx: Transaction) -> list[RangeUse]:
    """Every range of every pool, with its runs; drawn again only when the ledger has changed."""
    # Which transactions have ended: it stays the same as long as nobody writes.
    row = tx.connection.execute("select pg_current_snapshot()::text").fetchone()
    assert row is not None
    drawn = house.overview
    if drawn is None or drawn[0] != row[0]:
        house.overview = drawn = row[0], pools.overview(tx.connection)
    return drawn[1]


def overview(desk: Desk) -> list[RangeUse]:
    """Every range of every pool, with its runs."""
    with desk.reading() as tx:
        return overview_in(desk.house, tx)


def ledger(desk: Desk) -> tuple[dict[str, Pool], list[RangeUse]]:
    """Every pool, and every range with what is taken of it."""
    with desk.reading() as tx:
        return pools.known(tx.connection), overview_in(desk.house, tx)


def known(desk: Desk) -> dict[str, Pool]:
    """Every pool with its settings, and what is cut from it among what it reserves."""
    with desk.reading() as tx:
        return pools.known(tx.connection)


def window(desk: Desk, pool: str, part: Range) -> tuple[Run, ...]:
    """The runs within a part of a pool, as closely as a strip can show them. Raises `Missing`."""
    with desk.reading() as tx:
        return runs(tx.connection, pools.find(pools.known(tx.connection), pool), part)


def page(
    desk: Desk, pool: str, words: str = "", state: str = "", limit: int = 5000, offset: int = 0
) -> tuple[list[Entry], int]:
    """Entries of a pool that hold some words, lowest number first, and how many there are in all. Raises `Missing`."""
    with desk.reading() as tx:
        pools.find(entries.load_pools(tx.connection), pool)
        found, total = pools.entries(tx.connection, pool, words, state, limit, offset)
    return [replace(one, number=bare(one.number)) for one in found], total


def scopes(desk: Desk) -> list[tuple[str, str]]:
    """Every scope: (name, note)."""
    with desk.reading() as tx:
        return pools.scopes(tx.connection)


def reservations(desk: Desk, pool: str) -> list[Reservation]:
    """What is reserved in a pool, lowest first."""
    with desk.reading() as tx:
        return pools.reservations(tx.connection, pool)


def history(desk: Desk, space: str, number: str) -> list[PastState]:
    """All that ever was at a number of a space, how it is now first."""
    with desk.reading() as tx:
        found = pools.history(tx.connection, space, number)
    return [replace(one, number=bare(one.number)) for one in found]


def changes(desk: Desk, limit: int = 200) -> list[Change]:
    """The newest acts that changed the ledger."""
    with desk.reading() as tx:
        return pools.changes(tx.connection, limit)


def audit(desk: Desk) -> list[tuple[str, str]]:
    """What must never be in the ledger, and is; believes no constraint."""
    with desk.reading() as tx:
        return pools.audit(tx.connection)


def free(desk: Desk, size: int, family: Family, pool: str | None = None) -> list[tuple[Pool, int, int]]:
    """Free blocks in which `size` integers fit, as (pool, low, size of the block), the best fit first."""
    found: list[tuple[Pool, int, int]] = []
    with desk.reading() as tx:
        every = pools.known(tx.connection)
        for one in [pools.find(every, pool)] if pool else every.values():
            if one.of(family):
                taken = Runs.of(pools.taken(tx.connection, one, family))
                kept = Runs.of((part.low, part.high) for part in one.kept(family))
                found += [(one, low, have) for low, have in Holes(one.of(family), [taken, kept]).blocks(size)]
    return sorted(found, key=lambda block: (block[2], block[1]))
