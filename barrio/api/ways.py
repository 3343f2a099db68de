"""Other ways in than name and password: the office's provider, and passkeys.

Each takes two steps, so a browser keeps a ticket between them (where it keeps it, no other site's page can put one).
"""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, Mine, caller_of, house_of
from barrio.api.session import Password, keep
from barrio.app import outside, passkeys

router = APIRouter(
    prefix="/api/v1", tags=["session"], responses=ERRORS | {502: {"description": "The provider is silent"}}
)
Ticket = Annotated[str, Field(min_length=1, max_length=2000)]
Said = Annotated[str, Field(min_length=1, max_length=4000)]


class Ways(BaseModel):
    """Which other ways in there are: what the provider is called, if there is one."""

    provider: str | None


class Prove(BaseModel):
    password: Password = ""


class Away(BaseModel):
    """Where to send the browser, and the ticket to show when it comes back."""

    to: str
    ticket: str


class Back(BaseModel):
    """With what a browser came back."""

    ticket: Ticket
    code: Said
    state: Said


class DeviceAsked(BaseModel):
    """What to ask a device for, as `navigator.credentials` takes it, and the ticket that goes with its answer."""

    options: dict[str, Any]
    ticket: str


class DeviceAnswer(BaseModel):
    """What a device answered, as JSON."""

    ticket: Ticket
    answer: dict[str, Any]


class NewPasskey(DeviceAnswer):
    name: str = Field(max_length=60)


def _back(request: Request) -> str:
    return f"{_origin(request)}/back"


def _origin(request: Request) -> str:
    return f"{request.url.scheme}://{request.headers['host']}"


@router.get("/ways", operation_id="getWays")
def get_ways(request: Request) -> Ways:
    provider = house_of(request).provider
    return Ways(provider=provider.called if provider else None)


@router.post("/session/provider/begin", operation_id="beginByProvider")
def begin_by_provider(request: Request) -> Away:
    to, ticket = outside.begin(house_of(request), _back(request))
    return Away(to=to, ticket=ticket)


@router.post("/session/provider", operation_id="signInByProvider", status_code=204)
def sign_in_by_provider(back: Back, request: Request, response: Response) -> None:
    """Sign in whoever came back from the provider. 401 when it does not vouch for them, or they are nobody here."""
    keep(request, response, outside.sign_in(house_of(request), back.ticket, back.code, back.state, caller_of(request)))


@router.post("/session/passkey/begin", operation_id="beginByPasskey")
def begin_by_passkey(request: Request) -> DeviceAsked:
    options, ticket = passkeys.begin_sign_in(house_of(request), _origin(request))
    return DeviceAsked(options=options, ticket=ticket)


@router.post("/session/passkey", operation_id="signInByPasskey", status_code=204)
def sign_in_by_passkey(said: DeviceAnswer, request: Request, response: Response) -> None:
    keep(request, response, passkeys.sign_in(house_of(request), said.ticket, said.answer, caller_of(request)))


@router.post("/me/provider/begin", operation_id="beginToJoin")
def begin_to_join(said: Prove, request: Request, at: Mine) -> Away:
    """Join the account that the provider has of oneself; it is a way in from then on."""
    to, ticket = outside.begin_to_join(at, said.password, _back(request))
    return Away(to=to, ticket=ticket)


@router.put("/me/provider", operation_id="join", status_code=204)
def join(back: Back, at: Mine) -> None:
    outside.join(at, back.ticket, back.code, back.state)


@router.delete("/me/provider", operation_id="part", status_code=204)
def part(at: Mine) -> None:
    outside.part(at)


@router.post("/me/passkeys/begin", operation_id="beginPasskey")
def begin_passkey(said: Prove, request: Request, at: Mine) -> DeviceAsked:
    options, ticket = passkeys.begin_to_add(at, said.password, _origin(request))
    return DeviceAsked(options=options, ticket=ticket)


@router.post("/me/passkeys", operation_id="addPasskey", status_code=204)
def add_passkey(new: NewPasskey, at: Mine) -> None:
    """Keep a passkey, which signs out everywhere else."""
    passkeys.add(at, new.ticket, new.answer, new.name)


@router.post("/me/passkeys/{key}/end", operation_id="dropPasskey", status_code=204)
def drop_passkey(key: str, said: Prove, at: Mine) -> None:
    passkeys.drop(at, key, said.password)
