"""Numbering plans in and out: sheets row by row and taken whole, sheets and address records to take away."""

from __future__ import annotations

import json
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from barrio.api.downloads import attachment
from barrio.api.fabrics import ERRORS, Store
from barrio.api.ledger import Ledger
from barrio.api.people import Who
from barrio.core.bundle import as_zip
from barrio.core.errors import refuse
from barrio.core.exchange import names, plan
from barrio.store import sheets

router = APIRouter(prefix="/api", tags=["numbers"])


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


class SheetView(BaseModel):
    """A sheet row by row; `refused` of them keep the whole from being taken."""

    columns: list[str]
    mapping: dict[str, int]
    total: int
    counts: dict[str, int]
    refused: int
    rows: list[RowView]


@router.post("/fabrics/{name}/numbers/preview", operation_id="previewSheet", responses=ERRORS)
async def preview_sheet(name: str, request: Request, columns: Annotated[str, Query(max_length=400)] = "") -> SheetView:
    """A sheet (the body: CSV) row by row: what each would pin or reserve, and why it cannot be taken. Writes nothing."""
    data = await request.body()
    return _sheet_view(*await run_in_threadpool(_understood, request, name, data, columns, None))


@router.post("/fabrics/{name}/numbers/take", operation_id="takeSheet", responses=ERRORS)
async def take_sheet(
    name: str, request: Request, who: Who, columns: Annotated[str, Query(max_length=400)] = ""
) -> SheetView:
    """Take a sheet whole: pin and reserve every row of it, or nothing when one row is refused."""
    data = await request.body()
    view = _sheet_view(*await run_in_threadpool(_understood, request, name, data, columns, who))
    if view.refused:
        first = next(row for row in view.rows if row.outcome == "refused")
        words = f"{view.refused} rows cannot be taken, so none was. Line {first.line}: {first.reason}"
        raise refuse("sheet.refused", words, line=first.line)
    return view


def _understood(
    request: Request, name: str, data: bytes, columns: str, author: str | None
) -> tuple[plan.Sheet, dict[str, int], list[plan.Row]]:
    store, ledger = request.app.state.fabrics, request.app.state.pools
    sheet = plan.read_sheet(data)
    mapping = _mapping(columns) if columns else plan.guess(sheet.columns)
    fabrics = store.readable()
    if name not in fabrics:
        store.compiled(store.draft(name))
    rows = plan.understand(sheet, mapping, fabrics, name, ledger.known())
    return sheet, mapping, sheets.take(store, rows, author)


def _mapping(columns: str) -> dict[str, int]:
    try:
        said = json.loads(columns)
        return {name: int(at) for name, at in said.items() if name in plan.COLUMNS}
    except (ValueError, TypeError, AttributeError):
        raise refuse(
            "sheet.columns", 'The columns are not understood. Write {"number": 0, "owner": 1}.', "columns"
        ) from None


def _sheet_view(sheet: plan.Sheet, mapping: dict[str, int], rows: list[plan.Row]) -> SheetView:
    counts: dict[str, int] = {}
    for row in rows:
        counts[row.outcome] = counts.get(row.outcome, 0) + 1
    refused = [row for row in rows if row.outcome == "refused"]
    shown = rows if len(rows) <= 2000 else (refused + [row for row in rows if row.outcome != "refused"])[:2000]
    return SheetView(
        columns=list(sheet.columns), mapping=mapping, total=len(rows), counts=counts, refused=len(refused),
        rows=[RowView(**{field: getattr(row, field) for field in RowView.model_fields}) for row in shown],
    )  # fmt: skip


SHEET = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@router.get("/numbers.{kind}", operation_id="exportNumbers", responses=ERRORS)
def export_numbers(
    kind: Literal["csv", "xlsx"], ledger: Ledger, store: Store, fabric: str = "", pool: str = ""
) -> Response:
    """The numbering plan as a sheet: of everything, a fabric, or a pool."""
    rows = sheets.rows(ledger, store.readable(), fabric, pool)
    body = sheets.as_csv(rows) if kind == "csv" else sheets.as_xlsx(rows)
    name = "-".join(part for part in (fabric, pool, "numbers") if part)
    return attachment(body, "text/csv; charset=utf-8" if kind == "csv" else SHEET, f"{name}.{kind}")


@router.get("/fabrics/{name}/names.{kind}", operation_id="exportNames", responses=ERRORS)
def export_names(name: str, kind: Literal["zip", "hosts"], store: Store) -> Response:
    """Address records: DNS zones, forward and reverse, in one archive; or a hosts file."""
    draft = store.draft(name)
    compiled = store.compiled(draft)
    if kind == "hosts":
        return attachment(names.hosts_file(compiled), "text/plain; charset=utf-8", f"{name}.hosts")
    files = {f"db.{zone}": text.encode() for zone, text in names.zones(compiled, draft.version).items()}
    return attachment(as_zip(files), "application/zip", f"{name}-zones.zip")
