"""What a bootstrap server says to a device that speaks RFC 8572 (secure zero touch provisioning), in JSON (RFC 7951) and XML (RFC 7950), and what it is asked.

Only shapes: nothing here is signed, sent or known of any device.
"""

from __future__ import annotations

import base64
import json
import xml.etree.ElementTree as xml
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, get_args
from urllib.parse import urlsplit

from barrio.core.errors import refuse

Encoding = Literal["json", "xml"]
SERVER, CONVEYED = "ietf-sztp-bootstrap-server", "ietf-sztp-conveyed-info"
_NAMESPACE = "urn:ietf:params:xml:ns:yang:"
CONTENT: Mapping[Encoding, str] = {
    "xml": "1.2.840.113549.1.9.16.1.42",
    "json": "1.2.840.113549.1.9.16.1.43",
}
"""What conveyed information is in a CMS structure, by its encoding (RFC 8572, section 10.3)."""

Progress = Literal[
    "bootstrap-initiated", "parsing-initiated", "parsing-warning", "parsing-error", "parsing-complete",
    "boot-image-initiated", "boot-image-warning", "boot-image-error", "boot-image-mismatch", "boot-image-installed-rebooting",
    "boot-image-complete", "pre-script-initiated", "pre-script-warning", "pre-script-error", "pre-script-complete",
    "config-initiated", "config-warning", "config-error", "config-complete", "post-script-initiated", "post-script-warning",
    "post-script-error", "post-script-complete", "bootstrap-warning", "bootstrap-error", "bootstrap-complete", "informational",
]  # fmt: skip
"""What a device reports (RFC 8572, section 7.3, progress-type)."""
PROGRESS: frozenset[str] = frozenset(get_args(Progress))
MOST_MESSAGE = 1000


@dataclass(frozen=True, slots=True)
class Image:
    """Software that a device is to run: the version, where it is fetched, and its SHA-256."""

    version: str
    uri: str
    digest: bytes


@dataclass(frozen=True, slots=True)
class Asked:
    """What a device asks by get-bootstrapping-data: whether it wants signed data (it did not verify the server), and what it is."""

    signed: bool = False
    model: str = ""
    software: str = ""


@dataclass(frozen=True, slots=True)
class Reported:
    """What a device tells by report-progress."""

    progress: str
    message: str = ""

    @property
    def failed(self) -> bool:
        return self.progress.endswith("-error") or self.progress == "boot-image-mismatch"


def onboarding(image: Image | None = None, configuration: bytes = b"", after: bytes = b"") -> dict[str, Any]:
    """Onboarding information (RFC 8572, section 2.2): software, a configuration that replaces what is there, and a script after it; empty ones are left
    out."""
    found: dict[str, Any] = {}
    if image is not None:
        found["boot-image"] = {
            "os-version": image.version,
            "download-uri": [image.uri],
            "image-verification": [
                {"hash-algorithm": f"{CONVEYED}:sha-256", "hash-value": image.digest.hex(":")},
            ],
        }
    if configuration:
        found |= {"configuration-handling": "replace", "configuration": _binary(configuration)}
    if after:
        found["post-configuration-script"] = _binary(after)
    return {f"{CONVEYED}:onboarding-information": found}


def redirect(address: str, anchor: bytes) -> dict[str, Any]:
    """Redirect information (RFC 8572, section 2.1): another bootstrap server, and by which certificates (CMS) it is known, where these are said.

    >>> redirect("https://barrio.example:8443", b"")["ietf-sztp-conveyed-info:redirect-information"]
    {'bootstrap-server': [{'address': 'barrio.example', 'port': 8443}]}
    """
    where = urlsplit(address)
    one: dict[str, Any] = {"address": where.hostname or "", "port": where.port or 443}
    if anchor:
        one["trust-anchor"] = _binary(anchor)
    return {f"{CONVEYED}:redirect-information": {"bootstrap-server": [one]}}


def output(conveyed: bytes, certificate: bytes = b"", voucher: bytes = b"") -> dict[str, Any]:
    """What get-bootstrapping-data answers: conveyed information as CMS, with the owner's certificates and the voucher where it is signed."""
    found = {"reporting-level": "verbose", "conveyed-information": _binary(conveyed)}
    if certificate:
        found |= {"owner-certificate": _binary(certificate), "ownership-voucher": _binary(voucher)}
    return {f"{SERVER}:output": found}


