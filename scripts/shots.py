"""Refresh the screenshots in docs/ from the demo world: `make shots`; or those that are named."""

from __future__ import annotations

import io
import re
import sys
import tempfile
import threading
import zipfile
from pathlib import Path

from playwright.sync_api import BrowserContext, Page, sync_playwright

from barrio.staging.simulate import Light, run_all
from tests.processes import Server
from tests.ui.conftest import CHROMIUM

DOCS = Path(__file__).parent.parent / "docs" / "screenshots"


def brief(page: Page) -> None:
    page.goto("/f/marlin/brief?spine=spine-3&leaf=leaf-r07b")
    page.get_by_label("Because").get_by_text("RFC 3021").wait_for()


def word(page: Page) -> None:
    page.goto("/f/marlin/brief")
    page.get_by_role("button", name="12", exact=True).click()
    page.get_by_role("button", name="13 racks").click()
    page.get_by_label("What the draft does").get_by_text("cables to lay").wait_for()
    page.get_by_role("button", name="4", exact=True).first.click()
    page.get_by_text("5 spines").wait_for()


def ladder(page: Page) -> None:
    page.goto("/f/marlin/ladder?rung=role+leaf&setting=overlay.storm")
    page.get_by_label("Value", exact=True).fill("500")
    page.get_by_label("What it would do").get_by_text("2 switches keep").wait_for()


def office(page: Page) -> None:
    page.goto("/office?file=targets/cantera/ports.j2")
    page.get_by_label("Fabric").select_option("tern")
    editor = page.get_by_label("targets/cantera/ports.j2")
    editor.click()
    page.keyboard.press("Control+Home")
    for _ in range(12):
        page.keyboard.press("ArrowDown")
    page.keyboard.press("End")
    page.keyboard.type(" bytes")
    page.get_by_text("mtu 9216 bytes").first.wait_for()


def pods(page: Page) -> None:
    page.goto("/f/pelican/brief?spine=spine-p01-2&leaf=leaf-p01-a01a")
    page.get_by_label("Because").get_by_text("RFC 3021").wait_for()


def editions(page: Page) -> None:
    page.goto("/f/marlin/editions")
    page.get_by_label("What it is, in a sentence").fill("A thirteenth rack")
    page.get_by_label("Why").fill(
        "Tide Models get ten more machines in December. r13 stands where a reserve was kept; the spines take their next free ports."
    )
    page.get_by_role("button", name="Offer for review").click()
    page.get_by_text("Take it back").wait_for()
    page.get_by_role("button", name="Dismiss").click()


def sums(page: Page) -> None:
    page.goto("/f/pelican/brief?sums=1")


def need(page: Page) -> None:
    page.goto("/")
    page.get_by_role("button", name="New fabric").click()
    page.get_by_role("tab", name="From a need").click()
    page.get_by_role("button", name="Weigh every design").click()
    page.get_by_text("designs weighed").wait_for()


def catalogue(page: Page) -> None:
    page.goto("/catalogue?model=lonja-e32")


def ledger(page: Page) -> None:
    page.goto("/f/marlin/ledger?pool=halls-p2p&number=10.61.0.216%2F31")
    page.get_by_label("Because").get_by_text("RFC 3021").wait_for()


def segments(page: Page) -> None:
    page.goto("/f/marlin/segments?rack=r06")
    row = page.get_by_role("row").filter(has_text="archive-15").first
    row.get_by_role("gridcell", name=re.compile("^tide-archive:")).click()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowDown")


SHEET = """address,device,role,comment
10.60.0.200,leaf-r07a,loopback,from the old plan
10.60.0.40,leaf-r08a,loopback,taken elsewhere
10.60.9.300,leaf-r09a,loopback,mistyped
4200065900,leaf-r01a,,an ASN by its pool
10.60.3.7,leaf-r02b,loopback,in a reserved range
10.60.0.211,leaf/r40/a,loopback,comes in spring
10.90.1.200,,,tape library
"""


