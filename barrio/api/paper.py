"""What is printed of a fabric's cables: labels, the pages of a rack, and what to order. Long documents are jobs."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, Reading
from barrio.api.downloads import WORKBOOK, attachment, download, upload
from barrio.app import paper
from barrio.core.cabling.materials import Material

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["cabling"], responses=ERRORS)
CSV = "text/csv; charset=utf-8; header=present"
PDF = "application/pdf"
Rack = Annotated[str, Query(max_length=400)]
Size = Literal["a4-70x37", "a4-48x25", "a4-38x21", "letter-67x25"]


class MaterialRow(BaseModel):
    """A part in one length (metres), with how many are needed, spare, in stock and to order; the price is of one."""

    part: str
    name: str
    maker: str
    length: float | None
    needed: int
    spare: int
    stocked: int
    order: int
    price: float | None


def _rows(found: tuple[Material, ...]) -> list[MaterialRow]:
    return [
        MaterialRow(
            part=one.item.part, name=one.name, maker=one.maker, length=one.item.length, needed=one.needed, spare=one.spare,
            stocked=one.stocked, order=one.order, price=one.price,
        )
        for one in found
    ]  # fmt: skip


Since = Annotated[int | None, Query(ge=1, lt=2**63)]


@router.get("/materials", operation_id="getMaterials")
def get_materials(name: str, at: Reading, rack: Rack = "", since: Since = None) -> list[MaterialRow]:
    """What to order: for all cables, for those that end in some racks (`r01..r04`), or for what came since an earlier version of the draft."""
    return _rows(paper.order(at, name, racks=rack, since=since))


@router.post("/materials", operation_id="weighStock", openapi_extra=upload("text/csv", WORKBOOK))
async def weigh_stock(
    name: str, request: Request, at: Reading, rack: Rack = "", since: Since = None
) -> list[MaterialRow]:
    """What to order against what is in stock: a sheet with columns part, length and count. Nothing is kept."""
    return _rows(await run_in_threadpool(paper.order, at, name, await request.body(), rack, since))


def base_of(request: Request, name: str) -> str:
    """The address of a fabric's pages, as whoever asks reaches them."""
    return f"{request.base_url}f/{name}"


@router.get("/cables/{label}/label.svg", operation_id="getLabel", **download("image/svg+xml"))
def get_label(name: str, label: str, request: Request, at: Reading, end: Literal["a", "b"] = "a") -> Response:
    """The label of one end of a cable, with the code that opens its page."""
    return Response(paper.label(at, name, label, end, base_of(request, name)), media_type="image/svg+xml")


@router.get("/labels.csv", operation_id="getLabelsCsv", **download("text/csv"))
def get_labels_csv(name: str, request: Request, at: Reading, rack: Rack = "") -> Response:
    """Every label, or those of a rack, a row each, for label printers."""
    return attachment(paper.label_rows(at, name, rack, base_of(request, name)), CSV, f"{name}-labels.csv")


@router.get("/labels.pdf", operation_id="getLabelsPdf", **download(PDF))
def get_labels_pdf(name: str, request: Request, at: Reading, rack: str, size: Size = "a4-70x37") -> Response:
    """Sheets with the labels of a rack; those of a whole fabric are a job."""
    content = paper.printed(at, name, "labels", base_of(request, name), rack, size)
    return attachment(content, PDF, f"{name}-{rack}-labels.pdf")


@router.get("/elevations/{rack}/page.pdf", operation_id="getRackPage", **download(PDF))
def get_rack_page(name: str, rack: str, request: Request, at: Reading) -> Response:
    """The page of a rack: its elevation, and its cables in the order in which they are best run."""
    return attachment(paper.printed(at, name, "racks", base_of(request, name), rack), PDF, f"{name}-{rack}.pdf")
