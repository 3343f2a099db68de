"""Events: one ear on the database for each process, and everybody here who wants to know.

Nothing that is told carries more than what to look at again, so that nobody learns by it what they may not read. After the database
was lost, everybody is told to look at everything again.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from contextlib import suppress
from uuid import UUID

import psycopg

from barrio.store import events
from barrio.store.database import Connections

BEAT = 10.0
"""Seconds after which pages that are open are said to be so still."""
AGAIN = "again"


class Ear:
    """Listens on a connection of its own, from when the first one asks until it is closed."""

    def __init__(self, connections: Connections) -> None:
        self._connections = connections
        self._askers: dict[UUID, Callable[[str], None]] = {}
        self._guard, self._stop = threading.Lock(), threading.Event()
        self._heard = threading.Event()
        self._thread: threading.Thread | None = None

    def ask(self, stream: UUID, tell: Callable[[str], None]) -> None:
        """Be told what changes from now on: `fabric marlin`, `pools`, `catalogue`, `people`, `present marlin`, `again`."""
        with self._guard:
            self._askers[stream] = tell
            if self._thread is None:
                self._thread = threading.Thread(target=self._listen, name="ear", daemon=True)
                self._thread.start()
        self._heard.wait(5)

    def leave(self, stream: UUID) -> None:
        with self._guard:
            self._askers.pop(stream, None)

    def close(self) -> None:
        self._stop.set()
        if self._thread is not None:
            self._thread.join(3)

    def _listen(self) -> None:
        connection: psycopg.Connection | None = None
        lost, beat = False, time.monotonic()
        while not self._stop.is_set():
            try:
                if connection is None:
                    conninfo = self._connections.conninfo
                    connection = events.listen(conninfo() if callable(conninfo) else conninfo)
                    self._heard.set()
                    if lost:
                        self._pass_on(AGAIN)
                    lost = False
                for what in events.told(connection, 0.5):
                    self._pass_on(what)
                if time.monotonic() - beat >= BEAT:
                    beat = time.monotonic()
                    with self._guard:
                        streams = list(self._askers)
                    events.stay(connection, streams)
            except psycopg.Error:
                lost = True
                self._heard.clear()
                if connection is not None:
                    with suppress(psycopg.Error):
                        connection.close()
                connection = None
                self._stop.wait(0.3)
        if connection is not None:
            connection.close()

    def _pass_on(self, what: str) -> None:
        with self._guard:
            askers = list(self._askers.values())
        for tell in askers:
            tell(what)
