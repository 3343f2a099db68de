"""The picture and the ways to begin, in a real browser."""

from __future__ import annotations

import re
from pathlib import Path

import httpx2
import pytest
from playwright.sync_api import Page, expect

from tests.conftest import EXAMPLES
from tests.signed import BEARER
from tests.ui.conftest import Serving, claim_accessible

MARLIN, PELICAN, _ = (path.read_text() for path in EXAMPLES)


def make(server: Serving, *texts: str) -> None:
    server.load(*texts)


@pytest.mark.long
def test_the_sums_move_while_one_types_and_nothing_is_saved(page: Page, server: Serving) -> None:
    make(server, MARLIN)
    page.goto("/f/marlin/brief")
    page.get_by_role("button", name="12", exact=True).click()
    page.keyboard.type("14")
    expect(page.get_by_label("Sums, with what is being typed")).to_contain_text("60 of 64")
    page.keyboard.press("Backspace")
    page.keyboard.type("9")
    expect(page.get_by_text(re.compile("need 80 ports on every spine"))).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_label("Sums", exact=True)).to_contain_text("52 of 64")
    assert httpx2.get(f"{server.address}/api/v1/fabrics/marlin", headers=BEARER).json()["version"] == 1


def test_racks_are_chosen_copied_marked_and_taken_out_on_the_picture(page: Page, server: Serving) -> None:
    make(server, MARLIN)
    page.goto("/f/marlin/brief")
    box = page.get_by_role("application").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + 20, box["y"] + 92)
    margin = page.get_by_label("Because")
    expect(margin).to_contain_text("Rack r01")
    page.keyboard.down("Shift")
    page.mouse.click(box["x"] + 20, box["y"] + 92 + 38 * 2)
    page.keyboard.up("Shift")
    expect(margin).to_contain_text("Racks r01 to r03")
    page.get_by_role("button", name="3 more like them").click()
    expect(page.get_by_label("What the draft does")).to_contain_text("6 new switches")
    page.get_by_role("button", name="Out of service").click()
    page.get_by_label(re.compile("^Why")).fill("waiting for power")
    page.get_by_role("button", name="Take out of service").click()
    expect(page.get_by_label("What the draft does")).to_contain_text("out of service")
    page.get_by_role("button", name="Take them out").click()
    expect(page.get_by_label("What the draft does")).to_contain_text("6 switches less")
    page.get_by_role("button", name="History").click()
    history = page.get_by_role("dialog")
    expect(history).to_contain_text("copies of racks r01 and 2 more")
    history.get_by_role("button", name=re.compile("^Undo")).click()
    expect(page.get_by_label("What the draft does")).to_contain_text("out of service")


@pytest.mark.long
def test_the_weave_zooms_from_the_whole_to_the_ports_of_a_link(page: Page, server: Serving) -> None:
    make(server, PELICAN)
    page.goto("/f/pelican/brief")
    percent = page.get_by_title("The whole fabric, and back (0)")
    expect(percent).to_have_text("100 %")
    percent.click()
    expect(percent).not_to_have_text("100 %")
    weave = page.get_by_role("application")
    assert weave.evaluate("box => box.scrollHeight - box.clientHeight") < 60, "the whole is in view"
    page.keyboard.press("0")
    for _ in range(3):
        page.get_by_role("button", name="Larger").click()
    expect(percent).to_have_text("274 %")
    weave.focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowUp")
    expect(page.get_by_label("Because")).to_contain_text("super-1-4")
    page.get_by_label("Find in the picture").fill("p03-r04")
    page.get_by_role("button", name="List").click()
    expect(page.get_by_role("grid")).to_contain_text("leaf-p03-r04b")
    expect(page.get_by_role("row")).to_have_count(3)


