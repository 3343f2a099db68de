"""`barrio serve`: PostgreSQL, schema, demo world and web server, started together and ended together."""

from __future__ import annotations

import gc
import signal
import socket
import sys
import threading
from datetime import timedelta
from pathlib import Path

import structlog
import uvicorn

from barrio.api.app import make_app
from barrio.core.ledger.numbers import parse_number
from barrio.core.ledger.pool import Plan
from barrio.store.cluster import Cluster, ClusterError
from barrio.store.database import bring_up_to_date, connect
from barrio.store.fabrics import Connections, Fabrics
from barrio.store.pins import Pin
from barrio.store.pools import NewPool, Pools, Settings

log = structlog.get_logger()
DEMO = Path(__file__).parents[2] / "examples"


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
            if demo:
                load_demo(connections)
            _serve(connections, listener)
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


def load_demo(connections: Connections) -> None:
    """Load the demo world into a database that has no fabric yet."""
    fabrics = Fabrics(connections)
    if fabrics.names():
        return
    for path in sorted(DEMO.glob("*.yaml")):
        fabrics.create(path.read_text(), "loaded from the examples")
        log.info("fabric loaded", fabric=path.stem)
    load_demo_ledger(fabrics, Pools(connections))


def load_demo_ledger(fabrics: Fabrics, pools: Pools) -> None:
    """The demo world's ledger as it stands after some months: editions, reservations, a pool cut from another, a trial."""
    for name in ("marlin", "pelican"):
        fabrics.seal(name, fabrics.version(name), "Ines", "as cabled in spring")
    pools.reserve("oob-marlin", "10.90.1.2..10.90.1.15", "console servers and power strips", "Teo")
    pools.reserve("halls-loopback", "10.60.3.0/24", "old harbour routers, until they are gone", "Ines")
    pools.reserve("halls-p2p", "10.61.12.0/23", "radio links to the buoys", "Teo")
    pools.reserve("office-private", "4200069000..4200069099", "the weather ships", "Ines")
    radar = NewPool(
        "radar-segments", ("10.72.192.0/20", "fd72:0:0:c000::/52"), plan=Plan.BEST_FIT, parent="office-segments",
        private_to="marlin", note="Harbour Radar numbers its own cameras",
    )  # fmt: skip
    pools.create(radar, "Ines")
    pools.add_scope("trial", "the workshop bench, never joined to the halls", "Teo")
    pools.create(NewPool("trial-loopbacks", ("10.60.0.0/24",), plan=Plan.POSITION, scope="trial"), "Teo")
    pools.change("halls-p2p", Settings(rest=timedelta(days=14), warn=0.8), "Ines")
    draft = fabrics.draft("marlin")
    wished = {
        "loopback.v4": {"leaf/b01/a": Pin(*parse_number("loopback.v4", "10.60.0.254"), "known to the port authority")}
    }
    fabrics.pin("marlin", draft.version, wished, "Ines")


def _serve(connections: Connections, listener: socket.socket) -> None:
    address = f"http://127.0.0.1:{listener.getsockname()[1]}"
    server = uvicorn.Server(
        uvicorn.Config(make_app(connections), log_level="warning", access_log=False, timeout_graceful_shutdown=3)
    )
    threading.Thread(target=_say_when_ready, args=(server, address), daemon=True).start()
    server.run(sockets=[listener])


def _say_when_ready(server: uvicorn.Server, address: str) -> None:
    while not server.started:
        if server.should_exit:
            return
        threading.Event().wait(0.02)
    print(f"\nBarrio is at {address}  (Ctrl+C stops it)", flush=True)
