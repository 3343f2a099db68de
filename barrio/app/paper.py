"""What is printed of a fabric's cables: labels, pages, and what to order."""

from __future__ import annotations

from collections.abc import Callable

from barrio.app import kept
from barrio.app.cabling import standing
from barrio.app.desk import Desk
from barrio.core import compile
from barrio.core.brief.document import read
from barrio.core.brief.ranges import expand_names
from barrio.core.cabling.lay import Laid
from barrio.core.cabling.materials import Item, Material, materials, read_stock
from barrio.core.cabling.plan import Cable
from barrio.core.errors import refuse
from barrio.core.exchange.sheet import read_sheet
from barrio.core.place.elevation import elevations
from barrio.paper import labels, pages
from barrio.store import drafts, editions
from barrio.store.errors import Missing

Progress = Callable[[int, int], None]
WHAT = ("cover", "racks", "bundles", "labels")


def order(desk: Desk, name: str, stock: bytes = b"", racks: str = "", since: int | None = None) -> tuple[Material, ...]:
    """What to order for all cables, or for those that end in some racks (a range), against a sheet of what is in stock.

    With `since`, only what is more than an earlier version of the draft took. Raises `Missing` for a version that is too long ago, and
    `Refused` (`sheet.*`, `stock.*`, `range.*`).
    """
    laid = standing(desk, name).laid
    have: dict[Item, int] = {}
    if stock:
        sheet = read_sheet(stock)
        have = read_stock(sheet.columns, sheet.rows, sheet.lines, laid.parts)
    before = _at(desk, name, since) if since is not None else None
    only = None
    if racks:
        both = (*_of(laid, racks), *(_of(before, racks) if before else ()))
        only = {cable.label for cable in both}
    return materials(laid, have, only, before)


def _at(desk: Desk, name: str, version: int) -> Laid:
    """The cables of an earlier version of a draft, with the numbers that their keys have now; of an edition's, as it was sealed."""
    with desk.reading() as tx:
        edition = next((one for one in editions.every(tx.connection, name) if one.version == version), None)
        if edition is not None:
            return kept.compiled(tx, edition).laid
        text = drafts.text_at(tx.connection, name, version)
        if text is None:
            raise Missing(f"Version {version} of {name} is too long ago. Name one of its history.")
        return compile(read(text).brief, tx.ledger(name).stock, tx.catalogue().catalogue, office=tx.office()).laid


def _of(laid: Laid, racks: str) -> list[Cable]:
    wanted = set(expand_names(racks, "rack")) if racks else set()
    return [cable for cable in laid.cables if not wanted or {cable.a.rack, cable.b.rack} & wanted]


def label(desk: Desk, name: str, cable: str, end: str, base: str) -> str:
    """The label of one end of a cable, as SVG. Raises `Missing`."""
    laid = standing(desk, name).laid
    if cable not in laid.by_label:
        raise Missing(f"{name} has no cable {cable}.")
    both = labels.labels_of(laid.cables[laid.by_label[cable]], base)
    return labels.as_svg(both[-1 if end == "b" else 0])


def label_rows(desk: Desk, name: str, rack: str, base: str) -> str:
    """All labels, or those of a rack, as CSV for label printers."""
    return labels.as_csv(_of(standing(desk, name).laid, rack), base)


def printed(
    desk: Desk,
    name: str,
    what: str,
    base: str,
    rack: str = "",
    size: str = "a4-70x37",
    progress: Progress | None = None,
) -> bytes:
    """A document of pages: `cover`, `racks` (or one of them), `bundles`, or sheets of `labels`.

    Raises `Missing` for a rack that is not there, `Refused` (`pages.what`, `label.*`).
    """
    found = standing(desk, name)
    brief = found.compiled.brief
    title, subtitle = brief.title or name, f"{len(found.laid.cables):,} cables"
    if what == "cover":
        return pages.cover(found.laid, materials(found.laid), title, subtitle)
    if what == "labels":
        return labels.as_pdf(_of(found.laid, rack), base, size, title)
    if what == "bundles":
        return pages.bundle_pages(found.laid, title, subtitle, progress)
    if what == "racks":
        stood = elevations(brief, found.compiled.structure)
        if rack and rack not in stood:
            raise Missing(f"{name} has nothing in a rack called {rack}.")
        return pages.rack_pages(found.laid, stood, [rack] if rack else list(stood), title, subtitle, progress)
    raise refuse("pages.what", f"There are no pages of that kind. Ask for one of: {', '.join(WHAT)}.", "what")
