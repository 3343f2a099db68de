"""Pages for the hall: a cover with what to order, a page for each rack, and a card for each bundle to pull. Black on white, to be read at
arm's length, with a box to tick for every cable."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from barrio.core.cabling.lay import Laid
from barrio.core.cabling.materials import Material
from barrio.core.cabling.orders import Pull, pulls, runs_in
from barrio.core.cabling.routing import Pair
from barrio.core.place.elevation import Elevation

WIDE, HIGH = A4
MARGIN = 14 * mm
ROW = 6.2 * mm
TEXT, BOLD, MONO, MONO_BOLD = "Helvetica", "Helvetica-Bold", "Courier", "Courier-Bold"

Progress = Callable[[int, int], None]


@dataclass(frozen=True, slots=True)
class Column:
    """A column of a table: its heading, where it begins in mm, and its letters."""

    title: str
    at: float
    font: str = MONO
    size: float = 10.5


class Pages:
    """A document of pages with a head and a foot; it breaks tables over as many as they need."""

    def __init__(self, title: str, subtitle: str) -> None:
        self._out = io.BytesIO()
        self.canvas = Canvas(self._out, pagesize=A4, invariant=1)
        self.canvas.setTitle(title)
        self.title, self.subtitle = title, subtitle
        self.y = 0.0
        self._page = 0

    def begin(self, head: str, words: str) -> None:
        """A new page with its head: what it is of in large letters, and a line of words."""
        if self._page:
            self.canvas.showPage()
        self._page += 1
        canvas = self.canvas
        canvas.setFont(BOLD, 26)
        canvas.drawString(MARGIN, HIGH - MARGIN - 20, head)
        canvas.setFont(TEXT, 11)
        canvas.drawString(MARGIN, HIGH - MARGIN - 38, words)
        canvas.setFont(TEXT, 9)
        canvas.drawString(MARGIN, MARGIN - 14, f"{self.title}, {self.subtitle}")
        canvas.drawRightString(WIDE - MARGIN, MARGIN - 14, str(self._page))
        canvas.setLineWidth(0.8)
        canvas.line(MARGIN, HIGH - MARGIN - 46, WIDE - MARGIN, HIGH - MARGIN - 46)
        self.y = HIGH - MARGIN - 64

    def table(
        self,
        columns: Sequence[Column],
        rows: Iterable[Sequence[str]],
        head: str,
        words: str,
        left: float = 0.0,
        ticks: bool = True,
    ) -> None:
        """Rows of text, each with a box to tick; goes on under the same head where a page is full."""
        self._headings(columns, left)
        for row in rows:
            if self.y < MARGIN + ROW:
                self.begin(head, f"{words}, continued")
                left = 0.0
                self._headings(columns, left)
            self._row(columns, row, left, ticks)

    def _headings(self, columns: Sequence[Column], left: float) -> None:
        self.canvas.setFont(TEXT, 9)
        for column in columns:
            self.canvas.drawString(MARGIN + left + column.at * mm, self.y, column.title)
        self.y -= 6 * mm

    def _row(self, columns: Sequence[Column], row: Sequence[str], left: float, ticks: bool) -> None:
        canvas = self.canvas
        if ticks:
            canvas.setLineWidth(0.9)
            canvas.rect(MARGIN + left, self.y - 1.2, 3.6 * mm, 3.6 * mm)
        for place, (column, text) in enumerate(zip(columns, row, strict=True)):
            end = columns[place + 1].at * mm if place + 1 < len(columns) else WIDE - 2 * MARGIN - left
            room = end - column.at * mm - 4
            size = min(column.size, column.size * room / max(1.0, stringWidth(text, column.font, column.size)))
            canvas.setFont(column.font, size)
            canvas.drawString(MARGIN + left + column.at * mm, self.y, text)
        canvas.setLineWidth(0.25)
        canvas.line(MARGIN + left, self.y - 5.2, WIDE - MARGIN, self.y - 5.2)
        self.y -= ROW

    def done(self) -> bytes:
        self.canvas.save()
        return self._out.getvalue()


_RUN = (
    Column("cable", 6, MONO_BOLD, 12), Column("this end", 30), Column("other end", 62), Column("take", 112, TEXT), Column("pull", 127, TEXT),
)  # fmt: skip
_WIDE = (
    Column("cable", 6, MONO_BOLD, 12), Column("this end", 34), Column("other end", 76), Column("take", 130, TEXT), Column("pull", 168, TEXT),
)  # fmt: skip
_ORDER = (
    Column("part", 0, MONO, 10), Column("what it is", 36, TEXT, 10), Column("length", 98, TEXT, 10), Column("needed", 116, TEXT, 10),
    Column("spare", 134, TEXT, 10), Column("in stock", 148, TEXT, 10), Column("order", 166, BOLD, 11),
)  # fmt: skip


def rack_pages(
    laid: Laid,
    stood: Mapping[str, Elevation],
    racks: Sequence[str],
    title: str,
    subtitle: str,
    progress: Progress | None = None,
) -> bytes:
    """A page (or more) for each of these racks: its elevation, and its cables in the order in which they are best run."""
    pages = Pages(title, subtitle)
    numbers = {pull.pair: pull.number for pull in pulls(laid)}
    for done, rack in enumerate(racks):
        _rack(pages, laid, stood[rack], runs_in(laid, rack, numbers, laid.inside.get(rack, ())), numbers)
        if progress:
            progress(done + 1, len(racks))
    return pages.done()


def _rack(pages: Pages, laid: Laid, elevation: Elevation, runs: Sequence[int], numbers: Mapping[Pair, int]) -> None:
    rack = elevation.rack
    spot = laid.plan.spots.get(rack)
    where = f"{spot.hall}, {spot.row}, front to the {spot.faces}; " if spot else ""
    words = f"{where}{len(runs)} cables, {elevation.units} of {elevation.cabinet.units} units"
    pages.begin(f"Rack {rack}", words)
    _elevation(pages.canvas, elevation, pages.y + 6)
    rows = (_run_row(laid, place, rack, numbers) for place in runs)
    # Beside the elevation on the first page; what goes on after it has the page for itself.
    first: list[tuple[str, ...]] = []
    rest: list[tuple[str, ...]] = []
    room = int((pages.y - 6 * mm - MARGIN) / ROW)
    for at, row in enumerate(rows):
        (first if at < room else rest).append(row)
    pages.table(_RUN, first, f"Rack {rack}", words, 46 * mm)
    if rest:
        pages.begin(f"Rack {rack}", f"{words}, continued")
        pages.table(_WIDE, rest, f"Rack {rack}", words)


def _run_row(laid: Laid, place: int, rack: str, numbers: Mapping[Pair, int]) -> tuple[str, ...]:
    cable = laid.cables[place]
    mine, other = (cable.a, cable.b) if cable.a.rack == rack else (cable.b, cable.a)
    pair = Pair(*sorted((cable.a.rack, cable.b.rack)))
    pull = f"{numbers[pair]}" if pair in numbers else "in rack"
    take = f"{cable.stock:g} m" if cable.stock is not None else cable.kind
    there = f"{other.rack}.U{other.unit} {other.switch} {other.port}" if other.rack else f"{other.switch} {other.port}"
    return (cable.label, f"U{mine.unit} {mine.port}", there, take, pull)


def _elevation(canvas: Canvas, elevation: Elevation, top: float) -> None:
    """The rack to the unit, at the left of the page."""
    units = elevation.cabinet.units
    unit = min(5.2 * mm, (top - MARGIN) / units)
    left, wide = MARGIN + 5 * mm, 36 * mm
    canvas.setLineWidth(1.2)
    canvas.rect(left, top - units * unit, wide, units * unit)
    canvas.setFont(TEXT, 6)
    for number in range(5, units + 1, 5):
        canvas.drawRightString(left - 2, top - (units - number + 1) * unit + 1.5, str(number))
    for thing in elevation.things:
        bottom = top - (units - thing.unit + 1) * unit
        canvas.setLineWidth(0.9)
        canvas.setFillGray(0.9 if thing.key.startswith("gear/") else 1)
        canvas.rect(left + 2, bottom + 0.6, wide - 4, thing.units * unit - 1.2, fill=1)
        canvas.setFillGray(0)
        size = min(9.0, thing.units * unit - 3, (wide - 8) / stringWidth(thing.name, MONO_BOLD, 1.0))
        canvas.setFont(MONO_BOLD, size)
        canvas.drawString(left + 4, bottom + (thing.units * unit - size * 0.7) / 2, thing.name)


def bundle_pages(laid: Laid, title: str, subtitle: str, progress: Progress | None = None) -> bytes:
    """A page (or more) for each bundle, in the order in which they are pulled: far ends first, along the same trays one after the other."""
    pages = Pages(title, subtitle)
    every = pulls(laid)
    for done, pull in enumerate(every):
        _bundle(pages, laid, pull)
        if progress:
            progress(done + 1, len(every))
    return pages.done()


def _bundle(pages: Pages, laid: Laid, pull: Pull) -> None:
    one, other = pull.pair
    trays = ", ".join(pull.trays) or "no way"
    long = "" if pull.longest is None else f", {pull.shortest:.1f} to {pull.longest:.1f} m"
    words = f"{len(pull.places)} cables along {trays}{long}, {laid.thickness(pull.places):.0f} mm thick"
    head = f"Pull {pull.number}: {one} to {other}"
    pages.begin(head, words)
    rows = []
    for place in pull.places:
        cable = laid.cables[place]
        ends = [(cable.a, cable.b), (cable.b, cable.a)][cable.a.rack != one]
        take = f"{cable.part}, {cable.stock:g} m" if cable.stock is not None else cable.kind
        rows.append((cable.label, *(f"{end.rack}.U{end.unit} {end.switch} {end.port}" for end in ends), take))
    columns = (
        Column("cable", 6, MONO_BOLD, 12),
        Column(f"in {one}", 34),
        Column(f"in {other}", 82),
        Column("take", 132, TEXT, 10),
    )
    pages.table(columns, rows, head, words)


def cover(laid: Laid, order: Sequence[Material], title: str, subtitle: str) -> bytes:
    """The first page: how much there is to lay, and what to order for it."""
    pages = Pages(title, subtitle)
    metres = sum(cable.length or 0 for cable in laid.cables)
    words = f"{len(laid.cables):,} cables of {metres:,.0f} m in {len(laid.bundles):,} bundles between {len(laid.plan.spots):,} racks"
    pages.begin(title, words)
    rows = [
        (
            line.item.part, f"{line.name} ({line.maker})", "" if line.item.length is None else f"{line.item.length:g} m",
            f"{line.needed:,}", f"{line.spare:,}", f"{line.stocked:,}", f"{line.order:,}",
        )
        for line in order
    ]  # fmt: skip
    pages.table(_ORDER, rows, title, words, ticks=False)
    priced = [line.price * line.order for line in order if line.price is not None]
    if len(priced) == len(order) and order:
        pages.canvas.setFont(BOLD, 11)
        pages.canvas.drawRightString(WIDE - MARGIN, pages.y - 4, f"by the prices of the catalogue {sum(priced):,.0f}")
    return pages.done()
