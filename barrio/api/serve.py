"""`barrio serve`: PostgreSQL, schema, demo world and web server, started together and ended together."""

from __future__ import annotations

import gc
import signal
import socket
import sys
import threading
from pathlib import Path

import uvicorn

from barrio.api.app import make_app
from barrio.app.house import House
from barrio.dev.cluster import Cluster, ClusterError
from barrio.dev.demo import load_demo
from barrio.store.database import bring_up_to_date, connect


def run(port: int, demo: bool, folder: Path) -> int:
    """Serve until told to stop; returns the exit code."""
    listener = _listen(port)
    if listener is None:
        print(
            f"Port {port} on 127.0.0.1 is taken. Name another with --port, or --port 0 for a free one.", file=sys.stderr
        )
        return 3
    cluster = Cluster(folder / "postgres")
    # A large fabric is hundreds of thousands of small objects that live long; looking through them often finds nothing.
    gc.set_threshold(100_000, 50, 100)
    # A signal during start-up must still end what was started.
    signal.signal(signal.SIGTERM, _interrupt)
    try:
        cluster.start()
        connections = connect(cluster.conninfo)
        try:
            bring_up_to_date(connections)
            house = House(connections)
            if demo:
                load_demo(house)
            _serve(house, listener)
        finally:
            connections.close()
    except ClusterError as error:
        print(error, file=sys.stderr)
        return 3
    except KeyboardInterrupt:
        return 0
    finally:
        cluster.stop()
        listener.close()
    return 0


def _interrupt(number: int, frame: object) -> None:
    raise KeyboardInterrupt


def _listen(port: int) -> socket.socket | None:
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except OSError:
        listener.close()
        return None
    return listener


def _serve(house: House, listener: socket.socket) -> None:
    address = f"http://127.0.0.1:{listener.getsockname()[1]}"
    server = uvicorn.Server(
        uvicorn.Config(make_app(house), log_level="warning", access_log=False, timeout_graceful_shutdown=3)
    )
    threading.Thread(target=_say_when_ready, args=(server, address), daemon=True).start()
    server.run(sockets=[listener])


def _say_when_ready(server: uvicorn.Server, address: str) -> None:
    while not server.started:
        if server.should_exit:
            return
        threading.Event().wait(0.02)
    print(f"\nBarrio is at {address}  (Ctrl+C stops it)", flush=True)
