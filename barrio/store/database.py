"""Connections and the schema: a pool of connections, and the steps in `sql/` applied once each, in order."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import psycopg
from psycopg_pool import ConnectionPool

_SQL = Path(__file__).parent / "sql"
_SCHEMA_LOCK = 8_710_001


@cache
def statement(name: str) -> bytes:
    """The text of a query in `sql/`."""
    return (_SQL / f"{name}.sql").read_bytes()


def connect(conninfo: str) -> ConnectionPool[psycopg.Connection]:
    """An open pool of connections."""
    pool: ConnectionPool[psycopg.Connection] = ConnectionPool(conninfo, min_size=1, max_size=8, open=False)
    pool.open(wait=True, timeout=30)
    return pool


def bring_up_to_date(pool: ConnectionPool[psycopg.Connection]) -> list[str]:
    """Apply the schema steps not applied yet, each in a transaction of its own; returns their names."""
    applied = []
    with pool.connection() as connection:
        connection.execute(
            "create table if not exists schema_steps (name text primary key, applied_at timestamptz default now())"
        )
    for step in sorted(_SQL.glob("[0-9][0-9][0-9]_*.sql")):
        with pool.connection() as connection:
            connection.execute("select pg_advisory_xact_lock(%s)", [_SCHEMA_LOCK])
            known = connection.execute("select 1 from schema_steps where name = %s", [step.stem]).fetchone()
            if known is None:
                connection.execute(step.read_bytes())
                connection.execute("insert into schema_steps (name) values (%s)", [step.stem])
                applied.append(step.stem)
    return applied
