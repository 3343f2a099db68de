from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, sync_playwright

from tests.server import Server

CHROMIUM = [
    "--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
AXE = Path(__file__).parents[2] / "web/node_modules/axe-core/axe.min.js"


@pytest.fixture(scope="module")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        running = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        yield running
        running.close()


@pytest.fixture
def page(browser: Browser, server: Server) -> Iterator[Page]:
    """A page of 1280×800 on a server whose database is empty; an error in its console fails the test."""
    server.start()
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
    """axe finds no serious or critical fault on the page as it is now."""
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(250)
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']})")
    serious = [
        f"{fault['id']}: {fault['help']}: {[node['html'][:160] for node in fault['nodes'][:3]]}"
        for fault in found["violations"]
        if fault["impact"] in ("serious", "critical")
    ]
    assert serious == []
