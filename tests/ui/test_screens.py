"""Every screen's own work: words, segments, pools, strips, faces, keys, themes, window sizes."""

from __future__ import annotations

import re

import httpx2
import pytest
from playwright.sync_api import Page, expect

from tests.serving import Serving
from tests.signed import BEARER
from tests.ui.test_walk import make_marlin


def fabric(server: Serving, name: str = "marlin") -> dict:
    return httpx2.get(f"{server.address}/api/v1/fabrics/{name}", headers=BEARER).json()


@pytest.mark.long
def test_a_segment_is_added_changed_and_taken_out_without_a_trace(page: Page, server: Serving) -> None:
    make_marlin(server)
    body = {"version": 1, "edits": [["hosts", None], ["plugs", None]], "note": "no host is named"}
    httpx2.post(f"{server.address}/api/v1/fabrics/tern/edits", headers=BEARER, json=body).raise_for_status()
    before = httpx2.get(f"{server.address}/api/v1/fabrics/tern/numbers.csv", headers=BEARER).text
    page.goto("/f/tern/brief")
    page.get_by_role("button", name="Add a segment").click()
    page.get_by_label("Name", exact=True).fill("buoy-feeds")
    page.get_by_label("Routed in").select_option("intake")
    page.get_by_label("VLAN", exact=True).fill("777")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("button", name="buoy-feeds")).to_be_visible()
    segment = fabric(server, "tern")["brief"]["segments"]["buoy-feeds"]
    assert (segment["vrf"], segment["vlan"], segment["v4"]) == ("intake", 777, "auto")

    page.get_by_role("button", name="buoy-feeds").click()
    page.get_by_label("Racks", exact=True).fill("t03")
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_label("Brief", exact=True)).to_contain_text("buoy-feeds in intake, on t03")
    leaf = httpx2.get(
        url=f"{server.address}/api/v1/fabrics/tern/switches/leaf-t03/file?path=etc/network/interfaces",
        headers=BEARER,
    ).text
    assert "vlan777" in leaf

    page.get_by_role("button", name="buoy-feeds").click()
    page.get_by_label("VLAN", exact=True).fill("100")
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_role("alert")).to_contain_text("100 cannot be the VLAN of segment/buoy-feeds")
    page.get_by_role("button", name="Take it out").click()
    expect(page.get_by_role("button", name="buoy-feeds")).to_have_count(0)
    assert httpx2.get(f"{server.address}/api/v1/fabrics/tern/numbers.csv", headers=BEARER).text == before


@pytest.mark.long
def test_people_and_servers_are_words_too(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/tern/brief")
    page.get_by_role("button", name="Add someone").click()
    page.get_by_label("Account").fill("marta")
    page.get_by_label("SSH keys").fill("not a key")
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_role("alert")).to_contain_text("is not an SSH public key")
    page.get_by_label("SSH keys").fill(
        "ssh-ed25519 AAAAC3NzaC1lZDI1NTE5AAAAIEmZ7sT1mQ1xqk0f5m0b3Y9b8o4G2v0gkqfN6yH1cD2R marta"
    )
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_label("Brief", exact=True)).to_contain_text("ines and marta sign in by key")
    page.get_by_role("button", name="10.90.0.21, 10.90.0.22").click()
    page.get_by_role("textbox").fill("10.90.0.99")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Brief", exact=True)).to_contain_text("Time from 10.90.0.99")
    assert fabric(server, "tern")["brief"]["services"]["ntp"] == ["10.90.0.99"]


