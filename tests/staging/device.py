"""A device as RFC 8572 has one, told nothing of Barrio: it finds RESTCONF, asks, verifies whose word it takes by its maker's certificate, and does it."""

from __future__ import annotations

import base64
import ipaddress
import json
import subprocess
import xml.etree.ElementTree as xml
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import httpx2
from cryptography import x509
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat, pkcs7
from cryptography.x509.oid import NameOID

NAMESPACE = "{urn:ietf:params:xml:ns:yang:ietf-sztp-bootstrap-server}"
CONVEYED = "ietf-sztp-conveyed-info"
JSON_CONTENT, XML_CONTENT = b"\x06\x0b\x2a\x86\x48\x86\xf7\x0d\x01\x09\x10\x01\x2b", b"\x06\x0b\x2a\x86\x48\x86\xf7\x0d\x01\x09\x10\x01\x2a"  # fmt: skip


@dataclass
class Signer:
    """A key with its certificate, in files as programs take them."""

    certificate: x509.Certificate
    key: ec.EllipticCurvePrivateKey
    path: Path

    @property
    def pem(self) -> Path:
        return self.path.with_suffix(".pem")

    @property
    def key_file(self) -> Path:
        return self.path.with_suffix(".key")

    @property
    def der(self) -> bytes:
        return self.certificate.public_bytes(Encoding.DER)


def signer(folder: Path, name: str, by: Signer | None = None, serial: str = "", host: str = "") -> Signer:
    """A new key, with a certificate that another one signed, or itself."""
    key = ec.generate_private_key(ec.SECP256R1())
    subject = [x509.NameAttribute(NameOID.COMMON_NAME, name)]
    if serial:
        subject.append(x509.NameAttribute(NameOID.SERIAL_NUMBER, serial))
    called, now = x509.Name(subject), datetime.now(UTC)
    builder = x509.CertificateBuilder(
        by.certificate.subject if by else called, called, key.public_key(), x509.random_serial_number(),
        now - timedelta(days=1), now + timedelta(days=30),
    )  # fmt: skip
    builder = builder.add_extension(x509.BasicConstraints(ca=by is None, path_length=None), critical=True)
    if host:
        builder = builder.add_extension(x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address(host))]), critical=False)  # fmt: skip
    made = Signer(builder.sign(by.key if by else key, hashes.SHA256()), key, folder / name.replace(" ", "-"))
    made.key_file.write_bytes(key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption()))
    chain = [made.certificate, *([by.certificate] if by else [])]
    made.pem.write_bytes(b"".join(one.public_bytes(Encoding.PEM) for one in chain))
    return made


def openssl(*words: str | Path, content: bytes = b"") -> bytes:
    done = subprocess.run(["openssl", *map(str, words)], input=content, capture_output=True, check=False)
    assert done.returncode == 0, done.stderr.decode()
    return done.stdout


def voucher(maker: Signer, serial: str, pinned: Signer, days: int = 30) -> bytes:
    """An ownership voucher (RFC 8366), as a maker issues it."""
    said = {
        "created-on": datetime.now(UTC).isoformat(), "expires-on": (datetime.now(UTC) + timedelta(days=days)).isoformat(),
        "assertion": "verified", "serial-number": serial, "pinned-domain-cert": base64.b64encode(pinned.der).decode(),
    }  # fmt: skip
    return openssl(
        "cms", "-sign", "-binary", "-nodetach", "-econtent_type", "1.2.840.113549.1.9.16.1.40", "-signer", maker.pem,
        "-inkey", maker.key_file, "-outform", "DER", content=json.dumps({"ietf-voucher:voucher": said}).encode(),
    )  # fmt: skip


