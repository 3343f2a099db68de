"""What a person waits for: sums while typing, a saved edit, and the frames of the Weave. Printed by `make bench`.

Frames are those of a headless Chromium at 1280×800 that pans the Weave of 64 spines and 1,024 leaves by a few rows a frame.
"""

from __future__ import annotations

import shutil
import statistics
import tempfile
import time
from pathlib import Path

import httpx2
from playwright.sync_api import Page, sync_playwright

from tests.bench.frames import page_of, scrolled
from tests.processes import Server
from tests.ui.conftest import CHROMIUM

BRIEF = """
fabric: {name}
spines: {{count: {spines}, model: lonja-k1152, racks: s01..s32}}
racks:
  - {{racks: r0001..r{racks:04d}, leaves: 2, model: {leaf}}}
vrfs: {{tides: {{}}}}
segments: {{tide-grid: {{vrf: tides, v4: auto}}}}
"""
WIDE = """id: lonja-t128
maker: Lonja
name: T128
tiers: [leaf]
power: 1400
groups:
  - {prefix: h, count: 64, speeds: [25, 50], use: host, connector: SFP56}
  - {prefix: u, count: 64, speeds: [100, 400], use: fabric, connector: QSFP-DD, rows: 4}
"""


def measure_api(client: httpx2.Client) -> None:
    made = client.post(
        "/api/v1/fabrics", json={"text": BRIEF.format(name="wide", spines=32, racks=512, leaf="lonja-t64")}
    )
    made.raise_for_status()
    version = made.json()["version"]
    tried, saved = [], []
    for racks in (511, 510, 509, 508, 512):
        edit = ["racks[0].racks", f"r0001..r{racks:04d}"]
        start = time.perf_counter()
        client.post("/api/v1/fabrics/wide/try", json={"edits": [edit]}).raise_for_status()
        tried.append(time.perf_counter() - start)
        body = {"version": version, "edits": [edit], "note": "bench"}
        start = time.perf_counter()
        answer = client.post("/api/v1/fabrics/wide/edits", json=body)
        answer.raise_for_status()
        saved.append(time.perf_counter() - start)
        version = answer.json()["version"]
    print("32x1024 over HTTP, with PostgreSQL")
    print(f"  one edit to new sums        {statistics.median(tried) * 1000:7.0f} ms")
    print(f"  the same edit saved         {statistics.median(saved) * 1000:7.0f} ms, all numbers drawn and written")


def pan(page: Page, label: str, zooms: int, across: bool = False) -> None:
    page.goto("/f/woven/brief")
    page.get_by_role("application").wait_for()
    for _ in range(zooms):
        page.get_by_role("button", name="Smaller").click()
    page.wait_for_timeout(400)
    scrolled(page, label, "[role=application]", **({"across": 17} if across else {"down": 23}))


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="barrio-bench-"))
    folder.chmod(0o755)
    server = Server(folder / "data")
    server.start()
    try:
        with server.client() as client:
            measure_api(client)
            client.put("/api/v1/catalogue", json={"text": WIDE}).raise_for_status()
            text = BRIEF.format(name="woven", spines=64, racks=512, leaf="lonja-t128")
            text += "pools: {links-woven: 10.16.0.0/15}\nnumbers: {links: links-woven}\n"
            client.post("/api/v1/fabrics", json={"text": text}, timeout=120).raise_for_status()
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
            page = page_of(browser, server)
            print("the Weave of 64x1024, a frame while panning")
            pan(page, "names in view, down", 0)
            pan(page, "names in view, across", 0, across=True)
            pan(page, "from afar, down", 4)
            pan(page, "the whole, across", 7, across=True)
            browser.close()
    finally:
        server.end()
        server.wait_until_gone()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
