"""Whether the database is there: asked twice a second, so that its loss is noticed at once and its reason can be said."""

from __future__ import annotations

import select
import threading
import time
from collections.abc import Callable
from contextlib import suppress

import psycopg
import structlog

from barrio.store.database import Connection

BEAT = 0.5
"""Seconds from one question to the next."""
LONGEST = 1.0
"""Seconds that an answer may take."""
PATIENCE = 2.0
"""Seconds for which a loss is ridden out before requests are told of it."""
log = structlog.get_logger()


class Pulse:
    """Asks one database on a connection of its own. `trouble` says what is known of why it does not answer."""

    def __init__(self, conninfo: str, trouble: Callable[[], str] = lambda: "", mend: Callable[[], None] = lambda: None):
        self._conninfo, self._trouble, self._mend = conninfo, trouble, mend
        self._why, self._since, self._answers = "", 0.0, True
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._beat, name="pulse", daemon=True)

    def __enter__(self) -> Pulse:
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._stop.set()
        self._thread.join()

    @property
    def why(self) -> str:
        """Why the database cannot be worked with now; empty when it can."""
        return self._why

    @property
    def answers(self) -> bool:
        """Whether it can be read all the same: a full disk hinders only who writes."""
        return self._answers

    @property
    def given_up(self) -> bool:
        """Whether the loss has lasted so long that nobody should wait for its end."""
        return bool(self._why) and time.monotonic() - self._since >= PATIENCE

    def _beat(self) -> None:
        connection: Connection | None = None
        while not self._stop.wait(BEAT):
            try:
                if connection is None:
                    connection = psycopg.connect(self._conninfo, connect_timeout=2, autocommit=True)
                _ask(connection)
                self._note(self._trouble(), answers=True)
            except (psycopg.Error, OSError) as error:
                if connection is not None:
                    connection.close()
                connection = None
                self._note(self._explained(error), answers=False)
                # What cannot be mended now is tried again at the next beat.
                with suppress(OSError):
                    self._mend()
        if connection is not None:
            connection.close()

    def _explained(self, error: psycopg.Error | OSError) -> str:
        try:
            return self._trouble() or _sentence(error)
        except OSError as other:
            return _sentence(other)

    def _note(self, why: str, answers: bool) -> None:
        if why and not self._why:
            self._since = time.monotonic()
            log.warning("database lost", why=why)
        elif self._why and not why:
            log.info("database back", seconds=round(time.monotonic() - self._since, 1))
        self._why, self._answers = why, answers


def _ask(connection: Connection) -> None:
    """Have an answer, and within the time that one may take: a server that hangs is lost as well."""
    link = connection.pgconn
    until = time.monotonic() + LONGEST
    link.send_query(b"select 1")
    while link.is_busy():
        if not select.select([link.socket], [], [], max(0.0, until - time.monotonic()))[0]:
            raise psycopg.OperationalError(f"no answer within {LONGEST:g} s")
        link.consume_input()
    while link.get_result():
        pass


def _sentence(error: psycopg.Error | OSError) -> str:
    """What the database's own library says of a loss, as one sentence without the address."""
    last = str(error).strip().splitlines()[-1].strip() if str(error).strip() else "it does not answer"
    return f"The database does not answer ({last.rstrip('.')})."
