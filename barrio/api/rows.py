"""What every sheet that comes in has over HTTP: which column holds what, how many rows come to what, and which of many are shown."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Collection, Mapping, Sequence
from typing import Annotated, Protocol, TypeVar

from fastapi import Query
from pydantic import BaseModel

from barrio.core.errors import refuse
from barrio.core.exchange.sheet import Sheet

Columns = Annotated[str, Query(max_length=400)]
MOST_SHOWN = 2000


class Row(Protocol):
    """A row of any sheet."""

    @property
    def outcome(self) -> str: ...


R = TypeVar("R", bound=Row)


class Understood(Protocol):
    """A sheet of any rows, read, and which of its columns is which."""

    @property
    def sheet(self) -> Sheet: ...
    @property
    def mapping(self) -> Mapping[str, int]: ...
    @property
    def rows(self) -> Sequence[Row]: ...


class ReadSheet(BaseModel):
    """A sheet as it was read; `refused` of its rows keep the whole from being taken. What it is for adds its `rows`."""

    columns: list[str]
    mapping: dict[str, int]
    total: int
    counts: dict[str, int]
    refused: int


V = TypeVar("V", bound=ReadSheet)


def mapping_of(columns: str, known: Collection[str], example: str) -> dict[str, int]:
    """Which column holds what, as a caller says it; nothing when they do not. Raises `Refused` (`sheet.columns`)."""
    if not columns:
        return {}
    try:
        return {name: int(at) for name, at in json.loads(columns).items() if name in known}
    except (ValueError, TypeError, AttributeError):
        raise refuse("sheet.columns", f"The columns are not understood. Write {example}.", "columns") from None


def sheet_view(view: type[V], understood: Understood, **more: object) -> V:
    """A sheet with the rows that are answered."""
    counts = Counter(row.outcome for row in understood.rows)
    answered = {
        "columns": understood.sheet.columns, "mapping": understood.mapping, "rows": shown(understood.rows),
        "total": len(understood.rows), "counts": counts, "refused": counts["refused"], **more,
    }  # fmt: skip
    return view.model_validate(answered, from_attributes=True)


def shown(rows: Sequence[R]) -> Sequence[R]:
    """The rows that are answered: of very many those that cannot be taken come first."""
    if len(rows) <= MOST_SHOWN:
        return rows
    return sorted(rows, key=lambda row: row.outcome != "refused")[:MOST_SHOWN]
