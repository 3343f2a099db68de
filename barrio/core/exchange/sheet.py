"""Sheets as people keep them, CSV or a workbook: headings, and rows of text with the line that each stands on."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import python_calamine as calamine

from barrio.core.errors import refuse

MOST_ROWS = 100_000
MOST_BYTES = 200 * 1024 * 1024
"""How large a workbook may be once it is unpacked."""


@dataclass(frozen=True, slots=True)
class Sheet:
    """A table as it was read: headings, rows of text, and the line of the file on which each row ends."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    lines: tuple[int, ...]


def read_sheet(data: bytes) -> Sheet:
    """The first sheet of a workbook (ISO/IEC 29500), or a CSV file (RFC 4180; commas, semicolons, tabs or bars) in UTF-8 or UTF-16.

    Raises `Refused` (`sheet.encoding`, `sheet.empty`, `sheet.rows`, `sheet.syntax`, `sheet.merged`).
    """
    return _workbook(data) if data.startswith(b"PK") else _csv(data)


def _csv(data: bytes) -> Sheet:
    text = _decoded(data)
    lines = text.lstrip("\n\r ")
    if not lines:
        raise refuse("sheet.empty", "The sheet is empty. It needs a row of headings and a row for each number.")
    head = lines.split("\n", maxsplit=1)[0]
    delimiter = max(",;\t|", key=head.count)
    reader = csv.reader(io.StringIO(text), delimiter=delimiter, strict=True)
    try:
        filled = [(reader.line_num, row) for row in reader if any(cell.strip() for cell in row)]
    except csv.Error as error:
        raise refuse(
            "sheet.syntax", f"Line {reader.line_num} is not CSV: {error}. Save the sheet as CSV again."
        ) from None
    return _table(filled)


def _decoded(data: bytes) -> str:
    encoding = "utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8-sig"
    try:
        text = data.decode(encoding)
    except UnicodeDecodeError as error:
        line = data[: error.start].count(b"\n") + 1
        raise refuse(
            "sheet.encoding",
            f"Line {line} is not {encoding.upper().removesuffix('-SIG')} text. Save the sheet as CSV in UTF-8.",
        ) from None
    if "\0" in text:
        raise refuse("sheet.encoding", "The sheet holds binary data; it is not CSV. Save it as CSV in UTF-8.")
    return text


def _workbook(data: bytes) -> Sheet:
    """The first sheet of a workbook; a cell that lies over several says nothing of the others, so none may."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            size = sum(part.file_size for part in packed.infolist())
        if size > MOST_BYTES:
            words = f"The workbook is {size // 1_048_576:,} MB unpacked; {MOST_BYTES // 1_048_576} MB can be taken. Save the one sheet as CSV."
            raise refuse("sheet.rows", words)
        with calamine.CalamineWorkbook.from_filelike(io.BytesIO(data)) as book:
            sheet = book.get_sheet_by_index(0)
            merged = sheet.merged_cell_ranges or []
            rows = sheet.to_python(skip_empty_area=False)
    except (calamine.CalamineError, zipfile.BadZipFile) as error:
        raise refuse("sheet.syntax", f"The workbook cannot be read ({error}). Save it as .xlsx or CSV again.") from None
    if merged:
        (line, _), _ = merged[0]
        words = f"Line {line + 1} has cells that are merged; which rows they belong to is not said. Unmerge them and fill each in."
        raise refuse("sheet.merged", words)
    filled = [(line, [_text(cell) for cell in row]) for line, row in enumerate(rows, 1)]
    filled = [(line, row) for line, row in filled if any(cell.strip() for cell in row)]
    if not filled:
        raise refuse(
            "sheet.empty",
            "The first sheet of the workbook is empty. It needs a row of headings and a row for each thing.",
        )
    return _table(filled)


def _text(cell: object) -> str:
    """A cell as its text; a whole number has no decimals."""
    return str(int(cell)) if isinstance(cell, float) and cell.is_integer() else str(cell)


def _table(filled: Sequence[tuple[int, Sequence[str]]]) -> Sheet:
    if len(filled) > MOST_ROWS:
        raise refuse("sheet.rows", f"The sheet has {len(filled):,} rows; {MOST_ROWS:,} can be taken at once. Split it.")
    (_, columns), rows = filled[0], filled[1:]
    width = len(columns)
    return Sheet(
        tuple(cell.strip() for cell in columns),
        tuple(tuple(cell.strip() for cell in [*row, *[""] * (width - len(row))][:width]) for _, row in rows),
        tuple(line for line, _ in rows),
    )


def guess_columns(columns: Sequence[str], known: Mapping[str, Collection[str]]) -> dict[str, int]:
    """Which column holds what, by the headings and the words that are used for each thing; only what is clear."""
    found: dict[str, int] = {}
    for place, heading in enumerate(columns):
        words = re.sub(r"[^a-z0-9]+", " ", heading.lower()).strip()
        for name, said in known.items():
            if name not in found and (words in said or set(words.split()) & set(said)):
                found[name] = place
                break
    return found
