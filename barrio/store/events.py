"""What is told of changes, over LISTEN and NOTIFY; and who is where."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from uuid import UUID

import psycopg

from barrio.store.database import Connection

CHANNEL = "barrio"
GONE_AFTER = 45
"""Seconds without a sign of life after which a page is taken for closed."""


@dataclass(frozen=True, slots=True)
class Here:
    """Somebody who has a fabric open, and where in it: a word of the brief, a row, a switch."""

    name: str
    called: str
    place: str


@dataclass(frozen=True, slots=True)
class Standing:
    """How things stand: the version of each fabric, and stamps that grow with every change of pools and of the catalogue."""

    fabrics: dict[str, int]
    pools: int
    catalogue: int


def listen(conninfo: str) -> Connection:
    """A connection that is told."""
    connection = psycopg.connect(conninfo, autocommit=True, connect_timeout=5)
    connection.execute(f"listen {CHANNEL}".encode())
    return connection


def told(connection: Connection, seconds: float) -> Iterator[str]:
    """What is told within some seconds."""
    for notify in connection.notifies(timeout=seconds, stop_after=64):
        yield notify.payload


def tell(connection: Connection, what: str) -> None:
    connection.execute("select pg_notify(%s, %s)", [CHANNEL, what])


def standing(connection: Connection) -> Standing:
    fabrics = dict(connection.execute("select name, version from fabrics where head is not null").fetchall())
    row = connection.execute(
        "select (select version from pools_version), (select version from catalogue_version)"
    ).fetchone()
    assert row is not None
    return Standing(fabrics, int(row[0]), int(row[1]))


def come(connection: Connection, stream: UUID, person: int, fabric: str, place: str) -> None:
    """Somebody has a fabric open in a page, at a place."""
    connection.execute(
        "insert into present (stream, person, fabric, place) values (%s, %s, %s, %s) on conflict (stream) do update "
        "set fabric = excluded.fabric, place = excluded.place, seen_at = now() where present.person = excluded.person",
        [stream, person, fabric, place],
    )
    tell(connection, f"present {fabric}")


def stay(connection: Connection, streams: Iterable[UUID]) -> None:
    """These pages are still open; those that nobody has said so of for long are not."""
    connection.execute("update present set seen_at = now() where stream = any(%s)", [list(streams)])
    gone = connection.execute(
        "delete from present where seen_at < now() - make_interval(secs => %s) returning fabric", [GONE_AFTER]
    )
    for (fabric,) in set(gone.fetchall()):
        tell(connection, f"present {fabric}")


def go(connection: Connection, stream: UUID) -> None:
    """A page was closed."""
    row = connection.execute("delete from present where stream = %s returning fabric", [stream]).fetchone()
    if row is not None:
        tell(connection, f"present {row[0]}")


def here(connection: Connection, fabric: str, but: UUID | None = None) -> list[Here]:
    """Who has a fabric open, but for one page: each person once, where they were last."""
    rows = connection.execute(
        "select distinct on (people.id) people.name, called, place from present join people on people.id = person "
        "where fabric = %s and stream is distinct from %s order by people.id, seen_at desc",
        [fabric, but],
    )
    return [Here(*row) for row in rows]
