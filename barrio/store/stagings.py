"""Stagings, the switches in them, and what was done to each, as they stand in PostgreSQL."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from barrio.core.staging.steps import Standing, State
from barrio.store.database import Connection
from barrio.store.errors import Missing


@dataclass(frozen=True, slots=True)
class Staging:
    """An edition that is put on switches. `words` say why it is paused or how it ended; a new configuration is confirmed within `confirm_seconds`; nothing
    begins before `from_at` or after `until_at`."""

    id: int
    fabric: str
    edition: int
    state: str
    words: str
    at_once: int
    stop_after: int
    confirm_seconds: int
    from_at: datetime | None
    until_at: datetime | None
    author: str
    began_at: datetime
    ended_at: datetime | None


@dataclass(frozen=True, slots=True)
class Staged:
    """A switch of a staging: its step with how that stands, in words for whoever is at the rack; `task` is the part of the step, `until_at` when it has to be
    through."""

    switch: str
    name: str
    rack: str
    place: int
    wave: int
    step: str
    state: State
    words: str
    task: str
    attempt: int
    since: datetime
    until_at: datetime | None
    began_at: datetime | None

    @property
    def standing(self) -> Standing:
        return Standing(self.switch, self.wave, self.step, self.state, self.task)


@dataclass(frozen=True, slots=True)
class Line:
    """A line of what was done: in which step, in words; a command with its exit code, what it printed, and how long it took."""

    id: int
    at: datetime
    step: str
    words: str
    command: str
    code: int | None
    output: str
    seconds: float | None


_ALL = (
    "select id, fabric, edition, state, words, at_once, stop_after, confirm_seconds, from_at, until_at, author, began_at, ended_at "
    "from stagings "
)
_STAGED = (
    "select switch, name, rack, place, wave, step, state, words, task, attempt, since, until_at, began_at from staged "
)


def begin(
    connection: Connection, fabric: str, edition: int, at_once: int, stop_after: int, confirm_seconds: int, author: str,
    window: tuple[datetime | None, datetime | None] = (None, None),
) -> int:  # fmt: skip
    row = connection.execute(
        "insert into stagings (fabric, edition, at_once, stop_after, confirm_seconds, author, from_at, until_at) "
        "values (%s, %s, %s, %s, %s, %s, %s, %s) returning id",
        [fabric, edition, at_once, stop_after, confirm_seconds, author, *window],
    ).fetchone()
    assert row is not None
    return int(row[0])


def add(connection: Connection, staging: int, switches: Iterable[tuple[str, str, str, int, int, str]]) -> None:
    """Switches of a staging: key, name, rack, place in the fabric's order, wave, step."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into staged (staging, switch, name, rack, place, wave, step) values (%s, %s, %s, %s, %s, %s, %s)",
            [(staging, *one) for one in switches],
        )


def under_way(connection: Connection, fabric: str, lock: bool = False) -> Staging | None:
    """The staging of a fabric that has not ended; locked until the transaction ends, where that is asked for."""
    row = connection.execute(
        f"{_ALL} where fabric = %s and ended_at is null {'for update' if lock else ''}".encode(), [fabric]
    ).fetchone()
    return None if row is None else Staging(*row)


def running(connection: Connection) -> list[str]:
    """The fabrics in which a staging has not ended."""
    return [str(row[0]) for row in connection.execute("select fabric from stagings where ended_at is null order by id")]


def due(connection: Connection, staging: int, seconds: float) -> bool:
    """Whether nobody took a staging further for so many seconds; whoever asks is then the one who does."""
    done = connection.execute(
        "update stagings set advanced_at = clock_timestamp() where id = (select id from stagings where id = %s "
        "and advanced_at < clock_timestamp() - make_interval(secs => %s) for update skip locked)",
        [staging, seconds],
    )
    return done.rowcount == 1


def lagging(connection: Connection, staging: int, wave: int) -> int:
    """How many of a wave have not prepared yet, or failed to."""
    return _behind(connection, staging, wave, ["commit", "confirm", "hold"])


def unconfirmed(connection: Connection, staging: int, wave: int) -> int:
    """How many of a wave are not on their new files yet, or failed to be."""
    return _behind(connection, staging, wave, ["hold"])


def _behind(connection: Connection, staging: int, wave: int, tasks: list[str]) -> int:
    row = connection.execute(
        "select count(*) from staged where staging = %s and wave = %s and state <> 'skipped' and not "
        "(step in ('checked', 'saved', 'handed over') or (step = 'all files' and state = 'works' and task = any(%s)))",
        [staging, wave, tasks],
    ).fetchone()
    return int(row[0]) if row else 0


def backing(connection: Connection, staging: int, wave: int) -> int:
    """How many of the waves after one are still going back."""
    row = connection.execute(
        "select count(*) from staged where staging = %s and wave > %s and state = 'works' and task = 'back'",
        [staging, wave],
    ).fetchone()
    return int(row[0]) if row else 0


def release(connection: Connection, staging: int, wave: int, words: str, seconds: float) -> None:
    """Have all of a wave that are ready put their files in place."""
    connection.execute(
        "update staged set task = 'confirm', words = %s, until_at = now() + make_interval(secs => %s), since = now() "
        "where staging = %s and wave = %s and step = 'all files' and state = 'works' and task = 'commit'",
        [words, seconds, staging, wave],
    )


