"""Software for switches: brought by people, and fetched by switches by its SHA-256, from where they were when their power was cut."""

from __future__ import annotations

import re
from datetime import datetime
from typing import Annotated

from fastapi import APIRouter, HTTPException, Path, Query, Request
from fastapi.responses import StreamingResponse
from pydantic import BaseModel
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, Reading, Staging, house_of
from barrio.api.downloads import upload
from barrio.app import images
from barrio.app.images import Bringing
from barrio.store.images import Image

router = APIRouter(prefix="/api/v1/fabrics/{name}/staging", tags=["staging"], responses=ERRORS)
boot = APIRouter(prefix="/boot/v1", include_in_schema=False)
Version = Annotated[str, Path(max_length=80)]
Model = Annotated[str, Query(max_length=80)]
_RANGE = re.compile(r"bytes=(\d{1,18})-(\d{0,18})")


class ImageView(BaseModel):
    """Software of a fabric: the version that it is, the model that it is for (by id; empty for any), its file's name, its SHA-256 and its bytes."""

    version: str
    model: str
    name: str
    sha256: str
    size: int
    author: str
    at: datetime


def _view(one: Image) -> ImageView:
    return ImageView(
        version=one.version, model=one.model, name=one.name, sha256=one.digest.hex(), size=one.size, author=one.author, at=one.at,
    )  # fmt: skip


@router.get("/images", operation_id="listImages")
def list_images(name: str, at: Reading) -> list[ImageView]:
    """The software that a fabric has for its switches."""
    return [_view(one) for one in images.every(at, name)]


@router.put("/images/{version}", operation_id="bringImage", openapi_extra=upload("application/octet-stream"))
async def bring_image(
    name: str, version: Version, request: Request, at: Staging, model: Model = "", file: Annotated[str, Query(max_length=200)] = "",
) -> ImageView:  # fmt: skip
    """Bring software of a version: for a model, or for any. A switch that is to run this version by the brief, and runs another, installs it."""
    bringing = await run_in_threadpool(Bringing, at, name, version, model, file)
    async for part in request.stream():
        await run_in_threadpool(bringing.take, part)
    return _view(await run_in_threadpool(bringing.end))


@router.delete("/images/{version}", operation_id="dropImage", status_code=204)
def drop_image(name: str, version: Version, at: Staging, model: Model = "") -> None:
    """Take software out of a fabric."""
    images.drop(at, name, version, model)


@boot.get("/images/{digest}")
def fetch(request: Request, digest: Annotated[str, Path(pattern="^[0-9a-f]{64}$")]) -> StreamingResponse:
    """Software by its SHA-256, which only who was told it knows; from a place on, where a range says so (RFC 9110, section 14)."""
    house, key = house_of(request), bytes.fromhex(digest)
    size = images.size_of(house, key)
    asked = request.headers.get("range", "")
    first, last, status = 0, size - 1, 200
    if found := _RANGE.fullmatch(asked):
        first, last, status = int(found[1]), min(int(found[2] or last), last), 206
        if first > last:
            raise HTTPException(416, f"It has {size} bytes.", {"Content-Range": f"bytes */{size}"})
    headers = {"Accept-Ranges": "bytes", "Content-Length": str(last + 1 - first)}
    if status == 206:
        headers["Content-Range"] = f"bytes {first}-{last}/{size}"
    content = images.parts(house, key, first, last + 1)
    return StreamingResponse(content, status, headers, "application/octet-stream")
