"""One database with what is kept at hand of it, and transactions over it.

A reader sees one snapshot. A writer first takes the pools' lock (shared with others, or alone when pools change with its work).
What a transaction works out is remembered for others only once it has ended well, so that nobody is shown what never was.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from threading import Lock
from typing import TypeVar

from psycopg import errors

from barrio.app.transaction import Known, PoolsGrow, Transaction
from barrio.store import entries
from barrio.store.database import Connections
from barrio.store.errors import Raced
from barrio.store.models import SHIPPED
from barrio.store.occupancy import Occupancy
from barrio.store.pools import RangeUse

T = TypeVar("T")


class House:
    """All of one database. Many threads use one house."""

    def __init__(self, connections: Connections) -> None:
        self.connections = connections
        self._occupancy = Occupancy()
        self._known = Known(SHIPPED, {})
        self._guard = Lock()
        self.overview: tuple[str, list[RangeUse]] | None = None
        """How full all pools are, as one snapshot of the database saw it."""

    @contextmanager
    def reading(self) -> Iterator[Transaction]:
        """A transaction that sees one snapshot, and writes nothing."""
        with self.connections.connection() as connection:
            connection.execute("set transaction isolation level repeatable read, read only")
            found = Transaction(connection, self._occupancy, self._at_hand())
            try:
                yield found
            finally:
                self._remember(found)

    def writing(self, work: Callable[[Transaction], T], alone: bool = False) -> T:
        """Do work that draws numbers or changes pools, in one transaction under the pools' lock.

        Shared with others at first; when the work finds that pools change with it (`PoolsGrow`), again and alone. Raises
        what the work raises, and `Raced` when the database refused a number that looked free.
        """
        for by_itself in (True,) if alone else (False, True):
            try:
                return self._write(work, by_itself)
            except PoolsGrow:
                if by_itself:
                    raise
            except (errors.ExclusionViolation, errors.UniqueViolation) as error:
                self._occupancy.forget()
                raise Raced(error.diag.message_detail or str(error)) from error
        raise AssertionError("the second try either returns or raises")

    def _write(self, work: Callable[[Transaction], T], alone: bool) -> T:
        found: Transaction | None = None
        try:
            with self.connections.connection() as connection:
                entries.lock_pools(connection, alone)
                found = Transaction(connection, self._occupancy, self._at_hand(), alone)
                done = work(found)
        except BaseException:
            if found is not None and found.read_own_changes:
                # Runs were brought up to date with what is undone now.
                self._occupancy.forget()
            raise
        self._remember(found)
        return done

    def _at_hand(self) -> Known:
        with self._guard:
            return Known(self._known.shelf, dict(self._known.compiled))

    def _remember(self, found: Transaction) -> None:
        with self._guard:
            if found.shelf.version > self._known.shelf.version:
                self._known = Known(found.shelf, self._known.compiled)
            for name, (version, compiled) in found.worked_out.items():
                known = self._known.compiled.get(name)
                if known is None or known[0] <= version:
                    self._known.compiled[name] = (version, compiled)
