"""Secrets that the office keeps for its switches, sealed."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Kept:
    """A secret that is kept: its name, and who set it when."""

    name: str
    author: str
    saved_at: datetime


def kept(connection: Connection) -> list[Kept]:
    """Every secret, by name; none of what they are."""
    return [
        Kept(*row) for row in connection.execute("select name, author, saved_at from secrets order by name").fetchall()
    ]


def sealed(connection: Connection) -> dict[str, bytes]:
    """What is sealed, by name."""
    return {name: bytes(one) for name, one in connection.execute("select name, sealed from secrets").fetchall()}


def put(connection: Connection, name: str, sealed: bytes, author: str) -> None:
    """Keep a secret, in place of what was kept under its name."""
    connection.execute(
        "insert into secrets (name, sealed, author) values (%s, %s, %s) "
        "on conflict (name) do update set sealed = excluded.sealed, author = excluded.author, saved_at = now()",
        [name, sealed, author],
    )


def drop(connection: Connection, name: str) -> bool:
    """Forget a secret; whether there was one."""
    return connection.execute("delete from secrets where name = %s", [name]).rowcount > 0
