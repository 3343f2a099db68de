"""`barrio serve`: PostgreSQL, schema, demo world and web server, started together and ended together."""

from __future__ import annotations

import gc
import signal
import socket
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager

import psycopg
import uvicorn
from psycopg_pool import PoolTimeout

from barrio.api.app import make_app
from barrio.app.house import House
from barrio.config import Config
from barrio.dev.cluster import Cluster
from barrio.dev.demo import load_demo
from barrio.dev.folder import ClusterError
from barrio.store.database import Newer, bring_up_to_date, connect
from barrio.store.pulse import Pulse

USUAL_PORT = 8710


def run(config: Config) -> int:
    """Serve until told to stop; returns the exit code."""
    listener = _listen(USUAL_PORT if config.port is None else config.port)
    if listener is None and config.port is None:
        listener = _listen(0)
        print(f"Port {USUAL_PORT} on 127.0.0.1 is taken, so another is used.", file=sys.stderr)
    if listener is None:
        words = f"Port {config.port} on 127.0.0.1 is taken. Name another with --port, or --port 0 for a free one."
        print(words, file=sys.stderr)
        return 3
    # A large fabric is hundreds of thousands of small objects that live long; looking through them often finds nothing.
    gc.set_threshold(100_000, 50, 100)
    # A signal during start-up must still end what was started.
    signal.signal(signal.SIGTERM, _interrupt)
    cluster = None if config.database else Cluster(config.data.resolve() / "postgres")
    try:
        if cluster:
            cluster.start()
        with _house(config, cluster) as house:
            if config.demo:
                load_demo(house)
            _serve(house, listener)
    except (ClusterError, Newer) as error:
        print(error, file=sys.stderr)
        return 3
    except (psycopg.OperationalError, PoolTimeout) as error:
        print(f"The database cannot be reached: {str(error).strip().splitlines()[-1]}", file=sys.stderr)
        return 3
    except KeyboardInterrupt:
        return 0
    finally:
        if cluster:
            cluster.stop()
        listener.close()
    return 0


@contextmanager
def _house(config: Config, cluster: Cluster | None) -> Iterator[House]:
    """The house over the private database, or over one that is given by its address."""
    if cluster:
        conninfo, pulse = cluster.conninfo, Pulse(cluster.conninfo, cluster.trouble, cluster.revive)
    else:
        conninfo = config.database.get_secret_value() if config.database else ""
        psycopg.connect(conninfo, connect_timeout=5).close()
        pulse = Pulse(conninfo)
    connections = connect(conninfo)
    try:
        bring_up_to_date(connections)
        with pulse:
            yield House(connections, pulse)
    finally:
        connections.close()


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
