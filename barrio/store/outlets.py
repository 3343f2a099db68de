"""Outlets and deliveries as they stand in PostgreSQL: what happens and what is to be sent of it are one transaction."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from psycopg.types.json import Jsonb

from barrio.store.database import Connection
from barrio.store.errors import Missing

GIVES_UP = "7 days"
"""How long a delivery is tried."""


@dataclass(frozen=True, slots=True)
class Outlet:
    """Somewhere that is told: of one fabric, or of all. `secret` is sealed."""

    id: int
    kind: str
    fabric: str | None
    address: str
    secret: bytes | None
    author: str
    made_at: datetime


@dataclass(frozen=True, slots=True)
class Delivery:
    """Something that is to be sent, or was; `trouble` says why the last try did not succeed."""

    id: UUID
    outlet: int
    fabric: str
    what: str
    body: dict[str, Any]
    made_at: datetime
    next_at: datetime
    attempts: int
    done_at: datetime | None
    trouble: str


_OUTLET = "id, kind, fabric, address, secret, author, made_at"
_DELIVERY = "id, outlet, fabric, what, body, made_at, next_at, attempts, done_at, trouble"


def every(connection: Connection) -> list[Outlet]:
    return [Outlet(*row) for row in connection.execute(f"select {_OUTLET} from outlets order by id")]


def find(connection: Connection, outlet: int) -> Outlet:
    """One outlet. Raises `Missing`."""
    row = connection.execute(f"select {_OUTLET} from outlets where id = %s", [outlet]).fetchone()
    if row is None:
        raise Missing("There is no such outlet.")
    return Outlet(*row)


def add(connection: Connection, kind: str, fabric: str | None, address: str, secret: bytes | None, author: str) -> int:
    row = connection.execute(
        "insert into outlets (kind, fabric, address, secret, author) values (%s, %s, %s, %s, %s) returning id",
        [kind, fabric, address, secret, author],
    ).fetchone()
    assert row is not None
    return int(row[0])


def drop(connection: Connection, outlet: int) -> None:
    """Take an outlet away, with what was still to be sent there. Raises `Missing`."""
    if not connection.execute("delete from outlets where id = %s", [outlet]).rowcount:
        raise Missing("There is no such outlet.")


def put(connection: Connection, fabric: str, what: str, body: Mapping[str, Any]) -> None:
    """Have something sent to every outlet of a fabric; git is told of editions alone."""
    connection.execute(
        "insert into deliveries (outlet, fabric, what, body) select id, %(fabric)s, %(what)s, %(body)s from outlets "
        "where (fabric is null or fabric = %(fabric)s) and (kind <> 'git' or %(what)s = 'sealed')",
        {"fabric": fabric, "what": what, "body": Jsonb(dict(body))},
    )


def due(connection: Connection) -> Delivery | None:
    """A delivery whose time has come, locked for whoever asks; those of one outlet and fabric go in their order."""
    row = connection.execute(
        f"select {_DELIVERY} from deliveries where done_at is null and next_at <= now() and made_at > now() - %s::interval "
        "and not exists (select from deliveries as earlier where earlier.outlet = deliveries.outlet and earlier.fabric = deliveries.fabric "
        "and earlier.done_at is null and (earlier.made_at, earlier.id) < (deliveries.made_at, deliveries.id) and earlier.made_at > now() - %s::interval) "
        "order by next_at limit 1 for update skip locked",
        [GIVES_UP, GIVES_UP],
    ).fetchone()
    return Delivery(*row) if row else None


def done(connection: Connection, delivery: UUID) -> None:
    connection.execute(
        "update deliveries set done_at = now(), attempts = attempts + 1, trouble = '' where id = %s", [delivery]
    )


def later(connection: Connection, delivery: UUID, trouble: str) -> None:
    """Try a delivery again: after 5 s, then each time twice as long, an hour at most."""
    connection.execute(
        "update deliveries set attempts = attempts + 1, trouble = %s, next_at = now() + least(interval '1 hour', interval '5 seconds' * power(2, least(attempts, 12))) "
        "where id = %s",
        [trouble[:500], delivery],
    )


def at_once(connection: Connection, delivery: UUID) -> None:
    """Try a delivery now. Raises `Missing` for one that was sent, or is not there."""
    found = connection.execute(
        "update deliveries set next_at = now(), made_at = now() where id = %s and done_at is null", [delivery]
    )
    if not found.rowcount:
        raise Missing("There is no such delivery that waits.")


def newest(connection: Connection, outlet: int | None = None, most: int = 200) -> list[Delivery]:
    """The newest deliveries, of one outlet or of all."""
    rows = connection.execute(
        f"select {_DELIVERY} from deliveries where %(outlet)s::bigint is null or outlet = %(outlet)s order by made_at desc, id limit %(most)s",
        {"outlet": outlet, "most": most},
    )
    return [Delivery(*row) for row in rows]
