"""Lines of all files at once, over HTTP."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.app import drafts
from barrio.core.errors import refuse
from barrio.core.lines import FoundLine, find_lines

router = APIRouter(prefix="/api/v1/fabrics/{name}/lines", tags=["switches"], responses=ERRORS)


class FoundLines(BaseModel):
    """Lines that were found, and how many there are beyond what is shown; alike lines are one."""

    lines: list[FoundLine]
    total: int


@router.get("", operation_id="findLines")
def find(name: str, at: Reading, words: Annotated[str, Query(max_length=200)]) -> FoundLines:
    """The lines in which words stand, in the files of all switches, with who carries each. Capitals count where the words have any."""
    if not words.strip():
        raise refuse("lines.nothing", "Say what is to be found.", "words")
    lines, total = find_lines(drafts.load(at, name).compiled, words)
    return FoundLines(lines=list(lines), total=total)
