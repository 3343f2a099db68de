"""What came of a rehearsal, on paper for a change board: the verdict first, then what did not hold with its evidence, drills as scores, and at the end what was
not there and is not proven."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any
from xml.sax.saxutils import escape

from reportlab.graphics.shapes import Drawing, Line, Rect, String
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import (
    Flowable,
    KeepTogether,
    Paragraph,
    Preformatted,
    Spacer,
)

from barrio.paper.sheet import (
    BAD,
    BAND,
    FAINT,
    GOOD,
    INK,
    MARK,
    NO,
    PART,
    SAID,
    SOFT,
    TEXT,
    TITLE,
    document,
    ruled,
)
from barrio.paper.sheet import words as line_of

WIDE = A4[0] - 32 * mm - 12
NAMES = 62 * mm
ROW = 6.4 * mm
_ORDER = ("no", "yes", "not asked")
MOST_CLAIMS, MOST_LINES, MOST_WIDE = 40, 14, 108


def change_board(found: Mapping[str, Any], words: str, of: str, asked: str) -> bytes:
    """A document (A4) of the plain values of a rehearsal; `words` say what came of it, `of` which state it was, `asked` who asked for it and when. The same
    values give the same bytes."""
    title = f"Rehearsal of {found['fabric']}, {of}"
    return document(title, [*_head(found, words, title, asked), *_questions(found), *_drills(found), *_limits(found)])


def _head(found: Mapping[str, Any], words: str, title: str, asked: str) -> Iterator[Flowable]:
    bad = any(one["state"] == "no" for one in found["answers"]) or any(one["faults"] for one in found["drills"])
    yield line_of(title, TITLE)
    yield line_of(
        f"{words}.", ParagraphStyle("verdict", BAD if bad else GOOD, fontName="Helvetica-Bold", fontSize=12, leading=17)
    )
    size = f"{len(found['switches'])} switches{', a slice' if found['slice']['left_out'] else ', the whole fabric'}"
    yield line_of(
        f"{size}, {found['hosts']} of {found['of_hosts']} hosts, on {found['ground']}; {found['seconds']:.0f} s in all. {asked}.",
        FAINT,
    )


def _questions(found: Mapping[str, Any]) -> Iterator[Flowable]:
    yield line_of("Questions", PART)
    answers = sorted(found["answers"], key=lambda one: _ORDER.index(one["state"]))
    rows = [
        [
            line_of(one["state"], {"no": BAD, "yes": GOOD}.get(one["state"], FAINT)),
            [line_of(one["title"]), *([line_of(one["why"], FAINT)] if one["why"] else [])],
            line_of(_count(one), FAINT),
        ]
        for one in answers
    ]
    if rows:
        yield ruled(rows, (20 * mm, WIDE - 62 * mm, 42 * mm))
    for one in answers:
        wrong = [claim for claim in one["claims"] if not claim["holds"]]
        if wrong:
            yield line_of(one["title"], PART)
        for claim in wrong[:MOST_CLAIMS]:
            yield KeepTogether([*_claim(claim), Spacer(1, 5)])
        if len(wrong) > MOST_CLAIMS:
            yield line_of(f"and {len(wrong) - MOST_CLAIMS} more", FAINT)


def _count(one: Mapping[str, Any]) -> str:
    if one["state"] == "not asked":
        return ""
    wrong = sum(not claim["holds"] for claim in one["claims"])
    return f"{wrong} of {len(one['claims'])} do not hold" if wrong else f"all {len(one['claims'])} claims hold"


def _claim(claim: Mapping[str, Any]) -> Iterator[Flowable]:
    yield Paragraph(f"<b>{escape(claim['words'])}</b>", TEXT)
    yield line_of(f"{claim['found']}; expected: {claim['expected']}", BAD)
    said = [line[:MOST_WIDE] for line in f"{claim['command']}\n{claim['said']}".strip().splitlines()][:MOST_LINES]
    if said:
        yield Preformatted("\n".join(said), SAID)


def _drills(found: Mapping[str, Any]) -> Iterator[Flowable]:
    if found["drills"]:
        yield line_of("Drills", PART)
    for one in found["drills"]:
        verdict = line_of("not as foretold" if one["faults"] else "as foretold", BAD if one["faults"] else GOOD)
        lines = [line_of(fault, BAD) for fault in one["faults"][:8]]
        yield KeepTogether(
            [Paragraph(f"<b>{escape(one['words'])}</b>", TEXT), verdict, *lines, _score(one), Spacer(1, 8)]
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
            yield line_of(title, PART)
        yield from (line_of(line, FAINT) for line in lines)
