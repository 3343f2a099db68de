"""Rehearsals over several machines: a worker asks others for grounds, and lends its own.

What is asked for is a row and a task in the queue, which any other worker with an address (`reach`) takes up: it makes a ground, waits on a free port
of that address, and says so in the row. Each side makes a key for the one connection, and trusts the other's certificate alone, which it has from the
database; private halves never leave their process.
"""

from __future__ import annotations

import socket
import ssl
import tempfile
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

import procrastinate
import structlog
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from barrio.app.house import House
from barrio.rehearsal.afar import Afar, serve
from barrio.rehearsal.apart import Apart
from barrio.rehearsal.ground import Ground, NoGround
from barrio.rehearsal.room import Here, Room
from barrio.store import lending

log = structlog.get_logger()
QUEUE, TASK = "barrio-lending", "barrio.lend"
ME = uuid4().hex
"""This process among all workers."""
PATIENCE = 60.0
"""Seconds within which other machines have to offer what they are asked for, and within which the one that asked has to come for it."""
AGAIN = 2
"""Seconds after which another looks at what one could not lend."""

_APP = procrastinate.App(connector=procrastinate.SyncPsycopgConnector())


@dataclass(frozen=True)
class Key:
    """A key for one connection, and its certificate as PEM text, which names nobody: it is known by having been told."""

    private: ec.EllipticCurvePrivateKey
    certificate: str

    def context(self, side: ssl._SSLMethod, other: str) -> ssl.SSLContext:
        """What speaks TLS with the holder of one other certificate only."""
        context = ssl.SSLContext(side)
        context.minimum_version = ssl.TLSVersion.TLSv1_3
        context.check_hostname = False
        context.verify_mode = ssl.CERT_REQUIRED
        context.load_verify_locations(cadata=other)
        text = self.private.private_bytes(
            serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
        )
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "key"
            path.touch(mode=0o600)
            path.write_bytes(text + self.certificate.encode())
            context.load_cert_chain(path)
        return context


def new_key() -> Key:
    private = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, uuid4().hex)])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder(name, name, private.public_key(), x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=2))
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .sign(private, hashes.SHA256())
    )
    return Key(private, made.public_bytes(serialization.Encoding.PEM).decode())


def borrowed(
    house: House, job: int, base: Ground, wanted: int, memory: int, leave: Callable[[], None] = lambda: None
) -> list[Ground]:
    """So many grounds of other machines, of the kind of the first. `leave` may end the waiting by raising.

    Raises `NoGround` when they are not had within a minute.
    """
    key = new_key()
    kind = "apart" if isinstance(base, Apart) else "here"
    with house.alone() as connection:
        numbers = [lending.ask(connection, job, ME, key.certificate, kind, memory) for _ in range(wanted)]
        for number in numbers:
            _put(connection, number)
    made: list[Ground] = []
    try:
        for one in _offered(house, numbers, leave):
            host, _, port = one.address.rpartition(":")
            raw = socket.create_connection((host.strip("[]"), int(port)), PATIENCE)
            made.append(Afar(key.context(ssl.PROTOCOL_TLS_CLIENT, one.lender_certificate).wrap_socket(raw), host))
    except BaseException as error:
        for ground in made:
            ground.close()
        if isinstance(error, OSError):
            raise NoGround(f"A machine that offered a part of the lab is not reached: {error}") from None
        raise
    finally:
        with house.alone() as connection:
            lending.forget(connection, numbers)
    return made


def _put(connection: object, number: int, later: int = 0) -> None:
    wait = {"seconds": later} if later else None
    _APP.configure_task(TASK, queue=QUEUE, schedule_in=wait, connection=connection).defer(number=number)


def _offered(house: House, numbers: Sequence[int], leave: Callable[[], None]) -> list[lending.Lent]:
    until = time.monotonic() + PATIENCE
    while True:
        leave()
        with house.alone() as connection:
            found = lending.of(connection, numbers)
        there = [one for one in found if one.address]
        if len(there) == len(numbers):
            return there
        if time.monotonic() > until:
            raise NoGround(
                f"{len(there)} of {len(numbers)} further machines answered within {PATIENCE:.0f} s. Start workers there "
                "(barrio work, with BARRIO_REACH), or rehearse on fewer machines."
            )
        time.sleep(0.2)


def lend(house: House, number: int, reach: str, ending: threading.Event, free: Callable[[], int]) -> None:
    """Lend a ground of this machine to whoever asked, until they are done with it or the worker is `ending`; `free` says how many bytes of memory there
    are."""
    with house.alone() as connection:
        asked = lending.find(connection, number)
        if asked is None or asked.address:
            return
        if asked.borrower == ME or asked.memory * 1_000_000 > free():
            _put(connection, number, AGAIN)
            return
    try:
        ground: Room = Apart(asked.memory, True) if asked.ground == "apart" else Here(True)
    except NoGround as error:
        log.warning("nothing to lend", why=str(error))
        with house.alone() as connection:
            _put(connection, number, AGAIN)
        return
    key = new_key()
    family = socket.AF_INET6 if ":" in reach else socket.AF_INET
    try:
        with socket.create_server((reach, 0), family=family) as listener:
            address = f"[{reach}]" if ":" in reach else reach
            with house.alone() as connection:
                mine = lending.offer(connection, number, ME, key.certificate, f"{address}:{listener.getsockname()[1]}")
            if mine:
                _wait_on(listener, key.context(ssl.PROTOCOL_TLS_SERVER, asked.certificate), ground, ending)
    except OSError as error:
        log.warning("nothing lent", why=str(error))
    finally:
        ground.close()


def _wait_on(listener: socket.socket, context: ssl.SSLContext, ground: Room, ending: threading.Event) -> None:
    """Let in whoever has the key, and lend them the ground."""
    until = time.monotonic() + PATIENCE
    listener.settimeout(0.5)
    while time.monotonic() < until and not ending.is_set():
        try:
            raw, _ = listener.accept()
        except TimeoutError:
            continue
        raw.settimeout(10)
        try:
            line = context.wrap_socket(raw, server_side=True)
        except OSError:
            # Somebody without the key; the one who asked may still come.
            raw.close()
            continue
        done = threading.Event()
        threading.Thread(target=_end_with, args=(ending, done, ground), daemon=True).start()
        try:
            serve(line, ground)
        finally:
            done.set()
        return


def _end_with(ending: threading.Event, done: threading.Event, ground: Ground) -> None:
    while not done.wait(0.5):
        if ending.is_set():
            ground.close()
            return
