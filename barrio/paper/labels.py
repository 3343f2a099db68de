"""Labels by TIA-606: each end names the cable, itself and the other end; as SVG with a QR code, as sheets in PDF, and as CSV for label printers.

The code opens the cable's page. Sheets are A4 or Letter with labels of a common size; a text that is too long for its label in letters that
can still be read is refused, with the size that would hold it.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from hashlib import sha256
from typing import NamedTuple

import segno
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas

from barrio.core.bundle import harmless
from barrio.core.cabling.plan import Cable
from barrio.core.errors import refuse

LEAST_POINTS = 5.0
"""Letters smaller than this cannot be read on a cable."""


class Size(NamedTuple):
    """A sheet of labels: its paper in points, columns and rows, and the width, height and margins of labels in mm."""

    paper: tuple[float, float]
    columns: int
    rows: int
    width: float
    height: float
    left: float
    top: float


SIZES: dict[str, Size] = {
    "a4-70x37": Size(A4, 3, 8, 70, 37, 0, 0.5),
    "a4-48x25": Size(A4, 4, 10, 48.5, 25.4, 8, 21.5),
    "a4-38x21": Size(A4, 5, 13, 38.1, 21.2, 9.75, 10.7),
    "letter-67x25": Size(LETTER, 3, 10, 66.7, 25.4, 4.8, 12.7),
}
"""Sheets by name: paper, then width by height of a label in mm."""


@dataclass(frozen=True, slots=True)
class Label:
    """What is printed on one end of a cable."""

    head: str
    mine: str
    other: str
    address: str


def labels_of(cable: Cable, base: str) -> tuple[Label, ...]:
    """The labels of a cable: both ends, or, where it is two cords through panels, both ends of each.

    `base` is the address under which the fabric's pages are, or empty where nobody serves them.
    """
    address = f"{base}/cabling?cable={cable.label}" if base else cable.label
    one, other = cable.a.text, cable.b.text
    ends = [("A", one, other), ("B", other, one)]
    if cable.via is not None:
        near, far = cable.via.lower.text, cable.via.upper.text
        ends = [("A1", one, near), ("A2", near, one), ("B1", far, other), ("B2", other, far)]
    return tuple(Label(f"{cable.label} {end}", mine, f"to {there}", address) for end, mine, there in ends)


def as_svg(label: Label) -> str:
    """One label as a picture of 62 by 20 mm."""
    matrix = _matrix(label.address)
    scale = 17 / len(matrix)
    path = "".join(
        f"M{44 + column * scale:.3f} {1.5 + row * scale:.3f}h{scale:.3f}v{scale:.3f}h-{scale:.3f}z"
        for row, line in enumerate(matrix)
        for column, dark in enumerate(line)
        if dark
    )
    lines = "".join(
        f'<text x="2" y="{y}" font-family="monospace" font-size="{size}"{weight}>{_escaped(text)}</text>'
        for text, y, size, weight in (
            (label.head, 6, 4, ' font-weight="700"'),
            (label.mine, 11.5, _fitting(label.mine), ""),
            (label.other, 16, _fitting(label.other), ""),
        )
    )
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="62mm" height="20mm" viewBox="0 0 62 20">'
        f'<rect width="62" height="20" fill="#fff"/>{lines}<path d="{path}"/></svg>'
    )


def _fitting(text: str) -> float:
    """The size of letters, in mm, at which a text stands beside the code."""
    return round(min(3.0, 41 / (0.602 * max(1, len(text)))), 2)


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def as_csv(cables: Iterable[Cable], base: str) -> str:
    """A row for each label, as label printers take them (RFC 4180)."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(("cable", "this_end", "other_end", "code"))
    for cable in cables:
        for label in labels_of(cable, base):
            writer.writerow([harmless(cell) for cell in (label.head, label.mine, label.other, label.address)])
    return out.getvalue()


