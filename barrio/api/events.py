"""What changes, as server-sent events (WHATWG HTML, 9.2); and who else is here.

A stream begins with how things stand, so that a page that slept knows what it missed. It tells only of fabrics that its reader may
read, and ends when they are signed out.
"""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator
from contextlib import suppress
from uuid import UUID, uuid4

import anyio
from fastapi import APIRouter, Request
from pydantic import BaseModel, Field
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, Mine, Reading, actor_asking
from barrio.app.desk import Desk
from barrio.app.events import AGAIN
from barrio.store import events
from barrio.store.errors import Unreachable
from barrio.store.events import Here

router = APIRouter(prefix="/api/v1", tags=["events"], responses=ERRORS)
MOST_TOLD = 500
LOOK_AGAIN = 60.0
"""Seconds after which a stream looks whether its reader's session has ended by time."""


class Place(BaseModel):
    """Where in a fabric somebody is: the stream of their page, and a word of the brief, a row, a switch."""

    stream: UUID
    place: str = Field("", max_length=200)


@router.get("/events", operation_id="listen", response_class=EventSourceResponse)
async def listen(request: Request, at: Mine) -> EventSourceResponse:
    """`standing` once, with the version of each fabric; then `fabric`, `pools`, `catalogue`, `people`, `present`, `job` as they change."""
    stream = uuid4()
    return EventSourceResponse(_told(request, at, stream), ping=15, headers={"X-Accel-Buffering": "no"})


async def _told(request: Request, at: Desk, stream: UUID) -> AsyncIterator[ServerSentEvent]:
    loop, waiting = asyncio.get_running_loop(), asyncio.Queue[str](MOST_TOLD)

    def tell(what: str) -> None:
        loop.call_soon_threadsafe(_put, waiting, what)

    await run_in_threadpool(at.house.ear.ask, stream, tell)
    try:
        yield await run_in_threadpool(_standing, at, stream)
        while True:
            what = await _next(waiting)
            if what == AGAIN:
                yield await run_in_threadpool(_standing, at, stream)
                continue
            kind, _, name = what.partition(" ")
            if kind == "people":
                actor = await run_in_threadpool(actor_asking, request)
                if actor is None:
                    yield ServerSentEvent(event="signedout", data="")
                    return
                at = Desk(at.house, actor)
            if kind == "job":
                name, _, person = name.partition(" ")
                if person != str(at.actor.id):
                    continue
            elif name and not at.may_read(name):
                continue
            if kind == "present":
                found = await run_in_threadpool(_here, at, name, stream)
                yield ServerSentEvent(event=kind, data=json.dumps({"fabric": name, "here": found}))
            else:
                yield ServerSentEvent(event=kind, data=name)
    finally:
        at.house.ear.leave(stream)
        # Whoever closed their page cancelled all that waits for it, but this is for the others.
        with anyio.CancelScope(shield=True):
            await run_in_threadpool(_gone, at, stream)


async def _next(waiting: asyncio.Queue[str]) -> str:
    """What is told next; when nothing is for a while, that it is time to see whether the reader is signed in still."""
    try:
        return await asyncio.wait_for(waiting.get(), LOOK_AGAIN)
    except TimeoutError:
        return "people"


def _put(waiting: asyncio.Queue[str], what: str) -> None:
    """Whoever reads too slowly is told to look at everything again, once they come to it."""
    if waiting.full():
        while not waiting.empty():
            waiting.get_nowait()
        what = AGAIN
    waiting.put_nowait(what)


def _standing(at: Desk, stream: UUID) -> ServerSentEvent:
    with at.house.alone() as connection:
        now = events.standing(connection)
    fabrics = {name: version for name, version in now.fabrics.items() if at.may_read(name)}
    said = {"stream": str(stream), "fabrics": fabrics, "pools": now.pools, "catalogue": now.catalogue}
    return ServerSentEvent(event="standing", data=json.dumps(said))


def _here(at: Desk, fabric: str, stream: UUID) -> list[dict[str, str]]:
    with at.house.alone() as connection:
        found = events.here(connection, fabric, stream)
    return [{"name": one.name, "called": one.called, "place": one.place} for one in found]


def _gone(at: Desk, stream: UUID) -> None:
    # When the database is lost, whoever was here is forgotten by itself.
    with suppress(Unreachable), at.house.alone() as connection:
        events.go(connection, stream)


@router.post("/fabrics/{name}/present", operation_id="bePresent")
def be_present(name: str, said: Place, at: Reading) -> list[Here]:
    """Say where in a fabric one is; answers who else is here. It ends with the stream of the page."""
    with at.house.alone() as connection:
        if at.actor.id is not None:
            events.come(connection, said.stream, at.actor.id, name, said.place)
        return events.here(connection, name, said.stream)
