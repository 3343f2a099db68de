"""Hosts on ports at full size: 1,024 leaves of 48 ports, 500 segments, 20,000 hosts. Each beside the same fabric without its hosts."""

from __future__ import annotations

import gc
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import sync_playwright

from barrio.core import compile
from barrio.core.brief.document import read
from tests.bench.frames import page_of, scrolled
from tests.processes import Server
from tests.ui.conftest import CHROMIUM

RACKS, SEGMENTS, HOSTS = 512, 500, 20_000


def text(hosts: bool) -> str:
    lines = ["fabric: gannet", "spines: {count: 32, model: lonja-k1152, racks: s01..s16}", "racks:"]
    lines.append(f"  - {{racks: r0001..r{RACKS:04d}, leaves: 2, model: lonja-t64, pairing: multihoming}}")
    lines += ["vrfs: {tides: {}}", "segments:"]
    lines += [f"  seg-{n:03d}: {{vrf: tides}}" for n in range(1, SEGMENTS + 1)]
    if not hosts:
        return "\n".join([*lines, "default_plug: shut", ""])
    lines += [
        "sets:",
        *(f"  set-{n}: [{', '.join(f'seg-{m:03d}' for m in range(n * 10 + 1, n * 10 + 11))}]" for n in range(50)),
    ]
    lines += ["plugs:", *(f"  plug-{n}: {{lag: lacp, tagged: [set-{n}]}}" for n in range(50)), "hosts:"]
    each = HOSTS // RACKS
    for rack in range(1, RACKS + 1):
        lines.append(
            f"  h{rack:04d}-01..h{rack:04d}-{each - 2:02d}: {{at: r{rack:04d} h1..h{each - 2}, plug: plug-{rack % 50}, team: Team {rack % 7}}}"
        )
        lines += [
            f"  own-{rack:04d}-{n}: {{at: r{rack:04d} h{each - n}, untagged: seg-{(rack + n) % SEGMENTS + 1:03d}}}"
            for n in (0, 1)
        ]
    return "\n".join([*lines, ""])


def taken(work: Callable[[], Any]) -> float:
    gc.collect()
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def cold() -> None:
    bare, whole = read(text(False)).brief, read(text(True)).brief
    plain = min(taken(lambda: compile(bare)) for _ in range(2))
    full = min(taken(lambda: compile(whole)) for _ in range(2))
    found = compile(whole)
    print(
        f"  {len(found.attachments.hosts):,} hosts on {len(found.structure.leaves):,} leaves, {len(whole.segments)} segments"
    )
    print(f"  compile cold                   {full * 1e3:8.0f} ms   {full / plain:.2f} × without hosts")


def over_http() -> None:
    with tempfile.TemporaryDirectory(prefix="barrio-bench-") as folder:
        Path(folder).chmod(0o755)
        server = Server(Path(folder) / "data")
        server.start()
        with server.client() as client:
            client.timeout = 120
            client.post("/api/v1/fabrics", json={"text": text(True)}).raise_for_status()
            address = "/api/v1/fabrics/gannet/carrying"
            first = taken(lambda: client.get(address, params={"rack": "r0007"}).raise_for_status())
            version = statistics.median(taken(lambda: client.get("/api/v1/fabrics/gannet/version")) for _ in range(9))
            window = statistics.median(taken(lambda: client.get(address, params={"rack": "r0009"})) for _ in range(9))
            wide = statistics.median(
                taken(lambda: client.get(address, params={"offset": 9000, "limit": 400})) for _ in range(9)
            )
            cells = [
                {"row": f"leaf/r{rack:04d}/a:h{port}", "segment": f"seg-{segment:03d}", "mark": "tagged"}
                for rack in range(1, 11)
                for port in range(1, 21)
                for segment in range(401, 406)
            ]
            fill = taken(lambda: client.post(address, json={"version": 1, "cells": cells}).raise_for_status())
            edit = {"version": 2, "edits": [["title", "Gannet"]], "note": "title"}
            plain = taken(lambda: client.post("/api/v1/fabrics/gannet/edits", json=edit).raise_for_status())
        watch(server)
        server.end()
        server.wait_until_gone()
    print(
        f"  first window of the grid       {first * 1e3:8.1f} ms, then {window * 1e3:.1f}   {window / version:.1f} × asking for the version"
    )
    print(f"  400 rows amid all              {wide * 1e3:8.1f} ms")
    print(f"  a fill of {len(cells):,} cells          {fill * 1e3:8.0f} ms   {fill / plain:.2f} × an edit of the title")


def watch(server: Server) -> None:
    """The grid of all 49,152 host ports against 500 segments, scrolled."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        page = page_of(browser, server)
        page.goto("/f/gannet/segments?find=leaf")
        page.get_by_role("grid").get_by_text("h0001-01").first.wait_for()
        print("the grid of all ports and 500 segments, a frame while scrolling")
        scrolled(page, "down", "[role=grid]", down=48)
        scrolled(page, "across", "[role=grid]", across=41)
        browser.close()


if __name__ == "__main__":
    gc.set_threshold(100_000, 50, 100)  # as the server does
    print("Hosts and segments")
    cold()
    over_http()
