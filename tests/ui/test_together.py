"""Two people in one fabric: each sees the other, what the other changes, and is asked when both change one word."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from barrio.app.rights import Role
from tests.people import signed_in
from tests.serving import Serving
from tests.ui.test_walk import make_marlin


@pytest.fixture
def hers(browser: Browser, server: Serving) -> Iterator[Page]:
    """A page of Ines, an architect, in a browser of her own."""
    make_marlin(server)
    signed_in(server.house, "ines", [(Role.ARCHITECT, None)], called="Ines Marrero")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
    context.add_cookies([{"name": "barrio", "value": "session of ines", "url": server.address}])
    context.set_default_timeout(15_000)
    yield context.new_page()
    context.close()


@pytest.mark.long
def test_two_architects_work_in_one_fabric_at_once(hers: Page, page: Page) -> None:
    hers.goto("/f/marlin/brief")
    page.goto("/f/marlin/brief")
    expect(page.get_by_label("Also here")).to_contain_text("Ines Marrero, at brief")
    expect(hers.get_by_label("Also here")).to_contain_text("Olmo, at brief")

    # She opens a word; he sees at which one she is.
    hers.get_by_role("button", name="9216").click()
    expect(page.get_by_role("button", name="9216")).to_have_attribute("title", "Ines Marrero is at this word")

    # He changes another word meanwhile; she sees it, and hers is saved beside it.
    page.get_by_role("button", name="4", exact=True).first.click()
    page.get_by_role("button", name="3 spines").click()
    expect(hers.get_by_label("Notices")).to_contain_text("3 spines")
    hers.get_by_label(re.compile("MTU")).fill("9100")
    hers.keyboard.press("Enter")
    expect(hers.get_by_label("What the draft does")).to_contain_text("9100")
    expect(page.get_by_role("button", name="9100")).to_be_visible()
    expect(hers.get_by_role("button", name="3", exact=True).first).to_be_visible()


@pytest.mark.long
def test_who_is_at_which_row_is_marked_on_the_others_sheets(hers: Page, page: Page) -> None:
    page.goto("/f/marlin/cabling")
    hers.goto("/f/marlin/cabling")
    hers.get_by_role("row").filter(has_text="leaf-r01b").first.click()
    at = page.get_by_role("row").filter(has_text="leaf-r01b").first
    expect(at).to_have_attribute("title", "Ines Marrero is at this row")
    expect(page.get_by_label("Also here")).to_contain_text("at cable")
    hers.goto("/f/marlin/configs/leaf-r02a")
    expect(at).not_to_have_attribute("title", re.compile("."))
    page.goto("/f/marlin/configs/leaf-r01a")
    beside = page.get_by_role("navigation", name="Switches").get_by_role("button", name="leaf-r02a")
    expect(beside).to_have_attribute("title", "Ines Marrero looks at it too")


@pytest.mark.long
def test_of_one_word_the_second_is_shown_the_firsts_and_asked(hers: Page, page: Page, server: Serving) -> None:
    hers.goto("/f/marlin/brief")
    hers.get_by_role("button", name="9216").click()
    # She heard nothing of it yet when she presses Enter: her stream is cut.
    hers.route("**/api/v1/fabrics/marlin", lambda route: route.abort())
    hers.route("**/api/v1/fabrics/marlin/version", lambda route: route.abort())
    with server.client() as client:
        edit = {"version": 1, "edits": [["underlay.mtu", 9000]], "note": "MTU 9000"}
        lower = [["overlay.host_mtu", 8900], *edit["edits"]]
        client.post("/api/v1/fabrics/marlin/edits", json=edit | {"edits": lower}).raise_for_status()
    hers.get_by_label(re.compile("MTU")).fill("9100")
    hers.keyboard.press("Enter")
    expect(hers.get_by_role("alert")).to_contain_text("Olmo changed this meanwhile (“MTU 9000”). It says 9000 now.")
    hers.unroute_all()
    with hers.expect_response("**/api/v1/fabrics/marlin"):
        hers.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
        hers.reload()
    hers.get_by_role("button", name="9000").click()
    hers.get_by_label(re.compile("MTU")).fill("9100")
    hers.keyboard.press("Enter")
    expect(hers.get_by_label("What the draft does")).to_contain_text("9100")
