"""How long frames take while something is scrolled, in a headless Chromium."""

from __future__ import annotations

import statistics

from playwright.sync_api import Browser, Page

from tests.processes import Server

PAN = """
async ({where, down, across}) => {
    const box = document.querySelector(where);
    const frames = [];
    let last = performance.now();
    for (let index = 0; index < 180; index++) {
        await new Promise(requestAnimationFrame);
        const now = performance.now();
        frames.push(now - last);
        last = now;
        box.scrollTop += down;
        box.scrollLeft += across;
    }
    return frames.slice(5);
}
"""


def page_of(browser: Browser, server: Server) -> Page:
    """A page of a person who is signed in as the server's client is."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
    context.add_cookies(
        [{"name": name, "value": value, "url": server.address} for name, value in server.cookies.items()]
    )
    return context.new_page()


def scrolled(page: Page, label: str, where: str, down: int = 0, across: int = 0) -> None:
    """Scroll a box by so many pixels a frame, and print the median, the 95th percentile and the worst of its frames."""
    frames = sorted(page.evaluate(PAN, {"where": where, "down": down, "across": across}))
    p95 = frames[int(len(frames) * 0.95)]
    print(
        f"  {label:<27} {statistics.median(frames):7.1f} ms median, {p95:5.1f} ms 95th percentile, {frames[-1]:5.1f} ms worst"
    )
