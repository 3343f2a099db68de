"""A browser for each worker, and pages on the worker's server."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from barrio.api.desk import COOKIE
from tests.serving import Serving
from tests.signed import SESSION

CHROMIUM = [
    "--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"

expect.set_options(timeout=20_000)

LEVELS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
STILL = """Promise.all(document.getAnimations()
    .filter((one) => Number.isFinite(one.effect.getComputedTiming().endTime)).map((one) => one.finished))"""
"""Comes true once nothing on a page moves."""


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
    context.add_cookies(
        [{"name": COOKIE, "value": SESSION, "url": server.address, "sameSite": "Strict", "httpOnly": True}]
    )
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
    found = page.evaluate(f"axe.run(document, {{runOnly: {LEVELS}, resultTypes: ['violations']}})")
    serious = [
        f"{fault['id']}: {fault['help']}: {[node['html'][:160] for node in fault['nodes'][:3]]}"
        for fault in found["violations"]
        if fault["impact"] in ("serious", "critical")
    ]
    assert serious == []
