"""Cables of 32x1024, cold, against a plain loop over the same cables; moves, pages, and the frames of a floor plan of 1,100 racks. Printed by
`make bench`.

The baseline adds up a straight line for each cable in a Python loop, and nothing else: no trays, no parts, no labels.
"""

from __future__ import annotations

import gc
import random
import shutil
import statistics
import tempfile
import time
from collections.abc import Callable
from math import hypot
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.cabling.faults import faults_of
from barrio.core.cabling.lay import lay
from barrio.core.cabling.materials import materials
from barrio.core.cabling.moves import mends
from barrio.core.cabling.plan import leads
from barrio.core.place.elevation import elevations
from barrio.paper.pages import rack_pages
from tests.bench.frames import page_of
from tests.processes import Server
from tests.ui.conftest import CHROMIUM

WIDE = """
fabric: wide
spines: {count: 32, model: lonja-k1152, racks: s01..s32}
floor: {rows_of: 32, tray_width: 1500, tray_depth: 400}
racks:
  - {racks: r0001..r0512, leaves: 2, model: lonja-t64}
"""
HALL = """
fabric: wide
spines: {count: 2, model: lonja-k1152, racks: s01..s02}
floor: {rows_of: 44}
racks:
  - {racks: r0001..r1098, leaves: 1, model: lonja-e32}
pools: {links: 10.16.0.0/14, loopbacks: 10.4.0.0/16, vteps: 10.5.0.0/16, management: 10.6.0.0/16, outside: 10.3.0.0/16, relays: 10.2.0.0/16}
"""
PAN = """
async () => {
    const board = document.querySelector("canvas");
    const box = board.getBoundingClientRect();
    const say = (kind, x, y) => board.dispatchEvent(new PointerEvent(kind, {
        clientX: box.left + x, clientY: box.top + y, bubbles: true, pointerId: 1, isPrimary: true,
    }));
    board.setPointerCapture = () => {};
    const frames = [];
    say("pointerdown", 400, 100);
    let last = performance.now();
    for (let step = 0; step < 180; step++) {
        say("pointermove", 400 + 60 * Math.sin(step / 9), 100 + 40 * Math.cos(step / 9));
        await new Promise(requestAnimationFrame);
        const now = performance.now();
        frames.push(now - last);
        last = now;
    }
    say("pointerup", 400, 100);
    return frames.slice(5);
}
"""


def timed(action: Callable[[], Any], times: int = 5) -> float:
    """The median of some runs, in seconds, with the collector as the server sets it."""
    runs = []
    for _ in range(times):
        gc.collect()
        start = time.perf_counter()
        action()
        runs.append(time.perf_counter() - start)
    return statistics.median(runs)


def plain(compiled: Compiled) -> float:
    spots, total = compiled.laid.plan.spots, 0.0
    for cable in compiled.laid.cables:
        one, other = spots[cable.a.rack].middle, spots[cable.b.rack].middle
        total += hypot(one[0] - other[0], one[1] - other[1]) + abs(cable.a.unit - cable.b.unit) * 44.45
    return total


def laid(compiled: Compiled) -> Any:
    every = leads(compiled.brief, compiled.structure, compiled.ends, compiled.allocation.numbers, compiled.attachments)
    found = lay(compiled.brief, compiled.structure, every)
    faults_of(found)
    return materials(found)


def crossed(count: int) -> tuple[dict[int, int], dict[int, int]]:
    order = list(range(count))
    random.Random(1).shuffle(order)
    pairs = [(at, 100_000 + at) for at in range(32_768)]
    wrong = [(at, 100_000 + (order[at] if at < count else at)) for at in range(32_768)]
    return ({one: two for pair in found for one, two in (pair, pair[::-1])} for found in (pairs, wrong))  # type: ignore[return-value]


def frames(page: Page, zooms: int, label: str) -> None:
    page.goto("/f/wide/cabling")
    page.get_by_role("application").wait_for()
    page.wait_for_timeout(800)
    for _ in range(zooms):
        page.keyboard.press("+")
    found = sorted(page.evaluate(PAN))
    print(
        f"  {label:<33} {statistics.median(found):5.1f} ms median, {found[int(len(found) * 0.95)]:5.1f} ms 95th percentile"
    )


def main() -> None:
    gc.set_threshold(100_000, 50, 100)
    compiled = compile(read(WIDE).brief)
    base = timed(lambda: plain(compiled))
    cold = timed(lambda: laid(compiled))
    print(f"cables of 32x1024: {len(compiled.cables):,}, a baseline of straight lines {base * 1000:.0f} ms")
    print(f"  ways, lengths, parts, materials   {cold * 1000:6.0f} ms  {cold / base:6.2f} × baseline")
    planned, lying = crossed(2000)
    found = timed(lambda: mends(planned, lying))
    print(f"  moves for 2,000 crossed cables    {found * 1000:6.0f} ms")
    stood = elevations(compiled.brief, compiled.structure)
    start = time.perf_counter()
    content = rack_pages(compiled.laid, stood, list(stood), "Wide", "bench")
    print(
        f"  pages of {len(stood)} racks as PDF        {time.perf_counter() - start:6.1f} s, {len(content) / 1e6:.1f} MB"
    )
    folder = Path(tempfile.mkdtemp(prefix="barrio-bench-"))
    folder.chmod(0o755)
    server = Server(folder / "data")
    server.start()
    try:
        with server.client() as client:
            client.post("/api/v1/fabrics", json={"text": HALL}, timeout=120).raise_for_status()
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
            page = page_of(browser, server)
            print("the floor plan of 1,100 racks, a frame while it is dragged")
            frames(page, 0, "the whole floor")
            frames(page, 4, "names in view")
            browser.close()
    finally:
        server.end()
        server.wait_until_gone()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
