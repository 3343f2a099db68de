"""A technician at the rack and an architect at the desk: what is ticked without a network arrives, and what was crossed is put right."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from barrio.app.rights import Role
from tests.people import signed_in
from tests.serving import Serving
from tests.ui.conftest import claim_accessible
from tests.ui.test_walk import make_marlin


@pytest.fixture
def phone(browser: Browser, server: Serving) -> Iterator[Page]:
    """A phone of Luz, a technician."""
    make_marlin(server)
    signed_in(server.house, "luz", [(Role.TECHNICIAN, "marlin")], called="Luz Ferrand")
    context = browser.new_context(viewport={"width": 390, "height": 844}, base_url=server.address)
    context.add_cookies([{"name": "barrio", "value": "session of luz", "url": server.address}])
    context.set_default_timeout(15_000)
    yield context.new_page()
    context.close()


def test_what_is_ticked_at_the_rack_without_a_network_is_seen_at_the_desk_once_it_is_there(
    phone: Page, page: Page
) -> None:
    page.goto("/f/marlin/cabling?rack=r07")
    expect(page.get_by_text("0 of 328 laid")).to_be_visible()
    phone.goto("/f/marlin/work")
    phone.get_by_role("button", name=re.compile("^r07")).click()
    phone.get_by_role("checkbox", name="M-0109 is laid").wait_for()
    phone.evaluate("navigator.serviceWorker.ready.then(() => undefined)")
    phone.reload()
    phone.get_by_role("checkbox", name="M-0109 is laid").wait_for()
    claim_accessible(phone)
    assert phone.evaluate("document.documentElement.scrollWidth") == 390

    phone.context.set_offline(True)
    phone.get_by_role("checkbox", name="M-0109 is laid").check()
    phone.get_by_label(re.compile("Label of a cable")).fill("M-0110")
    phone.keyboard.press("Enter")
    phone.get_by_label(re.compile("Measured length")).fill("12.6")
    phone.keyboard.press("Enter")
    expect(phone.get_by_text("2 deeds on this device wait for the network")).to_be_visible()
    expect(page.get_by_text("0 of 328 laid")).to_be_visible()
    # A page that is loaded anew has a network for a moment, whatever its browser was told.
    phone.reload()
    expect(phone.get_by_role("checkbox", name="M-0109 is laid")).to_be_checked()

    phone.context.set_offline(False)
    expect(phone.get_by_text("on this device")).to_have_count(0)
    expect(page.get_by_text("1 of 328 laid")).to_be_visible()
    expect(page.get_by_role("row").filter(has_text="M-0110")).to_contain_text("12.6")
    page.get_by_role("gridcell", name="M-0109", exact=True).click()
    expect(page.get_by_label("Because")).to_contain_text(re.compile("laid by Luz"))


@pytest.mark.long
def test_a_crossed_pair_is_found_and_the_moves_are_told(page: Page, server: Serving) -> None:
    make_marlin(server)
    with server.client() as client:
        cables = [row for row in client.get("/api/v1/fabrics/marlin/cables").json() if row["speed"] == 100]
    far = [f"{row['b_switch']} {row['b_port']}" for row in cables]
    far[30], far[46] = far[46], far[30]
    page.goto("/f/marlin/cabling?view=check")
    table = "\n".join(f"{row['a_switch']} {row['a_port']} {there}" for row, there in zip(cables, far, strict=True))
    page.get_by_label(re.compile("What the switches hear")).fill(table)
    page.get_by_role("button", name="Hold against the plan").click()
    expect(page.get_by_text("Put right by moving 2 plugs")).to_be_visible()
    expect(page.get_by_label("Neighbours")).to_contain_text("and let it hang")
    claim_accessible(page)
    page.get_by_role("button", name="To order and to print").click()
    expect(page.get_by_label("To order")).to_contain_text("aoc-100")
    claim_accessible(page)


@pytest.mark.long
def test_two_leaves_in_each_others_place_are_taken_into_the_plan_and_undo_takes_that_back(
    page: Page, server: Serving
) -> None:
    make_marlin(server)
    with server.client() as client:
        cables = [row for row in client.get("/api/v1/fabrics/marlin/cables").json() if row["speed"] == 100]
    swap = {"leaf-r03a": "leaf-r03b", "leaf-r03b": "leaf-r03a"}
    table = "\n".join(
        f"{swap.get(row['a_switch'], row['a_switch'])} {row['a_port']} {row['b_switch']} {row['b_port']}"
        for row in cables
    )
    page.goto("/f/marlin/cabling?view=check")
    page.get_by_label(re.compile("What the switches hear")).fill(table)
    page.get_by_role("button", name="Hold against the plan").click()
    page.get_by_role("button", name="Let the plan follow the cables").click()
    expect(page.get_by_text("All that was heard lies as planned.")).to_be_visible()
    expect(page.get_by_text("16 cables with other ends")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("Put right by moving 16 plugs")).to_be_visible()


@pytest.mark.long
def test_a_label_that_is_older_than_the_plan_leads_to_words_and_back(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/cabling?cable=M-9999")
    expect(page.get_by_text("There is no cable M-9999")).to_be_visible()
    claim_accessible(page)
    page.get_by_role("link", name="Show all cables").click()
    expect(page.get_by_text("Choose a cable or a rack")).to_be_visible()
