"""What came of a rehearsal, on paper for a change board: the verdict first, then what did not hold with its evidence, drills as scores, and at the end what was
not there and is not proven."""

from __future__ import annotations

import io
from collections.abc import Iterator, Mapping, Sequence
from typing import Any
from xml.sax.saxutils import escape

from reportlab.graphics.shapes import Drawing, Line, Rect, String
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import (
    Flowable,
    KeepTogether,
    Paragraph,
    Preformatted,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)

WIDE = A4[0] - 32 * mm - 12
NAMES = 62 * mm
ROW = 6.4 * mm
INK, SOFT, NO, YES, BAND, MARK = (
    HexColor(one) for one in ("#22252b", "#62635e", "#b4472e", "#5e7437", "#ece4d3", "#274b7d")
)
_TEXT = ParagraphStyle("text", fontName="Helvetica", fontSize=10, leading=14, textColor=INK)
_SOFT = ParagraphStyle("soft", _TEXT, textColor=SOFT, fontSize=9, leading=12)
_TITLE = ParagraphStyle("title", _TEXT, fontName="Helvetica-Bold", fontSize=20, leading=26)
_PART = ParagraphStyle("part", _TEXT, fontName="Helvetica-Bold", fontSize=13, leading=18, spaceBefore=12, spaceAfter=3)
_NO, _YES = ParagraphStyle("no", _TEXT, textColor=NO), ParagraphStyle("yes", _TEXT, textColor=YES)
_SAID = ParagraphStyle("said", fontName="Courier", fontSize=7.6, leading=9.4, textColor=INK, leftIndent=10)
_ORDER = ("no", "yes", "not asked")
MOST_CLAIMS, MOST_LINES, MOST_WIDE = 40, 14, 108


def change_board(found: Mapping[str, Any], words: str, of: str, asked: str) -> bytes:
    """A document (A4) of the plain values of a rehearsal; `words` say what came of it, `of` which state it was, `asked` who asked for it and when. The same
    values give the same bytes."""
    out = io.BytesIO()
    title = f"Rehearsal of {found['fabric']}, {of}"
    paper = SimpleDocTemplate(
        out,
        pagesize=A4,
        margins=16 * mm,
        title=title,
        invariant=1,
        leftMargin=16 * mm,
        rightMargin=16 * mm,
        topMargin=16 * mm,
        bottomMargin=16 * mm,
    )

    def foot(canvas: Any, document: Any) -> None:
        canvas.setFont("Helvetica", 8.5)
        canvas.setFillColor(SOFT)
        canvas.drawString(16 * mm, 9 * mm, title)
        canvas.drawRightString(A4[0] - 16 * mm, 9 * mm, str(document.page))

    paper.build(
        [*_head(found, words, title, asked), *_questions(found), *_drills(found), *_limits(found)],
        onFirstPage=foot,
        onLaterPages=foot,
    )
    return out.getvalue()


def _words(text: str, style: ParagraphStyle = _TEXT) -> Paragraph:
    return Paragraph(escape(text), style)


def _head(found: Mapping[str, Any], words: str, title: str, asked: str) -> Iterator[Flowable]:
    bad = any(one["state"] == "no" for one in found["answers"]) or any(one["faults"] for one in found["drills"])
    yield _words(title, _TITLE)
    yield _words(
        f"{words}.", ParagraphStyle("verdict", _NO if bad else _YES, fontName="Helvetica-Bold", fontSize=12, leading=17)
    )
    size = f"{len(found['switches'])} switches{', a slice' if found['slice']['left_out'] else ', the whole fabric'}"
    yield _words(
        f"{size}, {found['hosts']} of {found['of_hosts']} hosts, on {found['ground']}; {found['seconds']:.0f} s in all. {asked}.",
        _SOFT,
    )


def _questions(found: Mapping[str, Any]) -> Iterator[Flowable]:
    yield _words("Questions", _PART)
    answers = sorted(found["answers"], key=lambda one: _ORDER.index(one["state"]))
    rows = [
        [
            _words(one["state"], {"no": _NO, "yes": _YES}.get(one["state"], _SOFT)),
            [_words(one["title"]), *([_words(one["why"], _SOFT)] if one["why"] else [])],
            _words(_count(one), _SOFT),
        ]
        for one in answers
    ]
    if rows:
        yield _ruled(rows, (20 * mm, WIDE - 62 * mm, 42 * mm))
    for one in answers:
        wrong = [claim for claim in one["claims"] if not claim["holds"]]
        if wrong:
            yield _words(one["title"], _PART)
        for claim in wrong[:MOST_CLAIMS]:
            yield KeepTogether([*_claim(claim), Spacer(1, 5)])
        if len(wrong) > MOST_CLAIMS:
            yield _words(f"and {len(wrong) - MOST_CLAIMS} more", _SOFT)


