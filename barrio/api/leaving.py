"""Notices when whoever made a request goes away, so that its work ends."""

from __future__ import annotations

import asyncio
from threading import Event

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from barrio.app.leaving import LEFT, Left


def watched(app: ASGIApp) -> ASGIApp:
    """The same app, with a flag for its work that says when nobody waits for the answer any more."""

    async def watching(scope: Scope, receive: Receive, send: Send) -> None:
        left, arrived = Event(), asyncio.Queue[Message]()
        token = LEFT.set(left)

        async def listen() -> None:
            while True:
                message = await receive()
                if message["type"] == "http.disconnect":
                    left.set()
                await arrived.put(message)
                if message["type"] == "http.disconnect":
                    return

        ear = asyncio.create_task(listen())
        try:
            await app(scope, arrived.get, send)
        except Left:
            pass
        finally:
            ear.cancel()
            LEFT.reset(token)

    return watching
