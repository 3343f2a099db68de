"""SSH public keys, read as what they are (RFC 4253, 6.6; RFC 5656, 3.1; RFC 8709, 4)."""

from __future__ import annotations

import base64
import binascii
import re
from typing import Self

from barrio.core.printed.text import plain
from barrio.core.printed.words import Printed

_LINE = re.compile(r"(?P<kind>[a-z0-9@.-]{1,64}) (?P<body>[A-Za-z0-9+/]{16,16000}={0,2})(?: (?P<comment>.*))?")
_CURVES = {"nistp256": 65, "nistp384": 97, "nistp521": 133}
"""Octets of an uncompressed point of each curve (SEC 1, 2.3.3)."""
_LEAST_RSA = 2048


class PublicKey(Printed):
    """One line of an authorized_keys file: kind, body, and a comment of plain words."""

    __slots__ = ()
    longest = 20_000

    @classmethod
    def read(cls, value: str) -> Self:
        if "PRIVATE KEY" in value:
            raise ValueError("this is a private key; give the public one (one line, from the .pub file)")
        found = _LINE.fullmatch(value.strip())
        if not found:
            raise ValueError(f"“{plain(value[:24])}…” is not an SSH public key (one line: kind, key, comment)")
        kind, body, comment = found["kind"], found["body"], plain(found["comment"] or "", "@")
        fault = _fault(kind, body)
        if fault:
            raise ValueError(f"“{kind} {body[:12]}…” {fault}")
        return cls(f"{kind} {body} {comment}".strip())


def _fault(kind: str, body: str) -> str | None:
    """What is wrong with the body of a key of this kind, or nothing."""
    try:
        parts = _strings(base64.b64decode(body, validate=True))
    except (binascii.Error, ValueError):
        return "is cut off or changed: its body is not a whole key"
    if not parts or parts[0] != kind.encode():
        return f"says {kind}, and its body is a key of another kind"
    shape = [len(part) for part in parts[1:]]
    match kind:
        case "ssh-ed25519":
            right = shape == [32]
        case "sk-ssh-ed25519@openssh.com":
            right = len(shape) == 2 and shape[0] == 32 and shape[1] > 0
        case "ssh-rsa":
            right = len(shape) == 2 and shape[0] > 0
            if right and int.from_bytes(parts[2]).bit_length() < _LEAST_RSA:
                return f"is an RSA key of {int.from_bytes(parts[2]).bit_length()} bits; make one of {_LEAST_RSA} or more, or ed25519"
        case "ecdsa-sha2-nistp256" | "ecdsa-sha2-nistp384" | "ecdsa-sha2-nistp521":
            curve = kind.removeprefix("ecdsa-sha2-")
            right = (
                len(parts) == 3
                and parts[1] == curve.encode()
                and parts[2][:1] == b"\x04"
                and shape[1] == _CURVES[curve]
            )
        case _:
            return "is of a kind that these switches do not take; use ssh-ed25519, ecdsa-sha2-nistp256 or ssh-rsa"
    return None if right else f"is no whole key of the kind {kind}; copy the line from the .pub file again"


def _strings(data: bytes) -> list[bytes]:
    """The length-prefixed strings that a key's body is made of (RFC 4251, 5). Raises `ValueError`."""
    parts = []
    while data:
        length = int.from_bytes(data[:4])
        if len(data) < 4 + length:
            raise ValueError("a string is cut off")
        parts.append(data[4 : 4 + length])
        data = data[4 + length :]
    return parts
