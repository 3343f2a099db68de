"""Hosts as sheets: understood row by row against a draft, taken whole or not at all, and written out."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

from barrio.app import drafts
from barrio.app.desk import Desk
from barrio.app.sheets import ROWS_A_SWITCH, workbook
from barrio.core import Compiled, Fault, Refused
from barrio.core.brief.document import Edits, apply, split_path
from barrio.core.brief.ranges import expand_names
from barrio.core.bundle import HOST_COLUMNS, host_rows
from barrio.core.errors import refuse
from barrio.core.exchange import hostsheet
from barrio.core.exchange.hostsheet import HostRow
from barrio.core.exchange.sheet import Sheet, read_sheet

_WIDTHS = (22, 18, 34, 16, 10, 20, 40, 40)


@dataclass(frozen=True, slots=True)
class Understood:
    """A sheet, which of its columns is which, what each row would do or did, and the draft's version that it is about."""

    sheet: Sheet
    mapping: Mapping[str, int]
    rows: list[HostRow]
    version: int


def understand(desk: Desk, name: str, data: bytes, columns: Mapping[str, int], seen: int | None) -> Understood:
    """A sheet of hosts for one fabric; with the version that was seen it is taken, all of it or nothing, else only tried.

    Rows that cannot be taken are `refused`; when there is one, nothing was written. Raises `Missing`, `Stale`, or `Refused` for a sheet
    that cannot be read.
    """
    sheet = read_sheet(data)
    with desk.house.gate.room_for(len(sheet.rows) // ROWS_A_SWITCH):
        opened = drafts.load(desk, name)
        mapping = dict(columns or hostsheet.guess(sheet.columns))
        rows, edits = hostsheet.understand(sheet, mapping, opened.compiled.brief, opened.compiled.attachments)
        version = opened.draft.version
        refused = [row for row in rows if row.outcome == "refused"]
        if edits and not (refused and seen is not None):
            try:
                version = _try(desk, name, edits, None if refused else seen, len(rows)) or version
            except Refused as error:
                rows = _blamed(rows, error.faults)
    return Understood(sheet, mapping, rows, version)


def _try(desk: Desk, name: str, edits: Edits, seen: int | None, rows: int) -> int | None:
    """Compile a draft with these edits, and save it when it still is the version that was seen; its version then."""
    if seen is None:
        drafts.preview(desk, name, lambda text: apply(text, edits))
        return None
    note = f"a sheet of {rows} {'row' if rows == 1 else 'rows'} taken"
    return drafts.save(desk, name, seen, lambda text: apply(text, edits), note).draft.version


def _blamed(rows: list[HostRow], faults: tuple[Fault, ...]) -> list[HostRow]:
    """The rows with what the compile found wrong at them; what is wrong elsewhere stands at the first."""
    line_of = {name: at for at, row in enumerate(rows) if row.outcome != "refused" for name in expand_names(row.host)}
    found = list(rows)
    for fault in faults:
        steps = split_path(fault.path) if fault.path.startswith("hosts.") else []
        named = expand_names(str(steps[1])) if len(steps) > 1 else ()
        spoken = [name for name in named if re.search(rf"\b{re.escape(name)}\b", fault.message)] or list(named)
        places = {line_of[name] for name in spoken if name in line_of} or {0}
        for at in places:
            if found[at].outcome != "refused":
                found[at] = replace(found[at], outcome="refused", reason=fault.message)
    return found


class _Outcome(Protocol):
    """A row of any sheet."""

    @property
    def outcome(self) -> str: ...
    @property
    def reason(self) -> str: ...
    @property
    def line(self) -> int: ...


def refuse_refused(rows: Sequence[_Outcome]) -> None:
    """Raises `Refused` (`sheet.refused`) with the first row that cannot be taken."""
    refused = [row for row in rows if row.outcome == "refused"]
    if refused:
        count = f"{len(refused)} rows cannot be taken" if len(refused) > 1 else "1 row cannot be taken"
        raise refuse(
            "sheet.refused", f"{count}, so none was. Line {refused[0].line}: {refused[0].reason}", line=refused[0].line
        )


def as_xlsx(compiled: Compiled) -> bytes:
    """Every host as a workbook, by the columns that a sheet of hosts is read by."""
    return workbook("hosts", HOST_COLUMNS, _WIDTHS, list(host_rows(compiled)))
