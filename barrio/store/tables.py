"""What switches hold beside their files, as it stands in PostgreSQL: each table as it is now, and what changed of it since."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from barrio.store.database import Connection

Rows = dict[str, str]
Change = tuple[str, str, str]
"""The key of a row, what was there, and what is."""
KEPT = 400
"""Days for which it is kept what changed."""


@dataclass(frozen=True, slots=True)
class Table:
    """A table of a switch as it is: since when it is told, when it changed last, how often it did, and how many rows it has."""

    kind: str
    since: datetime
    changed: datetime | None
    times: int
    count: int


@dataclass(frozen=True, slots=True)
class Changed:
    """What changed of a table of a switch (by key), when."""

    switch: str
    kind: str
    at: datetime
    rows: tuple[Change, ...]


def known(connection: Connection, fabric: str, switch: str) -> dict[str, str]:
    """The digests (hex) of what commands printed when a switch was looked at last, by the kind of table."""
    rows = connection.execute(
        "select kind, told from running_tables where fabric = %s and switch = %s and told is not null", [fabric, switch]
    )
    return {kind: bytes(told).hex() for kind, told in rows}


def held(connection: Connection, fabric: str, switch: str, kind: str) -> tuple[datetime, Rows] | None:
    """A table as it is: since when it is told, and its rows; None where it was never told."""
    row = connection.execute(
        "select since, content from running_tables where fabric = %s and switch = %s and kind = %s",
        [fabric, switch, kind],
    ).fetchone()
    return None if row is None else (row[0], _rows(row[1]))


def keep(
    connection: Connection, fabric: str, switch: str, kind: str, rows: Mapping[str, str], changed: Iterable[Change] | None,
    told: str = "",
) -> None:  # fmt: skip
    """Keep a table as it is now, and what `changed` since the last look; None for one that is told for the first time."""
    connection.execute(
        "insert into running_tables (fabric, switch, kind, told, content) values (%s, %s, %s, %s, %s) "
        "on conflict (fabric, switch, kind) do update set told = excluded.told, content = excluded.content",
        [fabric, switch, kind, bytes.fromhex(told) or None, "\n".join(map("\t".join, rows.items()))],
    )
    lines = "\n".join(map("\t".join, changed or ()))
    if lines:
        connection.execute(
            "insert into table_changes (fabric, switch, kind, content) values (%s, %s, %s, %s)",
            [fabric, switch, kind, lines],
        )
        connection.execute(
            "delete from table_changes where fabric = %s and switch = %s and kind = %s and at < now() - make_interval(days => %s)",
            [fabric, switch, kind, KEPT],
        )


def same(connection: Connection, fabric: str, switch: str, kind: str, told: str) -> None:
    """Another print of the same rows."""
    connection.execute(
        "update running_tables set told = %s where fabric = %s and switch = %s and kind = %s",
        [bytes.fromhex(told) or None, fabric, switch, kind],
    )


def of_switch(connection: Connection, fabric: str, switch: str) -> dict[str, Table]:
    """The tables of a switch, by their kind."""
    rows = connection.execute(
        "select kind, since, changed, times, case content when '' then 0 else length(content) - length(replace(content, E'\\n', '')) + 1 end "
        "from running_tables t, lateral (select max(at) as changed, count(*) as times from table_changes c "
        "where (c.fabric, c.switch, c.kind) = (t.fabric, t.switch, t.kind)) c where fabric = %s and switch = %s",
        [fabric, switch],
    )
    return {row[0]: Table(*row) for row in rows}


def changes(connection: Connection, fabric: str, switch: str, kind: str, since: datetime | None = None, limit: int | None = None) -> list[Changed]:  # fmt: skip
    """What changed of a table after a moment, the newest first."""
    rows = connection.execute(
        "select switch, kind, at, content from table_changes where fabric = %s and switch = %s and kind = %s and at > coalesce(%s, '-infinity'::timestamptz) "
        "order by at desc, id desc limit %s",
        [fabric, switch, kind, since, limit],
    )
    return [_changed(*row) for row in rows]


def between(connection: Connection, fabric: str, since: datetime, until: datetime) -> list[Changed]:
    """What changed of all tables of a fabric between two moments, the oldest first."""
    rows = connection.execute(
        "select switch, kind, at, content from table_changes where fabric = %s and at > %s and at <= %s order by at, id",
        [fabric, since, until],
    )
    return [_changed(*row) for row in rows]


_NAMES = "exists (select from unnest(%s::text[]) w where strpos(lower(content), w) > 0)"


def naming(connection: Connection, fabric: str, words: Sequence[str]) -> list[tuple[str, str, datetime, Rows]]:
    """The tables as they are in which any of some words stand, in small letters: the switch (by key), the kind, since when it is told, and its rows."""
    rows = connection.execute(
        f"select switch, kind, since, content from running_tables where fabric = %s and {_NAMES} order by switch, kind".encode(),
        [fabric, list(words)],
    )
    return [(switch, kind, since, _rows(text)) for switch, kind, since, text in rows]


def changes_naming(connection: Connection, fabric: str, words: Sequence[str], limit: int) -> list[Changed]:
    """The changes in which any of some words stand, in small letters; the newest first."""
    rows = connection.execute(
        f"select switch, kind, at, content from table_changes where fabric = %s and {_NAMES} order by at desc, id desc limit %s".encode(),
        [fabric, list(words), limit],
    )
    return [_changed(*row) for row in rows]


def _changed(switch: str, kind: str, at: datetime, text: str) -> Changed:
    return Changed(switch, kind, at, tuple(_change(line) for line in text.split("\n")))


def _change(line: str) -> Change:
    key, was, now = line.split("\t")
    return key, was, now


def _rows(text: str) -> Rows:
    return dict(_row(line) for line in text.split("\n")) if text else {}


def _row(line: str) -> tuple[str, str]:
    key, _, words = line.partition("\t")
    return key, words
