"""The record: every act of anybody, and what it altered. It is only ever added to."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from barrio.store.database import Connection, statement

_LIKE, _ESCAPED = re.compile(r"([%_\\])"), r"\\\1"
"""What has a meaning of its own in a pattern, and how it is said to have none."""


@dataclass(frozen=True, slots=True)
class Deed:
    """An act: who did it (`token` names the token that they used), from where, to which fabric, and how many things it altered."""

    id: int
    at: datetime
    author: str
    token: str
    address: str
    topic: str
    fabric: str | None
    version: int | None
    act: str
    note: str
    altered: int


@dataclass(frozen=True, slots=True)
class Altered:
    """One thing that an act altered: what stood there before, and after."""

    thing: str
    key: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None


@dataclass(frozen=True, slots=True)
class Sieve:
    """Which acts are asked for; what is empty lets all through."""

    text: str = ""
    author: str = ""
    fabric: str = ""
    topic: str = ""
    since: datetime | None = None
    until: datetime | None = None


def deeds(connection: Connection, sieve: Sieve, before: int | None = None, limit: int = 200) -> list[Deed]:
    """The newest acts, or those before one."""
    asked = {
        "text": f"%{_LIKE.sub(_ESCAPED, sieve.text)}%" if sieve.text else None, "author": sieve.author or None,
        "fabric": sieve.fabric or None, "topic": sieve.topic or None, "since": sieve.since, "until": sieve.until,
        "before": before, "limit": limit,
    }  # fmt: skip
    return [Deed(*row) for row in connection.execute(statement("deeds"), asked)]


def every(connection: Connection, sieve: Sieve) -> Iterator[Deed]:
    """All that are asked for, newest first."""
    last: int | None = None
    while found := deeds(connection, sieve, last, 2_000):
        yield from found
        last = found[-1].id


def altered(connection: Connection, deed: int) -> list[Altered]:
    """What an act altered."""
    rows = connection.execute(
        "select thing, key, before, after from altered where change = %s order by thing, key limit 500", [deed]
    )
    return [Altered(*row) for row in rows]


def alter(
    connection: Connection, thing: str, key: str, before: dict[str, Any] | None, after: dict[str, Any] | None
) -> None:
    """Write down what the act under way alters, where no table tells it."""
    connection.execute(
        "insert into altered (change, thing, key, before, after) "
        "values (current_setting('barrio.change')::bigint, %s, %s, %s, %s)",
        [thing, key, before and Jsonb(before), after and Jsonb(after)],
    )
