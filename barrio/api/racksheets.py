"""Where racks stand: from a sheet, and from the rule of a floor to a hall that is drawn by hand."""

from __future__ import annotations

from fastapi import APIRouter, Request
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from barrio.api import views
from barrio.api.desk import ERRORS, Editing, Version
from barrio.api.downloads import WORKBOOK, upload
from barrio.api.rows import Columns, ReadSheet, mapping_of, sheet_view
from barrio.app import racksheets
from barrio.app.hostsheets import refuse_refused
from barrio.core.exchange import racksheet

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["cabling"], responses=ERRORS)
_SHEET = upload("text/csv", WORKBOOK)


class RackRowView(BaseModel):
    line: int
    rack: str
    place: str
    outcome: str
    reason: str
    now: str


class RackSheetView(ReadSheet):
    """A sheet of rack positions row by row. `version` is the draft's that it was tried on, or that it made."""

    rows: list[RackRowView]
    version: int


@router.post("/floor/preview", operation_id="previewRacks", openapi_extra=_SHEET)
async def preview_racks(name: str, request: Request, at: Editing, columns: Columns = "") -> RackSheetView:
    """A sheet of racks (rack, hall, x, y in metres, faces; width and depth) row by row. Writes nothing."""
    data = await request.body()
    understood = await run_in_threadpool(racksheets.understand, at, name, data, _mapping(columns), None)
    return sheet_view(RackSheetView, understood, version=understood.version)


@router.post("/floor/take", operation_id="takeRacks", openapi_extra=_SHEET)
async def take_racks(
    name: str, request: Request, at: Editing, version: Version, columns: Columns = ""
) -> RackSheetView:
    """Take a sheet of racks whole, as one change of the draft, or nothing when one row is refused."""
    data = await request.body()
    understood = await run_in_threadpool(racksheets.understand, at, name, data, _mapping(columns), version)
    refuse_refused(understood.rows)
    return sheet_view(RackSheetView, understood, version=understood.version)


@router.post("/floor/by-hand", operation_id="drawFloorByHand")
def draw_floor_by_hand(name: str, version: Version, at: Editing) -> views.FabricView:
    """Put the hall that a rule makes down as it stands, so that each row and tray can be moved by itself."""
    return views.fabric_view(racksheets.draw_by_hand(at, name, version))


def _mapping(columns: str) -> dict[str, int]:
    return mapping_of(columns, racksheet.COLUMNS, '{"rack": 0, "x": 1, "y": 2}')
