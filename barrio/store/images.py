"""Software for switches, as it stands in PostgreSQL: in pieces, by its SHA-256."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from barrio.store.database import Connection

PIECE = 1 << 20
"""Bytes of a piece; only the last one is smaller."""


@dataclass(frozen=True, slots=True)
class Image:
    """Software that a fabric has: the version that it is, the model that it is for (by id; empty for any), the name of its file, its SHA-256 and its bytes."""

    fabric: str
    version: str
    model: str
    name: str
    digest: bytes
    size: int
    author: str
    at: datetime


_ALL = "select fabric, version, model, name, images.digest, size, author, at from images join image_contents using (digest) "


def of_fabric(connection: Connection, fabric: str) -> list[Image]:
    rows = connection.execute(f"{_ALL} where fabric = %s order by version, model".encode(), [fabric])
    return [Image(*row) for row in rows]


def wanted(connection: Connection, fabric: str, version: str, model: str) -> Image | None:
    """The software of a version for a model: what is for just this model before what is for any."""
    row = connection.execute(
        f"{_ALL} where fabric = %s and version = %s and model in (%s, '') order by model = '' limit 1".encode(),
        [fabric, version, model],
    ).fetchone()
    return None if row is None else Image(*row)


def begin(connection: Connection, hours: int) -> int:
    """Begin to bring software: the number of what is brought. What was begun so many hours ago and never ended is forgotten."""
    connection.execute("delete from image_uploads where at < now() - make_interval(hours => %s)", [hours])
    row = connection.execute("insert into image_uploads default values returning id").fetchone()
    assert row is not None
    return int(row[0])


def add(connection: Connection, upload: int, at: int, content: bytes) -> None:
    """The next piece of what is brought."""
    connection.execute("insert into image_upload_pieces (upload, at, content) values (%s, %s, %s)", [upload, at, content])  # fmt: skip


def end(connection: Connection, upload: int, digest: bytes, size: int) -> None:
    """All of it is there: kept by its digest, once."""
    new = connection.execute(
        "insert into image_contents (digest, size) values (%s, %s) on conflict do nothing", [digest, size]
    ).rowcount
    if new:
        connection.execute(
            "insert into image_pieces (digest, at, content) select %s, at, content from image_upload_pieces where upload = %s",
            [digest, upload],
        )
    forget(connection, upload)


def forget(connection: Connection, upload: int) -> None:
    """Forget what was brought so far."""
    connection.execute("delete from image_uploads where id = %s", [upload])


def keep(connection: Connection, fabric: str, version: str, model: str, name: str, digest: bytes, author: str) -> None:
    """Software of a fabric, in place of what it had of this version for this model."""
    connection.execute(
        "insert into images (fabric, version, model, name, digest, author) values (%s, %s, %s, %s, %s, %s) on conflict (fabric, version, model) "
        "do update set name = excluded.name, digest = excluded.digest, author = excluded.author, at = now()",
        [fabric, version, model, name, digest, author],
    )
    _sweep(connection)


def drop(connection: Connection, fabric: str, version: str, model: str) -> bool:
    """Take software out of a fabric; whether it had it."""
    done = connection.execute(
        "delete from images where fabric = %s and version = %s and model = %s", [fabric, version, model]
    )
    _sweep(connection)
    return done.rowcount == 1


def _sweep(connection: Connection) -> None:
    """Let contents go that no fabric has any more."""
    connection.execute("delete from image_contents where digest not in (select digest from images)")


def size_of(connection: Connection, digest: bytes) -> int | None:
    row = connection.execute("select size from image_contents where digest = %s", [digest]).fetchone()
    return None if row is None else int(row[0])


def piece(connection: Connection, digest: bytes, at: int) -> bytes:
    """A piece of some content, by its place. Empty where there is none."""
    row = connection.execute("select content from image_pieces where digest = %s and at = %s", [digest, at]).fetchone()
    return b"" if row is None else bytes(row[0])


def places(begin: int, end: int) -> Iterator[tuple[int, int, int]]:
    """The pieces that hold the bytes from one place up to another: each by its place, from where and up to where in it.

    >>> list(places(PIECE - 2, PIECE + 3))
    [(0, 1048574, 1048576), (1, 0, 3)]
    """
    at = begin
    while at < end:
        number, inside = divmod(at, PIECE)
        upto = min(PIECE, inside + end - at)
        yield number, inside, upto
        at += upto - inside
