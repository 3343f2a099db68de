"""Who asks: every route takes the desk of the person who made the request, and lists what can go wrong."""

from __future__ import annotations

from typing import Annotated, Any
from urllib.parse import unquote

from fastapi import Depends, Header, Request

from barrio.api.problems import Problem
from barrio.app.desk import Actor, Desk
from barrio.app.house import House

ERRORS: dict[int | str, dict[str, Any]] = {code: {"model": Problem} for code in (404, 409, 422)}
"""What can go wrong with nearly every request; problem documents (RFC 9457) all of them."""


def said_by(x_who: Annotated[str, Header(max_length=200)] = "") -> Actor:
    """The name in the header `X-Who`, percent-encoded UTF-8, until there are accounts; empty when nobody said."""
    return Actor("".join(letter for letter in unquote(x_who) if letter.isprintable()).strip()[:60])


def desk_of(request: Request, actor: Annotated[Actor, Depends(said_by)]) -> Desk:
    house: House = request.app.state.house
    return Desk(house, actor)


At = Annotated[Desk, Depends(desk_of)]
