"""Rehearsals, as they stand in PostgreSQL: each belongs to the job that does it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from barrio.store.database import Connection
from barrio.store.errors import Missing


@dataclass(frozen=True, slots=True)
class Rehearsed:
    """A rehearsal of a draft at a version, or of an edition; `inputs` is the digest of what that was compiled from. `state` is its job's, `words` what is
    under way or what came of it; `found` is what `barrio.rehearsal.run` tells, as far as it got."""

    job: int
    fabric: str
    version: int
    edition: int
    inputs: bytes
    wish: dict[str, Any]
    state: str
    words: str
    author: str
    asked_at: datetime
    began_at: datetime | None
    ended_at: datetime | None
    found: dict[str, Any]


_ALL = (
    "select job, rehearsals.fabric, version, edition, inputs, wish, jobs.state, jobs.words, jobs.author, asked_at, began_at, ended_at, {found} "
    "from rehearsals join jobs on jobs.id = job "
)
_BRIEFLY = (
    "found - 'answers' - 'drills' || jsonb_build_object("
    "'answers', coalesce((select jsonb_agg(one - 'claims') from jsonb_array_elements(found->'answers') one), '[]'), "
    "'drills', coalesce((select jsonb_agg(one - 'flows' - 'said' - 'left') from jsonb_array_elements(found->'drills') one), '[]'))"
)
"""What was found without its claims and scores, which are many."""


def add(
    connection: Connection, job: int, fabric: str, version: int, edition: int, inputs: bytes, wish: Mapping[str, Any]
) -> None:
    connection.execute(
        "insert into rehearsals (job, fabric, version, edition, inputs, wish) values (%s, %s, %s, %s, %s, %s)",
        [job, fabric, version, edition, inputs, Jsonb(dict(wish))],
    )


def find(connection: Connection, fabric: str, job: int) -> Rehearsed:
    """One with all that was found. Raises `Missing`."""
    row = connection.execute(
        f"{_ALL.format(found='found')} where job = %s and rehearsals.fabric = %s".encode(), [job, fabric]
    ).fetchone()
    if row is None:
        raise Missing("There is no such rehearsal.")
    return Rehearsed(*row)


def newest(connection: Connection, fabric: str, limit: int = 50) -> list[Rehearsed]:
    """The newest of a fabric, each without its claims."""
    rows = connection.execute(
        f"{_ALL.format(found=_BRIEFLY)} where rehearsals.fabric = %s order by job desc limit %s".encode(),
        [fabric, limit],
    )
    return [Rehearsed(*row) for row in rows]


def of_inputs(connection: Connection, fabric: str, inputs: bytes) -> list[Rehearsed]:
    """Those of a fabric that came to their end and are of exactly these inputs, newest first and without their claims."""
    rows = connection.execute(
        f"{_ALL.format(found=_BRIEFLY)} where rehearsals.fabric = %s and inputs = %s and jobs.state = 'done' order by job desc".encode(),
        [fabric, inputs],
    )
    return [Rehearsed(*row) for row in rows]


def keep(connection: Connection, job: int, found: Mapping[str, Any]) -> None:
    """Keep what was found so far."""
    connection.execute("update rehearsals set found = %s where job = %s", [Jsonb(dict(found)), job])
