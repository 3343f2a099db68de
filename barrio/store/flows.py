"""Paths of flows that somebody asked for, and what switches said of them, as they stand in PostgreSQL."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Asked:
    """A path that somebody asked for, and until when one waits for switches. `waits` says that one still does."""

    id: int
    fabric: str
    edition: int
    source: str
    target: str
    author: str
    at: datetime
    waits: bool


_ALL = (
    "select id, fabric, edition, source, target, author, at, until_at > now() and exists (select 1 from flow_answers w where w.flow = flows.id "
    "and w.answer is null) from flows where fabric = %s "
)


def begin(
    connection: Connection, fabric: str, edition: int, source: str, target: str, author: str, seconds: int
) -> int:
    row = connection.execute(
        "insert into flows (fabric, edition, source, target, author, until_at) values (%s, %s, %s, %s, %s, now() + make_interval(secs => %s)) returning id",
        [fabric, edition, source, target, author, seconds],
    ).fetchone()
    assert row is not None
    return int(row[0])


def want(connection: Connection, flow: int, commands: Iterable[tuple[str, str, str]]) -> None:
    """Have switches asked commands, as (key, name, command); what was asked before is not asked again."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into flow_answers (flow, place, switch, name, command) select %(flow)s, count(*), %(key)s, %(name)s, %(command)s from flow_answers "
            "where flow = %(flow)s on conflict do nothing",
            [{"flow": flow, "key": key, "name": name, "command": command} for key, name, command in commands],
        )


def waiting(connection: Connection, fabric: str, switch: str) -> tuple[int, list[str]] | None:
    """What a switch is to answer next, as (flow, commands)."""
    row = connection.execute(
        "select f.id, array_agg(w.command order by w.place) from flows f join flow_answers w on w.flow = f.id where f.fabric = %s and w.switch = %s "
        "and w.answer is null and f.until_at > now() group by f.id order by f.id limit 1",
        [fabric, switch],
    ).fetchone()
    return (int(row[0]), list(row[1])) if row else None


def under_way(connection: Connection, fabric: str) -> bool:
    """Whether a path of a fabric is still being followed."""
    row = connection.execute(
        "select 1 from flows f join flow_answers w on w.flow = f.id where f.fabric = %s and w.answer is null and f.until_at > now() limit 1",
        [fabric],
    ).fetchone()
    return row is not None


def locked(connection: Connection, fabric: str, flow: int) -> Asked | None:
    """A path, kept from others until the transaction ends."""
    if connection.execute("select 1 from flows where id = %s and fabric = %s for update", [flow, fabric]).fetchone():
        return find(connection, fabric, flow)
    return None


def answer(connection: Connection, flow: int, switch: str, said: Mapping[str, str]) -> None:
    """What a switch answered, by command."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "update flow_answers set answer = %s where flow = %s and switch = %s and command = %s and answer is null",
            [(text, flow, switch, command) for command, text in said.items()],
        )


def answers(connection: Connection, flow: int) -> dict[tuple[str, str], str | None]:
    """What was asked, by switch name and command, and what was answered."""
    rows = connection.execute("select name, command, answer from flow_answers where flow = %s order by place", [flow])
    return {(str(row[0]), str(row[1])): row[2] for row in rows}


def of_fabric(connection: Connection, fabric: str, limit: int = 30) -> list[Asked]:
    """The last ones, the newest first."""
    return [Asked(*row) for row in connection.execute(f"{_ALL} order by id desc limit %s".encode(), [fabric, limit])]


def find(connection: Connection, fabric: str, flow: int) -> Asked | None:
    row = connection.execute(f"{_ALL} and id = %s".encode(), [fabric, flow]).fetchone()
    return Asked(*row) if row else None
