"""Long lists come a page at a time: the header `Link` leads to the next page (RFC 8288), `Total-Count` says how many there are."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, TypeVar

from fastapi import Depends, Query, Request, Response

MOST = 5000
"""Rows of a page when nobody asks for fewer: all switches of the largest fabric there may be."""

Found = TypeVar("Found")
PAGED: dict[int | str, dict[str, Any]] = {
    200: {
        "headers": {
            "Link": {
                "description": 'The next page, as `<…>; rel="next"`; absent on the last',
                "schema": {"type": "string"},
            },
            "Total-Count": {"description": "How many rows there are in all", "schema": {"type": "integer"}},
        }
    }
}
"""What a list that comes in pages says of itself in the OpenAPI document."""


class Page:
    """The part of a list that was asked for."""

    def __init__(
        self,
        request: Request,
        response: Response,
        limit: Annotated[int, Query(ge=1, le=MOST)] = MOST,
        offset: Annotated[int, Query(ge=0, le=1_000_000_000)] = 0,
    ) -> None:
        self._request, self._response = request, response
        self._limit, self._offset = limit, offset

    def of(self, found: Sequence[Found]) -> Sequence[Found]:
        """This page of what was found; says in the answer's headers what lies beyond."""
        end = self._offset + self._limit
        self._response.headers["Total-Count"] = str(len(found))
        if end < len(found):
            following = self._request.url.include_query_params(limit=self._limit, offset=end)
            self._response.headers["Link"] = f'<{following.path}?{following.query}>; rel="next"'
        return found[self._offset : end]


Paged = Annotated[Page, Depends()]
