"""Grounds that one machine asks of others for a rehearsal, as they stand in PostgreSQL. Public halves of keys only."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Lent:
    """A ground that is asked for: by which worker, with which certificate; of which kind, with so many megabytes. `address` (`10.0.0.2:40123`) is where its
    lender waits, with the other certificate; empty as long as nobody took it up."""

    id: int
    job: int
    borrower: str
    certificate: str
    ground: str
    memory: int
    lender: str
    lender_certificate: str
    address: str


_ALL = "select id, job, borrower, certificate, ground, memory, lender, lender_certificate, address from lent_grounds "


def ask(connection: Connection, job: int, borrower: str, certificate: str, ground: str, memory: int) -> int:
    row = connection.execute(
        "insert into lent_grounds (job, borrower, certificate, ground, memory) values (%s, %s, %s, %s, %s) returning id",
        [job, borrower, certificate, ground, memory],
    ).fetchone()
    assert row is not None
    return int(row[0])


def find(connection: Connection, number: int) -> Lent | None:
    row = connection.execute(f"{_ALL} where id = %s".encode(), [number]).fetchone()
    return None if row is None else Lent(*row)


def offer(connection: Connection, number: int, lender: str, certificate: str, address: str) -> bool:
    """Say where a lender waits; whether it was the first."""
    done = connection.execute(
        "update lent_grounds set lender = %s, lender_certificate = %s, address = %s where id = %s and address = ''",
        [lender, certificate, address, number],
    )
    return done.rowcount == 1


def of(connection: Connection, numbers: Sequence[int]) -> list[Lent]:
    return [
        Lent(*row) for row in connection.execute(f"{_ALL} where id = any(%s) order by id".encode(), [list(numbers)])
    ]


def forget(connection: Connection, numbers: Sequence[int]) -> None:
    connection.execute("delete from lent_grounds where id = any(%s)", [list(numbers)])
