"""What switches hold beside their files: tables as they are and as they were, what changed of them, and where some words stand."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Path, Query
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.api.drift import TableRow, rows_of
from barrio.app import holding
from barrio.core.observe.rows import KINDS

router = APIRouter(prefix="/api/v1/fabrics/{name}/tables", tags=["drift"], responses=ERRORS)
Name = Annotated[str, Path(max_length=64)]
Words = Annotated[str, Query(max_length=200)]
MOST = 2000
"""Rows of a table that are told at once."""


class TableView(BaseModel):
    """A table of a switch: its kind and what it is called, how many rows it has, since when it is told, when it changed last, and how often it did."""

    kind: str
    words: str
    count: int
    since: datetime
    changed: datetime | None
    times: int


class HeldRow(BaseModel):
    """A row of a table: its key, and what is there."""

    key: str
    words: str


class HeldView(BaseModel):
    """A table at a moment: the rows that were asked for, how many there are of those in all, and since when it is told."""

    rows: list[HeldRow]
    count: int
    since: datetime


class TableChange(BaseModel):
    """What changed of a table, when."""

    at: datetime
    rows: list[TableRow]


class FoundRow(BaseModel):
    """A row in which the words stand, on which switch and in which table (its kind, and as it is called), and since when it says so."""

    switch: str
    kind: str
    table: str
    key: str
    words: str
    since: datetime


class FoundChange(BaseModel):
    """A change in which they stand."""

    switch: str
    kind: str
    table: str
    at: datetime
    key: str
    was: str
    now: str


class FoundView(BaseModel):
    """Where some words stand in what switches hold now, and the changes in which they stand, the newest first."""

    there: list[FoundRow]
    past: list[FoundChange]


@router.get("", operation_id="findHeld")
def find_held(name: str, at: Reading, words: Words) -> FoundView:
    """Where a MAC, an address, a serial number or any other words stand."""
    there, past = holding.find(at, name, words)
    return FoundView(
        there=[FoundRow(switch=one.switch, kind=one.kind, table=KINDS[one.kind].words, key=one.key, words=one.words, since=one.since) for one in there],
        past=[
            FoundChange(switch=one.switch, kind=one.kind, table=KINDS[one.kind].words, at=one.at, key=one.key, was=one.was, now=one.now) for one in past
        ],
    )  # fmt: skip


@router.get("/{switch}", operation_id="listTables")
def list_tables(name: str, switch: Name, at: Reading) -> list[TableView]:
    """What a switch told of itself at its looks."""
    return [
        TableView(
            kind=one.kind, words=KINDS[one.kind].words, count=one.count, since=one.since, changed=one.changed, times=one.times
        )
        for one in holding.every(at, name, switch)
    ]  # fmt: skip


@router.get("/{switch}/{kind}", operation_id="getTable")
def get_table(
    name: str, switch: Name, kind: Name, at: Reading, moment: datetime | None = None, words: Words = ""
) -> HeldView:
    """A table as it is, or as it was at a moment; only rows in which some words stand, where some are said."""
    utc = moment.replace(tzinfo=UTC) if moment and not moment.tzinfo else moment
    found = holding.at(at, name, switch, kind, utc, words, MOST)
    rows = [HeldRow(key=key, words=there) for key, there in found.rows.items()]
    return HeldView(rows=rows, count=found.count, since=found.since)


@router.get("/{switch}/{kind}/changes", operation_id="listTableChanges")
def list_table_changes(
    name: str, switch: Name, kind: Name, at: Reading, limit: Annotated[int, Query(ge=1, le=MOST)] = 100
) -> list[TableChange]:
    """What changed of a table, the newest first."""
    return [TableChange(at=one.at, rows=rows_of(one.rows)) for one in holding.past(at, name, switch, kind, limit)]
