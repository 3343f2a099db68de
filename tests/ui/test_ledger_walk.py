"""The ledger in the browser: spans, pins, sheets, the past, and one box that knows whose a number is."""

from __future__ import annotations

import re
from pathlib import Path

import httpx2
import pytest
from playwright.sync_api import Page, expect

from tests.serving import Serving
from tests.signed import BEARER
from tests.ui.test_walk import make_marlin


def drag(page: Page, strip: str, one: float, two: float) -> None:
    """Drag over a strip, from one share of its width to another."""
    box = page.get_by_role("group", name=re.compile(strip)).bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + one * box["width"], box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + two * box["width"], box["y"] + 8, steps=6)
    page.mouse.up()


@pytest.mark.long
def test_a_span_is_reserved_and_a_pool_is_cut_from_another(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/ledger?pool=office-segments")
    page.get_by_role("button", name="all of 10.72.0.0/16").click()
    page.wait_for_load_state("networkidle")
    drag(page, r"^10\.72\.0\.0.16", 0.5, 0.6)
    span = page.get_by_label("The span selected")
    expect(span).to_contain_text("none taken")
    span.get_by_role("button", name="Reserve it").click()
    page.keyboard.type("cameras on the pier")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Because")).to_contain_text("cameras on the pier")
    drag(page, r"^10\.72\.0\.0.16", 0.75, 0.85)
    span.get_by_role("button", name="Cut a pool").click()
    page.keyboard.type("pier-segments")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Pools")).to_contain_text("└ pier-segments")
    expect(page.get_by_label("Because")).to_contain_text("Cut from")
    page.get_by_role("button", name="Delete this pool").click()
    expect(page.get_by_label("Pools")).not_to_contain_text("pier-segments")


def test_numbers_are_pinned_by_hand_and_by_pasting_and_undone(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.context.grant_permissions(["clipboard-read", "clipboard-write"])
    page.goto("/f/marlin/ledger?pool=halls-loopback&number=10.60.0.17")
    because = page.get_by_label("Because")
    because.get_by_role("button", name="Pin it").click()
    because.get_by_label(re.compile("is to have")).fill("10.60.0.200")
    because.get_by_label("because", exact=True).fill("as the old plan had it")
    because.get_by_role("button", name="Pin it").click()
    expect(page.get_by_label("What the draft does")).to_contain_text(
        "pinned the loopback.v4 of leaf/r07/a to 10.60.0.200"
    )
    page.get_by_label("Find numbers").fill("leaf/r08/")
    rows = page.get_by_role("row").filter(has_text="loopback.v4").filter(has_text="held")
    expect(rows).to_have_count(2)
    rows.first.get_by_role("gridcell").first.click()
    page.evaluate("navigator.clipboard.writeText('10.60.0.208\\n10.60.0.209')")
    page.keyboard.press("Control+v")
    expect(page.get_by_label("Notices")).to_contain_text("2 numbers pinned")
    expect(rows.first).to_contain_text("10.60.0.208")
    page.get_by_label("Find numbers").fill("leaf/r09/a")
    expect(rows).to_have_count(1)
    rows.first.get_by_role("gridcell").first.click()
    page.evaluate("navigator.clipboard.writeText('10.60.0.208')")
    page.keyboard.press("Control+v")
    expect(page.get_by_label("Notices")).to_contain_text("cannot be the loopback of leaf/r09/a")
    page.get_by_label("What the draft does").get_by_role("button", name="Undo").click()
    page.get_by_label("Find numbers").fill("leaf/r08/a")
    expect(rows.first).to_contain_text("10.60.0.19")


def test_a_sheet_is_mended_and_then_taken_whole(page: Page, server: Serving, tmp_path: Path) -> None:
    make_marlin(server)
    sheet = tmp_path / "plan.csv"
    good = "Address,Device,Role,Comment\n10.60.0.200,leaf-r07a,loopback,from the old plan\n10.90.1.200,,,tape library\n"
    sheet.write_text(good + "10.60.0.300,leaf-r08a,loopback,mistyped\n")
    page.goto("/f/marlin/ledger/import")
    page.locator("input[type=file]").set_input_files(sheet)
    expect(
        page.get_by_role("row").filter(has_text="mistyped").or_(page.get_by_text("is not an address"))
    ).to_be_visible()
    expect(page.get_by_role("button", name="Mend the sheet first")).to_be_disabled()
    sheet.write_text(good)
    page.locator("input[type=file]").set_input_files(sheet)
    page.get_by_role("button", name="Take 2 rows").click()
    expect(page.get_by_label("Notices")).to_contain_text("2 rows taken")
    page.goto("/f/marlin/ledger?pool=halls-loopback&number=10.60.0.200")
    expect(page.get_by_label("Because")).to_contain_text("from the old plan")
    expect(page.get_by_label("Because")).to_contain_text("pinned by hand in the Ledger")
    page.get_by_role("link", name="All that it ever was").click()
    expect(page.get_by_role("main")).to_contain_text("held as loopback.v4 of leaf/r07/a in marlin, pinned")
    expect(page.get_by_role("main")).to_contain_text("took a sheet: 1 numbers pinned, 1 reserved")


@pytest.mark.long
def test_one_box_knows_whose_a_number_is_what_is_free_and_what_a_rack_owns(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/ledger")
    expect(page.get_by_label("Pools")).to_contain_text("First to run out")
    box = page.get_by_role("dialog")
    for words, says in (
        ("10.60.0.17", "loopback.v4 of leaf-r07a"),
        ("/22", "free in pool office-segments"),
        ("10.60.2.9", "free, in pool halls-loopback"),
    ):
        page.keyboard.press("Control+k")
        page.keyboard.type(words)
        expect(box).to_contain_text(says)
        page.keyboard.press("Escape")
    page.keyboard.press("Control+k")
    page.keyboard.type("r07")
    box.get_by_text("numbers of r07").click()
    grid = page.get_by_role("grid", name="Numbers of r07")
    expect(grid).to_contain_text("loopback.v4")
    owned = httpx2.get(f"{server.address}/api/v1/fabrics/marlin/numbers", headers=BEARER, params={"of": "r07"}).json()
    expect(page.get_by_label("Numbers of r07", exact=True).first).to_contain_text(f"{len(owned)} numbers")


@pytest.mark.long
def test_a_plan_is_changed_and_its_renumbering_seen_before_it_is_done(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/ledger?pool=office-private")
    because = page.get_by_label("Because")
    because.get_by_label("New numbers").select_option("by position")
    because.get_by_role("button", name="What would a renumbering move?").click()
    expect(page.get_by_label("Renumbering")).to_contain_text("4200066072")
    because.get_by_role("button", name=re.compile("Move 27 numbers")).click()
    expect(page.get_by_label("What the draft does")).to_contain_text("renumbered asn: 27 numbers")
    page.get_by_label("Find numbers").fill("leaf/r07/b")
    row = page.get_by_role("row").filter(has_text="leaf/r07/b").filter(has_text="held")
    expect(row).to_contain_text("4200066072")
