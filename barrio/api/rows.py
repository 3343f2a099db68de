"""What every sheet that comes in has over HTTP: which column holds what, how many rows come to what, and which of many are shown."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Collection, Sequence
from typing import Annotated, Protocol, TypeVar

from fastapi import Query
from pydantic import BaseModel

from barrio.core.errors import refuse

Columns = Annotated[str, Query(max_length=400)]
MOST_SHOWN = 2000


class Row(Protocol):
    """A row of any sheet."""

    @property
    def outcome(self) -> str: ...


R = TypeVar("R", bound=Row)


class ReadSheet(BaseModel):
    """A sheet as it was read; `refused` of its rows keep the whole from being taken."""

    columns: list[str]
    mapping: dict[str, int]
    total: int
    counts: dict[str, int]
    refused: int


def mapping_of(columns: str, known: Collection[str], example: str) -> dict[str, int]:
    """Which column holds what, as a caller says it; nothing when they do not. Raises `Refused` (`sheet.columns`)."""
    if not columns:
        return {}
    try:
        return {name: int(at) for name, at in json.loads(columns).items() if name in known}
    except (ValueError, TypeError, AttributeError):
        raise refuse("sheet.columns", f"The columns are not understood. Write {example}.", "columns") from None


def counts_of(rows: Sequence[Row]) -> dict[str, int]:
    """How many rows come to what."""
    return dict(Counter(row.outcome for row in rows))


def shown(rows: Sequence[R]) -> Sequence[R]:
    """The rows that are answered: of very many those that cannot be taken come first."""
    if len(rows) <= MOST_SHOWN:
        return rows
    return sorted(rows, key=lambda row: row.outcome != "refused")[:MOST_SHOWN]
