"""Switches that are drained, as they stand in PostgreSQL."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from psycopg.types.json import Jsonb

from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Drain:
    """A switch (by key and name) that is drained: `told` to, `asked` about at its neighbours, `drained`, `kept` in use where somebody has no other way,
    `returns` when it is told to carry again, `ended`. `seen` has what each neighbour still does by it."""

    id: int
    fabric: str
    switch: str
    name: str
    state: str
    words: str
    why: str
    author: str
    began_at: datetime
    since: datetime
    until_at: datetime | None
    seen: dict[str, str]


_ALL = "select id, fabric, switch, name, state, words, why, author, began_at, since, until_at, seen from drains "


def of_fabric(connection: Connection, fabric: str) -> list[Drain]:
    """Those that have not ended, as they began."""
    rows = connection.execute(f"{_ALL} where fabric = %s and ended_at is null order by id".encode(), [fabric])
    return [Drain(*row) for row in rows]


def of_switch(connection: Connection, fabric: str, switch: str) -> Drain | None:
    row = connection.execute(
        f"{_ALL} where fabric = %s and switch = %s and ended_at is null".encode(), [fabric, switch]
    ).fetchone()
    return None if row is None else Drain(*row)


def keys(connection: Connection, fabric: str) -> set[str]:
    """The keys of those that have not ended."""
    return {one.switch for one in of_fabric(connection, fabric)}


def begin(connection: Connection, fabric: str, switch: str, name: str, words: str, why: str, author: str) -> None:
    connection.execute(
        "insert into drains (fabric, switch, name, words, why, author) values (%s, %s, %s, %s, %s, %s)",
        [fabric, switch, name, words, why, author],
    )


def move(connection: Connection, one: Drain, state: str, words: str, seconds: float | None = None) -> None:
    """A drain as it stands now, and within how many seconds its neighbours are to go another way."""
    connection.execute(
        "update drains set state = %s, words = %s, since = case when state = %s then since else now() end, "
        "until_at = coalesce(now() + make_interval(secs => %s), case when state = %s then until_at end), "
        "ended_at = case when %s = 'ended' then now() end where id = %s",
        [state, words, state, seconds, state, state, one.id],
    )


def see(connection: Connection, one: Drain, seen: Mapping[str, str]) -> None:
    """What neighbours (by key) still do by a switch."""
    connection.execute("update drains set seen = seen || %s where id = %s", [Jsonb(dict(seen)), one.id])


def asked(connection: Connection) -> list[str]:
    """The fabrics in which neighbours of a switch are asked about it."""
    return [
        str(row[0])
        for row in connection.execute("select distinct fabric from drains where state = 'asked' order by fabric")
    ]
