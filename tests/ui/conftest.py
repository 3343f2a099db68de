"""A browser and a server for each worker; each test has a database of its own."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
import uvicorn
from playwright.sync_api import Browser, Page, sync_playwright

from barrio.api.app import make_app
from barrio.app.house import House
from barrio.store.database import Connections
from tests.database import Databases
from tests.server import until

CHROMIUM = [
    "--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"


STILL = """Promise.all(document.getAnimations()
    .filter((one) => Number.isFinite(one.effect.getComputedTiming().endTime)).map((one) => one.finished))"""
"""Comes true once nothing on a page moves."""


class Serving:
    """The application on a port, over one database after the other."""

    def __init__(self, databases: Databases) -> None:
        self._databases = databases
        self._pool: Connections | None = None
        self._app = make_app(None)
        self._port = 0
        self._thread: threading.Thread | None = None

    def start(self) -> None:
        """Listen, on the same port as before, with an empty database."""
        self.load()
        if self._thread is not None:
            return
        listener = socket.create_server(("127.0.0.1", self._port), backlog=64)
        self._port = listener.getsockname()[1]
        config = uvicorn.Config(self._app, log_level="warning", access_log=False, timeout_graceful_shutdown=1)
        self._server = uvicorn.Server(config)
        self._thread = threading.Thread(target=self._server.run, args=([listener],), daemon=True)
        self._thread.start()
        until(lambda: self._server.started)

    def load(self, *briefs: str) -> None:
        """Go on with a database that holds these fabrics and nothing else."""
        self.forget()
        self._pool = self._databases.fresh(*briefs)
        self._app.state.house = House(self._pool)

    def forget(self) -> None:
        if self._pool is not None:
            self._databases.drop(self._pool)
            self._pool = None

    def end(self) -> None:
        """Answer nobody any more."""
        if self._thread is not None:
            self._server.should_exit = True
            self._thread.join()
            self._thread = None

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self._port}"

    def client(self) -> httpx.Client:
        return httpx.Client(base_url=self.address, timeout=30)


@pytest.fixture(scope="session")
def serving(databases: Databases) -> Iterator[Serving]:
    one = Serving(databases)
    yield one
    one.end()
    one.forget()


@pytest.fixture
def server(serving: Serving) -> Serving:
    """The worker's server, with an empty database."""
    serving.start()
    return serving


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        running = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        yield running
        running.close()


@pytest.fixture
def page(browser: Browser, server: Serving) -> Iterator[Page]:
    """A page of 1280×800 on a server whose database is empty; an error in its console fails the test."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=server.address, accept_downloads=True
    )
    context.set_default_timeout(15_000)
    opened = context.new_page()
    errors: list[str] = []
    opened.on("pageerror", lambda error: errors.append(str(error)))
    yield opened
    context.close()
    assert errors == []


def claim_accessible(page: Page) -> None:
    """axe finds no serious or critical fault on the page as it is now, once nothing on it moves."""
    page.wait_for_load_state("networkidle")
    page.evaluate(STILL)
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']})")
    serious = [
        f"{fault['id']}: {fault['help']}: {[node['html'][:160] for node in fault['nodes'][:3]]}"
        for fault in found["violations"]
        if fault["impact"] in ("serious", "critical")
    ]
    assert serious == []