@pytest.mark.long
def test_ports_are_planned_on_the_face(page: Page, server: Serving) -> None:
    make(server, MARLIN)
    page.goto("/f/marlin/brief?leaf=leaf-r01a")
    page.get_by_text("Plan these ports").click()
    page.get_by_label("Ports to plan").fill("h47, h48")
    page.get_by_role("button", name="reserved", exact=True).click()
    expect(page.get_by_label("Because")).to_contain_text("planned by itself")
    brief = httpx2.get(f"{server.address}/api/v1/fabrics/marlin", headers=BEARER).json()["brief"]
    assert brief["ports"]["leaf/r01/a"]["reserved"] == "h47..h48"


@pytest.mark.long
def test_a_line_and_a_need_and_a_sheet_each_begin_a_fabric(page: Page, server: Serving, tmp_path: Path) -> None:
    page.goto("/")
    page.get_by_role("button", name="New fabric").click()
    page.get_by_role("tab", name="In a line").click()
    page.get_by_label("The fabric in a line").fill("heron: 2 spines cantera-c32, 4 racks of leaf pa")
    expect(page.get_by_role("button", name="pairs", exact=True)).to_be_visible()
    page.keyboard.press("Tab")
    expect(page.get_by_label("The fabric in a line")).to_have_value(re.compile("leaf pairs $"))
    expect(page.get_by_role("dialog")).to_contain_text("10 switches")
    page.get_by_role("button", name="Make the fabric").click()
    expect(page).to_have_url(f"{server.address}/f/heron/brief")
    sheet = tmp_path / "links.csv"
    sheet.write_text(
        "switch,port,switch,port\n" + "".join(f"s{s},{leaf},leaf{leaf},{s}\n" for s in (1, 2) for leaf in (1, 2, 3))
    )
    page.goto("/")
    page.get_by_role("button", name="New fabric").click()
    page.get_by_role("tab", name="From links").click()
    page.get_by_label("Sheet of links").set_input_files(sheet)
    expect(page.get_by_role("dialog")).to_contain_text("6 links between 3 leaves and 2 spines")
    page.get_by_label("Name", exact=True).fill("found")
    page.get_by_role("button", name="Make the fabric").click()
    expect(page).to_have_url(f"{server.address}/f/found/brief")
    page.goto("/")
    page.get_by_role("button", name="New fabric").click()
    page.get_by_role("tab", name="From a need").click()
    page.get_by_role("button", name="Weigh every design").click()
    expect(page.get_by_text("designs weighed")).to_be_visible()
    page.get_by_label("Choose proposal 2").check()
    page.get_by_label("Name", exact=True).fill("needed")
    page.get_by_role("button", name="Keep this one").click()
    expect(page).to_have_url(f"{server.address}/f/needed/brief")


@pytest.mark.long
def test_a_model_is_changed_and_tells_what_it_does(page: Page, server: Serving) -> None:
    make(server, MARLIN)
    page.goto("/catalogue?model=cantera-l48")
    field = page.get_by_label("The model as YAML")
    field.fill(field.input_value().replace("count: 8", "count: 4"))
    page.get_by_role("button", name="See what it does").click()
    expect(page.get_by_text(re.compile("need 8 uplinks"))).to_be_visible()
    field.fill(field.input_value().replace("count: 4\n", "count: 8\n").replace("power: 330", "power: 350"))
    page.get_by_role("button", name="See what it does").click()
    page.get_by_role("button", name="Keep the changed model").click()
    expect(page.get_by_role("navigation", name="Models")).to_contain_text("yours")


@pytest.mark.long
@pytest.mark.parametrize("theme", ["light", "dark"])
def test_axe_finds_no_serious_fault_on_the_new_screens(page: Page, server: Serving, theme: str) -> None:
    make(server, PELICAN)
    page.goto("/")
    page.evaluate(f"localStorage.setItem('theme', '{theme}')")
    for place in (
        "/f/pelican/brief?racks=p01-r01", "/f/pelican/brief?sums=1", "/f/pelican/brief?view=racks",
        "/f/pelican/brief?view=list", "/f/pelican/brief?leaf=leaf-p01-r01a", "/catalogue",
    ):  # fmt: skip
        page.goto(place)
        claim_accessible(page)
