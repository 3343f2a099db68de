"""A device with passkeys, in software: makes keys and signs with them (Web Authentication, Level 3, 6 and 7), as asked or as a thief would."""

from __future__ import annotations

import hashlib
import json
import struct
from secrets import token_bytes
from typing import Any

import cbor2
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec
from webauthn.helpers import bytes_to_base64url as b64

PRESENT, VERIFIED, ATTESTED = 1, 4, 64


class Device:
    """One passkey, bound to the name that it was made for. `counts` is how often it has signed."""

    def __init__(self, origin: str) -> None:
        self.origin, self.id, self.counts = origin, token_bytes(20), 0
        self._key = ec.generate_private_key(ec.SECP256R1())
        self.flags = PRESENT | VERIFIED

    def make(self, options: dict[str, Any]) -> dict[str, Any]:
        """The answer to being asked to make a passkey."""
        numbers = self._key.public_key().public_numbers()
        cose = {1: 2, 3: -7, -1: 1, -2: numbers.x.to_bytes(32, "big"), -3: numbers.y.to_bytes(32, "big")}
        kept = bytes(16) + struct.pack(">H", len(self.id)) + self.id + cbor2.dumps(cose)
        said = self._said(options["rp"]["id"], self.flags | ATTESTED) + kept
        attestation = cbor2.dumps({"fmt": "none", "attStmt": {}, "authData": said})
        client = self._client("webauthn.create", options["challenge"])
        return self._answer({"clientDataJSON": b64(client), "attestationObject": b64(attestation)})

    def sign(self, options: dict[str, Any]) -> dict[str, Any]:
        """The answer to being asked who one is."""
        self.counts += 1
        said = self._said(options["rpId"], self.flags)
        client = self._client("webauthn.get", options["challenge"])
        signature = self._key.sign(said + hashlib.sha256(client).digest(), ec.ECDSA(hashes.SHA256()))
        return self._answer(
            {"clientDataJSON": b64(client), "authenticatorData": b64(said), "signature": b64(signature)}
        )

    def _said(self, host: str, flags: int) -> bytes:
        return hashlib.sha256(host.encode()).digest() + struct.pack(">BI", flags, self.counts)

    def _client(self, what: str, challenge: str) -> bytes:
        return json.dumps({"type": what, "challenge": challenge, "origin": self.origin}).encode()

    def _answer(self, response: dict[str, str]) -> dict[str, Any]:
        return {"id": b64(self.id), "rawId": b64(self.id), "type": "public-key", "response": response}