def _count(one: Mapping[str, Any]) -> str:
    if one["state"] == "not asked":
        return ""
    wrong = sum(not claim["holds"] for claim in one["claims"])
    return f"{wrong} of {len(one['claims'])} do not hold" if wrong else f"all {len(one['claims'])} claims hold"


def _claim(claim: Mapping[str, Any]) -> Iterator[Flowable]:
    yield Paragraph(f"<b>{escape(claim['words'])}</b>", _TEXT)
    yield _words(f"{claim['found']}; expected: {claim['expected']}", _NO)
    said = [line[:MOST_WIDE] for line in f"{claim['command']}\n{claim['said']}".strip().splitlines()][:MOST_LINES]
    if said:
        yield Preformatted("\n".join(said), _SAID)


def _drills(found: Mapping[str, Any]) -> Iterator[Flowable]:
    if found["drills"]:
        yield _words("Drills", _PART)
    for one in found["drills"]:
        verdict = _words("not as foretold" if one["faults"] else "as foretold", _NO if one["faults"] else _YES)
        lines = [_words(fault, _NO) for fault in one["faults"][:8]]
        yield KeepTogether(
            [Paragraph(f"<b>{escape(one['words'])}</b>", _TEXT), verdict, *lines, _score(one), Spacer(1, 8)]
        )


def _score(one: Mapping[str, Any]) -> Drawing:
    """A drill as a score: time to the right, a line a flow, a tick for each part of a second in which something came."""
    flows, high = one["flows"], (len(one["flows"]) + 1) * ROW + 6
    made = Drawing(WIDE, high)
    scale = (WIDE - NAMES) / max(one["seconds"], 0.1)
    bands = [(wave["at"], wave["until"]) for wave in one["waves"]] or [(one["at"], one["until"])]
    for begins, ends in bands:
        made.add(
            Rect(
                NAMES + begins * scale,
                0,
                max(1, (ends - begins) * scale - 1),
                high - ROW,
                fillColor=BAND,
                strokeColor=None,
            )
        )
    step = max(2, 2 * round(one["seconds"] / 16))
    for at in range(0, int(one["seconds"]) + 1, step):
        made.add(String(NAMES + at * scale, high - 8, f"{at} s", fontName="Helvetica", fontSize=7, fillColor=SOFT))
    for row, flow in enumerate(flows):
        y = high - (row + 2) * ROW + 6
        made.add(String(0, y, f"{flow['one']} > {flow['other']}"[:46], fontName="Courier", fontSize=6.4, fillColor=INK))
        for begins, ends in _heard(flow["heard"]):
            made.add(
                Line(NAMES + begins * scale, y + 2, NAMES + ends * scale, y + 2, strokeColor=MARK, strokeWidth=2.4)
            )
        lost = flow["sent"] - flow["received"]
        if lost:
            late = flow["longest"] > flow["most"]
            made.add(
                String(
                    WIDE,
                    y + 5,
                    f"{flow['longest']:.2f} s, {lost} lost",
                    fontName="Helvetica",
                    fontSize=6.4,
                    fillColor=NO if late else SOFT,
                    textAnchor="end",
                )
            )
    return made


def _heard(shares: Sequence[float]) -> Iterator[tuple[float, float]]:
    """The stretches of tenths of a second in which something came, in seconds."""
    since: int | None = None
    for at, share in enumerate([*shares, 0]):
        if share > 0 and since is None:
            since = at
        elif share <= 0 and since is not None:
            yield since / 10, at / 10
            since = None


def _limits(found: Mapping[str, Any]) -> Iterator[Flowable]:
    for title, lines in (
        ("Not here", found["slice"]["left_out"]),
        ("Not proven", found["slice"]["cannot"]),
        ("Of the files, not run here", found["left_out"]),
    ):
        if lines:
            yield _words(title, _PART)
        yield from (_words(line, _SOFT) for line in lines)


def _ruled(rows: Sequence[Sequence[Any]], widths: Sequence[float]) -> Table:
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