def as_pdf(cables: Sequence[Cable], base: str, size: str, title: str) -> bytes:
    """Sheets of labels, both ends of a cable beside each other.

    Raises `Refused` (`label.size` for a sheet that is not known, `label.long` for a text that would be too small to read).
    """
    sheet = SIZES.get(size)
    if sheet is None:
        raise refuse("label.size", f"No sheet of labels is called {size[:30]}. There are: {', '.join(SIZES)}.")
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=sheet.paper, invariant=1)
    canvas.setTitle(title)
    every = [(label, pair) for cable in cables for pair in (labels_of(cable, base),) for label in pair]
    for place, (label, pair) in enumerate(every):
        at = place % (sheet.columns * sheet.rows)
        if at == 0 and place:
            canvas.showPage()
        _draw(canvas, sheet, _set(sheet, size, pair), label, at)
    canvas.save()
    return out.getvalue()


def _code_side(sheet: Size) -> float:
    return min(sheet.height - 4, sheet.width * 0.32)


class Setting(NamedTuple):
    """How a label is set: the size of its letters in points, and whether a place stands on a line of its own."""

    points: float
    broken: bool


def _lines(label: Label, broken: bool) -> list[str]:
    """The lines under the head: each end on one, or broken after where it stands."""
    lines = []
    for text in (label.mine, label.other):
        head, _, rest = text.rpartition(" ")
        lines += [head, rest] if broken and head else [text]
    return lines


def _set(sheet: Size, size: str, pair: Sequence[Label]) -> Setting:
    """How both labels of a cable fit: in letters as large as can be. Raises `Refused` (`label.long`)."""
    room = (sheet.width - _code_side(sheet) - 5) * mm
    found = []
    for broken in (False, True):
        lines = [line for label in pair for line in _lines(label, broken)]
        high = (sheet.height - 3) * mm / (1.35 * (len(lines) / 2 + 1.2))
        found.append(Setting(min(9.0, high, *(room / stringWidth(line, "Courier", 1.0) for line in lines)), broken))
    best = max(found, key=lambda setting: setting.points)
    if best.points < LEAST_POINTS:
        wider = next((name for name, other in SIZES.items() if other.width > sheet.width), None)
        way = f"Print on {wider}, or give" if wider else "Give"
        words = f"The labels of {pair[0].head.split()[0]} do not fit {size} in letters of {LEAST_POINTS:g} points. {way} the switches shorter names."
        raise refuse("label.long", words)
    return best


def _draw(canvas: Canvas, sheet: Size, setting: Setting, label: Label, at: int) -> None:
    points = setting.points
    row, column = divmod(at, sheet.columns)
    left = (sheet.left + column * sheet.width) * mm
    bottom = sheet.paper[1] - (sheet.top + (row + 1) * sheet.height) * mm
    code = _code_side(sheet)
    line = points * 1.35
    y = bottom + sheet.height * mm - 2 * mm - points
    canvas.setFont("Courier-Bold", points + 1)
    canvas.drawString(left + 2 * mm, y, label.head)
    canvas.setFont("Courier", points)
    for place, text in enumerate(_lines(label, setting.broken), 1):
        canvas.drawString(left + 2 * mm, y - place * line, text)
    _code(
        canvas, label.address, left + (sheet.width - code - 2) * mm, bottom + (sheet.height - code) / 2 * mm, code * mm
    )


@lru_cache(maxsize=8)
def _matrix(text: str) -> tuple[bytearray, ...]:
    """The modules of a QR code (ISO/IEC 18004). Any of its eight masks can be read; trying all for the fairest takes four times as long."""
    return tuple(segno.make(text, error="m", micro=False, mask=3).matrix)


def _code(canvas: Canvas, text: str, x: float, y: float, side: float) -> None:
    """A QR code, its dark modules joined to runs; drawn once for both labels of a cable."""
    name = sha256(text.encode()).hexdigest()[:16]
    matrix = _matrix(text)
    size = len(matrix)
    if not canvas.hasForm(name):
        canvas.beginForm(name, 0, 0, size, size)
        path = canvas.beginPath()
        for row, line in enumerate(matrix):
            start = -1
            for column, dark in enumerate([*line, 0]):
                if dark and start < 0:
                    start = column
                elif not dark and start >= 0:
                    path.rect(start, size - row - 1, column - start, 1)
                    start = -1
        canvas.drawPath(path, stroke=0, fill=1)
        canvas.endForm()
    canvas.saveState()
    canvas.translate(x, y)
    canvas.scale(side / size, side / size)
    canvas.doForm(name)
    canvas.restoreState()
