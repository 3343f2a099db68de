"""The application on a real port, one server for each worker, over one database after the other."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator

import httpx2
import pytest
import uvicorn

from barrio.api.app import make_app
from barrio.app.house import House
from barrio.store.database import Connections
from tests.database import Databases
from tests.processes import until
from tests.signed import BEARER


class Serving:
    """The application on a port, over one database after the other."""

    def __init__(self, databases: Databases) -> None:
        self._databases = databases
        self._pool: Connections | None = None
        self.app = make_app(None)
        self._port = 0
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        """Listen, on the same port as before, with an empty database."""
        self.load()
        if self._thread is not None:
            return
        listener = socket.create_server(("127.0.0.1", self._port), backlog=64)
        self._port = listener.getsockname()[1]
        config = uvicorn.Config(self.app, log_level="warning", access_log=False, timeout_graceful_shutdown=1)
        self._server = uvicorn.Server(config)
        self._thread = threading.Thread(target=self._server.run, args=([listener],), daemon=True)
        self._thread.start()
        until(lambda: self._server.started)

    def load(self, *briefs: str) -> None:
        """Go on with a database that holds these fabrics and nothing else."""
        self.use(self._databases.fresh(*briefs))

    def use(self, pool: Connections) -> None:
        """Go on with this database; it goes when another takes its place."""
        self.forget()
        self._pool = pool
        self.app.state.house = House(pool)

    @property
    def house(self) -> House:
        found: House = self.app.state.house
        return found

    def release(self) -> Connections:
        """Have nothing to do any more with the database, which stays."""
        assert self._pool is not None
        pool, self._pool = self._pool, None
        self.house.ear.close()
        return pool

    def forget(self) -> None:
        if self._pool is not None:
            self._databases.drop(self.release())

    def end(self) -> None:
        """Answer nobody any more."""
        if self._thread is not None:
            self._server.should_exit = True
            self._thread.join()
            self._thread = None

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self._port}"

    def client(self) -> httpx2.Client:
        return httpx2.Client(base_url=self.address, timeout=30, headers=BEARER)


@pytest.fixture(scope="session")
def serving(databases: Databases) -> Iterator[Serving]:
    one = Serving(databases)
    yield one
    one.end()
    one.forget()
