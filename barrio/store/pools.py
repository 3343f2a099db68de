"""Pools as people look at them and change them: how full, who holds what, settings, ranges, reservations and rests.

Changes of pools wait until nobody draws, so that what a draft was compiled with is still true when it is written.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from ipaddress import ip_network
from typing import Any

from psycopg import errors
from psycopg.rows import dict_row

from barrio.core.brief.document import read
from barrio.core.errors import Refused, refuse
from barrio.core.ledger.nest import check_pools, cut
from barrio.core.ledger.pool import SITE, Family, Kind, Plan, Pool, Range, parse_range, prefix_text
from barrio.core.ledger.runs import Holes, Runs
from barrio.store import ledger, pins
from barrio.store.database import statement
from barrio.store.drafts import Missing
from barrio.store.fabrics import Connections
from barrio.store.ledger import Act, Connection
from barrio.store.occupancy import bounds
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


@dataclass(frozen=True, slots=True)
class NewPool:
    """What a new pool is to be; with a `parent` its ranges are cut from that one."""

    name: str
    ranges: tuple[str, ...]
    kind: Kind = Kind.ADDRESSES
    plan: Plan = Plan.LOWEST
    scope: str = SITE
    parent: str | None = None
    private_to: str | None = None
    note: str = ""


@dataclass(frozen=True, slots=True)
class Settings:
    """What can be changed about a pool; None leaves it as it is, and "" shares a private pool again."""

    plan: Plan | None = None
    rest: timedelta | None = None
    warn: float | None = None
    private_to: str | None = None
    note: str | None = None


class Pools:
    def __init__(self, connections: Connections) -> None:
        self._connections = connections
        self._drawn: tuple[str, list[RangeUse]] | None = None

    def all(self) -> list[RangeUse]:
        """Every range of every pool, with its runs; drawn again only when the ledger has changed."""
        with self._connections.connection() as connection:
            # Which transactions have ended: it stays the same as long as nobody writes.
            row = connection.execute("select pg_current_snapshot()::text").fetchone()
            assert row is not None
            if self._drawn is None or self._drawn[0] != row[0]:
                self._drawn = row[0], self._draw(connection)
            return self._drawn[1]

    def _draw(self, connection: Connection) -> list[RangeUse]:
        pools = cut(ledger.load_pools(connection))
        sums: dict[tuple[str, int], dict[str, int]] = {}
        for name, place, state, size in connection.execute(statement("pool_sums")):
            sums.setdefault((name, place), {})[state] = int(size)
        places = connection.execute("select pool, place from pool_ranges order by pool, place").fetchall()
        at: dict[str, list[int]] = {}
        for name, place in places:
            at.setdefault(name, []).append(place)
        return [
            self._use(connection, pool, part, sums.get((pool.name, place), {}))
            for pool in pools.values()
            for part, place in zip(pool.ranges, at.get(pool.name, ()), strict=True)
        ]

    def _use(self, connection: Connection, pool: Pool, part: Range, sums: dict[str, int]) -> RangeUse:
        kept = Runs.of((run.low, run.high) for run in kept_runs(pool, part))
        return RangeUse(
            pool, part, sums.get("held", 0), sums.get("live", 0), sums.get("resting", 0), sums.get("reserved", 0),
            sum(high - low + 1 for low, high in kept), runs(connection, pool, part),
        )  # fmt: skip

    def known(self) -> dict[str, Pool]:
        """Every pool with its settings, and what is cut from it among what it reserves."""
        with self._connections.connection() as connection:
            return cut(ledger.load_pools(connection))

    def window(self, pool: str, family: Family, low: int, high: int) -> tuple[Range, tuple[Run, ...]]:
        """The runs within a part of a pool, as closely as a strip can show them."""
        part = Range(family, low, high)
        with self._connections.connection() as connection:
            return part, runs(connection, _known(cut(ledger.load_pools(connection)), pool), part)

    def entries(
        self, pool: str, words: str = "", state: str = "", limit: int = 5000, offset: int = 0
    ) -> tuple[list[dict[str, Any]], int]:
        """Entries of a pool that hold some words, lowest number first, and how many there are in all."""
        asked = {"pool": pool, "words": words.strip().lower(), "state": state, "limit": limit, "offset": offset}
        with self._connections.connection() as connection:
            _known(ledger.load_pools(connection), pool)
            with connection.cursor(row_factory=dict_row) as cursor:
                rows = cursor.execute(statement("pool_entries"), asked).fetchall()
        return rows, rows[0]["total"] if rows else 0

    @contextmanager
    def _alone(self, act: str, author: str, note: str) -> Iterator[tuple[Connection, dict[str, Pool]]]:
        """A change of pools: nobody draws meanwhile, and it is recorded."""
        try:
            with self._connections.connection() as connection:
                ledger.lock_pools(connection, alone=True)
                ledger.open_change(connection, Act(act, author, note=note))
                yield connection, ledger.load_pools(connection)
                connection.execute("update pools_version set version = version + 1")
        except errors.ExclusionViolation as error:
            raise refuse("pool.overlap", "This range overlaps one of another pool. Choose another.", "range") from error

    def create(self, new: NewPool, author: str = "") -> None:
        """Make a pool. Raises `Refused` (`pool.twice`, `pool.unknown`, `pool.overlap`, `range.*`)."""
        with self._alone("pool made", author, new.name) as (connection, pools):
            if new.name in pools:
                raise refuse("pool.twice", f"There is a pool called {new.name} already. Choose another name.", "name")
            scope, kind = new.scope, new.kind
            if new.parent is not None:
                parent = _known(pools, new.parent)
                scope, kind = parent.scope, parent.kind
            elif connection.execute("select 1 from scopes where name = %s", [scope]).fetchone() is None:
                raise refuse("scope.unknown", f"There is no scope called {scope}. Make it first.", "scope")
            _check_fabric(connection, new.private_to)
            pool = Pool(
                new.name, tuple(parse_range(text, "ranges") for text in new.ranges), kind, new.plan, scope, new.parent,
                new.private_to or None,
            )  # fmt: skip
            if not pool.ranges:
                raise refuse("range.none", "A pool needs a range to hand out numbers from.", "ranges")
            _check_plan(pool)
            _check({**pools, pool.name: pool}, "ranges")
            if pool.parent:
                _check_free(connection, pool)
            connection.execute(
                "insert into pools (name, kind, plan, scope, parent, private_to, note) values (%s, %s, %s, %s, %s, %s, %s)",
                [pool.name, kind.value, pool.plan.value, scope, pool.parent, pool.private_to, new.note],
            )
            for part in pool.ranges:
                ledger.add_range(connection, pool.name, part)

    def change(self, name: str, settings: Settings, author: str = "") -> None:
        """Change what is said about a pool; no number moves. Raises `Missing` or `Refused`."""
        with self._alone("pool changed", author, f"{name}: {_said(settings)}") as (connection, pools):
            pool = _known(pools, name)
            if settings.plan is not None:
                _check_plan(replace(pool, plan=settings.plan))
            if settings.private_to:
                _check_fabric(connection, settings.private_to)
                users = _users(connection, name)
                others = sorted(set(users) - {settings.private_to})
                if others:
                    raise refuse(
                        "pool.in-use",
                        f"{', '.join(others)} draws from {name} too, so it cannot be private.",
                        "private_to",
                    )
            connection.execute(
                "update pools set plan = coalesce(%s, plan), rest = coalesce(%s, rest), warn = coalesce(%s, warn), "
                "note = coalesce(%s, note), private_to = case when %s::text is null then private_to else nullif(%s, '') end "
                "where name = %s",
                [settings.plan and settings.plan.value, settings.rest, settings.warn, settings.note,
                 settings.private_to, settings.private_to, name],
            )  # fmt: skip

    def delete(self, name: str, author: str = "") -> None:
        """Delete a pool that nobody uses. Raises `Refused` (`pool.in-use`) naming what does."""
        with self._alone("pool deleted", author, name) as (connection, pools):
            _known(pools, name)
            count = connection.execute("select count(*) from entries where pool = %s", [name]).fetchone()
            held = int(count[0]) if count else 0
            children = [pool.name for pool in pools.values() if pool.parent == name]
            users = _users(connection, name)
            if held or children or users:
                why = [f"{held} numbers of it are taken"] if held else []
                why += [f"{', '.join(users)} draws from it"] if users else []
                why += [f"{', '.join(children)} is cut from it"] if children else []
                raise refuse("pool.in-use", f"Pool {name} cannot be deleted: {'; '.join(why)}.", "name")
            for table in ("reserved", "pool_ranges"):
                connection.execute(f"delete from {table} where pool = %s", [name])
            connection.execute("delete from pools where name = %s", [name])

    def add_range(self, pool: str, text: str, author: str = "") -> None:
        """Add a range to a pool. Raises `Missing`, or `Refused` when it overlaps with a range of any pool."""
        part = parse_range(text, "range")
        with self._alone("range added", author, f"{pool}: {part.text}") as (connection, pools):
            had = _known(pools, pool)
            for old in had.ranges:
                if old.family is part.family and old.low <= part.high and part.low <= old.high:
                    raise refuse(
                        "pool.overlap", f"{part.text} overlaps {old.text}, which pool {pool} has already.", "range"
                    )
            _check({**pools, pool: replace(had, ranges=(*had.ranges, part))}, "range")
            if had.parent:
                _check_free(connection, replace(had, ranges=(part,)))
            ledger.add_range(connection, pool, part)

    def drop_range(self, pool: str, text: str, author: str = "") -> None:
        """Take a range out of a pool again. Raises `Refused` while a number of it is taken or a pool is cut from it."""
        part = parse_range(text, "range")
        with self._alone("range taken out", author, f"{pool}: {part.text}") as (connection, pools):
            had = _known(pools, pool)
            if part not in had.ranges:
                raise refuse("range.unknown", f"Pool {pool} has no range {part.text}.", "range")
            taken = [run for run in runs(connection, replace(had, reserved=()), part) if run.count]
            count = sum(run.count for run in taken)
            if count:
                raise refuse(
                    "pool.in-use", f"{count} numbers of {part.text} are taken. It can go when they are free.", "range"
                )
            _check({**pools, pool: replace(had, ranges=tuple(one for one in had.ranges if one != part))}, "range")
            connection.execute(
                "delete from pool_ranges where pool = %s and (prefix::text = %s or (low = %s and high = %s and prefix is null))",
                [pool, part.text, part.low if part.family is Family.NUMBER else None,
                 part.high if part.family is Family.NUMBER else None],
            )  # fmt: skip

    def scopes(self) -> list[tuple[str, str]]:
        """Every scope: (name, note)."""
        with self._connections.connection() as connection:
            return connection.execute("select name, note from scopes order by created_at, name").fetchall()

    def add_scope(self, name: str, note: str, author: str = "") -> None:
        """Make a scope with its guard against overlaps. Raises `Refused` when there is one of this name."""
        with self._alone("scope made", author, name) as (connection, _):
            if connection.execute("select 1 from scopes where name = %s", [name]).fetchone():
                raise refuse("scope.twice", f"There is a scope called {name} already.", "name")
            connection.execute("select add_scope(%s, %s)", [name, note])

    def reserve(self, pool: str, text: str, note: str, author: str = "") -> int:
        """Reserve a span of a pool (a prefix, `first..last`, or one number); returns the id of the reservation.

        What is held in it stays until it is given back; nothing new is drawn from it.
        """
        part = parse_span(text)
        with self._alone("reserved", author, f"{part_text(part)} in {pool}: {note}") as (connection, pools):
            had = _known(pools, pool)
            inside = had.range_of(part.family, part.low)
            if inside is None or part.high > inside.high:
                has = ", ".join(one.text for one in had.ranges)
                raise refuse("range.outside", f"{part_text(part)} is not inside pool {pool} ({has}).", "range")
            for kept in had.kept(part.family):
                if kept.low <= part.high and part.low <= kept.high:
                    raise refuse(
                        "reserved.twice", f"{part_text(part)} meets what is reserved already ({kept.note}).", "range"
                    )
            return pins.reserve(connection, pins.Keep(pool, part.family, part.low, part.high, note), author)

    def end_reservation(self, reservation: int, author: str = "") -> None:
        """Let a reserved span be handed out again."""
        with self._connections.connection() as connection:
            row = connection.execute("select pool, note from reserved where id = %s", [reservation]).fetchone()
        if row is None:
            raise Missing("There is no such reservation any more.")
        with self._alone("reservation ended", author, f"{row[0]}: {row[1]}") as (connection, _):
            connection.execute("delete from reserved where id = %s", [reservation])

    def reservations(self, pool: str) -> list[Reservation]:
        with self._connections.connection() as connection:
            rows = connection.execute(
                "select id, pool, family, low, high, note, author, at from reserved where pool = %s order by family, low",
                [pool],
            ).fetchall()
        return [Reservation(row[0], row[1], Range(Family(row[2]), int(row[3]), int(row[4])), *row[5:]) for row in rows]

    def end_rest(self, pool: str, author: str = "", reason: str = "", entries: list[int] | None = None) -> int:
        """Let resting numbers of a pool be used again now, all or those named; returns how many there were."""
        with self._alone("rest ended", author, f"{pool}: {reason}".rstrip(": ")) as (connection, pools):
            _known(pools, pool)
            return connection.execute(
                "delete from entries where pool = %s and state = 'resting' and (%s::bigint[] is null or id = any(%s))",
                [pool, entries, entries],
            ).rowcount

    def whose(self, address: str | None, number: int | None) -> list[tuple[Any, ...]]:
        """Entries that hold an address or are a number, the most specific first."""
        asked: dict[str, Any] = {"around": [], "number": number}
        if address is not None:
            prefix = ip_network(address, strict=False)
            family = Family.V4 if prefix.version == 4 else Family.V6
            longest = prefix.max_prefixlen - prefix.prefixlen
            asked["around"] = around(family, int(prefix.network_address))[longest:]
        with self._connections.connection() as connection:
            return connection.execute(statement("whose"), asked).fetchall()

    def history(self, space: str, number: str) -> list[tuple[Any, ...]]:
        """All that ever was at a number of a space, how it is now first."""
        asked: dict[str, Any] = {"space": space, "around": [], "number": None}
        if number.isdigit():
            asked["number"] = int(number)
        else:
            part = parse_range(number)
            bits = part.size.bit_length() - 1
            asked["around"] = around(part.family, part.low)[bits:]
        with self._connections.connection() as connection:
            return connection.execute(statement("number_history"), asked).fetchall()

    def changes(self, limit: int = 200) -> list[tuple[Any, ...]]:
        """The newest acts that changed the ledger: (id, at, author, fabric, version, act, note)."""
        with self._connections.connection() as connection:
            return connection.execute(
                "select id, at, author, fabric, version, act, note from changes order by id desc limit %s", [limit]
            ).fetchall()

    def free(self, size: int, family: Family, pool: str | None = None) -> list[tuple[Pool, int, int]]:
        """Free blocks in which `size` integers fit, as (pool, low, size of the block), the best fit first."""
        found: list[tuple[Pool, int, int]] = []
        with self._connections.connection() as connection:
            pools = cut(ledger.load_pools(connection))
            for one in [_known(pools, pool)] if pool else pools.values():
                if one.of(family):
                    taken = Runs.of(_taken(connection, one, family))
                    kept = Runs.of((part.low, part.high) for part in one.kept(family))
                    found += [(one, low, have) for low, have in Holes(one.of(family), [taken, kept]).blocks(size)]
        return sorted(found, key=lambda block: (block[2], block[1]))

    def audit(self) -> list[tuple[str, str]]:
        """What must never be in the ledger, and is; believes no constraint."""
        with self._connections.connection() as connection:
            return connection.execute(statement("audit")).fetchall()


def _known(pools: dict[str, Pool], name: str) -> Pool:
    if name not in pools:
        raise Missing(f"There is no pool called {name}.")
    return pools[name]


def _check(pools: dict[str, Pool], path: str) -> None:
    faults = check_pools(pools)
    if faults:
        raise Refused([replace(faults[0], path=path)])


def _check_plan(pool: Pool) -> None:
    if pool.plan is Plan.POSITION and pool.kind is Kind.VLAN:
        raise refuse("pool.plan", "VLANs have no position in a fabric. Choose lowest free or best fit.", "plan")
    if pool.plan is Plan.BEST_FIT and pool.kind is not Kind.ADDRESSES:
        raise refuse(
            "pool.plan", "Best fit is for prefixes of several sizes. Choose lowest free or by position.", "plan"
        )


def _check_fabric(connection: Connection, fabric: str | None) -> None:
    if fabric and connection.execute("select 1 from fabrics where name = %s", [fabric]).fetchone() is None:
        raise refuse("fabric.unknown", f"There is no fabric called {fabric}.", "private_to")


def _check_free(connection: Connection, child: Pool) -> None:
    """A pool can be cut only from what its parent has not handed out."""
    assert child.parent is not None
    for part in child.ranges:
        number = part.family is Family.NUMBER
        row = connection.execute(
            "select count(*) from entries where pool = %s and (prefix <<= %s::cidr or prefix >> %s::cidr or number between %s and %s)",
            [child.parent, *((None, None, part.low, part.high) if number else (part.text, part.text, None, None))],
        ).fetchone()
        if row and row[0]:
            raise refuse(
                "pool.in-use",
                f"{row[0]} numbers of {part.text} are taken from {child.parent} already. Cut from what is free.",
                "ranges",
            )


def _users(connection: Connection, pool: str) -> list[str]:
    """The fabrics that hold or rest numbers of a pool, or whose draft says that they draw from it."""
    taken = connection.execute("select distinct fabric from entries where pool = %s", [pool])
    found = {name for (name,) in taken}
    drafts = connection.execute("select fabrics.name, brief from fabrics join revisions on revisions.id = fabrics.head")
    found |= {name for name, text in drafts if _draws_from(text, pool)}
    return sorted(found)


def _draws_from(text: str, pool: str) -> bool:
    """Whether a brief draws from a pool; one that cannot be read does when it names it."""
    try:
        return any(name == pool for _, name in read(text).brief.numbers)
    except Refused:
        return pool in text


def _taken(connection: Connection, pool: Pool, family: Family) -> Iterator[tuple[int, int]]:
    wanted = {"v4": 4, "v6": 6}.get(family.value)
    for host, length, number in connection.execute(
        "select host(prefix), masklen(prefix), number from entries where pool = %s and family(prefix) is not distinct from %s::integer",
        [pool.name, wanted],
    ):
        low, size = (number, 1) if host is None else bounds(host, length)
        yield low, low + size - 1


def _said(settings: Settings) -> str:
    """Settings as part of the record."""
    found = []
    for name in ("plan", "rest", "warn", "private_to", "note"):
        value = getattr(settings, name)
        if value is not None:
            found.append(f"{name} {value.value if isinstance(value, Plan) else value}")
    return ", ".join(found)


def parse_span(text: str) -> Range:
    """A span of a pool from its text: what `parse_range` reads, or two addresses with `..` between them.

    >>> parse_span("10.60.0.4..10.60.0.9").size
    6
    """
    first, dots, last = (part.strip() for part in text.partition(".."))
    if not dots or first.isdigit():
        return parse_range(text, "range")
    low, high = parse_range(first, "range"), parse_range(last, "range")
    if low.family is not high.family:
        raise refuse("range.syntax", f"“{text[:80]}” begins and ends in different families.", "range")
    if high.high < low.low:
        raise refuse("range.reversed", f"“{text[:80]}” runs backwards. Write {last}..{first}.", "range")
    return Range(low.family, low.low, high.high)


def part_text(part: Range) -> str:
    """A span as people read it: as a prefix when it is one, else by its first and last."""
    size, aligned = part.size, part.low % part.size == 0
    if part.family is Family.NUMBER or (aligned and size & (size - 1) == 0):
        return part.text
    return f"{prefix_text(part.family, part.low, 1)}..{prefix_text(part.family, part.high, 1)}"


def bound_text(part: Range, value: int) -> str:
    """A bound of a range as people read it."""
    return prefix_text(part.family, value, 1)
