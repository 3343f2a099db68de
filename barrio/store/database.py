"""Connections and the schema: a pool of connections, and the steps in `sql/` applied once each, in order."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

import psycopg
from psycopg_pool import ConnectionPool

Connection = psycopg.Connection[Any]
Connections = ConnectionPool[Connection]

_SQL = Path(__file__).parent / "sql"
_SCHEMA_LOCK = 8_710_001


@cache
def statement(name: str) -> bytes:
    """The text of a query in `sql/`."""
    return (_SQL / f"{name}.sql").read_bytes()


def connect(conninfo: str) -> Connections:
    """An open pool of connections."""
    pool: Connections = ConnectionPool(
        conninfo, min_size=1, max_size=8, open=False, check=ConnectionPool.check_connection
    )
    pool.open(wait=True, timeout=30)
    return pool


def steps_missing(connection: Connection) -> list[str]:
    """The schema steps that this database has not had yet."""
    known = {name for (name,) in connection.execute("select name from schema_steps")}
    return [step.stem for step in sorted(_SQL.glob("[0-9][0-9][0-9]_*.sql")) if step.stem not in known]


class Newer(Exception):
    """The database was used by a Barrio that knows more than this one."""


def bring_up_to_date(pool: Connections) -> list[str]:
    """Apply the schema steps not applied yet, each in a transaction of its own; returns their names. Raises `Newer`."""
    applied = []
    steps = sorted(_SQL.glob("[0-9][0-9][0-9]_*.sql"))
    with pool.connection() as connection:
        connection.execute("select pg_advisory_xact_lock(%s)", [_SCHEMA_LOCK])
        connection.execute(
            "create table if not exists schema_steps (name text primary key, applied_at timestamptz default now())"
        )
        known = {name for (name,) in connection.execute("select name from schema_steps")}
    unknown = sorted(known - {step.stem for step in steps})
    if unknown:
        raise Newer(
            f"This database was last used by a newer Barrio (it has {unknown[-1].replace('_', ' ')}, which this one does not "
            "know). Start that one, or name another folder or database."
        )
    for step in steps:
        with pool.connection() as connection:
            connection.execute("select pg_advisory_xact_lock(%s)", [_SCHEMA_LOCK])
            done = connection.execute("select 1 from schema_steps where name = %s", [step.stem]).fetchone()
            if done is None:
                connection.execute(step.read_bytes())
                connection.execute("insert into schema_steps (name) values (%s)", [step.stem])
                applied.append(step.stem)
    return applied
