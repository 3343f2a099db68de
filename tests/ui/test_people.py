"""The door and what is behind it, walked through in a browser: from the first person to somebody who may only look."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from barrio.app import links
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.store.database import bring_up_to_date, connect
from tests.database import Databases
from tests.people import signed_in
from tests.serving import Serving
from tests.ui.conftest import claim_accessible
from tests.ui.test_walk import make_marlin

WORDS = "four words for a harbour"


@pytest.fixture
def stranger(browser: Browser, server: Serving) -> Iterator[Page]:
    """A page of a browser that was never here."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
    context.set_default_timeout(15_000)
    yield context.new_page()
    context.close()


@pytest.mark.long
def test_from_the_first_start_to_a_reader_who_is_let_in_and_out_again(
    stranger: Page, browser: Browser, server: Serving, databases: Databases
) -> None:
    """The first person moves in, adds somebody, shares a fabric with them, sees it in the record, and takes it back."""
    pool = connect(databases.of(databases.named()))
    bring_up_to_date(pool)
    server.use(pool)
    page = stranger
    page.goto(f"/enter#{links.first_link(House(pool))}")
    page.get_by_label("Called").fill("Olmo Reyes")
    page.get_by_label("Name").fill("olmo")
    page.get_by_label("Password").fill(WORDS)
    claim_accessible(page)
    page.get_by_role("button", name="Move in").click()
    expect(page.get_by_text("No fabric is here yet")).to_be_visible()
    page.evaluate(
        """text => fetch('/api/v1/fabrics', {method: 'POST', headers: {'Content-Type': 'application/json'},
                     body: JSON.stringify({text})})""",
        "fabric: gull\nspines: {count: 2}\nracks: [{racks: r1..r2}]\n",
    )
    page.goto("/people")
    page.get_by_role("button", name="Add somebody").click()
    page.get_by_label("They are called").fill("Lucia Ferrand")
    page.get_by_label("and sign in as").fill("lucia")
    page.keyboard.press("Enter")
    link = page.get_by_text(re.compile("/enter#")).inner_text()
    page.keyboard.press("Escape")
    claim_accessible(page)
    page.goto("/f/gull/brief")
    page.get_by_role("button", name="Share").click()
    page.get_by_role("button", name="Lucia Ferrand lucia").click()
    expect(page.get_by_label("Notices")).to_contain_text("lucia is reader of gull now")

    with browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address) as context:
        hers = context.new_page()
        hers.goto(link)
        hers.get_by_label("New password").fill("a lamp beside the slipway")
        hers.get_by_role("button", name="Come in").click()
        hers.get_by_role("link", name=re.compile("gull")).click()
        expect(hers.get_by_text("Olmo Reyes may change the brief of gull; you look on.")).to_be_visible()
        expect(hers.get_by_role("button", name="2", exact=True).first).to_be_disabled()
        expect(hers.get_by_role("button", name="Share")).to_have_count(0)
        page.reload()
        page.get_by_role("button", name="Share").click()
        page.get_by_role("button", name="Take reader from lucia").click()
        expect(page.get_by_role("button", name="Take reader from lucia")).to_have_count(0)
        hers.reload()
        expect(hers.get_by_role("heading")).to_contain_text("You may not see gull. Olmo Reyes can.")
        hers.goto("/")
        hers.get_by_role("button", name=re.compile("Lucia Ferrand")).click()
        hers.get_by_role("button", name="Sign out", exact=True).click()
        expect(hers.get_by_role("heading", name="Who is there?")).to_be_visible()

    page.goto("/record")
    expect(page.get_by_role("list", name="Acts")).to_contain_text("role taken away: reader of gull from lucia")
    page.get_by_text("draft saved").click()
    expect(page.get_by_label("Because")).to_contain_text("+ fabric: gull")
    claim_accessible(page)


def test_a_session_that_ended_shows_the_door_and_the_same_address_behind_it(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/ledger")
    expect(page.get_by_role("link", name="Ledger")).to_be_visible()
    page.context.clear_cookies()
    # What the page was still asking for, or the next step that it is turned to, finds nobody signed in.
    page.keyboard.press("3")
    expect(page.get_by_role("heading", name="Who is there?")).to_be_visible()
    claim_accessible(page)
    house: House = server.house
    signed_in(house, "ines", [(Role.READER, None)])
    page.context.add_cookies([{"name": "barrio", "value": "session of ines", "url": server.address}])
    page.reload()
    expect(page.get_by_role("heading", name="Who is there?")).to_have_count(0)
    expect(page).to_have_url(re.compile("/f/marlin/(ledger|segments)"))


@pytest.mark.parametrize("theme", ["light", pytest.param("dark", marks=pytest.mark.long)])
@pytest.mark.parametrize(
    "path", ["/me", *(pytest.param(path, marks=pytest.mark.long) for path in ("/people?person=olmo", "/record"))]
)
def test_axe_finds_nothing_serious_on_the_screens_about_people(
    page: Page, server: Serving, path: str, theme: str
) -> None:
    page.add_init_script(f"localStorage.setItem('theme', '{theme}')")
    page.goto(path)
    expect(page.get_by_role("button", name=re.compile("Olmo: own page"))).to_be_visible()
    claim_accessible(page)
