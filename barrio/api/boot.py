"""The boot server: what switches ask and fetch. They have no session and no token; each request is signed by the key that its switch made."""

from __future__ import annotations

import base64
import json
from pathlib import Path as FilePath
from typing import Annotated, Any

from fastapi import APIRouter, Header, HTTPException, Request, Response
from starlette.concurrency import run_in_threadpool
from starlette.requests import ClientDisconnect

from barrio.api.desk import house_of
from barrio.api.downloads import attachment
from barrio.app import boot
from barrio.app.boot import NotLetIn, Signed
from barrio.staging import agent as program

router = APIRouter(prefix="/boot/v1", include_in_schema=False)
Text = Annotated[str, Header(max_length=200)]
_PLACE = FilePath(program.__file__)
AGENT = {
    "barrio-agent": _PLACE.read_bytes(),
    "barrio-agent.service": _PLACE.with_name("barrio-agent.service").read_bytes(),
}
"""What a switch is given that has nothing: the agent, and the unit by which systemd runs it."""
MOST, MOST_PACKED = 300_000, 1_000_000
"""Bytes that a switch says at once: what a few commands printed, or what many did, packed."""
MOST_FILES = 256


def _signed(request: Request, key: str, counter: str, signature: str, body: bytes) -> Signed:
    try:
        return Signed(
            base64.b64decode(key, validate=True), int(counter), base64.b64decode(signature, validate=True),
            request.method, request.url.path, body,
        )  # fmt: skip
    except ValueError:
        raise HTTPException(401, "The request is not signed as a switch signs it.") from None


async def body_of(request: Request, most: int) -> bytes:
    """What somebody sent, who may have left on the way, as one does whose power is cut."""
    try:
        body = await request.body()
    except ClientDisconnect:
        raise HTTPException(400, "Whoever asked is gone.") from None
    if len(body) > most:
        raise HTTPException(413, "That is more than a switch says at once.")
    return body


async def _asked(request: Request, key: str, counter: str, signature: str) -> tuple[Any, Signed]:
    """What somebody says, read as JSON, and the request as it was signed."""
    packed = request.headers.get("content-encoding") == "gzip"
    body = await body_of(request, MOST_PACKED if packed else MOST)
    signed = _signed(request, key, counter, signature, body)
    if packed:
        body = await run_in_threadpool(_answer, boot.unpacked, house_of(request), signed)
    try:
        return json.loads(body), signed
    except ValueError:
        raise HTTPException(422, "A switch says what it is as JSON.") from None


@router.post("/ask")
async def ask(request: Request, barrio_key: Text = "", barrio_counter: Text = "", barrio_signature: Text = "") -> Any:
    """What to do next, after it is told how the last task went."""
    said, signed = await _asked(request, barrio_key, barrio_counter, barrio_signature)
    if not isinstance(said, dict):
        raise HTTPException(422, "A switch says what it is as an object.")
    address = request.client.host if request.client else ""
    return await run_in_threadpool(_answer, boot.ask, house_of(request), signed, said, address)


@router.get("/agent")
def agent() -> Response:
    """The agent itself, one file, for whoever has nothing yet."""
    return attachment(AGENT["barrio-agent"], "text/x-python", "barrio-agent")


@router.get("/agent.service")
def unit() -> Response:
    """The unit by which systemd runs it."""
    return attachment(AGENT["barrio-agent.service"], "text/plain", "barrio-agent.service")


@router.post("/files")
async def files(request: Request, barrio_key: Text = "", barrio_counter: Text = "", barrio_signature: Text = "") -> Any:
    """Files of the switch's own, by a list of their SHA-256: base64 by digest."""
    body, signed = await _asked(request, barrio_key, barrio_counter, barrio_signature)
    if not isinstance(body, list) or not all(isinstance(one, str) for one in body) or len(body) > MOST_FILES:
        raise HTTPException(422, f"A switch asks for a list of at most {MOST_FILES} digests.")
    found = await run_in_threadpool(_answer, boot.files, house_of(request), signed, body)
    return {digest: base64.b64encode(content).decode() for digest, content in found.items()}


def _answer(work: Any, *words: Any) -> Any:
    try:
        return work(*words)
    except NotLetIn as error:
        raise HTTPException(401, f"Nothing is given: {error}.") from None
    except boot.TooMuch as error:
        raise HTTPException(413, f"That is more than a switch says at once: {error}.") from None
