"""The owner of the switches, as RFC 8572 and RFC 8366 have one: what is said is signed by the owner's key, as CMS (RFC 5652).

Debian's openssl signs; the key stays in its file, and is read by nothing else.
"""

from __future__ import annotations

import base64
import json
import subprocess
import tempfile
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from cryptography import x509
from cryptography.hazmat.primitives.serialization import Encoding, pkcs7

SECONDS = 20
MOST_CHAIN = 8


class NoOwner(Exception):
    """Nothing can be signed, or what somebody brought is not what it should be; the words say why."""


@dataclass(frozen=True, slots=True)
class Owner:
    """`certificate` is the owner's with its chain (PEM), `key` its private key, `anchor` the certificates (PEM) by which switches know this server. A file may be
    named by none of them, and is read anew each time, so that one that is renewed counts."""

    certificate: Path | None = None
    key: Path | None = None
    anchor: Path | None = None

    @property
    def signs(self) -> bool:
        return self.certificate is not None and self.key is not None

    def anchor_text(self) -> str:
        """The certificates by which switches know this server, as PEM; empty where their own system knows it."""
        return self.anchor.read_text() if self.anchor else ""

    def anchor_cms(self) -> bytes:
        """The same as a CMS structure that holds certificates only."""
        return _only(self.anchor.read_bytes()) if self.anchor else b""

    def certificates(self) -> bytes:
        """The owner's certificate with its chain, as a CMS structure that holds nothing else (RFC 8572, section 3.2). Raises `NoOwner`."""
        if self.certificate is None:
            raise NoOwner("Barrio has no owner certificate; name owner_certificate and owner_key in its settings")
        return _only(self.certificate.read_bytes())

    def signed(self, content: bytes, kind: str) -> bytes:
        """Content as CMS signed-data of an object identifier, signed by the owner. Raises `NoOwner`."""
        if self.certificate is None or self.key is None:
            raise NoOwner("Barrio has no owner certificate; name owner_certificate and owner_key in its settings")
        return _openssl(
            "cms", "-sign", "-binary", "-nodetach", "-nosmimecap", "-econtent_type", kind, "-signer", str(self.certificate),
            "-inkey", str(self.key), "-outform", "DER", content=content,
        )  # fmt: skip

    def owns(self, pinned: bytes) -> bool:
        """Whether the owner's certificate chains up to one that a voucher pins (DER). Raises `NoOwner`."""
        if self.certificate is None:
            raise NoOwner("Barrio has no owner certificate; name owner_certificate and owner_key in its settings")
        with tempfile.NamedTemporaryFile(suffix=".pem") as file:
            file.write(x509.load_der_x509_certificate(pinned).public_bytes(Encoding.PEM))
            file.flush()
            chain = str(self.certificate)
            try:
                _openssl("verify", "-partial_chain", "-no-CApath", "-CAfile", file.name, "-untrusted", chain, chain)
            except NoOwner:
                return False
        return True


def plain(content: bytes, kind: str) -> bytes:
    """Content as CMS that nobody signed: its object identifier, and the content as octets (RFC 5652, section 3)."""
    inner = _der(0xA0, _der(0x04, content))
    return _der(0x30, _identifier(kind) + inner)


def _identifier(kind: str) -> bytes:
    """An object identifier (X.690, section 8.19)."""
    first, second, *rest = (int(part) for part in kind.split("."))
    found = bytearray()
    for number in (40 * first + second, *rest):
        part = [number & 0x7F]
        while number := number >> 7:
            part.append(0x80 | (number & 0x7F))
        found += bytes(reversed(part))
    return _der(0x06, bytes(found))


def _der(tag: int, content: bytes) -> bytes:
    size = len(content)
    if size < 0x80:
        return bytes([tag, size]) + content
    long = size.to_bytes((size.bit_length() + 7) // 8, "big")
    return bytes([tag, 0x80 | len(long)]) + long + content


@dataclass(frozen=True, slots=True)
class Voucher:
    """An ownership voucher (RFC 8366): whose it is, until when it holds, and the certificate that it pins (DER)."""

    serial: str
    expires_at: datetime | None
    pinned: bytes


def voucher(content: bytes) -> Voucher:
    """A voucher as a manufacturer issued it (CMS, DER), whose signature holds; that the signer is the manufacturer is for the device to say. Raises `NoOwner`."""
    with tempfile.NamedTemporaryFile() as file:
        file.write(content)
        file.flush()
        try:
            said = _openssl("cms", "-verify", "-noverify", "-binary", "-inform", "DER", "-in", file.name)
        except NoOwner:
            raise NoOwner("this is no voucher: no CMS structure (DER) with a signature that holds") from None
    try:
        told: dict[str, Any] = json.loads(said)["ietf-voucher:voucher"]
        expires = datetime.fromisoformat(told["expires-on"]) if "expires-on" in told else None
        if expires is not None and expires.tzinfo is None:
            expires = expires.replace(tzinfo=UTC)
        pinned = base64.b64decode(told["pinned-domain-cert"], validate=True)
        x509.load_der_x509_certificate(pinned)
        return Voucher(str(told["serial-number"]), expires, pinned)
    except (ValueError, KeyError, TypeError):
        words = "what is signed is no voucher of RFC 8366: JSON with serial-number and pinned-domain-cert"
        raise NoOwner(words) from None


def _only(pem: bytes) -> bytes:
    return pkcs7.serialize_certificates(x509.load_pem_x509_certificates(pem)[:MOST_CHAIN], Encoding.DER)


def _openssl(*words: str, content: bytes = b"") -> bytes:
    try:
        done = subprocess.run(["openssl", *words], input=content, capture_output=True, timeout=SECONDS, check=False)
    except (OSError, subprocess.TimeoutExpired) as error:
        raise NoOwner(f"openssl did not run: {error}") from None
    if done.returncode:
        raise NoOwner(f"openssl says: {done.stderr.decode(errors='replace').strip()[-300:]}")
    return done.stdout
