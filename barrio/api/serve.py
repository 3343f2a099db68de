"""`barrio serve`: PostgreSQL, schema, demo world and web server, started together and ended together."""

from __future__ import annotations

import gc
import signal
import socket
import ssl
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import psycopg
import uvicorn
from psycopg_pool import PoolTimeout

from barrio.api.app import make_app
from barrio.api.peer import protocol
from barrio.app import links
from barrio.app.house import House
from barrio.app.provider import Provider
from barrio.app.secret import Keys
from barrio.config import Config
from barrio.dev.cluster import Cluster
from barrio.dev.demo import demo_links, load_demo
from barrio.dev.folder import ClusterError
from barrio.jobs.queue import bring_up
from barrio.jobs.worker import Worker
from barrio.sending.cms import Owner
from barrio.store.database import Newer, bring_up_to_date, connect
from barrio.store.pulse import Pulse
from barrio.store.signing import OtherKey, keep_key

USUAL_PORT = 8710


def run(config: Config) -> int:
    """Serve until told to stop; returns the exit code."""
    host = str(config.listen)
    listener = _listen(host, USUAL_PORT if config.port is None else config.port)
    if listener is None and config.port is None:
        listener = _listen(host, 0)
        print(f"Port {USUAL_PORT} on {host} is taken, so another is used.", file=sys.stderr)
    if listener is None:
        words = f"Port {config.port} on {host} is taken. Name another with --port, or --port 0 for a free one."
        print(words, file=sys.stderr)
        return 3
    # A large fabric is hundreds of thousands of small objects that live long; looking through them often finds nothing.
    gc.set_threshold(100_000, 50, 100)
    cluster = None if config.database else Cluster(config.data.resolve() / "postgres")

    def serve() -> None:
        if cluster:
            cluster.start()
        with _house(config, cluster) as house:
            if config.demo:
                load_demo(house)
            _serve(house, listener, config)

    try:
        return _until_told(serve)
    finally:
        if cluster:
            cluster.stop()
        listener.close()


def _until_told(do: Callable[[], None]) -> int:
    """Do something until it ends or is told to; what hinders it is said in a sentence. Returns the exit code."""
    # A signal during start-up must still end what was started, also where a shell in the background has those of the keyboard ignored.
    signal.signal(signal.SIGTERM, _interrupt)
    signal.signal(signal.SIGINT, _interrupt)
    try:
        do()
    except (ClusterError, Newer, OtherKey) as error:
        print(error, file=sys.stderr)
        return 3
    except (psycopg.OperationalError, PoolTimeout) as error:
        print(f"The database cannot be reached: {str(error).strip().splitlines()[-1]}", file=sys.stderr)
        return 3
    except KeyboardInterrupt:
        return 0
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
    keys = _keys(config)
    connections = connect(conninfo)
    try:
        bring_up_to_date(connections)
        bring_up(connections)
        with connections.connection() as connection:
            keep_key(connection, keys.digest)
        with pulse:
            owner = Owner(config.owner_certificate, config.owner_key, config.anchor)
            house = House(
                connections,
                pulse,
                keys,
                config.second_factor,
                _provider(config),
                config.data.resolve(),
                owner,
                config.demo,
            )
            worker = Worker(house, reach=str(config.reach or "")).start() if config.worker else None
            try:
                yield house
            finally:
                if worker is not None:
                    worker.close()
                house.ear.close()
    finally:
        connections.close()


def _provider(config: Config) -> Provider | None:
    named = config.provider
    if named is None:
        return None
    secret = named.secret.get_secret_value()
    return Provider(named.issuer, named.client, secret, named.called, named.claim, named.welcomes, named.domain)


def _keys(config: Config) -> Keys:
    """The key file's key. Raises `ClusterError` when it cannot be had."""
    path = config.key_file or config.data.resolve() / "key"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        return Keys.of_file(path)
    except OSError as error:
        raise ClusterError(f"The key file {path} cannot be read or made: {error.strerror}.") from None
    except ValueError as error:
        raise ClusterError(str(error)) from None


def _interrupt(number: int, frame: object) -> None:
    raise KeyboardInterrupt


def _listen(host: str, port: int) -> socket.socket | None:
    listener = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
    except OSError:
        listener.close()
        return None
    return listener


def _serve(house: House, listener: socket.socket, config: Config) -> None:
    host, port = listener.getsockname()[:2]
    scheme = "https" if config.tls_certificate else "http"
    address = config.public or f"{scheme}://{f'[{host}]' if ':' in host else host}:{port}"
    server = uvicorn.Server(
        uvicorn.Config(
            make_app(house, public=config.public, log_all=config.log == "all"), log_level="warning", access_log=False, timeout_graceful_shutdown=3,
            proxy_headers=bool(config.proxies), forwarded_allow_ips=[str(one) for one in config.proxies],
            ssl_certfile=config.tls_certificate, ssl_keyfile=config.tls_key, server_header=False, http=protocol([str(one) for one in config.proxies]),
            ssl_ca_certs=str(config.device_trust) if config.device_trust else None, ssl_cert_reqs=ssl.CERT_OPTIONAL if config.device_trust else ssl.CERT_NONE,
        )
    )  # fmt: skip
    threading.Thread(target=_say_when_ready, args=(server, address, _ways_in(house, config)), daemon=True).start()
    server.run(sockets=[listener])


def _ways_in(house: House, config: Config) -> list[tuple[str, str]]:
    """Who may come in by a link, good once, that is printed at the start: the first person of all, or those of the demo world."""
    first = links.first_link(house)
    if first:
        return [("Nobody is here yet. Make the first person", first)]
    return demo_links(house) if config.demo else []


def _say_when_ready(server: uvicorn.Server, address: str, ways_in: list[tuple[str, str]]) -> None:
    while not server.started:
        if server.should_exit:
            return
        threading.Event().wait(0.02)
    print()
    for words, secret in ways_in:
        print(f"{words + ':':<44} {address}/enter#{secret}")
    print(f"Barrio is at {address}  (Ctrl+C stops it)", flush=True)


def work(config: Config) -> int:
    """Do jobs for servers on the same database, until told to stop; returns the exit code."""
    if config.database is None:
        print(
            "barrio work does jobs for servers on a database that is given; a server with one of its own does them itself. Name the "
            "database by BARRIO_DATABASE.",
            file=sys.stderr,
        )
        return 2

    def wait() -> None:
        with _house(config.model_copy(update={"worker": True}), None):
            print("Working; Ctrl+C ends it, and what is under way goes to another.", flush=True)
            threading.Event().wait()

    return _until_told(wait)
