"""Numbering plans as sheets: understood row by row, taken whole or not at all, and written out."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import Any

import xlsxwriter

from barrio.app.desk import Desk
from barrio.app.drafts import load, readable
from barrio.app.numbering import pin_many
from barrio.app.pools import known
from barrio.core import Refused
from barrio.core.bundle import harmless
from barrio.core.exchange import plan
from barrio.core.exchange.plan import Row
from barrio.core.exchange.sheet import Sheet, read_sheet
from barrio.store import pools
from barrio.store.pins import Keep, Pin

ROWS_A_SWITCH = 40
"""How many rows of a sheet are as much work as a switch."""
COLUMNS = ("number", "use", "owner", "name", "fabric", "pool", "scope", "state", "pinned", "since", "note")


@dataclass(frozen=True, slots=True)
class Understood:
    """A sheet, which of its columns is which, and what each row would do or did."""

    sheet: Sheet
    mapping: Mapping[str, int]
    rows: list[Row]


def understand(desk: Desk, name: str, data: bytes, columns: Mapping[str, int], keep: bool) -> Understood:
    """A sheet for one fabric: pin and reserve what its rows say, all of it or nothing; without `keep` only try.

    Rows that cannot be taken are `refused`; when there is one, nothing was written. Raises `Missing`, or `Refused` for a
    sheet that cannot be read.
    """
    sheet = read_sheet(data)
    with desk.house.gate.room_for(len(sheet.rows) // ROWS_A_SWITCH):
        return _understand(desk, name, sheet, columns or plan.guess(sheet.columns), keep)


def _understand(desk: Desk, name: str, sheet: Sheet, mapping: Mapping[str, int], keep: bool) -> Understood:
    fabrics = readable(desk)
    if name not in fabrics:
        load(desk, name)
    rows = plan.understand(sheet, dict(mapping), fabrics, name, known(desk))
    return Understood(sheet, mapping, _take(desk, rows, keep))


def _take(desk: Desk, rows: list[Row], keep: bool) -> list[Row]:
    if keep and any(row.outcome == "refused" for row in rows):
        return rows
    wished: dict[str, dict[str, dict[str, Pin | None]]] = {}
    kept: list[Keep] = []
    for row in rows:
        if row.outcome == "refused" or row.taken is None:
            continue
        if row.outcome == "reserved":
            kept.append(Keep(row.pool, row.family, row.taken.low, row.taken.high, row.note))
        else:
            pins = wished.setdefault(row.fabric, {}).setdefault(row.use, {})
            pins[row.key] = Pin(row.taken.low, row.taken.size, row.note)
    if not wished and not kept:
        return rows
    count = sum(len(pins) for uses in wished.values() for pins in uses.values())
    try:
        note = f"took a sheet: {count} numbers pinned, {len(kept)} reserved"
        pin_many(desk, wished, kept, note, keep)
    except Refused as error:
        return _refused(rows, error)
    return rows


def _refused(rows: list[Row], error: Refused) -> list[Row]:
    """The rows with the refusals of the ledger at those that they speak of."""
    by_key = {fault.path: fault.message for fault in error.faults}
    found = [
        replace(row, outcome="refused", reason=by_key[row.key])
        if row.outcome != "refused" and row.key in by_key
        else row
        for row in rows
    ]
    if found == rows:
        # It is about no row in particular; then the first that would be taken says it.
        first = next(place for place, row in enumerate(rows) if row.outcome != "refused")
        found[first] = replace(rows[first], outcome="refused", reason=error.faults[0].message)
    return found


def rows(desk: Desk, fabric: str = "", pool: str = "") -> list[tuple[Any, ...]]:
    """The numbering plan, by pool and number; positions and cables, which have no pool, are left out."""
    found = []
    with desk.reading() as tx:
        names = {
            draft.name: {switch.key: switch.name for switch in compiled.structure.switches}
            for draft in tx.drafts()
            if (compiled := tx.readable(draft))
        }
        for one in pools.known(tx.connection).values():
            if pool and one.name != pool:
                continue
            for entry in pools.entries(tx.connection, one.name, "", "", 10_000_000, 0)[0]:
                if fabric and entry.fabric != fabric:
                    continue
                known_here = names.get(entry.fabric, {})
                ends = [known_here[part] for part in entry.key.split("~") if part in known_here]
                state = "leaving" if entry.leaving else entry.state
                found.append((
                    entry.number, entry.use, entry.key, " – ".join(ends), entry.fabric, one.name, one.scope,
                    state, "pinned" if entry.pinned else "", entry.since.strftime("%Y-%m-%d"), entry.note,
                ))  # fmt: skip
    return found


def as_csv(found: list[tuple[Any, ...]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    writer.writerows([harmless(cell) for cell in row] for row in found)
    return out.getvalue()


def as_xlsx(found: list[tuple[Any, ...]]) -> bytes:
    """The same as a workbook."""
    return workbook("numbers", COLUMNS, _WIDTHS, found)


def workbook(title: str, columns: Sequence[str], widths: Sequence[int], found: Sequence[Sequence[object]]) -> bytes:
    """A workbook of one sheet. Every cell is written as text, never as a formula or a link; the same rows give the same bytes."""
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    # No clock in the file.
    book.set_properties({"created": _EPOCH})
    page = book.add_worksheet(title)
    bold = book.add_format({"bold": True})
    for column, (heading, width) in enumerate(zip(columns, widths, strict=True)):
        page.write_string(0, column, heading, bold)
        page.set_column(column, column, width)
    for line, row in enumerate(found, 1):
        for column, cell in enumerate(row):
            page.write_string(line, column, str(cell))
    page.freeze_panes(1, 0)
    page.autofilter(0, 0, max(1, len(found)), len(columns) - 1)
    book.close()
    return out.getvalue()


_EPOCH = datetime(2000, 1, 1, tzinfo=UTC)
_WIDTHS = (22, 14, 30, 30, 12, 18, 10, 10, 8, 12, 40)
