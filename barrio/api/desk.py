"""Who asks, and whether they may: every route takes a desk by the right that it needs, and lists what can go wrong.

A browser shows its session in a cookie, a program its token as `Authorization: Bearer`. Which right a route needs stands in its
signature (`at: Editing`), and as `x-right` in the OpenAPI document.
"""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Depends, Query, Request

from barrio.api.problems import Problem
from barrio.app.desk import Actor, Desk, Forbidden, NotSignedIn
from barrio.app.door import Caller, actor_of
from barrio.app.house import House
from barrio.app.rights import OF_A_FABRIC, RIGHTS, Right
from barrio.store import people

ERRORS: dict[int | str, dict[str, Any]] = {code: {"model": Problem} for code in (404, 409, 422)}
"""What can go wrong with nearly every request; problem documents (RFC 9457) all of them."""

COOKIE, SAFE_COOKIE = "barrio", "__Host-barrio"
"""The cookie of a session; over TLS its name binds it to this host and to TLS (RFC 6265bis, 4.1.3.2)."""


def house_of(request: Request) -> House:
    house: House = request.app.state.house
    return house


def cookie_of(request: Request) -> str:
    """The cookie that a session is shown by: over TLS only the one that nobody else on the way could have set."""
    return SAFE_COOKIE if request.url.scheme == "https" else COOKIE


def caller_of(request: Request) -> Caller:
    """From where a request comes; a proxy is heeded by the server, if it is a named one."""
    return Caller(request.client.host if request.client else "", request.headers.get("user-agent", ""))


def actor_asking(request: Request) -> Actor | None:
    """Who asks, by what they show; nobody when it is nothing, or has ended."""
    scheme, _, token = request.headers.get("authorization", "").partition(" ")
    session = request.cookies.get(cookie_of(request), "")
    shown = token.strip() if scheme.lower() == "bearer" else ""
    actor = actor_of(house_of(request), "" if shown else session[:100], shown[:100], caller_of(request).address)
    if actor is not None:
        request.scope["actor"] = actor.name
    return actor


Asking = Annotated[Actor | None, Depends(actor_asking)]


class Needs:
    """A desk for whoever has a right: over the fabric that the address names, where the right concerns one."""

    def __init__(self, right: Right | None) -> None:
        self.right = right

    def __call__(self, request: Request, actor: Asking) -> Desk:
        if actor is None:
            raise NotSignedIn
        house = house_of(request)
        fabric = request.path_params.get("name") if self.right in OF_A_FABRIC else None
        if self.right is not None and not actor.may(self.right, fabric):
            with house.alone() as connection:
                helps = Right.PEOPLE if self.right is Right.LOOK else self.right
                who = people.holders(connection, [role.value for role in RIGHTS[helps][0]], fabric)
            raise Forbidden(self.right, fabric, who)
        return Desk(house, actor)


Mine = Annotated[Desk, Depends(Needs(None))]
"""One's own page: whoever is signed in."""
Looking = Annotated[Desk, Depends(Needs(Right.LOOK))]
Reading = Annotated[Desk, Depends(Needs(Right.READ))]
Editing = Annotated[Desk, Depends(Needs(Right.EDIT))]
Numbering = Annotated[Desk, Depends(Needs(Right.NUMBER))]
Cabling = Annotated[Desk, Depends(Needs(Right.CABLE))]
Sealing = Annotated[Desk, Depends(Needs(Right.SEAL))]
Agreeing = Annotated[Desk, Depends(Needs(Right.AGREE))]
Saying = Annotated[Desk, Depends(Needs(Right.SAY))]
Rehearsing = Annotated[Desk, Depends(Needs(Right.REHEARSE))]
Unboxing = Annotated[Desk, Depends(Needs(Right.UNBOX))]
Staging = Annotated[Desk, Depends(Needs(Right.STAGE))]
Ruling = Annotated[Desk, Depends(Needs(Right.RULE))]
Deleting = Annotated[Desk, Depends(Needs(Right.DELETE))]
Sharing = Annotated[Desk, Depends(Needs(Right.SHARE))]
Creating = Annotated[Desk, Depends(Needs(Right.CREATE))]
KeepingPools = Annotated[Desk, Depends(Needs(Right.POOLS))]
KeepingCatalogue = Annotated[Desk, Depends(Needs(Right.CATALOGUE))]
KeepingOffice = Annotated[Desk, Depends(Needs(Right.OFFICE))]
KeepingPeople = Annotated[Desk, Depends(Needs(Right.PEOPLE))]
ReadingRecord = Annotated[Desk, Depends(Needs(Right.RECORD))]

Version = Annotated[int, Query(ge=0, lt=2**63)]
"""The version of a draft that a caller has seen; a change on an older one than there is now is `Stale`."""
