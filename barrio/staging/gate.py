"""The way from the management network of a simulated hall to Barrio: TLS by a certificate of its own, and on to Barrio's address."""

from __future__ import annotations

import asyncio
import ssl
import threading
import urllib.parse
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from barrio.staging.forward import carry


def certificate(address: str, days: int = 2) -> tuple[bytes, bytes]:
    """A certificate for an address and its key, both as PEM; one that ended already for less than no days."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Barrio, simulated")])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=2 + abs(days)))
        .not_valid_after(now + timedelta(days=days))
        .add_extension(x509.SubjectAlternativeName([x509.IPAddress(ip_address(address))]), critical=False)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .sign(key, hashes.SHA256())
    )
    text = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    return made.public_bytes(serialization.Encoding.PEM), text


class Gate:
    """Listens on a socket at a path, speaks TLS as `address`, and carries what comes to a server's own address. `trust` is its certificate."""

    def __init__(self, folder: Path, address: str, server: str, days: int = 2) -> None:
        where = urllib.parse.urlsplit(server)
        self._far = (where.hostname or "127.0.0.1", where.port or (443 if where.scheme == "https" else 80))
        self.path = folder / "gate"
        self.trust, key = certificate(address, days)
        kept = folder / "gate.pem"
        kept.touch(mode=0o600)
        kept.write_bytes(self.trust + key)
        self._context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        self._context.load_cert_chain(kept)
        kept.unlink()
        self._loop = asyncio.new_event_loop()
        self._listens = threading.Event()
        self._thread = threading.Thread(target=lambda: self._loop.run_until_complete(self._serve()), daemon=True)
        self._thread.start()
        self._listens.wait(10)

    def close(self) -> None:
        """Listen no more."""
        self._loop.call_soon_threadsafe(self._ending.set)
        self._thread.join(10)

    async def _serve(self) -> None:
        self._ending = asyncio.Event()
        server = await asyncio.start_unix_server(self._carry, self.path, ssl=self._context)
        self._listens.set()
        await self._ending.wait()
        server.close()

    async def _carry(self, reads: asyncio.StreamReader, writes: asyncio.StreamWriter) -> None:
        await carry(reads, writes, lambda: asyncio.open_connection(*self._far))
