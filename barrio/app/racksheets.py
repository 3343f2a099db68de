"""Where racks stand, from a sheet: understood row by row against a draft, and taken whole or not at all."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from barrio.app import drafts
from barrio.app.desk import Desk
from barrio.core.brief.document import apply
from barrio.core.exchange import racksheet
from barrio.core.exchange.racksheet import RackRow
from barrio.core.exchange.sheet import Sheet, read_sheet
from barrio.core.place.drawing import drawn_by_hand


@dataclass(frozen=True, slots=True)
class Understood:
    """A sheet, which of its columns is which, what each row would do or did, and the draft's version that it is about."""

    sheet: Sheet
    mapping: Mapping[str, int]
    rows: list[RackRow]
    version: int


def understand(desk: Desk, name: str, data: bytes, columns: Mapping[str, int], seen: int | None) -> Understood:
    """A sheet of rack positions; with the version that was seen it is taken, all of it or nothing, else only tried.

    Raises `Missing`, `Stale`, or `Refused` for a sheet that cannot be read.
    """
    sheet = read_sheet(data)
    opened = drafts.load(desk, name)
    mapping = dict(columns or racksheet.guess(sheet.columns))
    rows, edits = racksheet.understand(sheet, mapping, opened.compiled.brief, opened.compiled.structure)
    version = opened.draft.version
    refused = any(row.outcome == "refused" for row in rows)
    if edits and not refused:
        if seen is None:
            drafts.preview(desk, name, lambda text: apply(text, edits))
        else:
            note = f"{len(rows)} racks placed by a sheet"
            version = drafts.save(desk, name, seen, lambda text: apply(text, edits), note).draft.version
    return Understood(sheet, mapping, rows, version)


def draw_by_hand(desk: Desk, name: str, seen: int) -> drafts.Opened:
    """Put the hall of a rule down as it stands, so that each row and tray can be moved."""
    compiled = drafts.load(desk, name).compiled
    edits = drawn_by_hand(compiled.brief, compiled.structure)
    return drafts.save(desk, name, seen, lambda text: apply(text, edits), "the hall is drawn by hand")
