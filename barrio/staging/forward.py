"""Carries connections from an address of a network namespace to a socket in a folder, where whoever listens is elsewhere.

It stands alone (standard library only). Its words: an address, a port, and the path of the socket.
"""

from __future__ import annotations

import asyncio
import contextlib
import sys
from collections.abc import Awaitable, Callable


async def _pump(reads: asyncio.StreamReader, writes: asyncio.StreamWriter) -> None:
    with contextlib.suppress(OSError):
        while data := await reads.read(1 << 16):
            writes.write(data)
            await writes.drain()
    with contextlib.suppress(OSError, RuntimeError):
        writes.close()


Line = tuple[asyncio.StreamReader, asyncio.StreamWriter]


async def carry(reads: asyncio.StreamReader, writes: asyncio.StreamWriter, on: Callable[[], Awaitable[Line]]) -> None:
    """Carry a connection on, both ways, until either end has had enough."""
    try:
        far_reads, far_writes = await on()
    except OSError:
        writes.close()
        return
    await asyncio.gather(_pump(reads, far_writes), _pump(far_reads, writes))


async def _serve(address: str, port: int, path: str) -> None:
    async def taken(reads: asyncio.StreamReader, writes: asyncio.StreamWriter) -> None:
        await carry(reads, writes, lambda: asyncio.open_unix_connection(path))

    async with await asyncio.start_server(taken, address, port) as server:
        await server.serve_forever()


if __name__ == "__main__":
    asyncio.run(_serve(sys.argv[1], int(sys.argv[2]), sys.argv[3]))
