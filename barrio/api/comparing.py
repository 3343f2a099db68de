"""Files beside each other, over HTTP: a switch's with another's or with what it was before, and who has the same text."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.api.switches import traced_in
from barrio.app import drafts
from barrio.core.comparing import Alike, ComparedLine, alike, compare

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["switches"], responses=ERRORS)
BEFORE = "before"


class Comparison(BaseModel):
    """Two files line by line. `beside` is the other switch, or `before` for the same one before the last change."""

    path: str
    beside: str
    lines: list[ComparedLine]


@router.get("/switches/{switch}/compare", operation_id="compareFile")
def compare_file(
    name: str,
    switch: str,
    path: Annotated[str, Query(max_length=200)],
    beside: Annotated[str, Query(max_length=120)],
    at: Reading,
) -> Comparison:
    """A file of a switch beside the same file of another, or as it was before the last change."""
    compiled = drafts.load(at, name).compiled
    there = (drafts.before(at, name), switch) if beside == BEFORE else (compiled, beside)
    other = traced_in(*there, path)
    lines = list(compare(traced_in(compiled, switch, path), other))
    return Comparison(path=path, beside=beside, lines=lines)


@router.get("/alike", operation_id="getAlike")
def get_alike(name: str, at: Reading, path: Annotated[str, Query(max_length=200)] = "") -> list[Alike]:
    """Which switches have the very same text in a file; of one path, or of all."""
    return alike(drafts.load(at, name).compiled, path)
