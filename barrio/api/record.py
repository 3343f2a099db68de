"""The record: who did what, from where, when, and what stood there before and after."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Path, Query
from fastapi.responses import StreamingResponse
from pydantic import AwareDatetime, BaseModel

from barrio.api.desk import ERRORS, ReadingRecord
from barrio.api.downloads import download
from barrio.app import record
from barrio.store.record import Altered, Deed, Sieve

router = APIRouter(prefix="/api/v1/record", tags=["record"], responses=ERRORS)
Word = Annotated[str, Query(max_length=100)]


class Page(BaseModel):
    """Some acts, newest first; `more` is from where to go on."""

    deeds: list[Deed]
    more: int | None


def _sieve(
    text: Word = "", author: Word = "", fabric: Word = "", topic: Word = "",
    since: AwareDatetime | None = None, until: AwareDatetime | None = None,
) -> Sieve:  # fmt: skip
    return Sieve(text, author, fabric, topic, since, until)


Sieved = Annotated[Sieve, Depends(_sieve)]


@router.get("", operation_id="listDeeds")
def list_deeds(
    at: ReadingRecord, sieve: Sieved, before: Annotated[int | None, Query(ge=0, lt=2**63)] = None,
    limit: Annotated[int, Query(ge=1, le=1000)] = 200,
) -> Page:  # fmt: skip
    found = record.deeds(at, sieve, before, limit)
    return Page(deeds=found, more=found[-1].id if len(found) == limit else None)


@router.get(".csv", operation_id="exportRecord", **download("text/csv"))
def export_record(at: ReadingRecord, sieve: Sieved) -> StreamingResponse:
    """The record, or what of it passes a sieve, as a sheet."""
    headers = {"Content-Disposition": 'attachment; filename="record.csv"'}
    return StreamingResponse(record.as_csv(at, sieve), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/{deed}", operation_id="getDeed")
def get_deed(deed: Annotated[int, Path(ge=0, lt=2**63)], at: ReadingRecord) -> list[Altered]:
    """What an act altered."""
    return record.one(at, deed)
