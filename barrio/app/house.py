"""One database with what is kept at hand of it, and transactions over it.

A reader sees one snapshot. A writer first takes the pools' lock (shared with others, or alone when pools change with its work).
What a transaction works out is remembered for others only once it has ended well, so that nobody is shown what never was.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from os import getpid
from pathlib import Path
from secrets import token_bytes
from threading import Lock
from typing import TypeVar

from psycopg import OperationalError, errors
from psycopg_pool import PoolTimeout

from barrio.app.athand import AtHand
from barrio.app.events import Ear
from barrio.app.gate import Gate
from barrio.app.provider import Provider
from barrio.app.secret import Keys, Passwords
from barrio.app.transaction import Known, PoolsGrow, Transaction
from barrio.sending.cms import Owner
from barrio.store import entries
from barrio.store.database import Connection, Connections
from barrio.store.entries import BARRIO, Author
from barrio.store.errors import Raced, Unreachable
from barrio.store.models import SHIPPED
from barrio.store.occupancy import Occupancy
from barrio.store.pools import RangeUse
from barrio.store.pulse import PATIENCE, Pulse

T = TypeVar("T")
MOST_WAITING = 30.0
"""Seconds to wait for a connection when others have them all."""


class _Lost(Exception):
    """The connection was lost before anything was kept."""


class House:
    """All of one database. Many threads use one house. With a `pulse`, a lost database is said at once.

    Without `keys` it makes some for itself, so that what it seals is lost with it. With `second_factor` whoever has none may do nothing but
    set one up. A `provider` vouches for people as well. The `owner` signs what devices of RFC 8572
    are told. A `demo` may have simulated switches. What is in `folder` can be made anew from the database at any time.
    """

    def __init__(
        self,
        connections: Connections,
        pulse: Pulse | None = None,
        keys: Keys | None = None,
        second_factor: bool = False,
        provider: Provider | None = None,
        folder: Path | None = None,
        owner: Owner | None = None,
        demo: bool = False,
    ) -> None:
        self.connections, self.pulse = connections, pulse
        self.keys = keys or Keys(token_bytes(32))
        self.passwords = Passwords()
        self.second_factor, self.provider = second_factor, provider
        self.owner, self.demo = owner or Owner(), demo
        self.folder = folder or Path(tempfile.gettempdir()) / f"barrio-{getpid()}"
        self.ear = Ear(connections)
        self._occupancy = Occupancy()
        self._known = Known(SHIPPED, AtHand())
        self._guard = Lock()
        self.gate = Gate()
        self.overview: tuple[str, list[RangeUse]] | None = None
        """How full all pools are, as one snapshot of the database saw it."""

    @contextmanager
    def _connection(self, to_write: bool) -> Iterator[Connection]:
        """A connection of the pool. Raises `Unreachable` when the database is known to be lost, or nobody gives one back."""
        until = time.monotonic() + MOST_WAITING
        while True:
            pulse = self.pulse
            hindered = pulse is not None and bool(pulse.why) and (to_write or not pulse.answers)
            if pulse and hindered and pulse.given_up:
                raise Unreachable(f"{pulse.why} Nothing was saved; it is tried again by itself.")
            if hindered:
                # A loss that may be short is waited out, away from connections that might hang.
                time.sleep(0.05)
                continue
            try:
                connection = self.connections.getconn(timeout=PATIENCE)
                break
            except PoolTimeout:
                if time.monotonic() > until:
                    raise Unreachable(
                        "Too much is going on at once. Nothing was saved; try again in a moment."
                    ) from None
        try:
            with connection:
                yield connection
        finally:
            self.connections.putconn(connection)

    @contextmanager
    def reading(self) -> Iterator[Transaction]:
        """A transaction that sees one snapshot, and writes nothing."""
        with self._connection(to_write=False) as connection:
            connection.execute("set transaction isolation level repeatable read, read only")
            found = Transaction(connection, self._occupancy, self._at_hand(), reads_only=True)
            try:
                yield found
            finally:
                self._remember(found)

    @contextmanager
    def alone(self) -> Iterator[Connection]:
        """A connection for one statement or two that need no snapshot."""
        with self._connection(to_write=False) as connection:
            yield connection

    def writing(self, work: Callable[[Transaction], T], alone: bool = False, author: Author = BARRIO) -> T:
        """Do work that draws numbers or changes pools, in one transaction under the pools' lock.

        Shared with others at first; when the work finds that pools change with it (`PoolsGrow`), again and alone. It is done
        again once when its connection is lost before anything was kept. Raises what the work raises, `Raced` when the
        database refused a number that looked free, and `Unreachable`, which says whether anything was saved.
        """
        for by_itself in (True,) if alone else (False, True):
            try:
                return self._twice(work, by_itself, author)
            except PoolsGrow:
                if by_itself:
                    raise
            except (errors.ExclusionViolation, errors.UniqueViolation) as error:
                self._occupancy.forget()
                raise Raced(error.diag.message_detail or str(error)) from error
        raise AssertionError("the second try either returns or raises")

    def _twice(self, work: Callable[[Transaction], T], alone: bool, author: Author) -> T:
        try:
            return self._write(work, alone, author)
        except _Lost:
            try:
                return self._write(work, alone, author)
            except _Lost as error:
                raise Unreachable(
                    "The database was lost meanwhile. Nothing was saved; try again in a moment."
                ) from error

    def _write(self, work: Callable[[Transaction], T], alone: bool, author: Author) -> T:
        found: Transaction | None = None
        try:
            with self._connection(to_write=True) as connection:
                found = Transaction(connection, self._occupancy, self._at_hand(), alone, author)
                try:
                    entries.lock_pools(connection, alone)
                    done = work(found)
                    row = connection.execute("select pg_current_xact_id_if_assigned()::text").fetchone()
                except OperationalError as error:
                    if connection.broken:
                        raise _Lost from error
                    raise
                self._commit(connection, row[0] if row else None)
        except BaseException:
            if found is not None and found.read_own_changes:
                # Runs were brought up to date with what is undone now.
                self._occupancy.forget()
            raise
        self._remember(found)
        return done

    def _commit(self, connection: Connection, number: str | None) -> None:
        """Commit; when the connection is lost in that very moment, find out whether it came to pass."""
        try:
            connection.commit()
        except OperationalError as error:
            if not connection.broken or number is None:
                raise
            end = self._end_of(number)
            if end == "committed":
                return
            if end == "aborted":
                raise _Lost from error
            raise Unreachable(
                "The database was lost in the very moment of saving, so it is not known whether this was saved. Look "
                "before you do it again: the history says."
            ) from error

    def _end_of(self, number: str) -> str:
        """How a transaction ended: committed, aborted, or not known."""
        until = time.monotonic() + 2 * PATIENCE
        while time.monotonic() < until:
            try:
                with self._connection(to_write=False) as connection:
                    row = connection.execute("select pg_xact_status(%s::xid8)", [number]).fetchone()
            except (Unreachable, OperationalError):
                return "not known"
            if row is not None and row[0] != "in progress":
                return str(row[0])
            time.sleep(0.02)
        return "not known"

    def _at_hand(self) -> Known:
        with self._guard:
            return self._known

    def _remember(self, found: Transaction) -> None:
        with self._guard:
            newer, known = found.shelf.version - self._known.shelf.version, self._known.office
            if newer > 0 or (newer == 0 and found.office_read[0] != known[0]):
                self._known = Known(found.shelf, self._known.compiled, found.office_read)
        for name, (version, compiled) in found.worked_out.items():
            self._known.compiled.keep(name, version, compiled)
