"""What switches are asked by hand, and what they answered, as it stands in PostgreSQL."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Asked:
    """A command that some switches were asked, and until when one waits for them."""

    id: int
    fabric: str
    command: str
    author: str
    at: datetime
    until_at: datetime
    waits: bool


@dataclass(frozen=True, slots=True)
class Answer:
    """What a switch answered, and with which code; nothing while it has not."""

    name: str
    answer: str | None
    code: int | None
    at: datetime | None


def begin(
    connection: Connection, fabric: str, command: str, author: str, switches: Mapping[str, str], seconds: int
) -> int:
    """Ask some switches (names by key)."""
    row = connection.execute(
        "insert into asks (fabric, command, author, until_at) values (%s, %s, %s, now() + make_interval(secs => %s)) returning id",
        [fabric, command, author, seconds],
    ).fetchone()
    assert row is not None
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into ask_answers (ask, switch, name) values (%s, %s, %s)",
            [(row[0], key, name) for key, name in switches.items()],
        )
    return int(row[0])


def waiting(connection: Connection, fabric: str, switch: str) -> tuple[int, str] | None:
    """What a switch is to answer next, as (id, command)."""
    row = connection.execute(
        "select a.id, a.command from asks a join ask_answers w on w.ask = a.id where a.fabric = %s and w.switch = %s and w.answer is null "
        "and a.until_at > now() order by a.id limit 1",
        [fabric, switch],
    ).fetchone()
    return (row[0], row[1]) if row else None


def wants(connection: Connection, fabric: str) -> bool:
    """Whether anybody of a fabric is to answer anything."""
    row = connection.execute(
        "select 1 from asks a join ask_answers w on w.ask = a.id where a.fabric = %s and w.answer is null and a.until_at > now() limit 1",
        [fabric],
    ).fetchone()
    return row is not None


def answer(connection: Connection, ask: int, switch: str, text: str, code: int) -> None:
    connection.execute(
        "update ask_answers set answer = %s, code = %s, at = now() where ask = %s and switch = %s and answer is null",
        [text, code, ask, switch],
    )


_ALL = (
    "select id, fabric, command, author, at, until_at, until_at > now() and exists (select 1 from ask_answers w where w.ask = asks.id and w.answer is null) "
    "from asks where fabric = %s "
)


def of_fabric(connection: Connection, fabric: str, limit: int = 30) -> list[Asked]:
    """The last asked, the newest first."""
    rows = connection.execute(f"{_ALL} order by id desc limit %s".encode(), [fabric, limit])
    return [Asked(*row) for row in rows]


def find(connection: Connection, fabric: str, ask: int) -> tuple[Asked, list[Answer]] | None:
    row = connection.execute(f"{_ALL} and id = %s".encode(), [fabric, ask]).fetchone()
    if row is None:
        return None
    answers = connection.execute("select name, answer, code, at from ask_answers where ask = %s order by name", [ask])
    return Asked(*row), [Answer(*each) for each in answers]


def commands(connection: Connection) -> list[tuple[str, str]]:
    """The commands that the office keeps beside those that ship, as (command, words)."""
    return [
        (row[0], row[1]) for row in connection.execute("select command, words from office_commands order by command")
    ]


def keep_command(connection: Connection, command: str, words: str, author: str) -> None:
    connection.execute(
        "insert into office_commands (command, words, author) values (%s, %s, %s) on conflict (command) do update set words = excluded.words, author = excluded.author, at = now()",
        [command, words, author],
    )


def drop_command(connection: Connection, command: str) -> bool:
    return connection.execute("delete from office_commands where command = %s", [command]).rowcount > 0
