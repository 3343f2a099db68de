"""The ledger in PostgreSQL: load what one fabric may know of it, and write what an allocation changed.

A writer first takes the pools' lock (alone when it changes pools, else with others), then the locks of the scopes it draws
from, then opens a change; what it loaded is then still true when it writes. The constraints of the schema stand behind that.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from psycopg.sql import SQL, Literal

from barrio.core import Compiled, Stock
from barrio.core.ledger.demand import SITE_SPACES
from barrio.core.ledger.pool import SITE, Family, Kind, Plan, Pool, Range, Reserved, full_text, prefix_text
from barrio.core.ledger.runs import Runs, aligned
from barrio.core.ledger.wanted import Allocation, ByKey, Demand, Holdings, Taken
from barrio.store.database import Connection, statement
from barrio.store.occupancy import Occupancy, bounds

_POOLS_LOCK = 8_710_002
_SCOPE_LOCKS = 8_710


def lock_pools(connection: Connection, alone: bool) -> None:
    """Wait until pools and scopes stand still (or, alone, until nobody else draws from them); until the transaction ends."""
    call = "pg_advisory_xact_lock" if alone else "pg_advisory_xact_lock_shared"
    connection.execute(f"select {call}(%s)", [_POOLS_LOCK])


def lock_scopes(connection: Connection, scopes: Iterable[str]) -> None:
    """Wait for our turn to draw from these scopes, in one order for everyone; held until the transaction ends."""
    for scope in sorted(set(scopes)):
        connection.execute("select pg_advisory_xact_lock(%s, hashtext(%s))", [_SCOPE_LOCKS, scope])


@dataclass(frozen=True, slots=True)
class Author:
    """Who does something: by name, which person that is, by which token of theirs, and from where."""

    name: str = ""
    person: int | None = None
    token: str = ""
    address: str = ""


BARRIO = Author()
"""What Barrio does by itself has no name beside it."""


@dataclass(frozen=True, slots=True)
class Act:
    """What is done, and what for. `topic` is what it is about: the ledger, a draft, the catalogue, people."""

    act: str
    fabric: str | None = None
    version: int | None = None
    note: str = ""
    topic: str = "ledger"


def open_change(connection: Connection, act: Act, author: Author = BARRIO) -> int:
    """Record an act; all that this transaction changes from here on is its doing."""
    row = connection.execute(
        "insert into changes (author, person, token, address, fabric, version, act, note, topic) "
        "values (%s, %s, %s, %s, %s, %s, %s, %s, %s) returning id, set_config('barrio.change', id::text, true)",
        [
            author.name, author.person, author.token, author.address, act.fabric, act.version, act.act, act.note, act.topic,
        ],
    ).fetchone()  # fmt: skip
    assert row is not None
    return int(row[0])


def end_rests(connection: Connection, scopes: Iterable[str]) -> bool:
    """Free what has rested as long as its pool says, under the locks of these scopes; returns whether anything had."""
    asked = {"scopes": list(scopes)}
    over = connection.execute(statement("rests_over"), asked).fetchone()
    if not over or not over[0]:
        return False
    open_change(connection, Act("rest over"))
    connection.execute(statement("end_rest"), asked)
    return True


def give_up(connection: Connection, fabric: str) -> None:
    """Let all that a fabric holds rest; its pins go."""
    connection.execute(statement("give_up_entries"), {"fabric": fabric})


def seal(connection: Connection, fabric: str) -> None:
    """What the draft of a fabric holds is live, and what it gave back of the edition before rests."""
    connection.execute(statement("seal_entries"), {"fabric": fabric})


def held_spaces(connection: Connection, fabric: str) -> list[tuple[str, str, int]]:
    """What a fabric holds, by use: (use, its space, how many)."""
    return connection.execute(statement("held_spaces"), {"fabric": fabric}).fetchall()


def scopes_held(connection: Connection, fabric: str) -> set[str]:
    """The scopes in which a fabric has a number, in whatever state."""
    rows = connection.execute("select distinct scope from entries where fabric = %s", [fabric])
    return {scope for (scope,) in rows}


@dataclass(frozen=True, slots=True)
class Loaded:
    """The ledger as one fabric sees it, and the rows behind what it rests, by use and key."""

    stock: Stock
    apart: Mapping[tuple[str, str], int]


def load(
    connection: Connection,
    occupancy: Occupancy,
    fabric: str,
    before: Compiled | None = None,
    pools: Mapping[str, Pool] | None = None,
    with_live: bool = False,
) -> Loaded:
    """The ledger as one fabric sees it.

    What the fabric holds is what it was last compiled with. When that is at hand (`before`, of the draft as it is now, under
    the lock), it is taken from there, and only what rests, waits or leaves is read. Which numbers are live is asked for
    only when something is to move (`with_live`).
    """
    pools = load_pools(connection) if pools is None else pools
    held: dict[str, dict[str, Taken]] = {}
    resting: dict[str, dict[str, Taken]] = {}
    pinned: dict[str, dict[str, Taken]] = {}
    apart: dict[tuple[str, str], int] = {}
    mine: dict[str, list[tuple[int, int]]] = {pool.space(kind): [] for pool in pools.values() for kind in SITE_SPACES}
    rows = connection.execute(statement("load_own"), {"fabric": fabric, "apart": before is not None})
    for entry, use, key, space, host, length, number, state, leaving, is_pinned in rows:
        taken = Taken(number, 1) if host is None else Taken(*bounds(host, length))
        if is_pinned:
            pinned.setdefault(use, {})[key] = taken
        if state == "resting" or leaving:
            # Of several that rest for one key the last comes back, and before all that of the edition.
            older = resting.setdefault(use, {}).pop(key, None)
            if older is not None and space in mine:
                mine[space].remove((older.low, older.high))
            resting[use][key] = taken
            apart[use, key] = entry
        elif state != "reserved":
            held.setdefault(use, {})[key] = taken
        if space in mine:
            mine[space].append((taken.low, taken.high))
    now: ByKey = held
    if before is not None:
        now = before.allocation.numbers
        spaces = before.spaces
        for use, taken_by_key in now.items():
            space = spaces.get(use, "")
            if space in mine:
                mine[space] += [(low, low + size - 1) for low, size in taken_by_key.values()]

    def whose(space: str, low: int, high: int) -> str:
        return words_of(connection, space, low, high)

    others = occupancy.others(connection, {space: Runs.of(runs) for space, runs in mine.items()})
    live = _live(connection, fabric) if with_live else frozenset()
    return Loaded(Stock(pools, Holdings(now, resting, others, pinned, {}, live, whose)), apart)


def _live(connection: Connection, fabric: str) -> frozenset[tuple[str, str]]:
    rows = connection.execute("select use, key from entries where fabric = %s and state = 'live'", [fabric])
    return frozenset((use, key) for use, key in rows)


def words_of(connection: Connection, space: str, low: int, high: int) -> str:
    """Whose a number of a space is, as part of a sentence."""
    scope = space.partition("@")[2] or SITE
    if space.startswith(("v4", "v6")):
        family = Family(space.partition("@")[0])
        rows = connection.execute(
            # The scope stands in the text, so that the planner sees which exclusion constraint's index serves.
            SQL(
                "select state, leaving, fabric, use, key, prefix::text from entries where scope = {} and prefix && any(%s::cidr[])"
            ).format(Literal(scope)),
            [[full_text(family, *part) for part in aligned(low, high)]],
        )
    else:
        rows = connection.execute(
            "select state, leaving, fabric, use, key, number::text from entries "
            "where space = %s and number between %s and %s order by number",
            [space, low, high],
        )
    row = rows.fetchone()
    if row is None:
        return ""
    state, leaving, fabric, use, key, text = row
    said = "live, and leaving with the next edition," if leaving else state
    return f"{said} in {fabric} as {use} of {key} ({text})"


def load_pools(connection: Connection) -> dict[str, Pool]:
    """Every pool, with what is reserved in it; `core` adds what is cut from it."""
    found: dict[str, Pool] = {}
    ranges: dict[str, list[Range]] = {}
    for name, kind, plan, scope, parent, owner, rest, warn, prefix, low, high in connection.execute(
        statement("load_pools")
    ):
        if name not in found:
            found[name] = Pool(
                name, (), Kind(kind), Plan(plan), scope, parent, owner, rest=rest, warn=round(float(warn), 4)
            )
        parts = ranges.setdefault(name, [])
        if prefix is not None:
            host, length = prefix.split("/")
            first, size = bounds(host, int(length))
            parts.append(Range(Family.V6 if ":" in prefix else Family.V4, first, first + size - 1))
        elif low is not None:
            parts.append(Range(Family.NUMBER, low, high))
    kept: dict[str, list[Reserved]] = {}
    for pool, family, low, high, note in connection.execute(
        "select pool, family, low, high, note from reserved order by id"
    ):
        kept.setdefault(pool, []).append(Reserved(Family(family), int(low), int(high), note))
    return {
        name: replace(pool, ranges=tuple(ranges[name]), reserved=tuple(kept.get(name, ())))
        for name, pool in found.items()
    }


def write(connection: Connection, compiled: Compiled, loaded: Loaded) -> None:
    """Write what an allocation changed, after the same connection loaded the ledger under its locks and opened a change."""
    allocation, fabric = compiled.allocation, compiled.brief.fabric
    _write_pools(connection, compiled, loaded.stock.pools)
    _release(connection, fabric, allocation)
    back = [loaded.apart[entry] for entry in allocation.returned]
    if back:
        connection.execute(statement("return_entries"), {"ids": back})
    consumed = [loaded.apart[entry] for entry in allocation.consumed]
    if consumed:
        connection.execute("delete from entries where id = any(%s) and not leaving", [consumed])
    if allocation.claimed:
        uses, keys = zip(*allocation.claimed, strict=True)
        connection.execute(statement("claim_entries"), {"fabric": fabric, "uses": list(uses), "keys": list(keys)})
    _add(connection, fabric, compiled)


def new_ranges(compiled_pools: Mapping[str, Pool], known: Mapping[str, Pool]) -> bool:
    """Whether a brief brings ranges, pools or kinds that the ledger does not know yet."""
    return any(
        name not in known or pool.kind is not known[name].kind or set(pool.ranges) - set(known[name].ranges)
        for name, pool in compiled_pools.items()
    )


def _write_pools(connection: Connection, compiled: Compiled, known: Mapping[str, Pool]) -> None:
    if new_ranges(compiled.pools, known):
        connection.execute("update pools_version set version = version + 1")
    for pool in compiled.pools.values():
        before = known.get(pool.name)
        if before is None or before.kind is not pool.kind:
            connection.execute(
                "insert into pools (name, kind) values (%s, %s) on conflict (name) do update set kind = excluded.kind",
                [pool.name, pool.kind.value],
            )
        for part in pool.ranges:
            if before is None or part not in before.ranges:
                add_range(connection, pool.name, part)


def add_range(connection: Connection, pool: str, part: Range) -> None:
    """Add a range to a pool, as its last; the schema refuses one that overlaps."""
    number = part.family is Family.NUMBER
    connection.execute(
        "insert into pool_ranges (pool, place, prefix, low, high) "
        "select %s, coalesce(max(place), -1) + 1, %s, %s, %s from pool_ranges where pool = %s",
        [
            pool,
            *((None, part.low, part.high) if number else (full_text(part.family, part.low, part.size), None, None)),
            pool,
        ],
    )


def _release(connection: Connection, fabric: str, allocation: Allocation) -> None:
    """What is held no more: rests, waits when it is pinned, leaves with the next edition when it is live."""
    if not allocation.given_back:
        return
    for part in (allocation.passed, tuple(set(allocation.given_back) - set(allocation.passed))):
        if part:
            uses, keys = zip(*part, strict=True)
            wanted = "pass_entries" if part is allocation.passed else "release_entries"
            connection.execute(statement(wanted), {"fabric": fabric, "uses": list(uses), "keys": list(keys)})


_COLUMNS = "use, key, fabric, pool, space, prefix, number, state"


def _add(connection: Connection, fabric: str, compiled: Compiled) -> None:
    if not compiled.allocation.added:
        return
    demands = {demand.use: demand for demand in compiled.demands}
    with connection.cursor().copy(f"copy entries ({_COLUMNS}) from stdin") as copy:
        for row in rows_to_add(compiled.allocation, demands, fabric):
            copy.write_row(row)


def rows_to_add(
    allocation: Allocation, demands: Mapping[str, Demand], fabric: str
) -> Iterator[tuple[str | int | None, ...]]:
    """What an allocation drew anew, as rows of `entries`."""
    for use, key in allocation.added:
        demand = demands[use]
        low, size = allocation.numbers[use][key]
        if demand.family is Family.NUMBER:
            yield use, key, fabric, demand.pool.name, demand.space, None, low, "held"
        else:
            yield use, key, fabric, demand.pool.name, demand.space, prefix_text(demand.family, low, size), None, "held"
