"""Lines of all files at once, over HTTP."""

from __future__ import annotations

import time
from typing import Annotated

import regex
from fastapi import APIRouter, Query
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.app import drafts
from barrio.core.errors import refuse
from barrio.core.lines import FoundLine, Matches, find_lines, words_in

router = APIRouter(prefix="/api/v1/fabrics/{name}/lines", tags=["switches"], responses=ERRORS)


class FoundLines(BaseModel):
    """Lines that were found, and how many there are beyond what is shown; alike lines are one."""

    lines: list[FoundLine]
    total: int


@router.get("", operation_id="findLines")
def find(name: str, at: Reading, words: Annotated[str, Query(max_length=200)]) -> FoundLines:
    """The lines in which words stand, in the files of all switches, with who carries each. Capitals count where the words have any. Between
    slashes stands a regular expression: `/neighbor .* remote-as 65\\d+/`."""
    if not words.strip(" /"):
        raise refuse("lines.nothing", "Say what is to be found.", "words")
    try:
        lines, total = find_lines(
            drafts.load(at, name).compiled, _expression(words[1:-1]) if _is_expression(words) else words_in(words)
        )
    except TimeoutError:
        raise refuse(
            "lines.long",
            "This expression takes too long. Say it more plainly, without repeats inside repeats.",
            "words",
        ) from None
    return FoundLines(lines=list(lines), total=total)


def _is_expression(words: str) -> bool:
    return len(words) > 2 and words.startswith("/") and words.endswith("/")


def _expression(text: str) -> Matches:
    """Whether a regular expression is found in a text. Takes a second altogether, and then raises `TimeoutError`."""
    try:
        pattern = regex.compile(text, regex.MULTILINE)
    except regex.error as error:
        raise refuse("lines.expression", f"This is no regular expression: {error}.", "words") from None
    until = time.monotonic() + 2.0

    def matches(whole: str) -> bool:
        left = until - time.monotonic()
        if left <= 0:
            raise TimeoutError
        return pattern.search(whole, timeout=left) is not None

    return matches
