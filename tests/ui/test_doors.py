"""Other ways through the door, in a browser: a passkey of a device, and the office's provider."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from barrio.app.house import House
from barrio.app.rights import Role
from tests.people import PASSWORD, set_password_of_olmo, signed_in
from tests.provider import office
from tests.serving import Serving
from tests.ui.conftest import claim_accessible

KEY = {
    "protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True, "isUserVerified": True,
}  # fmt: skip


@pytest.fixture
def home(browser: Browser, server: Serving) -> Iterator[BrowserContext]:
    """A browser that opens Barrio by its name."""
    address = server.address.replace("127.0.0.1", "localhost")
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    context.set_default_timeout(15_000)
    yield context
    context.close()


def come_in(page: Page) -> None:
    page.goto("/me")
    page.get_by_label("Name").fill("olmo")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Come in").click()


@pytest.mark.long
def test_a_passkey_is_made_lets_in_and_is_taken_away(home: BrowserContext, server: Serving) -> None:
    set_password_of_olmo(server.house)
    page = home.new_page()
    device = home.new_cdp_session(page)
    device.send("WebAuthn.enable")
    device.send("WebAuthn.addVirtualAuthenticator", {"options": KEY})
    come_in(page)
    mine = page.get_by_role("region", name="Passkeys")
    mine.get_by_label("Called").fill("laptop")
    mine.get_by_label("Password").fill("not it at all")
    mine.get_by_role("button", name="Make a passkey").click()
    expect(mine.get_by_role("alert")).to_contain_text("another one")
    mine.get_by_label("Password").fill(PASSWORD)
    mine.get_by_role("button", name="Make a passkey").click()
    expect(mine.get_by_text("not used yet")).to_be_visible()
    claim_accessible(page)
    page.get_by_role("button", name=re.compile("own page, people")).click()
    page.get_by_role("button", name="Sign out", exact=True).click()
    come_in(page)
    expect(page.get_by_role("alert")).to_contain_text("Come in by your passkey")
    claim_accessible(page)
    page.get_by_role("button", name="a passkey").click()
    expect(mine.get_by_text(re.compile("made .*, used"))).to_be_visible()
    page.get_by_role("button", name="Take away passkey laptop").click()
    mine.get_by_label("Password").first.fill(PASSWORD)
    mine.get_by_role("button", name="Take laptop away").click()
    expect(mine.get_by_text("laptop")).to_have_count(0)
    page.get_by_role("button", name=re.compile("own page, people")).click()
    page.get_by_role("button", name="Sign out", exact=True).click()
    page.get_by_role("button", name="a passkey").click()
    expect(page.get_by_role("alert")).to_contain_text("not known here")


@pytest.mark.long
def test_the_office_s_provider_is_joined_lets_in_and_says_when_it_does_not(
    home: BrowserContext, server: Serving
) -> None:
    house: House = server.house
    signed_in(house, "teo", [(Role.READER, None)])
    set_password_of_olmo(house)
    with office() as provider:
        house.provider = provider.provider
        page = home.new_page()
        come_in(page)
        mine = page.get_by_role("region", name="Passkeys")
        mine.get_by_label("Password").last.fill(PASSWORD)
        mine.get_by_role("button", name="Join your account of Harbour office").click()
        expect(mine).to_contain_text("Harbour office knows you as ines")
        expect(page).to_have_url(re.compile("/me$"))
        claim_accessible(page)
        page.get_by_role("button", name=re.compile("own page, people")).click()
        page.get_by_role("button", name="Sign out", exact=True).click()
        page.goto("/record?from=1")
        page.get_by_role("button", name="Harbour office").click()
        expect(page.get_by_role("list", name="Acts")).to_contain_text("signed in by provider")
        expect(page).to_have_url(re.compile(r"/record\?from=1$"))
        home.clear_cookies()
        provider.person |= {"sub": "another", "preferred_username": "nobody"}
        page.goto("/")
        page.get_by_role("button", name="Harbour office").click()
        expect(page.get_by_role("heading")).to_contain_text("nobody called nobody here yet")
        assert "code=" not in page.url
        claim_accessible(page)
        page.reload()
        expect(page.get_by_role("heading")).to_contain_text("opened twice")
        provider.broken = {"/token_endpoint": (500, b"")}
        page.get_by_role("link", name="Sign in").click()
        page.get_by_role("button", name="Harbour office").click()
        expect(page.get_by_role("heading")).to_contain_text("does not answer as it should")
    house.provider = None
