"""A person's way through Barrio, in a real browser on an empty database."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path

import httpx2
import pytest
from playwright.sync_api import Page, expect

from tests.conftest import EXAMPLES
from tests.signed import BEARER
from tests.ui.conftest import Serving, claim_accessible

MARLIN, PELICAN, TERN = (path.read_text() for path in EXAMPLES)


def sums(page: Page) -> str:
    return page.get_by_label("Sums").inner_text()


def make_marlin(server: Serving) -> None:
    server.load(MARLIN, TERN)


def test_from_nothing_to_a_bundle(page: Page, server: Serving) -> None:
    """Make a fabric, add racks, change a count, see the sums move, ask a line why, take the bundle, undo."""
    page.goto("/")
    expect(page.get_by_text("No fabric is here yet")).to_be_visible()
    page.get_by_role("button", name="New fabric").click()
    page.get_by_label("Name, short and lower case").fill("pelican")
    page.get_by_label("Title, for people").fill("Pelican, the radar hall")
    page.get_by_role("button", name="Make the fabric").click()
    expect(page).to_have_url(f"{server.address}/f/pelican/brief")

    page.get_by_role("button", name="Add the first racks").click()
    page.get_by_label("Racks", exact=True).fill("r01..r04")
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_label("Sums")).to_contain_text("8 of 32")
    expect(page.get_by_label("Sums")).to_contain_text("6 : 1")

    page.get_by_role("button", name="2", exact=True).first.click()
    page.get_by_role("button", name="4 spines").click()
    expect(page.get_by_label("Sums")).to_contain_text("3 : 1")
    expect(page.get_by_label("What the draft does")).to_contain_text("2 new switches")
    expect(page.get_by_label("What the draft does")).to_contain_text("16 cables to lay")
    expect(page.locator(".word.changed").first).to_have_text("4")

    page.get_by_role("link", name="Configs").click()
    page.get_by_role("button", name="leaf-r02a").click()
    page.get_by_role("button", name="router bgp").click()
    because = page.get_by_label("Because")
    expect(because).to_contain_text("ASN")
    expect(because).to_contain_text("lowest free when it was taken")
    expect(because).to_contain_text("RFC 6996")

    with page.expect_download() as saved:
        page.get_by_role("button", name="Download bundle").click()
    with zipfile.ZipFile(io.BytesIO(Path(saved.value.path()).read_bytes())) as bundle:
        manifest = json.loads(bundle.read("manifest.json"))
        assert manifest["counts"]["switches"] == 12 and manifest["counts"]["cables"] == 32
        shown = (
            page.get_by_label("etc/frr/frr.conf")
            .get_by_role("button", name="router bgp")
            .locator("span")
            .nth(1)
            .inner_text()
        )
        assert shown in bundle.read("switches/leaf-r02a/etc/frr/frr.conf").decode()

    page.get_by_role("link", name="Brief").click()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_label("Sums")).to_contain_text("6 : 1")
    page.keyboard.press("Control+Shift+z")
    expect(page.get_by_label("Sums")).to_contain_text("3 : 1")


def test_a_word_refuses_what_cannot_be_and_keeps_the_draft(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/brief")
    before = sums(page)
    page.get_by_role("button", name="12", exact=True).click()
    page.get_by_label("0 racks …").or_(page.get_by_role("textbox")).first.fill("40")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Cantera C64 has 64")
    page.keyboard.press("Escape")
    assert sums(page) == before


@pytest.mark.long
def test_two_tabs_never_overwrite_each_other(page: Page, server: Serving) -> None:
    """The second tab is told, sees the newer draft, and its stale edit is refused."""
    make_marlin(server)
    page.goto("/f/marlin/brief?text=1")
    editor = page.get_by_label("The brief as YAML")
    editor.click()
    page.keyboard.press("Control+Home")
    page.keyboard.type("# mine\n")
    other = page.context.new_page()
    other.goto("/f/marlin/brief")
    other.get_by_role("button", name="9216").click()
    other.get_by_role("textbox").fill("9100")
    other.keyboard.press("Enter")
    expect(other.get_by_label("What the draft does")).to_contain_text("MTU 9100")

    expect(page.get_by_label("Notices")).to_contain_text("changed in another window")
    expect(page.get_by_label("Notices")).to_contain_text("MTU 9100")
    expect(editor).to_contain_text("# mine")
    page.keyboard.press("Control+s")
    expect(page.get_by_label("Notices")).to_contain_text("Your text was made from an older draft")
    text = httpx2.get(f"{server.address}/api/v1/fabrics/marlin", headers=BEARER).json()["text"]
    assert "mtu: 9100" in text and "# mine" not in text


def test_text_and_prose_are_one_document(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/tern/brief")
    expect(page.get_by_label("Sums")).to_be_visible()
    page.keyboard.press("t")
    page.get_by_label("The brief as YAML").click()
    page.keyboard.press("Control+Home")
    page.keyboard.type("oops: [\n")
    expect(page.get_by_role("status")).to_contain_text("Line ")
    page.get_by_role("link", name="Cabling").click()
    expect(page.get_by_label("Notices")).to_contain_text("This is not YAML")
    page.goto("/f/tern/brief?text=1")
    expect(page.get_by_label("The brief as YAML")).to_contain_text("oops: [")
    page.get_by_label("The brief as YAML").click()
    page.keyboard.press("Control+a")
    page.keyboard.insert_text(TERN.replace("count: 2", "count: 3"))
    page.get_by_role("link", name="Ledger").click()
    page.get_by_role("link", name="Brief").click()
    expect(page.get_by_label("Brief", exact=True)).to_contain_text("3 spines")
    expect(page.get_by_label("What the draft does")).to_contain_text("edited as text")


@pytest.mark.long
def test_search_opens_a_switch_a_cable_and_a_number(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/brief")
    expect(page.get_by_label("Sums")).to_be_visible()
    crossing = httpx2.get(
        url=f"{server.address}/api/v1/fabrics/marlin/crossing?one=spine-2&other=leaf-r05b",
        headers=BEARER,
    ).json()
    link = crossing["links"][0]
    for words, place in (
        ("leaf-r09a", "/configs/leaf-r09a"),
        (link["label"], f"/cabling?cable={link['label']}"),
        (link["v4"].split("/")[0], "/ledger?pool=halls-p2p&number="),
    ):
        page.keyboard.press("Control+k")
        page.get_by_role("combobox").fill(words)
        page.get_by_role("option").filter(has_text=words).first.wait_for()
        page.keyboard.press("Enter")
        page.wait_for_url(lambda url, place=place: place in url)
        expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.get_by_label("Because")).to_contain_text(link["v4"])


@pytest.mark.long
def test_the_weave_is_moved_through_by_keys_and_kept_in_the_address(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/brief")
    weave = page.get_by_role("application")
    weave.focus()
    for key in ("ArrowRight", "ArrowRight", "ArrowDown", "ArrowDown"):
        page.keyboard.press(key)
    expect(page.get_by_label("Because")).to_contain_text("spine-2 and leaf-r02a")
    page.reload()
    expect(page.get_by_label("Because")).to_contain_text("spine-2 and leaf-r02a")
    box = weave.bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 80, box["y"] + 82)
    expect(page.get_by_label("Because")).to_contain_text("leaf-r01a")


@pytest.mark.long
def test_a_range_of_cables_is_copied_as_a_sheet_pastes_it(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.goto("/f/tern/cabling")
    page.get_by_role("gridcell", name="T-0001").click()
    for key in ("Shift+ArrowDown", "Shift+ArrowRight", "Shift+ArrowRight", "Shift+ArrowRight"):
        page.keyboard.press(key)
    page.keyboard.press("Control+c")
    assert page.evaluate("navigator.clipboard.readText()") == "T-0001\tt01\t42\tleaf-t01\nT-0002\tt01\t42\tleaf-t01"


@pytest.mark.parametrize(
    "theme", [pytest.param("dark", marks=pytest.mark.long), pytest.param("light", marks=pytest.mark.long)]
)
def test_axe_finds_no_serious_fault_on_any_screen(page: Page, server: Serving, theme: str) -> None:
    page.goto("/")
    claim_accessible(page)
    make_marlin(server)
    page.evaluate(f"localStorage.setItem('theme', '{theme}')")
    for path in (
        "/", "/f/marlin/brief", "/f/marlin/brief?spine=spine-3&leaf=leaf-r07b", "/f/marlin/brief?text=1",
        "/f/marlin/ledger?pool=halls-p2p", "/f/marlin/segments?rack=r05", "/f/marlin/configs/leaf-r07b?line=15", "/f/marlin/cabling?cable=M-0001",
    ):  # fmt: skip
        page.goto(path)
        claim_accessible(page)
    page.goto("/f/marlin/brief")
    page.get_by_role("button", name="12", exact=True).click()
    page.get_by_text("13 racks").wait_for()
    claim_accessible(page)
    page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.get_by_role("combobox").wait_for()
    claim_accessible(page)
