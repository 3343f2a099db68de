"""Numbering plans as sheets: taking one whole, and writing one out."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import xlsxwriter

from barrio.core import Compiled, Refused
from barrio.core.bundle import harmless
from barrio.core.exchange.plan import Row
from barrio.store.fabrics import Fabrics
from barrio.store.pins import Keep, Pin
from barrio.store.pools import Pools

COLUMNS = ("number", "use", "owner", "name", "fabric", "pool", "scope", "state", "pinned", "since", "note")


def take(store: Fabrics, rows: list[Row], author: str | None) -> list[Row]:
    """Pin and reserve what the rows say, all of it or nothing; without an author only try, and write nothing.

    Returns the rows, those refused by what others hold among them; when one is refused nothing was written.
    """
    if author is not None and any(row.outcome == "refused" for row in rows):
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
        store.pin_many(wished, kept, author or "", note, keep=author is not None)
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


def rows(ledger: Pools, fabrics: Mapping[str, Compiled], fabric: str, pool: str) -> list[tuple[Any, ...]]:
    """The numbering plan, by pool and number; positions and cables, which have no pool, are left out."""
    names = {
        name: {switch.key: switch.name for switch in compiled.structure.switches} for name, compiled in fabrics.items()
    }
    found = []
    for one in ledger.known().values():
        if pool and one.name != pool:
            continue
        for entry in ledger.entries(one.name, limit=10_000_000)[0]:
            if fabric and entry["fabric"] != fabric:
                continue
            known = names.get(entry["fabric"], {})
            ends = [known[part] for part in entry["key"].split("~") if part in known]
            state = "leaving" if entry["leaving"] else entry["state"]
            found.append((
                entry["number"], entry["use"], entry["key"], " – ".join(ends), entry["fabric"], one.name, one.scope, state,
                "pinned" if entry["pinned"] else "", entry["since"].strftime("%Y-%m-%d"), entry["note"],
            ))  # fmt: skip
    return found


def as_csv(found: list[tuple[Any, ...]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    writer.writerows([harmless(cell) for cell in row] for row in found)
    return out.getvalue()


def as_xlsx(found: list[tuple[Any, ...]]) -> bytes:
    """The same as a workbook. Every cell is written as text or as a number, never as a formula or a link."""
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    # The same numbers give the same bytes: no clock in the file.
    book.set_properties({"created": _EPOCH})
    page = book.add_worksheet("numbers")
    bold = book.add_format({"bold": True})
    for column, (title, width) in enumerate(zip(COLUMNS, _WIDTHS, strict=True)):
        page.write_string(0, column, title, bold)
        page.set_column(column, column, width)
    for line, row in enumerate(found, 1):
        for column, cell in enumerate(row):
            page.write_string(line, column, str(cell))
    page.freeze_panes(1, 0)
    page.autofilter(0, 0, max(1, len(found)), len(COLUMNS) - 1)
    book.close()
    return out.getvalue()


_EPOCH = datetime(2000, 1, 1, tzinfo=UTC)
_WIDTHS = (22, 14, 30, 30, 12, 18, 10, 10, 8, 12, 40)
