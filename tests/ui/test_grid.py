"""The grid of ports and segments in a browser: keys, ranges, fills, hosts by name, the clipboard of a sheet, and undo as one step."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.core.test_attach import HALL, HOSTS
from tests.serving import Serving
from tests.ui.conftest import claim_accessible

PASTE = """text => { const event = new ClipboardEvent('paste', {bubbles: true, cancelable: true, clipboardData: new DataTransfer()});
    event.clipboardData.setData('text/plain', text);
    document.querySelector('[role=grid]').dispatchEvent(event); }"""


@pytest.fixture
def grid(page: Page, server: Serving) -> Page:
    with server.client() as client:
        client.post("/api/v1/fabrics", json={"text": HALL + HOSTS}).raise_for_status()
    page.goto("/f/hall/segments?rack=r03")
    expect(page.get_by_role("row").filter(has_text="gauge-1")).to_be_visible()
    return page


def cell(page: Page, host: str, segment: str) -> str:
    """What a cell says of itself."""
    row = page.get_by_role("row").filter(has_text=host).first
    said = row.get_by_role("gridcell", name=re.compile(f"^{segment}:")).locator(".sr-only").inner_text()
    return said.split(": ")[1]


def claim_says(page: Page, host: str, segment: str, wanted: str) -> None:
    row = page.get_by_role("row").filter(has_text=host).first
    expect(row.get_by_role("gridcell", name=f"{segment}: {wanted}")).to_be_visible()


@pytest.mark.long
def test_a_range_is_marked_by_a_key_and_taken_back_by_one_undo(grid: Page) -> None:
    assert cell(grid, "gauge-1", "grid") == "not here" and cell(grid, "gauge-1", "telemetry") == "untagged"
    first = grid.get_by_role("row").filter(has_text="gauge-1").first
    first.get_by_role("gridcell", name=re.compile("^grid:")).click()
    grid.keyboard.press("Shift+ArrowDown")
    grid.keyboard.press("Shift+ArrowDown")
    grid.keyboard.press("t")
    for name in ("gauge-1", "gauge-2", "gauge-3"):
        claim_says(grid, name, "grid", "tagged")
    expect(grid.get_by_label("What the draft does")).to_contain_text("grid tagged on 3 ports")
    expect(grid.get_by_label("Because")).to_contain_text("says its own tagged, in place of the plug's")
    claim_accessible(grid)
    grid.keyboard.press("Control+z")
    claim_says(grid, "gauge-2", "grid", "not here")
    grid.keyboard.press("ArrowRight")
    expect(grid).to_have_url(re.compile(r"rack=r03&at=leaf%2Fr03%2Fa%3Ah12(%7E|~)telemetry$"))
    grid.reload()
    expect(grid.get_by_label("Because")).to_contain_text("leaf-r03 h12")
    expect(grid.get_by_label("Because").get_by_role("heading", name="telemetry")).to_be_visible()


def test_a_host_is_named_at_a_free_port_and_gets_a_plug(grid: Page) -> None:
    free = grid.get_by_role("row").filter(has_text="free, shut").first
    free.get_by_role("gridcell").nth(1).click()
    expect(grid.get_by_label("Because")).to_contain_text("no host is attached")
    grid.keyboard.press("s")
    grid.get_by_label("Name of the host").fill("sink")
    grid.keyboard.press("Enter")
    expect(grid.get_by_role("row").filter(has_text="sink")).to_be_visible()
    grid.keyboard.press("ArrowRight")
    grid.keyboard.press("ArrowRight")
    grid.keyboard.press("Enter")
    grid.get_by_label("Plug", exact=True).fill("plain")
    grid.keyboard.press("Enter")
    claim_says(grid, "sink", "telemetry", "untagged")
    grid.keyboard.press("ArrowLeft")
    grid.keyboard.press("ArrowLeft")
    grid.keyboard.press("Delete")
    expect(grid.get_by_role("row").filter(has_text="sink")).to_have_count(0)


@pytest.mark.long
def test_what_cannot_be_is_said_beside_the_grid_and_nothing_is_taken(grid: Page) -> None:
    row = grid.get_by_role("row").filter(has_text="gauge-1").first
    row.get_by_role("gridcell", name=re.compile("^sync:")).click()
    grid.keyboard.press("t")
    expect(grid.get_by_label("Because").get_by_role("alert")).to_contain_text("kept to racks r01..r02")
    claim_says(grid, "gauge-1", "sync", "not here")
    grid.keyboard.press("Control+ArrowDown")
    expect(grid.get_by_label("Because")).to_contain_text("This port is an uplink")


@pytest.mark.long
def test_cells_go_to_a_sheet_and_come_back_from_one(grid: Page) -> None:
    row = grid.get_by_role("row").filter(has_text="gauge-1").first
    row.get_by_role("gridcell", name=re.compile("^grid:")).click()
    grid.evaluate(PASTE, "T\nU\n")
    claim_says(grid, "gauge-1", "grid", "tagged")
    claim_says(grid, "gauge-2", "grid", "untagged")
    grid.evaluate(PASTE, "VLAN 7")
    expect(grid.get_by_label("Notices")).to_contain_text("“VLAN 7” is no mark")
    copied = grid.evaluate(
        """() => { const event = new ClipboardEvent('copy', {bubbles: true, cancelable: true, clipboardData: new DataTransfer()});
        document.querySelector('[role=grid]').dispatchEvent(event); return event.clipboardData.getData('text/plain'); }"""
    )
    assert copied == "T"


@pytest.mark.long
def test_a_port_clicked_on_the_face_is_one_row_and_what_was_chosen_before_is_forgotten(grid: Page) -> None:
    row = grid.get_by_role("row").filter(has_text="gauge-1").first
    row.get_by_role("gridcell", name=re.compile("^grid:")).click()
    grid.keyboard.press("Shift+ArrowDown")
    grid.get_by_role("img", name="Ports of leaf-r03").locator("rect").nth(11).click()
    expect(grid.get_by_label("Because")).to_contain_text("gauge-3")
    grid.get_by_role("grid").focus()
    grid.keyboard.press("t")
    claim_says(grid, "gauge-3", "grid", "tagged")
    expect(grid.get_by_label("What the draft does")).to_contain_text("grid tagged on 1 port")
    claim_says(grid, "gauge-1", "grid", "not here")


@pytest.mark.long
def test_a_table_that_cannot_be_taken_whole_is_not_taken_at_all(grid: Page) -> None:
    row = grid.get_by_role("row").filter(has_text="gauge-3").first
    row.get_by_role("gridcell", name=re.compile("^grid:")).click()
    grid.evaluate(PASTE, "T\nT\n")
    expect(grid.get_by_label("Because").get_by_role("alert")).to_contain_text("No host is attached to r03/a h13")
    claim_says(grid, "gauge-3", "grid", "not here")
    grid.evaluate(PASTE, "T\tT\tT\tT\tT\n")
    expect(grid.get_by_label("Notices")).to_contain_text("over the edge of the grid")


@pytest.mark.long
def test_one_asks_where_a_segment_is_and_who_is_of_a_team(grid: Page) -> None:
    grid.get_by_label("Segment", exact=True).select_option("telemetry")
    expect(grid.get_by_role("heading", name="Where telemetry is")).to_be_visible()
    expect(grid.get_by_role("row").filter(has_text="probe").first).to_be_visible()
    expect(grid.get_by_role("row").filter(has_text="model-")).to_have_count(0)
    grid.get_by_label("Team").select_option("Models")
    expect(grid.get_by_role("row").filter(has_text="model-08")).to_be_visible()
    expect(grid).to_have_url(re.compile("team=Models"))
    grid.reload()
    expect(grid.get_by_role("heading", name="Hosts of Models")).to_be_visible()
