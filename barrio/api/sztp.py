"""The bootstrap server of RFC 8572: what devices ask and tell, as RESTCONF (RFC 8040). A device shows its certificate, or a serial number and a word."""

from __future__ import annotations

import base64
from typing import Any

from fastapi import APIRouter, Request, Response
from starlette.concurrency import run_in_threadpool

from barrio.api.boot import AGENT, body_of
from barrio.api.desk import house_of
from barrio.api.peer import serial_of
from barrio.app import sztp
from barrio.app.sztp import NothingYet, NotKnown, Shown
from barrio.core.errors import Refused
from barrio.core.staging import sztp as shapes
from barrio.core.staging.sztp import Encoding

router = APIRouter(include_in_schema=False)
OPERATIONS = f"/restconf/operations/{shapes.SERVER}"
MOST = 200_000
"""Bytes of an input: keys of a host and certificates are the most of it."""
_ROOT = '<?xml version="1.0"?>\n<XRD xmlns="http://docs.oasis-open.org/ns/xri/xrd-1.0"><Link rel="restconf" href="/restconf"/></XRD>\n'


@router.get("/.well-known/host-meta")
def host_meta() -> Response:
    """Where RESTCONF is (RFC 8040, section 3.1)."""
    return Response(_ROOT, media_type="application/xrd+xml")


@router.post(f"{OPERATIONS}:get-bootstrapping-data")
async def get_bootstrapping_data(request: Request) -> Response:
    """What a device is to run, and where it goes on."""
    body = await body_of(request, MOST)

    def work(said: Encoding, answer: Encoding) -> Response:
        address = request.client.host if request.client else ""
        host = request.headers.get("host", "")
        asked = shapes.asked(body, said)
        found = sztp.ask(house_of(request), _shown(request), asked, host, address, answer, AGENT)
        return Response(found, media_type=_media(answer), headers={"Cache-Control": "no-store"})

    return await run_in_threadpool(_answered, request, work)


@router.post(f"{OPERATIONS}:report-progress")
async def report_progress(request: Request) -> Response:
    """What a device is at."""
    body = await body_of(request, MOST)

    def work(said: Encoding, answer: Encoding) -> Response:
        sztp.report(house_of(request), _shown(request), shapes.reported(body, said))
        return Response(status_code=204)

    return await run_in_threadpool(_answered, request, work)


def _shown(request: Request) -> Shown:
    """Who asks. Raises `NotKnown` where nothing is shown."""
    serial = serial_of(request)
    if serial:
        return Shown(serial, certificate=True)
    kind, _, words = request.headers.get("authorization", "").partition(" ")
    try:
        serial, _, word = base64.b64decode(words, validate=True).decode().partition(":")
    except ValueError:
        serial, word = "", ""
    if kind.lower() != "basic" or not serial or not word:
        raise NotKnown("it shows neither a certificate nor a serial number with a word")
    return Shown(serial[:80], word[:200])


def _media(encoding: Encoding) -> str:
    return f"application/yang-data+{encoding}"


def _answered(request: Request, work: Any) -> Response:
    """The answer in the encoding that is accepted, or the one in which it was asked; errors as RESTCONF has them."""
    said: Encoding = "xml" if "xml" in request.headers.get("content-type", "") else "json"
    accepts = request.headers.get("accept", "")
    answer: Encoding = "json" if "json" in accepts else "xml" if "xml" in accepts else said

    def error(status: int, tag: str, words: str, **headers: str) -> Response:
        content = shapes.encode(shapes.error(tag, f"{words}."), answer)
        return Response(content, status, headers, _media(answer))

    try:
        found: Response = work(said, answer)
    except NotKnown as why:
        return error(401, "access-denied", f"Nothing is given: {why}", **{"WWW-Authenticate": 'Basic realm="Barrio"'})
    except NothingYet as why:
        return error(404, "invalid-value", f"There is nothing for this device now: {why}")
    except Refused as why:
        return error(400, "invalid-value", str(why).rstrip("."))
    return found
