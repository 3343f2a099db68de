"""The ledger against plain PostgreSQL, in one run: `make bench`.

Baselines: a bare COPY of the same rows (into the same table with its guards, and into a table without any), and a plain
count of the rows that a strip shows.
"""

from __future__ import annotations

import random
import shutil
import statistics
import tempfile
import time
from collections.abc import Callable, Iterator
from ipaddress import IPv4Address
from pathlib import Path
from typing import Any

from barrio.app import drafts, poolchanges, pools
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.poolchanges import NewPool
from barrio.core.brief.document import set_value
from barrio.core.ledger.allocate import allocate
from barrio.core.ledger.pool import Family, Kind, Pool, Range, parse_range
from barrio.core.ledger.wanted import Demand, Holdings
from barrio.dev.cluster import Cluster
from barrio.store import entries
from barrio.store.database import Connections, bring_up_to_date, connect
from barrio.store.entries import rows_to_add

LINKS = 100_000
MILLION = 1_000_000
SMALL = """
fabric: small
spines: {count: 4, model: lonja-s64}
racks: [{racks: r01..r12, leaves: 1}]
numbers: {links: wide}
"""


def timed(action: Callable[[], Any]) -> float:
    start = time.perf_counter()
    action()
    return time.perf_counter() - start


def open_fabric(connections: Connections, name: str) -> None:
    with connections.connection() as connection:
        connection.execute(
            "insert into fabrics (name, cable_prefix) values (%s, %s) on conflict do nothing", [name, name.upper()]
        )


def cold(connections: Connections) -> None:
    """100,000 /31s with their owners: allocated and stored, and the same rows by a bare COPY."""
    pool = Pool("wide", (parse_range("10.0.0.0/8"),), Kind.ADDRESSES)
    keys = [f"leaf/r{number // 64:04d}/a~spine/{number % 64 + 1}~1" for number in range(LINKS)]
    demand = Demand("link.v4", "v4", Family.V4, pool, 2, keys, noun="/31")
    open_fabric(connections, "cold")
    rows: list[tuple[Any, ...]] = []
    spent: dict[str, float] = {}

    def draw() -> None:
        rows.extend(rows_to_add(allocate([demand], Holdings()), {demand.use: demand}, "cold"))

    def store(table: str) -> None:
        with connections.connection() as connection:
            entries.lock_scopes(connection, ["site"])
            entries.open_change(connection, entries.Act("bench", fabric="cold"))
            columns = "use, key, fabric, pool, space, prefix, number, state"
            with connection.cursor().copy(f"copy {table} ({columns}) from stdin") as copy:
                for row in rows:
                    copy.write_row(row)

    spent["allocated"] = timed(draw)
    spent["stored"] = timed(lambda: store("entries"))
    with connections.connection() as connection:
        connection.execute("create table guarded (like entries including all)")
        connection.execute("alter table guarded add exclude using spgist (prefix with &&) where (scope = 'site')")
        connection.execute("create table bare (like entries including defaults including generated)")
        connection.execute("alter table bare alter id drop not null")
    guarded, bare = timed(lambda: store("guarded")), timed(lambda: store("bare"))
    both = spent["allocated"] + spent["stored"]
    print(
        f"  {LINKS:,} /31s cold: {both:.2f} s (allocated {spent['allocated']:.2f}, stored {spent['stored']:.2f}); "
        f"{both / guarded:.1f} x a bare COPY with the same guards ({guarded:.2f} s), "
        f"{both / bare:.1f} x one without any guard ({bare:.2f} s)"
    )
    with connections.connection() as connection:
        connection.execute("drop table guarded, bare")
        connection.execute("truncate entries")


def fill(connections: Connections, lows: Iterator[int], pool: str, fabric: str) -> None:
    open_fabric(connections, fabric)
    with connections.connection() as connection:
        entries.open_change(connection, entries.Act("bench", fabric=fabric))
        with connection.cursor().copy("copy entries (use, key, fabric, pool, space, prefix, state) from stdin") as copy:
            for number, low in enumerate(lows):
                copy.write_row(("link.v4", f"link/{number}", fabric, pool, "v4", f"{IPv4Address(low)}/31", "live"))
    with connections.connection() as connection:
        connection.execute("analyze entries")


def one_more_leaf(connections: Connections) -> None:
    """One more leaf in a ledger of a million entries, by a server that is up and by one that has just been started."""
    desk = Desk(House(connections))
    poolchanges.create(desk, NewPool("wide", ("100.64.0.0/10",)))
    base = int(IPv4Address("100.64.0.0"))
    filled = timed(lambda: fill(connections, (base + 2 * number for number in range(MILLION)), "wide", "crowd"))
    draft = drafts.create(desk, SMALL).draft
    times = []
    for leaf in range(13, 28):
        draft = drafts.draft(desk, "small")
        racks = f"r01..r{leaf}"
        change = lambda text, racks=racks: set_value(text, "racks[0].racks", racks)  # noqa: E731
        times.append(
            timed(lambda change=change, draft=draft: drafts.save(desk, "small", draft.version, change, "one more"))
        )
    fresh, draft = Desk(House(connections)), drafts.draft(desk, "small")
    first = timed(
        lambda: drafts.save(
            fresh, "small", draft.version, lambda text: set_value(text, "racks[0].racks", "r01..r28"), "first"
        )
    )
    with connections.connection() as connection:
        rows = connection.execute("select count(*) from entries").fetchone()
    print(
        f"  one more leaf among {rows[0]:,} entries (filled in {filled:.0f} s): median {statistics.median(times) * 1000:.0f} ms, "
        f"worst {max(times) * 1000:.0f} ms; the first of a server just started {first * 1000:.0f} ms"
    )


def strip(connections: Connections) -> None:
    """The strip of a /8 with 100,000 entries strewn over it."""
    desk = Desk(House(connections))
    poolchanges.create(desk, NewPool("strewn", ("11.0.0.0/8",)))
    draw = random.Random(7)
    base = int(IPv4Address("11.0.0.0"))
    fill(connections, (base + 2 * at for at in draw.sample(range(1 << 23), LINKS)), "strewn", "strewn")
    low, high = base, base + (1 << 24) - 1
    pools.window(desk, "strewn", Range(Family.V4, low, high))
    whole = statistics.median(
        timed(lambda: pools.window(desk, "strewn", Range(Family.V4, low, high))) for _ in range(9)
    )
    near = statistics.median(
        timed(lambda: pools.window(desk, "strewn", Range(Family.V4, low, low + (1 << 14)))) for _ in range(9)
    )
    with connections.connection() as connection:
        count = statistics.median(
            timed(lambda: connection.execute("select count(*) from entries where pool = 'strewn'").fetchone())
            for _ in range(9)
        )
    print(
        f"  strip of a /8 with {LINKS:,} entries: {whole * 1000:.0f} ms ({whole / count:.1f} x counting them, "
        f"{count * 1000:.0f} ms); a /18 of it {near * 1000:.1f} ms"
    )


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="barrio-bench-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "postgres")
    cluster.start()
    print("Ledger")
    try:
        connections = connect(cluster.conninfo)
        bring_up_to_date(connections)
        cold(connections)
        one_more_leaf(connections)
        strip(connections)
        connections.close()
    finally:
        cluster.stop()
        shutil.rmtree(folder)


if __name__ == "__main__":
    main()
