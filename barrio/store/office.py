"""The office's files, edition by edition."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from psycopg.types.json import Jsonb

from barrio.store.database import Connection
from barrio.store.errors import Missing


@dataclass(frozen=True, slots=True)
class Edition:
    """The office at one time: its number, counted from 1, who saved it, with which words, and how many files it has."""

    number: int
    author: str
    note: str
    saved_at: datetime
    files: int


def files_of(connection: Connection, number: int) -> Mapping[str, str]:
    """The files of an edition, by path; the office of number 0 is empty. Raises `Missing`."""
    if number == 0:
        return {}
    row = connection.execute("select files from office where number = %s", [number]).fetchone()
    if row is None:
        raise Missing(f"The office has no edition {number}.")
    files: Mapping[str, str] = row[0]
    return files


def newest(connection: Connection) -> int:
    """The number of the newest edition; 0 when nothing was ever saved."""
    row = connection.execute("select coalesce(max(number), 0) from office").fetchone()
    return int(row[0]) if row else 0


def history(connection: Connection, most: int = 200) -> list[Edition]:
    """The editions, newest first."""
    rows = connection.execute(
        "select number, author, note, saved_at, (select count(*) from jsonb_object_keys(files)) from office order by number desc limit %s", [most]
    ).fetchall()  # fmt: skip
    return [Edition(*row) for row in rows]


def add(connection: Connection, number: int, files: Mapping[str, str], author: str, note: str) -> None:
    """Make these files the newest edition; fabrics are compiled anew by whoever asks for them next."""
    connection.execute(
        "insert into office (number, files, author, note) values (%s, %s, %s, %s)", [number, Jsonb(dict(files)), author, note]
    )  # fmt: skip
    connection.execute("update catalogue_version set version = version + 1")
