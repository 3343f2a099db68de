"""Staging in a browser: boxes are scanned, switches knock and are let in, a wave goes through while one looks on, and at the rack it is done on a phone."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from barrio.app import drafts, editions
from barrio.app.desk import Desk
from barrio.staging.simulate import Light, run_all
from tests.people import without_review
from tests.serving import Serving
from tests.staging.conftest import NAMES, TERN
from tests.ui.conftest import claim_accessible


@pytest.mark.long
def test_from_scanned_boxes_to_switches_that_are_handed_over(
    page: Page, server: Serving, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name, seconds in (("LATER", 0.1), ("SOON", 0.1), ("SELDOM", 0.5), ("SETTLES", 0)):
        monkeypatch.setattr(f"barrio.app.turns.{name}", seconds)
    desk = Desk(server.house)
    drafts.create(desk, TERN)
    without_review(server.house, "tern")
    page.goto("/f/tern/staging")
    expect(page.get_by_text("Seal one.")).to_be_visible()
    editions.seal(desk, "tern", drafts.version(desk, "tern"), "as cabled")
    page.reload()
    page.get_by_role("button", name="Scan boxes").click()
    field = page.get_by_label("Serial number or MAC address")
    for name in NAMES:
        expect(page.get_by_role("list", name="The roll call")).to_be_visible()
        field.fill(f"S/N U-{name}")
        page.keyboard.press("Enter")
        expect(page.get_by_role("status").get_by_text(f"is S/N U-{name}")).to_be_visible()
    expect(page.get_by_text("Every switch has its box.")).to_be_visible()
    claim_accessible(page)
    page.get_by_role("button", name="Leave off").click()

    page.set_viewport_size({"width": 390, "height": 800})
    lights = [Light(server.address, tmp_path / name, {"serial": f"U-{name}".upper()}) for name in NAMES]
    stop = threading.Event()
    running = threading.Thread(target=run_all, args=(lights, stop, len(lights), 0.2), daemon=True)
    running.start()
    try:
        page.get_by_role("button", name="Let all 6 in that are as expected").click()
        expect(page.get_by_text("let in", exact=True)).to_have_count(6)
        wide = page.evaluate("document.documentElement.scrollWidth")
        assert wide <= 390, "nothing reaches out of a phone's window"
        page.get_by_role("button", name="leaf-t02").click()
        expect(page.get_by_role("button", name="‹ the roll call")).to_be_visible()
        claim_accessible(page)
        page.get_by_role("button", name="‹ the roll call").click()

        page.set_viewport_size({"width": 1280, "height": 800})
        page.get_by_role("button", name="Stage…").click()
        page.get_by_role("button", name="Begin").click()
        expect(page.get_by_text("6 switches were handed over")).to_be_visible(timeout=60_000)
        expect(page.get_by_text("is handed over")).to_have_count(6)
        page.get_by_role("button", name="leaf-t02").click()
        page.get_by_label("Because").get_by_text("vtysh --dryrun").click()
        claim_accessible(page)
    finally:
        stop.set()
        running.join(20)