def pass_held(connection: Connection, staging: int, wave: int, words: str, seconds: float) -> None:
    """Have all of a wave that hold be checked."""
    connection.execute(
        "update staged set step = 'checked', task = '', words = %s, until_at = now() + make_interval(secs => %s), since = now() "
        "where staging = %s and wave = %s and step = 'all files' and state = 'works' and task = 'hold'",
        [words, seconds, staging, wave],
    )


def working(connection: Connection, staging: int) -> bool:
    """Whether a switch of a staging is at work."""
    row = connection.execute(
        "select 1 from staged where staging = %s and state = 'works' limit 1", [staging]
    ).fetchone()
    return row is not None


def newest(connection: Connection, fabric: str, limit: int = 20) -> list[Staging]:
    return [
        Staging(*row)
        for row in connection.execute(f"{_ALL} where fabric = %s order by id desc limit %s".encode(), [fabric, limit])
    ]


def find(connection: Connection, fabric: str, number: int) -> Staging:
    """Raises `Missing`."""
    row = connection.execute(f"{_ALL} where fabric = %s and id = %s".encode(), [fabric, number]).fetchone()
    if row is None:
        raise Missing("There is no such staging.")
    return Staging(*row)


def switches(connection: Connection, staging: int) -> list[Staged]:
    return [
        Staged(*row) for row in connection.execute(f"{_STAGED} where staging = %s order by place".encode(), [staging])
    ]


def one(connection: Connection, staging: int, switch: str) -> Staged | None:
    row = connection.execute(f"{_STAGED} where staging = %s and switch = %s".encode(), [staging, switch]).fetchone()
    return None if row is None else Staged(*row)


def handed_over(connection: Connection, fabric: str) -> set[str]:
    """The switches of a fabric that were handed over once, and that somebody is admitted as."""
    rows = connection.execute(
        "select distinct switch from staged join stagings on stagings.id = staged.staging where fabric = %s and step = 'handed over' and staged.state = 'done' "
        "and switch in (select switch from knocks where fabric = %s and state = 'admitted')",
        [fabric, fabric],
    )
    return {str(row[0]) for row in rows}


def move(
    connection: Connection, staging: int, switch: str, step: str, state: State, words: str, task: str = "", seconds: float | None = None,
    again: bool = False,
) -> None:  # fmt: skip
    """A switch at a step: how it stands, what it is at, and within how many seconds it has to be through. `again` counts one more attempt."""
    connection.execute(
        "update staged set since = case when step = %(step)s and state = %(state)s then since else now() end, "
        "step = %(step)s, state = %(state)s, words = %(words)s, task = %(task)s, attempt = attempt + %(again)s, "
        "until_at = now() + make_interval(secs => %(seconds)s), "
        "began_at = coalesce(began_at, case when %(state)s = 'works' then now() end) "
        "where staging = %(staging)s and switch = %(switch)s",
        {
            "step": step, "state": state, "words": words, "task": task, "seconds": seconds, "staging": staging,
            "switch": switch, "again": int(again),
        },
    )  # fmt: skip


def state(connection: Connection, staging: int, now: str, words: str) -> None:
    connection.execute(
        "update stagings set state = %s, words = %s, ended_at = case when %s in ('done', 'left') then now() end where id = %s",
        [now, words, now, staging],
    )


def log(
    connection: Connection, staging: int, switch: str, step: str, words: str, command: str = "", code: int | None = None, output: str = "",
    seconds: float | None = None,
) -> None:  # fmt: skip
    connection.execute(
        "insert into staging_log (staging, switch, step, words, command, code, output, seconds) values (%s, %s, %s, %s, %s, %s, %s, %s)",
        [staging, switch, step, words, command, code, output, seconds],
    )


def log_all(
    connection: Connection,
    staging: int,
    switch: str,
    step: str,
    ran: Iterable[tuple[str, int | None, str, float | None]],
) -> None:
    """Commands that ran on a switch: each with its exit code, what it printed, and how long it took."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into staging_log (staging, switch, step, words, command, code, output, seconds) values (%s, %s, %s, 'ran', %s, %s, %s, %s)",
            [(staging, switch, step, *one) for one in ran],
        )


def lines(connection: Connection, staging: int, switch: str, limit: int = 1000) -> list[Line]:
    rows = connection.execute(
        "select id, at, step, words, command, code, output, seconds from staging_log where staging = %s and switch = %s order by id limit %s",
        [staging, switch, limit],
    )
    return [Line(*row) for row in rows]


def seconds_of(connection: Connection, staging: int) -> tuple[int, float]:
    """How many switches of a staging are handed over, and how many seconds one took on average from when it began."""
    row = connection.execute(
        "select count(*), coalesce(avg(extract(epoch from since - began_at)), 0) from staged "
        "where staging = %s and step = 'handed over' and state = 'done' and began_at is not null",
        [staging],
    ).fetchone()
    return (0, 0.0) if row is None else (int(row[0]), float(row[1]))


def handed_over_with(connection: Connection, fabric: str, switch: str) -> int | None:
    """The edition (by number) that a switch was handed over with last."""
    row = connection.execute(
        "select edition from staged join stagings on stagings.id = staged.staging where fabric = %s and switch = %s and step = 'handed over' "
        "and staged.state = 'done' order by stagings.id desc limit 1",
        [fabric, switch],
    ).fetchone()
    return None if row is None else int(row[0])