@pytest.mark.long
def test_a_choice_says_what_it_would_do_before_it_is_taken(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/brief")
    page.get_by_role("button", name="Cantera C64").click()
    offer = page.get_by_role("button", name="Lonja S64")
    expect(offer).to_contain_text("52 of 64 spine ports")
    refused = page.get_by_role("button", name="Cantera C32")
    expect(refused).to_contain_text("need 52 ports on every spine; Cantera C32 has 32")
    expect(refused).to_be_disabled()
    offer.click()
    expect(page.get_by_label("Brief", exact=True)).to_contain_text("Lonja S64")
    expect(page.get_by_label("What the draft does")).to_contain_text("spines Lonja S64")


@pytest.mark.long
def test_a_full_pool_is_told_and_widened_on_the_ledger(page: Page, server: Serving) -> None:
    text = "fabric: full\nspines: {count: 2}\npools: {asns: 64512..64516}\nracks:\n  - racks: r01..r02\n"
    httpx2.post(f"{server.address}/api/v1/fabrics", headers=BEARER, json={"text": text}).raise_for_status()
    page.goto("/f/full/ledger?pool=asns")
    expect(page.get_by_label("Pools")).to_contain_text("runs low")
    expect(page.get_by_role("link", name="Ledger")).to_contain_text("1 pool runs low")
    add = page.get_by_role("button", name="Add", exact=True)
    page.get_by_label("A range for asns").fill("64516..64600")
    add.click()
    expect(page.get_by_label("Notices")).to_contain_text("overlaps 64512..64516")
    page.get_by_label("A range for asns").fill("64517..64600")
    add.click()
    expect(page.get_by_label("Pools")).to_contain_text("64517..64600")


@pytest.mark.long
def test_a_strip_is_looked_at_down_to_one_number(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/ledger?pool=halls-p2p")
    strip = page.get_by_role("group", name=re.compile(r"10\.61\.0\.0.20 from"))
    strip.focus()
    wide = strip.get_attribute("aria-label")
    for _ in range(4):
        page.keyboard.press("+")
    expect(strip).not_to_have_attribute("aria-label", str(wide))
    # The runs of the last zoom come from the server; a number is chosen once they stand still.
    page.wait_for_load_state("networkidle")
    page.wait_for_timeout(400)
    strip.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    number = page.get_by_label("Because").get_by_role("heading")
    expect(number).to_contain_text(re.compile(r"^10\.61\.\d+\.\d+/31$"))
    expect(page.get_by_label("Because")).to_contain_text("RFC 3021")
    expect(page.get_by_role("row", selected=True)).to_contain_text(number.inner_text())
    page.get_by_label("Carried by").get_by_role("link").first.click()
    expect(page).to_have_url(re.compile("/cabling\\?cable=M-"))


@pytest.mark.long
def test_resting_numbers_say_whose_they_were_and_can_be_freed(page: Page, server: Serving) -> None:
    make_marlin(server)
    edits = [["hosts", None], ["plugs", None], ["racks[0].racks", "t01..t03"]]
    body = {"version": 1, "edits": edits, "note": "3 racks"}
    httpx2.post(f"{server.address}/api/v1/fabrics/tern/edits", headers=BEARER, json=body).raise_for_status()
    page.goto("/f/tern/ledger?pool=office-private")
    page.get_by_label("Find numbers").fill("resting")
    page.get_by_role("gridcell", name="leaf/t04/a").click()
    expect(page.get_by_label("Because")).to_contain_text("leaf/t04/a gave it back")
    page.get_by_role("button", name="the pool office-private").click()
    page.get_by_role("button", name="End the rest of 1 number").click()
    page.get_by_label("Why the rest ends").fill("it was never cabled")
    page.get_by_role("button", name="End it").click()
    expect(page.get_by_label("Notices")).to_contain_text("1 number of office-private may be taken again")


@pytest.mark.long
def test_the_face_of_a_switch_leads_from_hole_to_hole(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/cabling?cable=M-0001&view=ends")
    faces = page.get_by_label("The ends of M-0001").get_by_role("img", name=re.compile("^Front of"))
    expect(faces).to_have_count(2)
    faces.nth(1).locator("g > g", has=page.locator("title", has_text=re.compile("^p7:"))).locator("rect").first.click()
    expect(page.get_by_label("Because")).to_contain_text("spine-1 p7")
    page.get_by_role("button", name="Sheet").click()
    page.get_by_label("Find cables").fill("r03 spine-2")
    expect(page.get_by_text("4 of 328 cables")).to_be_visible()


@pytest.mark.long
def test_configs_say_what_the_reader_found_in_all_files(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/configs/leaf-r01a")
    page.get_by_text("The files of 30 switches agree with each other").wait_for()


@pytest.mark.long
def test_configs_are_walked_by_keys(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/configs/leaf-r01a?line=3")
    because = page.get_by_label("Because")
    expect(because).to_contain_text("Line 3")
    for _ in range(6):
        page.keyboard.press("j")
    expect(because).to_contain_text("Line 9")
    page.keyboard.press("]")
    expect(page.get_by_role("heading", name="leaf-r01b")).to_be_visible()
    page.keyboard.press("/")
    page.keyboard.type("border")
    expect(page.get_by_role("navigation", name="Switches").get_by_role("button")).to_have_count(2)
    page.get_by_role("button", name="others").click()
    page.get_by_role("button", name="etc/ssh/sshd_config").click()
    page.get_by_role("button", name="PasswordAuthentication no").click()
    expect(because).to_contain_text("passwords can be guessed")


@pytest.mark.long
def test_keys_margin_theme_and_calls_are_at_hand(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/brief")
    expect(page.get_by_label("Sums")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("the brief as text, and back")
    page.keyboard.press("Escape")
    page.keyboard.press("m")
    expect(page.get_by_role("button", name="Open the margin")).to_be_visible()
    page.keyboard.press("m")
    before = page.evaluate("document.documentElement.dataset.theme")
    page.keyboard.press("Control+k")
    page.get_by_role("combobox").fill("light or dark")
    page.keyboard.press("Enter")
    assert page.evaluate("document.documentElement.dataset.theme") != before
    page.keyboard.press("5")
    page.wait_for_url("**/cabling")
    expect(page.get_by_role("grid")).to_contain_text("M-0001")
    page.keyboard.press("Control+k")
    page.get_by_role("combobox").fill("api calls")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_contain_text("/api/v1/fabrics/marlin/cables")


@pytest.mark.long
def test_nothing_overflows_the_window_whatever_its_size(page: Page, server: Serving) -> None:
    make_marlin(server)
    for path in (
        "/",
        "/f/marlin/brief?leaf=leaf-r05a",
        "/f/marlin/ledger",
        "/f/marlin/segments",
        "/f/marlin/configs",
        "/f/marlin/cabling",
    ):
        page.goto(path)
        page.wait_for_load_state("networkidle")
        for width, height in ((1024, 768), (1920, 1080)):
            page.set_viewport_size({"width": width, "height": height})
            page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
            over = page.evaluate("[document.body.scrollWidth - innerWidth, document.body.scrollHeight - innerHeight]")
            assert over == [0, 0], (path, width)
            if path != "/":
                box = page.get_by_role("button", name="Download bundle").bounding_box()
                assert box and box["x"] + box["width"] <= width, (path, width)


def test_a_lost_server_is_said_and_nothing_typed_is_lost(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/brief?text=1")
    page.get_by_label("The brief as YAML").click()
    page.keyboard.press("Control+Home")
    page.keyboard.type("# typed while the server was away\n")
    server.end()
    page.keyboard.press("Control+s")
    expect(page.get_by_label("Notices")).to_contain_text("Barrio does not answer")
    expect(page.get_by_label("The brief as YAML")).to_contain_text("# typed while the server was away")


@pytest.mark.long
def test_addresses_of_things_that_are_not_there_say_so(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/nowhere/brief")
    expect(page.get_by_role("heading", name="There is no fabric called nowhere.")).to_be_visible()
    page.get_by_role("link", name="See all fabrics").click()
    expect(page.get_by_role("heading", name="Fabrics")).to_be_visible()
    page.goto("/f/marlin/configs/leaf-r99")
    expect(page.get_by_role("heading", name="leaf-r01a")).to_be_visible()
    page.goto("/f/marlin/brief?spine=spine-9&leaf=leaf-r99")
    expect(page.get_by_label("Because")).to_contain_text("Nothing is wrong")


@pytest.mark.long
def test_a_setting_is_said_on_a_rung_once_it_is_seen_whom_it_reaches(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/configs")
    page.get_by_role("link", name="Ladder").click()
    page.get_by_role("button", name="overlay.storm, role leaf").click()
    page.get_by_label("Value", exact=True).fill("500")
    expect(page.get_by_label("What it would do")).to_contain_text("22 switches get another value")
    expect(page.get_by_label("What it would do")).to_contain_text("2 switches keep what rack r04 says")
    expect(page.get_by_label("What it would do")).to_contain_text("500/second")
    page.get_by_role("button", name="Say it").click()
    expect(page.get_by_role("button", name="overlay.storm, role leaf")).to_contain_text("500")
    assert fabric(server)["brief"]["rungs"]["role leaf"] == {"overlay.storm": 500}

    page.get_by_role("button", name="services.ntp, role border").click()
    page.get_by_label("Values, with commas between").fill("10.90.0.99")
    expect(page.get_by_role("alert")).to_contain_text("held for the whole fabric (one clock for the whole port)")
    expect(page.get_by_role("button", name="Say it")).to_be_disabled()

    page.get_by_label("Another rung").fill("r09")
    page.get_by_role("button", name="Add the rung").click()
    page.get_by_label("Value", exact=True).or_(page.get_by_label("Values, with commas between")).first.wait_for()
    page.get_by_role("button", name="services.dns, rack r09").click()
    page.get_by_label("Values, with commas between").fill("10.90.0.54")
    page.get_by_label("beside wider ones").check()
    page.get_by_label("Reason", exact=True).fill("a nearer one")
    page.get_by_role("button", name="Say it").click()
    expect(page.get_by_role("button", name="services.dns, rack r09")).to_contain_text("and 10.90.0.54")
    said = fabric(server)["brief"]["rungs"]["rack r09"]
    assert said == {"services.dns": {"add": ["10.90.0.54"], "why": "a nearer one"}}
    page.get_by_role("button", name="Take it out").click()
    expect(page.get_by_role("button", name="services.dns, rack r09")).not_to_contain_text("10.90.0.54")
    assert "rack r09" not in fabric(server)["brief"]["rungs"]


def test_a_line_is_found_in_all_files_and_opened_where_it_stands(page: Page, server: Serving) -> None:
    make_marlin(server)
    page.goto("/f/marlin/configs")
    page.get_by_label("Find in all files").fill("10.90.0.15")
    found = page.get_by_label("Lines that were found").get_by_role("listitem")
    expect(found).to_have_count(1)
    expect(found).to_contain_text("on 2 switches: border-b01a, border-b01b")
    found.get_by_role("link").click()
    expect(page.get_by_role("heading", name="border-b01a")).to_be_visible()
    expect(page.get_by_label("Because")).to_contain_text("the firewall team reads along")
