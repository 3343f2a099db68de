"""What was found of networks that run, and what people said of it, as it stands in PostgreSQL."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Json

from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Found:
    """A discovery: of which fabric, from what, by whom, and what was `found` in it."""

    fabric: str
    source: str
    author: str
    at: datetime
    found: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Said:
    """What somebody said of a proposal or an oddity: taken, refused, kept as an exception, mended, or left out; `content` is what
    it said then, nothing where that was not kept."""

    said: str
    why: str
    author: str
    at: datetime
    content: Any = None


def every(connection: Connection) -> list[tuple[str, str, str, datetime]]:
    """All discoveries as (fabric, source, author, time), the newest first."""
    rows = connection.execute("select fabric, source, author, at from adoptions order by at desc")
    return [(row[0], row[1], row[2], row[3]) for row in rows]


def of_fabric(connection: Connection, fabric: str) -> Found | None:
    row = connection.execute(
        "select fabric, source, author, at, found from adoptions where fabric = %s", [fabric]
    ).fetchone()
    return Found(*row) if row else None


def keep(connection: Connection, fabric: str, source: str, author: str, found: dict[str, Any]) -> None:
    """Keep a discovery in place of the one before; what was said stays."""
    connection.execute(
        "insert into adoptions (fabric, source, author, found) values (%s, %s, %s, %s) on conflict (fabric) do update "
        "set source = excluded.source, author = excluded.author, found = excluded.found, at = now()",
        [fabric, source, author, Json(found)],
    )


def said(connection: Connection, fabric: str) -> dict[str, Said]:
    """What was said, by the key of the proposal or oddity."""
    rows = connection.execute(
        "select key, said, why, author, at, content from adoption_said where fabric = %s", [fabric]
    )
    return {row[0]: Said(*row[1:]) for row in rows}


def say(
    connection: Connection,
    fabric: str,
    keys: Collection[str],
    what: str,
    why: str,
    author: str,
    content: Mapping[str, Any],
) -> None:
    """Keep what was said of proposals or oddities; `content` is what each says, by its key."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into adoption_said (fabric, key, said, why, author, content) values (%s, %s, %s, %s, %s, %s) on conflict (fabric, key) do update "
            "set said = excluded.said, why = excluded.why, author = excluded.author, content = excluded.content, at = now()",
            [(fabric, key, what, why, author, Json(content[key]) if key in content else None) for key in keys],
        )


def unsay(connection: Connection, fabric: str, keys: Collection[str]) -> None:
    """Take back what was said, so that it is asked again."""
    connection.execute("delete from adoption_said where fabric = %s and key = any(%s)", [fabric, list(keys)])
