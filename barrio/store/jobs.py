"""Jobs and what came of them, as they stand in PostgreSQL."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from barrio.store.database import Connection
from barrio.store.entries import Author
from barrio.store.errors import Missing


@dataclass(frozen=True, slots=True)
class Job:
    """`done` of `of` parts, and in `words` what is under way or what came of it. `result` is the name of the file, if there is one."""

    id: int
    kind: str
    fabric: str
    wishes: dict[str, Any]
    person: int | None
    author: str
    token: str
    state: str
    asked_at: datetime
    began_at: datetime | None
    ended_at: datetime | None
    attempt: int
    done: int
    of: int
    words: str
    log: list[str]
    result: str | None


_ALL = (
    "select id, kind, fabric, wishes, person, author, token, state, asked_at, began_at, ended_at, attempt, done, of, words, log, "
    "(select name from results where job = id) from jobs "
)


def add(connection: Connection, kind: str, fabric: str, wishes: Mapping[str, Any], author: Author) -> int:
    """A job that waits."""
    row = connection.execute(
        "insert into jobs (kind, fabric, wishes, person, author, token) values (%s, %s, %s, %s, %s, %s) returning id",
        [kind, fabric, Jsonb(dict(wishes)), author.person, author.name, author.token],
    ).fetchone()
    assert row is not None
    return int(row[0])


def queued(connection: Connection, job: int, place: int) -> None:
    """A job is in the queue, at this place."""
    connection.execute("update jobs set queued = %s where id = %s", [place, job])


def find(connection: Connection, job: int) -> Job:
    """A job. Raises `Missing`."""
    row = connection.execute(f"{_ALL} where id = %s".encode(), [job]).fetchone()
    if row is None:
        raise Missing("There is no such job.")
    return Job(*row)


def newest(connection: Connection, person: int | None, limit: int = 100) -> list[Job]:
    """The newest jobs, of one person or of all."""
    rows = connection.execute(
        f"{_ALL} where %(person)s::bigint is null or person = %(person)s order by id desc limit %(limit)s".encode(),
        {"person": person, "limit": limit},
    )
    return [Job(*row) for row in rows]


def begin(connection: Connection, job: int) -> int | None:
    """Take a job up; returns which attempt this is, or nothing when it has ended or is to stop."""
    row = connection.execute(
        "update jobs set state = 'working', began_at = coalesce(began_at, now()), attempt = attempt + 1 "
        "where id = %s and state in ('waiting', 'working') and not stop returning attempt",
        [job],
    ).fetchone()
    return None if row is None else int(row[0])


def tell(connection: Connection, job: int, attempt: int, done: int, of: int, words: str) -> bool:
    """How far an attempt is; returns whether to go on: not when it is to stop, or another attempt took its place."""
    row = connection.execute(
        "update jobs set done = %s, of = %s, words = %s where id = %s and attempt = %s and state = 'working' returning stop",
        [done, of, words, job, attempt],
    ).fetchone()
    return row is not None and not row[0]


def end(connection: Connection, job: int, attempt: int | None, state: str, words: str, line: str) -> bool:
    """End a job, unless it has ended before or another attempt took its place; returns whether it did."""
    ended = connection.execute(
        "update jobs set state = %s, ended_at = now(), words = %s, log = log || %s::text, done = case when %s = 'done' then of "
        "else done end where id = %s and state in ('waiting', 'working') and (%s::integer is null or attempt = %s)",
        [state, words, line, state, job, attempt, attempt],
    )
    return ended.rowcount == 1


def keep(connection: Connection, job: int, name: str, media: str, content: bytes) -> None:
    connection.execute("insert into results values (%s, %s, %s, %s)", [job, name, media, content])


def result(connection: Connection, job: int) -> tuple[str, str, bytes]:
    """The file that came of a job: (its name, media type, content). Raises `Missing`."""
    row = connection.execute("select name, media, content from results where job = %s", [job]).fetchone()
    if row is None:
        raise Missing("This job has no file, or it is over a week old.")
    return row[0], row[1], bytes(row[2])


def ask_to_stop(connection: Connection, job: int) -> None:
    connection.execute("update jobs set stop = true where id = %s and state in ('waiting', 'working')", [job])


def wait_again(connection: Connection, job: int, words: str) -> bool:
    """A job waits once more: one that failed or was stopped, or that cannot begin yet."""
    done = connection.execute(
        "update jobs set state = 'waiting', stop = false, ended_at = null, done = 0, words = %s where id = %s and state <> 'done'",
        [words, job],
    )
    return done.rowcount == 1


def log(connection: Connection, job: int, line: str) -> None:
    connection.execute("update jobs set log = log || %s::text where id = %s", [line, job])


def forgotten(connection: Connection) -> list[int]:
    """Jobs that have not ended and are in no queue: whoever asked did not live to put them there, or the database was lost under them."""
    rows = connection.execute(
        "select id from jobs where state in ('waiting', 'working') and asked_at < now() - interval '10 seconds' "
        "and not exists (select from procrastinate_jobs where procrastinate_jobs.id = queued)"
    )
    return [job for (job,) in rows]


def tidy(connection: Connection) -> None:
    """What came of jobs goes after a week."""
    connection.execute("delete from results using jobs where job = id and ended_at < now() - interval '7 days'")
