"""Numbering plans in and out: sheets row by row and taken whole, sheets and address records to take away."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, KeepingPools, Looking
from barrio.api.downloads import WORKBOOK, attachment, download, upload
from barrio.api.rows import Columns, ReadSheet, mapping_of, sheet_view
from barrio.app import sheets
from barrio.core.errors import refuse
from barrio.core.exchange import plan

router = APIRouter(prefix="/api/v1", tags=["numbers"], responses=ERRORS)

Chosen = Annotated[str, Query(max_length=63)]


class RowView(BaseModel):
    line: int
    number: str
    owner: str
    use: str
    key: str
    fabric: str
    pool: str
    note: str
    outcome: str
    reason: str
    now: str


class SheetView(ReadSheet):
    """A numbering plan row by row."""

    rows: list[RowView]


_SHEET = upload("text/csv", WORKBOOK)


@router.post("/fabrics/{name}/numbers/preview", operation_id="previewSheet", openapi_extra=_SHEET)
async def preview_sheet(name: str, request: Request, at: KeepingPools, columns: Columns = "") -> SheetView:
    """A sheet (the body: CSV or a workbook) row by row: what each would pin or reserve, and why it cannot be taken. Writes nothing."""
    data = await request.body()
    return sheet_view(SheetView, await run_in_threadpool(sheets.understand, at, name, data, _mapping(columns), False))


@router.post("/fabrics/{name}/numbers/take", operation_id="takeSheet", openapi_extra=_SHEET)
async def take_sheet(name: str, request: Request, at: KeepingPools, columns: Columns = "") -> SheetView:
    """Take a sheet whole: pin and reserve every row of it, or nothing when one row is refused."""
    data = await request.body()
    view = sheet_view(SheetView, await run_in_threadpool(sheets.understand, at, name, data, _mapping(columns), True))
    if view.refused:
        first = next(row for row in view.rows if row.outcome == "refused")
        words = f"{view.refused} rows cannot be taken, so none was. Line {first.line}: {first.reason}"
        raise refuse("sheet.refused", words, line=first.line)
    return view


def _mapping(columns: str) -> dict[str, int]:
    return mapping_of(columns, plan.COLUMNS, '{"number": 0, "owner": 1}')


@router.get("/numbers.{kind}", operation_id="exportNumbers", **download("text/csv", WORKBOOK))
def export_numbers(kind: Literal["csv", "xlsx"], at: Looking, fabric: Chosen = "", pool: Chosen = "") -> Response:
    """The numbering plan as a sheet: of everything, a fabric, or a pool."""
    rows = sheets.rows(at, fabric, pool)
    name = "-".join(part for part in (fabric, pool, "numbers") if part)
    if kind == "csv":
        return attachment(sheets.as_csv(rows), "text/csv; charset=utf-8", f"{name}.csv")
    return attachment(sheets.as_xlsx(rows), WORKBOOK, f"{name}.xlsx")
