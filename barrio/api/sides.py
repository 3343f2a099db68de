"""Any two states of a fabric, or of two fabrics, held against each other."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, Reading
from barrio.app import sides
from barrio.core.compare.bundles import FileGroup, Other, TextRow

router = APIRouter(prefix="/api/v1/fabrics/{name}/apart", tags=["editions"], responses=ERRORS)
Side = Annotated[str, Query(max_length=120)]
MOST = 1000


class ApartView(BaseModel):
    """What is other between two sides, at each level; of very many the first are told, and `counts` says how many there are."""

    words: list[Other]
    unread: str
    numbers: list[Other]
    switches: list[Other]
    files: list[FileGroup]
    cables: list[Other]
    counts: dict[str, int]


class Brought(BaseModel):
    """What a bundle that was brought is called as a side."""

    id: UUID
    side: str


@router.get("", operation_id="getApart")
def get_apart(name: str, at: Reading, one: Side, other: Side = "draft") -> ApartView:
    """Sides are `draft`, `edition 3`, `fabric tern`, `edition 3 of tern`, `brought <id>`."""
    found = sides.compare(at, name, one, other)
    parts = {
        "words": found.words,
        "numbers": found.numbers,
        "switches": found.switches,
        "files": found.files,
        "cables": found.cables,
    }
    return ApartView.model_validate(
        {
            "unread": found.unread,
            "counts": {key: len(part) for key, part in parts.items()},
            **{key: list(part[:MOST]) for key, part in parts.items()},
        }
    )


@router.get("/file", operation_id="getApartFile")
def get_file(
    name: str, at: Reading, path: Annotated[str, Query(max_length=300)], one: Side, other: Side = "draft"
) -> list[TextRow]:
    """One file of two sides, line by line."""
    return sides.compare_file(at, name, one, other, path)


@router.post("/brought", operation_id="bringBundle", status_code=201)
async def bring(
    name: str, request: Request, at: Reading, called: Annotated[str, Query(max_length=120)] = "a bundle"
) -> Brought:
    """Bring a bundle (ZIP or tar.gz) to hold it against others; it goes after a day."""
    made = await run_in_threadpool(sides.bring, at, name, called, await request.body())
    return Brought(id=made, side=f"brought {made}")
