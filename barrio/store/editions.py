"""Editions as they stand in PostgreSQL: each is a row and its files, each distinct text is kept once."""

from __future__ import annotations

import re
import zlib
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from barrio.store.database import Connection
from barrio.store.errors import Missing

_QUICK = 1
"""How hard texts are packed: a third of the time of zlib's usual way for a tenth more bytes."""


@dataclass(frozen=True, slots=True)
class Packed:
    """A text as it is kept. `size` is its length unpacked, in bytes."""

    digest: bytes
    size: int
    packed: bytes


def pack(digest: bytes, content: bytes) -> Packed:
    return Packed(digest, len(content), zlib.compress(content, _QUICK))


@dataclass(frozen=True, slots=True)
class Edition:
    """One edition, without its files. `agreed` are who agreed, with when; `counts` are what it changed; `program` is what compiled it; `despite`
    says in spite of what it was sealed, and why."""

    id: int
    fabric: str
    number: int
    version: int
    title: str
    why: str
    author: str
    asked_by: str
    agreed: list[dict[str, str]]
    findings: list[dict[str, Any]]
    counts: dict[str, int]
    program: str
    inputs: bytes
    sealed_at: datetime
    despite: str = ""


_COLUMNS = "id, fabric, number, version, title, why, author, asked_by, agreed, findings, counts, program, inputs, sealed_at, despite"


def every(connection: Connection, fabric: str) -> list[Edition]:
    """The editions of a fabric, newest first."""
    rows = connection.execute(f"select {_COLUMNS} from editions where fabric = %s order by number desc", [fabric])
    return [Edition(*row) for row in rows]


def newest(connection: Connection, fabric: str) -> Edition | None:
    """The newest edition, if there is one."""
    row = connection.execute(
        f"select {_COLUMNS} from editions where fabric = %s order by number desc limit 1", [fabric]
    ).fetchone()
    return Edition(*row) if row else None


def find(connection: Connection, fabric: str, number: int) -> Edition:
    """One edition. Raises `Missing`."""
    row = connection.execute(
        f"select {_COLUMNS} from editions where fabric = %s and number = %s", [fabric, number]
    ).fetchone()
    if row is None:
        raise Missing(f"{fabric} has no edition {number}.")
    return Edition(*row)


def keep_texts(connection: Connection, texts: Iterable[Packed]) -> None:
    """Keep texts that are not kept yet."""
    connection.execute("create temporary table coming (like texts) on commit drop")
    with connection.cursor().copy("copy coming (digest, size, packed) from stdin (format binary)") as copy:
        copy.set_types(["bytea", "int8", "bytea"])
        for one in texts:
            copy.write_row((one.digest, one.size, one.packed))
    connection.execute("insert into texts select distinct on (digest) * from coming on conflict do nothing")
    connection.execute("drop table coming")


def known(connection: Connection, digests: Iterable[bytes]) -> set[bytes]:
    """Those of the digests whose texts are kept already."""
    rows = connection.execute("select digest from texts where digest = any(%s)", [list(digests)])
    return {bytes(digest) for (digest,) in rows}


def add(connection: Connection, edition: Edition, files: Mapping[str, bytes]) -> None:
    """A new edition with its files, by path the digest of each; their texts are kept already. `id` and `sealed_at` are the database's."""
    row = connection.execute(
        "insert into editions (fabric, number, version, title, why, author, asked_by, agreed, findings, counts, program, inputs, despite) "
        "values (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s) returning id",
        [
            edition.fabric, edition.number, edition.version, edition.title, edition.why, edition.author, edition.asked_by,
            Jsonb(edition.agreed), Jsonb(edition.findings), Jsonb(edition.counts), edition.program, edition.inputs, edition.despite,
        ],
    ).fetchone()  # fmt: skip
    assert row is not None
    with connection.cursor().copy("copy edition_files (edition, place, path, digest) from stdin") as copy:
        for place, (path, digest) in enumerate(files.items()):
            copy.write_row((row[0], place, path, digest))


def files_of(connection: Connection, edition: int) -> dict[str, bytes]:
    """The files of an edition, in the order in which they leave: by path the digest of each."""
    rows = connection.execute("select path, digest from edition_files where edition = %s order by place", [edition])
    return {path: bytes(digest) for path, digest in rows}


def files_of_switch(connection: Connection, edition: int, name: str) -> dict[str, bytes]:
    """The files of one switch in an edition: from its own paths to digests."""
    stem = f"switches/{name}/"
    rows = connection.execute(
        "select path, digest from edition_files where edition = %s and path like %s order by path",
        [edition, re.sub(r"([\\%_])", r"\\\1", stem) + "%"],
    )
    return {str(path).removeprefix(stem): bytes(digest) for path, digest in rows}


def texts(connection: Connection, digests: Iterable[bytes]) -> dict[bytes, bytes]:
    """Kept texts, by their digests. Raises `Missing` when one is not kept."""
    wanted = set(digests)
    rows = connection.execute("select digest, packed from texts where digest = any(%s)", [list(wanted)])
    found = {bytes(digest): zlib.decompress(packed) for digest, packed in rows}
    if found.keys() != wanted:
        raise Missing("A text of this edition is not kept.")
    return found
