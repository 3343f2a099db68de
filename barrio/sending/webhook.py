"""A webhook: a JSON document by POST, signed as HTTP messages are (RFC 9421, hmac-sha256), with a digest of its body (RFC 9530)."""

from __future__ import annotations

import base64
import hashlib
import hmac
import time

import httpx2

from barrio.sending.trust import trust

COVERED = ("@method", "@target-uri", "content-digest", "content-type", "barrio-delivery")
"""What the signature is over, in this order."""
PATIENCE = 10.0
"""Seconds for the receiver to answer."""


class NotTaken(Exception):
    """Whoever it was for did not take it; the words say why, and what helps."""


def send(address: str, body: bytes, delivery: str, key: bytes) -> None:
    """Send a document. Receivers tell repetitions by `Barrio-Delivery`, which stays the same. Raises `NotTaken`."""
    headers = signed(address, body, delivery, key, int(time.time()))
    try:
        answer = httpx2.post(
            address, content=body, headers=headers, timeout=PATIENCE, follow_redirects=False, verify=trust()
        )
    except httpx2.HTTPError as error:
        raise NotTaken(f"{address} could not be reached ({type(error).__name__}); it is tried again.") from error
    if not 200 <= answer.status_code < 300:
        raise NotTaken(f"{address} answered {answer.status_code}; it is tried again.")


def signed(address: str, body: bytes, delivery: str, key: bytes, created: int) -> dict[str, str]:
    """The headers of a signed message (RFC 9421, 3.1)."""
    headers = {
        "content-type": "application/json",
        "content-digest": f"sha-256=:{base64.b64encode(hashlib.sha256(body).digest()).decode()}:",
        "barrio-delivery": delivery,
    }
    covered = " ".join(f'"{name}"' for name in COVERED)
    parameters = f'({covered});created={created};keyid="barrio";alg="hmac-sha256"'
    mac = hmac.new(key, base_of(address, headers, parameters), hashlib.sha256).digest()
    return headers | {
        "signature-input": f"barrio={parameters}",
        "signature": f"barrio=:{base64.b64encode(mac).decode()}:",
    }


def base_of(address: str, headers: dict[str, str], parameters: str) -> bytes:
    """What is signed (RFC 9421, 2.5)."""
    said = {"@method": "POST", "@target-uri": address, **headers}
    lines = [f'"{name}": {said[name]}' for name in COVERED]
    return "\n".join([*lines, f'"@signature-params": {parameters}']).encode()