@dataclass
class Device:
    """`maker` is whose vouchers it takes; where its line shows no certificate it says a serial number and a word. `encoding` is how it speaks."""

    line: httpx2.Client
    folder: Path
    maker: Signer | None = None
    serial: str = ""
    word: str = ""
    encoding: str = "json"

    def call(self, operation: str, said: Mapping[str, Any]) -> httpx2.Response:
        found = self.line.get("/.well-known/host-meta")
        [link] = xml.fromstring(found.text)
        assert link.get("rel") == "restconf"
        if self.encoding == "json":
            body = json.dumps({"ietf-sztp-bootstrap-server:input": said}).encode()
        else:
            root = xml.Element("input", {"xmlns": NAMESPACE[1:-1]})
            for name, value in said.items():
                xml.SubElement(root, name).text = "" if isinstance(value, list) else value
            body = xml.tostring(root)
        return self.line.post(
            f"{link.get('href')}/operations/ietf-sztp-bootstrap-server:{operation}", content=body,
            headers={"Content-Type": f"application/yang-data+{self.encoding}"},
            auth=(self.serial, self.word) if self.word else None,
        )  # fmt: skip

    def ask(self, **said: Any) -> httpx2.Response:
        return self.call("get-bootstrapping-data", {name.replace("_", "-"): one for name, one in said.items()})

    def report(self, progress: str, message: str = "") -> None:
        answer = self.call("report-progress", {"progress-type": progress, "message": message})
        assert answer.status_code == 204, answer.text

    def taken(self, answer: httpx2.Response, signed: bool) -> dict[str, Any]:
        """What an answer conveys, once it is known whose word it is."""
        assert answer.status_code == 200, answer.text
        assert answer.headers["content-type"] == f"application/yang-data+{self.encoding}"
        if self.encoding == "json":
            found = dict(answer.json()["ietf-sztp-bootstrap-server:output"])
        else:
            found = {one.tag.removeprefix(NAMESPACE): one.text for one in xml.fromstring(answer.content)}
        conveyed = base64.b64decode(found["conveyed-information"])
        content = self._verified(conveyed, found) if signed else self._bare(conveyed, found)
        if self.encoding == "json":
            document: dict[str, Any] = json.loads(content)
            [(name, inner)] = document.items()
            return {name.removeprefix(f"{CONVEYED}:"): inner}
        root = xml.fromstring(content)
        return {root.tag.rpartition("}")[2]: {one.tag.rpartition("}")[2]: one.text for one in root}}

    def _bare(self, conveyed: bytes, found: Mapping[str, str]) -> bytes:
        """What nobody signed: its kind, and octets, as openssl reads them."""
        assert "ownership-voucher" not in found
        assert (JSON_CONTENT if self.encoding == "json" else XML_CONTENT) in conveyed[:24]
        said = openssl("asn1parse", "-inform", "DER", content=conveyed).decode().splitlines()[-1]
        at, head, size = _place(said)
        return conveyed[at + head : at + head + size]

    def _verified(self, conveyed: bytes, found: Mapping[str, str]) -> bytes:
        """RFC 8572, section 5.4: the voucher by the maker's certificate, the owner's by the one that it pins, and the signature by the owner's."""
        assert self.maker is not None
        paths = {name: self.folder / name for name in ("voucher", "pinned", "owner", "conveyed")}
        paths["voucher"].write_bytes(base64.b64decode(found["ownership-voucher"]))
        told = openssl("cms", "-verify", "-binary", "-inform", "DER", "-in", paths["voucher"], "-CAfile", self.maker.pem, "-purpose", "any")  # fmt: skip
        said = json.loads(told)["ietf-voucher:voucher"]
        assert said["serial-number"] == self.serial and datetime.fromisoformat(said["expires-on"]) > datetime.now(UTC)
        pinned = x509.load_der_x509_certificate(base64.b64decode(said["pinned-domain-cert"]))
        paths["pinned"].write_bytes(pinned.public_bytes(Encoding.PEM))
        chain = pkcs7.load_der_pkcs7_certificates(base64.b64decode(found["owner-certificate"]))
        paths["owner"].write_bytes(b"".join(one.public_bytes(Encoding.PEM) for one in chain))
        openssl("verify", "-CAfile", paths["pinned"], "-untrusted", paths["owner"], paths["owner"])
        paths["conveyed"].write_bytes(conveyed)
        assert (JSON_CONTENT if self.encoding == "json" else XML_CONTENT) in conveyed
        return openssl("cms", "-verify", "-binary", "-inform", "DER", "-in", paths["conveyed"], "-CAfile", paths["pinned"], "-certfile", paths["owner"], "-purpose", "any")  # fmt: skip


def _place(line: str) -> tuple[int, int, int]:
    """Where a value of DER begins, how long its head is and how long it is, of a line of `openssl asn1parse`."""
    at, _, rest = line.partition(":d=")
    words = rest.replace("=", " ").split()
    return int(at), int(words[words.index("hl") + 1]), int(words[words.index("l") + 1])
