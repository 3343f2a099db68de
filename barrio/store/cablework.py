"""What was done to cables, and what switches heard of each other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from psycopg.types.json import Jsonb

from barrio.core.cabling.heard import Heard, Port, Table, table_of
from barrio.core.cabling.work import Deed
from barrio.store.database import Connection

KEPT = 20
"""Neighbour tables that are kept of each fabric."""


@dataclass(frozen=True, slots=True)
class Kept:
    """The newest neighbour table of a fabric: who took it, and when."""

    table: Table
    author: str
    taken_at: datetime


def deeds_of(connection: Connection, fabric: str, cable: str | None = None) -> list[Deed]:
    """The deeds on all cables of a fabric, or on one, in the order in which they were done."""
    rows = connection.execute(
        "select id, cable, kind, done_at, author, text, number from cable_work "
        "where fabric = %s and (%s::text is null or cable = %s) order by done_at, id",
        [fabric, cable, cable],
    )
    return [Deed(*row) for row in rows]


def add(connection: Connection, fabric: str, deeds: Sequence[Deed]) -> int:
    """Keep deeds; those that are there already stay as they are. Returns how many are new."""
    new = 0
    with connection.cursor() as cursor:
        for deed in deeds:
            cursor.execute(
                "insert into cable_work (id, fabric, cable, kind, text, number, author, done_at) "
                "values (%s, %s, %s, %s, %s, %s, %s, %s) on conflict (id) do nothing",
                [deed.id, fabric, deed.cable, deed.kind, deed.text, deed.number, deed.author, deed.done_at],
            )
            new += cursor.rowcount
    return new


def add_table(connection: Connection, fabric: str, table: Table, author: str) -> None:
    """Keep a neighbour table as the newest one."""
    packed = {"asked": sorted(table.asked), "rows": [[*row.at, *row.far, row.speed] for row in table.rows]}
    connection.execute(
        "insert into neighbours (fabric, heard, author) values (%s, %s, %s)", [fabric, Jsonb(packed), author]
    )
    connection.execute(
        "delete from neighbours where fabric = %s and id not in "
        "(select id from neighbours where fabric = %s order by id desc limit %s)",
        [fabric, fabric, KEPT],
    )


def newest_table(connection: Connection, fabric: str) -> Kept | None:
    row = connection.execute(
        "select heard, author, taken_at from neighbours where fabric = %s order by id desc limit 1", [fabric]
    ).fetchone()
    if row is None:
        return None
    rows = (
        Heard(Port(switch, port), Port(far, far_port), speed) for switch, port, far, far_port, speed in row[0]["rows"]
    )
    return Kept(table_of(rows, row[0]["asked"]), row[1], row[2])
