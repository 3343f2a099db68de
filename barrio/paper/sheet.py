"""What documents have in common: their type, their tables, and the page that they are on."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Table, TableStyle

INK, SOFT, NO, YES, BAND, MARK = (
    HexColor(one) for one in ("#22252b", "#62635e", "#b4472e", "#5e7437", "#ece4d3", "#274b7d")
)
TEXT = ParagraphStyle("text", fontName="Helvetica", fontSize=10, leading=14, textColor=INK)
FAINT = ParagraphStyle("soft", TEXT, textColor=SOFT, fontSize=9, leading=12)
TITLE = ParagraphStyle("title", TEXT, fontName="Helvetica-Bold", fontSize=20, leading=26)
PART = ParagraphStyle("part", TEXT, fontName="Helvetica-Bold", fontSize=13, leading=18, spaceBefore=12, spaceAfter=3)
BAD, GOOD = ParagraphStyle("no", TEXT, textColor=NO), ParagraphStyle("yes", TEXT, textColor=YES)
SAID = ParagraphStyle("said", fontName="Courier", fontSize=7.6, leading=9.4, textColor=INK, leftIndent=10)


def document(title: str, story: Iterable[Flowable]) -> bytes:
    """A document (A4) with its title and the page's number at the foot of each. The same story gives the same bytes."""
    out = io.BytesIO()
    sides = {f"{side}Margin": 16 * mm for side in ("left", "right", "top", "bottom")}
    paper = SimpleDocTemplate(out, pagesize=A4, title=title, invariant=1, **sides)

    def foot(canvas: Any, document: Any) -> None:
        canvas.setFont("Helvetica", 8.5)
        canvas.setFillColor(SOFT)
        canvas.drawString(16 * mm, 9 * mm, title)
        canvas.drawRightString(A4[0] - 16 * mm, 9 * mm, str(document.page))

    paper.build(list(story), onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


def words(text: str, style: ParagraphStyle = TEXT) -> Paragraph:
    return Paragraph(escape(text), style)


def ruled(rows: Sequence[Sequence[Any]], widths: Sequence[float]) -> Table:
    made = Table(rows, colWidths=widths, hAlign="LEFT")
    made.setStyle(
        TableStyle(
            [
                ("LINEBELOW", (0, 0), (-1, -1), 0.4, BAND),
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LEFTPADDING", (0, 0), (-1, -1), 0),
                ("TOPPADDING", (0, 0), (-1, -1), 2.5),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 2.5),
            ]
        )
    )
    return made
