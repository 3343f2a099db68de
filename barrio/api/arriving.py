"""How the switches of a fabric come to Barrio, and what a DHCP server of their management network is told."""

from __future__ import annotations

import base64
from datetime import datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Path, Query, Response
from fastapi.responses import PlainTextResponse
from pydantic import BaseModel, Field

from barrio.api.boot import AGENT
from barrio.api.desk import ERRORS, Reading, Staging
from barrio.api.downloads import attachment, download
from barrio.app import arriving, sztp
from barrio.core.bundle import as_zip
from barrio.core.errors import refuse
from barrio.core.staging.floor import Floor
from barrio.core.staging.ways import ADMITS, Ways, ways
from barrio.staging.image import NoImage, iso

router = APIRouter(prefix="/api/v1/fabrics/{name}/staging", tags=["staging"], responses=ERRORS)
Device = Annotated[str, Query(pattern=r"^[A-Za-z0-9_.@-]{0,15}$")]


class ArrivalSaid(BaseModel):
    """`address` is where switches reach Barrio (`https://…`); `admits` who is let in without being asked about; `lend` the prefix that boxes are lent addresses
    from whose MAC nobody knows."""

    address: Annotated[str, Field(max_length=200)] = ""
    admits: Literal["nobody", "serial and place", "serial"] = "nobody"
    lend: Annotated[str, Field(max_length=40)] = ""


class ArrivalView(ArrivalSaid):
    """The ways of a fabric, and the rules that there are."""

    rules: list[str]


@router.get("/ways", operation_id="getArrival")
def get_arrival(name: str, at: Reading) -> ArrivalView:
    """How the switches of a fabric come to Barrio."""
    return _view(arriving.told(at, name))


@router.put("/ways", operation_id="sayArrival")
def say_arrival(name: str, said: ArrivalSaid, at: Staging) -> ArrivalView:
    """Say how the switches of a fabric come to Barrio, and who of them is let in without being asked about."""
    one = ways(said.address, said.admits, said.lend)
    arriving.say(at, name, one)
    return _view(one)


def _view(one: Ways) -> ArrivalView:
    return ArrivalView(address=one.address, admits=one.admits, lend=str(one.lend or ""), rules=list(ADMITS))


@router.get("/dhcp/{program}", operation_id="readDhcp", response_class=PlainTextResponse)
def read_dhcp(
    name: str, program: Annotated[str, Path(max_length=20)], at: Reading, interface: Device = ""
) -> PlainTextResponse:
    """What a DHCP server of the management network is told: `kea4`, `kea6` or `dnsmasq`."""
    one = arriving.dhcp_of(at, name, program, interface)
    return PlainTextResponse(one.text, headers={"Content-Disposition": f'attachment; filename="{one.path}"'})


@router.get("/floor", operation_id="getHall")
def get_hall(name: str, at: Reading) -> Floor:
    """The hall as a simulation builds it: switches with their ports, and the cables between them."""
    return arriving.floor_of(at, name)


class MediumSaid(BaseModel):
    """For one switch, or for all; `trust` is the certificate by which Barrio is known (PEM), where the system of a switch does not know it."""

    switch: Annotated[str, Field(max_length=64)] = ""
    trust: Annotated[str, Field(max_length=20_000)] = ""


@router.post("/medium.{kind}", operation_id="takeMedium", **download("application/zip", "application/vnd.efi.iso"))
def take_medium(name: str, kind: Literal["zip", "iso"], said: MediumSaid, at: Staging) -> Response:
    """A boot medium, with secrets in its files, for where there is no DHCP; kept nowhere on the way."""
    volume, files = arriving.medium(at, name, said.switch, said.trust, AGENT)
    file = f"{name}{f'-{said.switch}' if said.switch else ''}.{kind}"
    if kind == "zip":
        answer = attachment(as_zip(files), "application/zip", file)
    else:
        try:
            answer = attachment(iso(files, volume), "application/vnd.efi.iso", file)
        except NoImage as error:
            raise refuse("medium.image", str(error)) from None
    answer.headers["Cache-Control"] = "no-store"
    return answer


@router.get("/byhand/{switch}", operation_id="readByHand", response_class=PlainTextResponse)
def read_by_hand(name: str, switch: Annotated[str, Path(max_length=64)], at: Reading) -> PlainTextResponse:
    """What to copy and to run where a switch is brought up by hand, in its order."""
    return PlainTextResponse(arriving.by_hand_of(at, name, switch))


class SztpSaid(BaseModel):
    """The ownership voucher of a box (RFC 8366; CMS in DER, as base64), where it has one; with `word` a word is made that the box says by HTTP."""

    voucher: Annotated[str, Field(max_length=40_000)] = ""
    word: bool = False


class SztpWord(BaseModel):
    """The word that was made; it is shown once, and kept nowhere."""

    word: str


class SztpView(BaseModel):
    """A box that may come by RFC 8572: until when its voucher holds, and what it reported last."""

    switch: str
    serial: str
    word: bool
    voucher: bool
    voucher_expires_at: datetime | None
    progress: str
    seen_at: datetime | None


@router.get("/sztp", operation_id="listSztp")
def list_sztp(name: str, at: Reading) -> list[SztpView]:
    """The boxes of a fabric that may come by RFC 8572."""
    return [
        SztpView(
            switch=switch, serial=one.serial, word=one.secret is not None, voucher=one.voucher is not None,
            voucher_expires_at=one.voucher_expires_at, progress=one.progress, seen_at=one.seen_at,
        )
        for switch, one in sztp.told(at, name)
    ]  # fmt: skip


@router.put("/sztp/{switch}", operation_id="allowSztp")
def allow_sztp(
    name: str, switch: Annotated[str, Path(max_length=64)], said: SztpSaid, at: Staging, response: Response
) -> SztpWord:
    """Let the box that is bound to a switch come by RFC 8572."""
    response.headers["Cache-Control"] = "no-store"
    try:
        voucher = base64.b64decode(said.voucher, validate=True)
    except ValueError:
        raise refuse("sztp.voucher", "The voucher is no base64.", "voucher") from None
    return SztpWord(word=sztp.allow(at, name, switch, voucher, said.word))


@router.delete("/sztp/{switch}", operation_id="forbidSztp", status_code=204)
def forbid_sztp(name: str, switch: Annotated[str, Path(max_length=64)], at: Staging) -> None:
    """Let the box of a switch no longer come by RFC 8572."""
    sztp.forbid(at, name, switch)