def error(tag: str, words: str) -> dict[str, Any]:
    """An error as RESTCONF says it (RFC 8040, section 7.1)."""
    return {
        "ietf-restconf:errors": {"error": [{"error-type": "application", "error-tag": tag, "error-message": words}]}
    }


def _binary(content: bytes) -> str:
    return base64.b64encode(content).decode()


def encode(document: Mapping[str, Any], encoding: Encoding) -> bytes:
    """A document of one node, whose name says its module, in an encoding. The same document is the same bytes.

    >>> encode({"ietf-sztp-bootstrap-server:output": {"reporting-level": "minimal"}}, "xml").decode()
    '<output xmlns="urn:ietf:params:xml:ns:yang:ietf-sztp-bootstrap-server"><reporting-level>minimal</reporting-level></output>'
    """
    if encoding == "json":
        return json.dumps(document, separators=(",", ":")).encode()
    [(name, content)] = document.items()
    module, _, node = name.partition(":")
    root = xml.Element(node, {"xmlns": f"{_NAMESPACE}{module}"})
    _fill(root, content, module)
    return xml.tostring(root)


def _fill(parent: xml.Element, content: Mapping[str, Any], module: str) -> None:
    for name, value in content.items():
        for one in value if isinstance(value, list) else [value]:
            child = xml.SubElement(parent, name)
            if isinstance(one, Mapping):
                _fill(child, one, module)
            elif isinstance(one, str) and one.startswith(f"{module}:"):
                # An identity is said with a prefix, which is the module's own here (RFC 7950, section 9.10.3).
                child.set("xmlns:is", f"{_NAMESPACE}{module}")
                child.text = f"is:{one.partition(':')[2]}"
            else:
                child.text = str(one)


def asked(body: bytes, encoding: Encoding) -> Asked:
    """What get-bootstrapping-data was asked with; a device may say nothing. Raises `Refused` (`sztp.input`)."""
    said = _input(body, encoding) if body.strip() else {}
    return Asked(
        "signed-data-preferred" in said,
        _text(said, "hw-model", 80),
        _text(said, "os-version", 80),
    )


def reported(body: bytes, encoding: Encoding) -> Reported:
    """What report-progress tells. Raises `Refused` (`sztp.input`)."""
    said = _input(body, encoding)
    progress = _text(said, "progress-type", 40)
    if progress not in PROGRESS:
        raise refuse("sztp.input", f"“{progress}” is no progress-type of RFC 8572, section 7.3.", "progress-type")
    return Reported(progress, _text(said, "message", MOST_MESSAGE))


def _text(said: Mapping[str, Any], name: str, most: int) -> str:
    return str(said.get(name) or "").replace("\0", "")[:most]


def _input(body: bytes, encoding: Encoding) -> Mapping[str, Any]:
    """The leaves of an input, by name."""
    try:
        if encoding == "json":
            document = json.loads(body)
            said = document[f"{SERVER}:input"]
            if not isinstance(said, Mapping):
                raise ValueError
            return said
        text = body.decode()
        if "<!" in text:
            raise ValueError
        root = xml.fromstring(text)
        if root.tag != f"{{{_NAMESPACE}{SERVER}}}input":
            raise ValueError
        return {one.tag.rpartition("}")[2]: one.text or "" for one in root}
    except (ValueError, KeyError, TypeError, RecursionError, xml.ParseError):
        raise refuse("sztp.input", f"The body is no input of the module {SERVER}, as {encoding.upper()}.") from None


def installer(files: Sequence[tuple[str, int, bytes]], run: str) -> bytes:
    """A script that puts files in place, by path and mode, and then runs a line; below `$ROOT`, where that is set, it puts them and runs nothing."""
    lines = [
        "#!/bin/sh",
        "set -eu",
        "root=${ROOT:-}",
        "put() {",
        '\tmkdir -p "$root${2%/*}"',
        '\t(umask 077 && base64 -d > "$root$2.new")',
        '\tchmod "$1" "$root$2.new"',
        '\tmv "$root$2.new" "$root$2"',
        "}",
    ]
    for path, mode, content in files:
        lines += [f"put {mode:o} {path} <<'end'", base64.encodebytes(content).decode().rstrip("\n"), "end"]
    lines += ['[ -z "$root" ] || exit 0', run]
    return ("\n".join(lines) + "\n").encode()
