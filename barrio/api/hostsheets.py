"""Hosts in and out as sheets: understood row by row and taken whole, or taken away."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, Editing, Reading, Version
from barrio.api.downloads import WORKBOOK, attachment, download, upload
from barrio.api.rows import Columns, ReadSheet, mapping_of, sheet_view
from barrio.app import drafts, hostsheets
from barrio.core.bundle import hosts_csv
from barrio.core.exchange import hostsheet

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["segments"], responses=ERRORS)


class HostRowView(BaseModel):
    line: int
    host: str
    at: str
    carries: str
    outcome: str
    reason: str
    now: str


class HostSheetView(ReadSheet):
    """A sheet of hosts row by row. `version` is the draft's that it was tried on, or that it made."""

    rows: list[HostRowView]
    version: int


_SHEET = upload("text/csv", WORKBOOK)


@router.post("/hosts/preview", operation_id="previewHosts", openapi_extra=_SHEET)
async def preview_hosts(name: str, request: Request, at: Editing, columns: Columns = "") -> HostSheetView:
    """A sheet of hosts (the body: CSV or a workbook) row by row: who is new, who changes, and why a row cannot be taken. Writes nothing."""
    data = await request.body()
    understood = await run_in_threadpool(hostsheets.understand, at, name, data, _mapping(columns), None)
    return sheet_view(HostSheetView, understood, version=understood.version)


@router.post("/hosts/take", operation_id="takeHosts", openapi_extra=_SHEET)
async def take_hosts(
    name: str, request: Request, at: Editing, version: Version, columns: Columns = ""
) -> HostSheetView:
    """Take a sheet of hosts whole, as one change of the draft, or nothing when one row is refused."""
    data = await request.body()
    understood = await run_in_threadpool(hostsheets.understand, at, name, data, _mapping(columns), version)
    hostsheets.refuse_refused(understood.rows)
    return sheet_view(HostSheetView, understood, version=understood.version)


@router.get("/hosts.{kind}", operation_id="exportHosts", **download("text/csv", WORKBOOK))
def export_hosts(name: str, kind: Literal["csv", "xlsx"], at: Reading) -> Response:
    """Every host with its ports and what it carries, a row each."""
    compiled = drafts.load(at, name).compiled
    if kind == "csv":
        return attachment(hosts_csv(compiled), "text/csv; charset=utf-8; header=present", f"{name}-hosts.csv")
    return attachment(hostsheets.as_xlsx(compiled), WORKBOOK, f"{name}-hosts.xlsx")


def _mapping(columns: str) -> dict[str, int]:
    return mapping_of(columns, hostsheet.COLUMNS, '{"host": 0, "at": 1}')
