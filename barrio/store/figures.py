"""Figures of what is kept, for whoever watches: drift, stagings, jobs; one query each, however many switches there are."""

from __future__ import annotations

from typing import NamedTuple

from barrio.store.database import Connection


class Looked(NamedTuple):
    """Of a fabric: switches that were looked at, how many of them ran otherwise than meant, and the seconds since the one seen longest ago was seen."""

    fabric: str
    switches: int
    other: int
    oldest: float


def looked(connection: Connection) -> list[Looked]:
    rows = connection.execute(
        "select fabric, count(*), count(*) filter (where files <> '{}' or state <> '[]'), extract(epoch from now() - min(until_at))::float8 from "
        "(select distinct on (fabric, switch) fabric, files, state, until_at from snapshots order by fabric, switch, until_at desc) as newest "
        "group by fabric order by fabric"
    )
    return [Looked(*row) for row in rows]


def staged(connection: Connection) -> list[tuple[str, str, int]]:
    """Switches of the stagings under way, as (fabric, state, how many)."""
    rows = connection.execute(
        "select s.fabric, w.state, count(*) from stagings s join staged w on w.staging = s.id and w.began_at is not null "
        "where s.ended_at is null group by 1, 2 order by 1, 2"
    )
    return [(row[0], row[1], row[2]) for row in rows]


def jobs(connection: Connection) -> list[tuple[str, str, int]]:
    """Jobs as (kind, state, how many)."""
    rows = connection.execute("select kind, state, count(*) from jobs group by 1, 2 order by 1, 2")
    return [(row[0], row[1], row[2]) for row in rows]