def configs(page: Page) -> None:
    page.goto("/f/marlin/configs/leaf-r07b?file=etc/frr/frr.conf&line=26")
    page.get_by_label("Because").get_by_text("RFC 7938").first.wait_for()


def cabling(page: Page) -> None:
    page.goto("/f/marlin/cabling?cable=M-0109&view=ends")
    page.get_by_label("Because").get_by_text("TIA-606").wait_for()
    page.wait_for_timeout(500)


def fabrics(page: Page) -> None:
    page.goto("/")


def rehearsal(page: Page) -> None:
    """A slice of Tern on a kernel of its own, and a leaf taken away; some two minutes."""
    page.goto("/f/tern/rehearsal?new=1")
    page.get_by_label("How much of it").select_option("racks")
    page.get_by_label("Racks").fill("t01, t02")
    page.get_by_label("What is taken away").select_option("spine,leaf,link")
    page.get_by_role("button", name="Rehearse it").click()
    page.get_by_role("heading", name="The draft, as planned").wait_for(timeout=400_000)
    page.get_by_role("button", name="leaf-t01 is away").click()
    page.get_by_role("heading", name="leaf-t01 is away, and comes back").wait_for()
    page.get_by_role("button", name="Dismiss").click()


def people(page: Page) -> None:
    page.goto("/people?person=per")
    page.get_by_role("button", name="Lucia Ferrand, pelican: nothing").click()
    page.get_by_role("checkbox", name="technician").wait_for()


def staging(page: Page) -> None:
    """Marlin in the middle of its second wave: light switches, one with a parser that refuses, some that knock, and one that nobody expects."""
    page.goto("/f/marlin/staging")
    page.get_by_role("list", name="The roll call").wait_for()
    base = "/api/v1/fabrics/marlin/staging"
    address = page.evaluate("location.origin")
    roll = page.request.get(f"{base}/roll").json()
    serials = {one["name"]: f"LJ4-{at:04d}" for at, one in enumerate(roll, 11)}
    rows = "".join(f"{serial},{name}\n" for name, serial in list(serials.items())[:-2])
    assert page.request.post(
        f"{base}/delivery/take", data=f"serial,switch\n{rows}".encode(), headers={"Origin": address}
    ).ok
    with tempfile.TemporaryDirectory() as folder:
        lights = [
            Light(
                address,
                Path(folder) / name,
                {"serial": serial},
                {"slow"} | ({"parser"} if name == "leaf-r05a" else set()),
            )
            for name, serial in list(serials.items())[:-4]
        ]
        lights.append(Light(address, Path(folder) / "stranger", {"serial": "LJ4-0071"}))
        stop = threading.Event()
        running = threading.Thread(target=run_all, args=(lights, stop, len(lights), 0.3), daemon=True)
        running.start()
        page.get_by_text("LJ4-0071, which nobody expects, knocks").wait_for()
        for one in page.request.get(f"{base}/knocks").json():
            if one["expected"] and one["expected"] != "leaf-r06b":
                page.request.post(
                    f"{base}/knocks/{one['key']}/admit", data={"switch": one["expected"]}, headers={"Origin": address}
                )
        page.request.post(base, data={"at_once": 8}, headers={"Origin": address})
        page.get_by_text("vtysh does not take etc/frr/frr.conf").first.wait_for(timeout=60_000)
        page.get_by_role("list", name="The roll call").get_by_role("button", name="leaf-r05a").click()
        page.get_by_label("Because").get_by_text("ended with 1").wait_for()
        stop.set()
        running.join(20)


