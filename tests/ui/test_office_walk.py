"""A language of one's own, from a text that is known to be good to the files of a fabric, in a real browser."""

from __future__ import annotations

import httpx2
import pytest
from playwright.sync_api import Page, expect

from tests.contained.test_apart import ROOT
from tests.signed import BEARER
from tests.ui.conftest import Serving, claim_accessible

HERON = (
    (ROOT / "examples/mixed/heron.yaml")
    .read_text()
    .replace("role spine:", "role spine:\n    # the spines' own language")
)
KNOWN = """switch spine-1
management eth0
  address 10.255.0.2/19
  gateway 10.255.0.1
user ines
port p1
  goes to leaf-r01a u1
port p2
  goes to leaf-r01b u1
"""


@pytest.mark.long
def test_from_a_known_good_text_to_the_files_of_a_fabric(page: Page, server: Serving) -> None:
    server.load(HERON.replace("target: {value: cantera", "services.software: {value: cantera"))
    page.goto("/office")
    page.get_by_label("A new target's name").fill("quay")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="from a configuration…").click()
    page.get_by_label("It is of").select_option("spine-1")
    page.get_by_label("The configuration").fill(KNOWN)
    page.get_by_role("button", name="Find values and loops").click()
    expect(page.get_by_text("5 values of the model, 1 loop; it gives back the same bytes")).to_be_visible()
    page.get_by_label("The configuration").fill(
        KNOWN + "".join(f"port p{at}\n  goes to leaf-r0{(at + 1) // 2}{'ba'[at % 2]} u1\n" for at in range(3, 7))
    )
    page.get_by_role("button", name="Find values and loops").click()
    expect(page.get_by_text("it gives back the same bytes")).to_be_visible()
    expect(page.get_by_label("The template", exact=True)).to_contain_text("{% for port in sw.fabric_ports %}")
    page.get_by_role("button", name="Take it as a template").click()
    page.get_by_role("button", name="target.yaml").click()
    manifest = page.get_by_label("targets/quay/target.yaml")
    manifest.click()
    page.keyboard.press("Control+A")
    page.keyboard.type(
        "target: quay\nfiles:\n- {path: flash/all.cfg, template: learned.j2}\nleaves_out:\n'*': a trial\n".replace(
            "\n'*'", "\n  '*'"
        )
    )
    expect(page.get_by_label("What the switch gets")).to_contain_text("switch ")
    page.get_by_role("button", name="See what it does").click()
    page.get_by_label("Why").fill("the spines speak Quay")
    page.get_by_role("button", name="Save edition 1").click()
    expect(page.get_by_text("no fabric uses it")).to_be_visible()
    claim_accessible(page)
    version = httpx2.get(f"{server.address}/api/v1/fabrics/heron", headers=BEARER).json()["version"]
    edits = {"version": version, "edits": [['rungs."role spine".target', "quay"]], "note": "spines speak Quay"}
    httpx2.post(f"{server.address}/api/v1/fabrics/heron/edits", json=edits, headers=BEARER).raise_for_status()
    page.goto("/f/heron/configs/spine-2?file=flash/all.cfg&line=2")
    expect(page.get_by_role("region", name="flash/all.cfg")).to_contain_text("switch spine-2")
    expect(page.get_by_label("Because")).to_contain_text("eth0")
