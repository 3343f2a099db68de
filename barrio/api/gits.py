"""Fabrics as git repositories over HTTP: cloned and fetched by who may read, pushed to by who may edit."""

from __future__ import annotations

import base64
import gzip
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Request, Response
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import caller_of, house_of
from barrio.app.desk import Desk
from barrio.app.door import actor_of
from barrio.app.pushing import pushed
from barrio.app.repositories import brought_up
from barrio.app.rights import Right
from barrio.sending import serving

router = APIRouter(prefix="/git/{name}.git", include_in_schema=False)
Service = Literal["git-upload-pack", "git-receive-pack"]


def _desk(request: Request) -> Desk | None:
    """Who asks, by a token: as the password of whatever name, as git sends it, or as a bearer's."""
    scheme, _, shown = request.headers.get("authorization", "").partition(" ")
    token = shown.strip()
    if scheme.lower() == "basic":
        try:
            token = base64.b64decode(token).decode().partition(":")[2]
        except ValueError:
            return None
    actor = actor_of(house_of(request), "", token[:100], caller_of(request).address) if token else None
    return Desk(house_of(request), actor) if actor else None


Asking = Annotated[Desk | None, Depends(_desk)]


def _refused(desk: Desk | None, name: str, service: Service) -> Response | None:
    if desk is None:
        words = "Sign in with a token of yours as the password; the name does not matter.\n"
        return Response(words, 401, {"WWW-Authenticate": 'Basic realm="Barrio, with a token"'})
    right = Right.READ if service == "git-upload-pack" else Right.EDIT
    if not desk.actor.may(right, name):
        return Response(f"This token may not {right} {name}.\n", 403)
    return None


@router.get("/info/refs")
def get_refs(name: str, service: Service, at: Asking) -> Response:
    refused = _refused(at, name, service)
    if refused is not None or at is None:
        return refused or Response(status_code=401)
    found = serving.advertise(brought_up(at, name), service)
    return Response(found, media_type=f"application/x-{service}-advertisement", headers={"Cache-Control": "no-cache"})


@router.post("/{service}")
async def post(name: str, service: Service, request: Request, at: Asking) -> Response:
    refused = _refused(at, name, service)
    if refused is not None or at is None:
        return refused or Response(status_code=401)
    body = await request.body()
    if request.headers.get("content-encoding") == "gzip":
        body = gzip.decompress(body)
    answer = await run_in_threadpool(_serve, at, name, service, body)
    return Response(answer, media_type=f"application/x-{service}-result", headers={"Cache-Control": "no-cache"})


def _serve(desk: Desk, name: str, service: Service, body: bytes) -> bytes:
    folder = brought_up(desk, name)
    if service == "git-upload-pack":
        return serving.upload(folder, body)
    return serving.receive(folder, body, lambda branches: pushed(desk, name, branches))
