"""The hand-over record of a switch on paper: what it is, where its cables go, what was looked at, and what is on it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import Flowable

from barrio.paper.sheet import BAD, FAINT, GOOD, PART, SAID, TEXT, TITLE, document, ruled, words

MOST = 90
"""Characters of a command that are printed."""


def paper(found: Mapping[str, Any]) -> bytes:
    """A document (A4) of the plain values of a record. The same values give the same bytes."""
    title = f"{found['switch']}, handed over"
    return document(title, [*_head(found, title), *_cables(found), *_steps(found), *_files(found)])


def _head(found: Mapping[str, Any], title: str) -> Iterator[Flowable]:
    yield words(title, TITLE)
    yield words(f"{found['fabric']}, edition {found['edition']}; {_time(found['handed_over'])}", GOOD)
    yield _pairs(
        [
            ("Rack", found["rack"]),
            ("Role", found["role"]),
            ("Model", found["model"]),
            ("Serial number", found["serial"] or "not said"),
            ("MAC address", found["mac"] or "not said"),
            ("Management", found["management"]),
            ("Software", found["software"] or "what it came with"),
            ("Let in by", found["admitted_by"] or "nobody any more"),
            ("Staged by", found["staged_by"]),
            ("Key of its agent", found["key"] or "taken out"),
        ]
    )


def _cables(found: Mapping[str, Any]) -> Iterator[Flowable]:
    yield words("Cables", PART)
    rows = [(one["port"], f"{one['switch']} {one['far_port']}", one["cable"]) for one in found["cables"]]
    if rows:
        yield _rows(rows, (30, 90, 50))


def _steps(found: Mapping[str, Any]) -> Iterator[Flowable]:
    yield words("What was done", PART)
    for step in found["steps"]:
        yield words(f"{step['step']}: {step['words']}", TEXT)
        yield words(f"{_time(step['began'])} to {_time(step['ended'])}", FAINT)
        for one in step["ran"]:
            took = f", {one['seconds']:.1f} s" if one["seconds"] is not None else ""
            shown = one["command"] if len(one["command"]) <= MOST else f"{one['command'][:MOST]}…"
            # The code that a command ended with tells whether it went well.
            yield words(f"{shown}   [{one['code']}{took}]", SAID if not one["code"] else BAD)


def _files(found: Mapping[str, Any]) -> Iterator[Flowable]:
    yield words("Files, by SHA-256", PART)
    yield _rows([(path, f"{digest[:32]} {digest[32:]}") for path, digest in found["files"].items()], (68, 108))


def _pairs(rows: Sequence[tuple[str, str]]) -> Flowable:
    return _rows(rows, (38, 138))


def _rows(rows: Sequence[Sequence[str]], widths: Sequence[int]) -> Flowable:
    return ruled([[words(cell, FAINT) for cell in row] for row in rows], [width * mm for width in widths])


def _time(said: str) -> str:
    return said[:16].replace("T", " ")