def outputs(
    page: Page,
    bundle: str,
    changes: dict[tuple[str, str], tuple[str, str]],
    without: str = "nobody",
    called: str = "marlin",
) -> bytes:
    """What somebody saved of switches: the files of a bundle, some of them changed by hand since (by switch and path: what is other, and how)."""
    packed = io.BytesIO()
    with (
        zipfile.ZipFile(io.BytesIO(page.request.get(bundle).body())) as old,
        zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as new,
    ):
        for name in old.namelist():
            if f"/{without}/" in name:
                continue
            text = old.read(name).decode(errors="replace").replace("marlin", called)
            for (switch, path), (before, after) in changes.items():
                if name.endswith(f"/{switch}/{path}"):
                    assert before in text, (name, before)
                    text = text.replace(before, after)
            new.writestr(name, text)
    return packed.getvalue()


FRR, INTERFACES = "etc/frr/frr.conf", "etc/network/interfaces"


def drift(page: Page) -> None:
    """A night's work by hand on three switches of Marlin, as saved outputs show it."""
    page.goto("/f/marlin/drift")
    page.get_by_text("Nothing was looked at yet").wait_for()
    changes = {
        ("leaf-r03a", FRR): ("timers 3 9", "timers 10 30"),
        ("spine-2", FRR): ("log syslog informational", "log syslog debugging\nip route 192.0.2.0/24 blackhole"),
        ("leaf-r07b", "etc/hosts"): ("::1 localhost", "10.90.7.5 printer\n::1 localhost"),
    }
    saved = outputs(page, "/api/v1/fabrics/marlin/editions/1/bundle.zip", changes)
    page.get_by_label("Saved outputs").set_input_files(
        [{"name": "night.zip", "mimeType": "application/zip", "buffer": saved}]
    )
    page.get_by_text("switches are as meant").wait_for()
    page.get_by_role("list", name="Not as meant").get_by_role("button", name="spine-2").click()
    page.get_by_label("Because").get_by_text("192.0.2.0/24").first.wait_for()
    page.get_by_role("button", name="Dismiss").click()


def adopt(page: Page) -> None:
    """A network that nobody described: Marlin's files under another name, one leaf with another MTU, one that could not be reached."""
    changes = {
        ("leaf-r05a", INTERFACES): ("mtu 9216", "mtu 9000"),
        ("leaf-r09b", FRR): (
            "log syslog informational",
            "log syslog informational\nip route 198.51.100.0/24 blackhole",
        ),
    }
    saved = outputs(page, "/api/v1/fabrics/marlin/bundle.zip", changes, without="leaf-r10b", called="sardine")
    page.goto("/adopt/sardine")
    page.get_by_label("Saved outputs").set_input_files(
        [{"name": "handed-over.zip", "mimeType": "application/zip", "buffer": saved}]
    )
    page.get_by_role("button", name="Look at it").click()
    page.get_by_role("list", name="Proposals").get_by_role("button").first.click()


ARCHITECT = (
    fabrics,
    adopt,
    brief,
    office,
    pods,
    sums,
    need,
    segments,
    configs,
    ladder,
    cabling,
    word,
    rehearsal,
    editions,
)
KEEPER = (catalogue, ledger, people)
OPERATOR = (drift, staging)


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="barrio-shots-") as folder, sync_playwright() as playwright:
        Path(folder).chmod(0o755)
        server = Server(Path(folder) / "data")
        server.start("--demo")
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)

        def somebody(link: str) -> BrowserContext:
            context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=server.address)
            page = context.new_page()
            page.goto(link)
            page.get_by_role("button", name="Come in").click()
            page.get_by_role("heading", name="Fabrics").wait_for()
            page.close()
            return context

        links = re.findall(r"http://\S+/enter#\S+", "".join(server.said))
        every = (
            (somebody(links[0]), ARCHITECT),
            (somebody(links[1]), KEEPER),
            (somebody(links[2]), OPERATOR),
        )
        for context, views in every:
            for view in views:
                if sys.argv[1:] and view.__name__ not in sys.argv[1:]:
                    continue
                page = context.new_page()
                view(page)
                page.wait_for_timeout(1600)
                page.screenshot(path=DOCS / f"{view.__name__}.png")
                page.close()
        browser.close()
        server.end()
        server.wait_until_gone()


if __name__ == "__main__":
    main()
