"""From a draft to an edition by two people in two browsers, and back, in a real browser."""

from __future__ import annotations

import pytest
from playwright.sync_api import Browser, Page, expect

from barrio.api.desk import COOKIE
from barrio.app import people
from barrio.app.desk import Desk
from barrio.app.rights import Role
from tests.api.conftest import TERN
from tests.people import signed_in
from tests.ui.conftest import Serving, claim_accessible


def teo(browser: Browser, server: Serving) -> Page:
    """Somebody else, who may agree, in a browser of his own."""
    signed_in(server.house, "teo", [(Role.REVIEWER, None)], "Teo Bandrich")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
    context.add_cookies(
        [{"name": COOKIE, "value": "session of teo", "url": server.address, "sameSite": "Strict", "httpOnly": True}]
    )
    return context.new_page()


@pytest.mark.long
def test_a_draft_is_offered_commented_agreed_to_sealed_and_brought_back(
    page: Page, browser: Browser, server: Serving
) -> None:
    server.load(TERN)
    people.everybody(Desk(server.house))
    his = teo(browser, server)
    page.goto("/f/tern/editions")
    expect(page.get_by_text("There is no edition yet.")).to_be_visible()
    page.get_by_label("What it is, in a sentence").fill("The archive hall as cabled")
    page.get_by_role("button", name="Offer for review").click()
    expect(page.get_by_text("0 of 1 agree to what it is now.")).to_be_visible()

    his.goto("/")
    expect(his.get_by_label("Waits for you")).to_contain_text("tern: The archive hall as cabled")
    his.get_by_role("link", name="tern: The archive hall as cabled").click()
    expect(his.get_by_text("6 cables to lay").or_(his.get_by_text("8 cables to lay"))).to_be_visible()
    his.get_by_role("button", name="Agree", exact=True).click()
    expect(page.get_by_role("heading", name="1 of 1")).to_be_visible()
    page.get_by_role("button", name="Seal the edition").click()
    expect(page.get_by_role("button", name="edition 1")).to_be_visible()
    expect(page.get_by_label("What the draft does")).to_contain_text("As edition 1")

    page.goto("/f/tern/brief")
    page.get_by_role("button", name="300 ms").click()
    page.get_by_role("textbox", name="BFD").or_(page.locator("input:focus")).first.fill("100")
    page.keyboard.press("Enter")
    expect(page.get_by_label("What the draft does")).to_contain_text("6 switches, +12 −0 lines")
    page.get_by_label("What the draft does").get_by_role("link").click()
    expect(page.get_by_text("the same 2 lines on 6 switches")).to_be_visible()
    page.get_by_label("What it is, in a sentence").fill("A quicker BFD")
    page.get_by_role("button", name="Offer for review").click()

    his.goto("/f/tern/editions")
    his.get_by_role("button", name="receive-interval 100").click()
    his.get_by_label("Comment on receive-interval 100").fill("Can the router do it?")
    his.keyboard.press("Enter")
    expect(page.get_by_text("Can the router do it?")).to_be_visible()
    page.get_by_role("button", name="answer").click()
    page.get_by_label("Answer Teo Bandrich").fill("It can.")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="settled").click()
    his.get_by_role("button", name="Agree", exact=True).click()
    expect(page.get_by_text("Nothing is lacking.")).to_be_visible()
    claim_accessible(page)
    page.get_by_role("button", name="Seal the edition").click()
    expect(page.get_by_role("button", name="edition 2")).to_be_visible()

    page.get_by_role("button", name="edition 2").click()
    page.get_by_role("button", name="File by file").click()
    page.get_by_role("button", name="etc/frr/frr.conf").click()
    expect(page.get_by_text("transmit-interval 100")).to_be_visible()
    claim_accessible(page)
    page.get_by_role("button", name="edition 1", exact=False).last.click()
    page.get_by_role("button", name="Go back to edition 1").click()
    expect(page.get_by_label("What the draft does")).to_contain_text("6 switches, +0 −12 lines")
    his.context.close()


def test_a_deleted_fabric_is_counted_first_and_comes_back(page: Page, server: Serving) -> None:
    server.load(TERN)
    page.goto("/")
    page.get_by_label("Delete tern").click(force=True)
    expect(page.get_by_text("6 switches, ")).to_be_visible()
    page.get_by_role("dialog").get_by_role("textbox").fill("tern")
    page.get_by_role("button", name="Delete the fabric").click()
    expect(page.get_by_label("Deleted")).to_contain_text("Tern, the archive hall")
    page.get_by_role("button", name="Bring it back").click()
    expect(page.get_by_text("tern is back as it was.")).to_be_visible()
    page.goto("/f/tern/brief")
    expect(page.get_by_text("Tern, the archive hall").first).to_be_visible()


@pytest.mark.long
def test_every_call_has_a_reference_and_is_shown_as_one_makes_it(page: Page, server: Serving) -> None:
    server.load(TERN)
    page.goto("/reference")
    page.get_by_label("Find a call").fill("ripple")
    page.get_by_role("button", name="GET /api/v1/fabrics/{name}/ripple What").click()
    expect(page.get_by_label("Because")).to_contain_text("Bearer $BARRIO_TOKEN")
    claim_accessible(page)
    page.goto("/f/tern/brief")
    expect(
        page.get_by_role("heading", name="Tern, the archive hall").or_(page.get_by_text("Tern, the archive hall")).first
    ).to_be_visible()
    page.keyboard.press("Control+k")
    page.keyboard.type("show the api")
    page.get_by_text("Show the API calls of this page").click()
    page.get_by_role("button", name="/api/v1/fabrics/tern/weave").click()
    expect(page.get_by_role("dialog")).to_contain_text("curl")
