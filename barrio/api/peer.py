"""Who is at the other end of a connection, where they show a certificate: by TLS here, or as a proxy that is named tells it (RFC 9440)."""

from __future__ import annotations

import base64
from collections.abc import Collection
from typing import Any

from cryptography import x509
from cryptography.x509.oid import NameOID
from starlette.requests import Request
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

_OURS = "barrio.peer"


def protocol(proxies: Collection[str]) -> type[HttpToolsProtocol]:
    """The HTTP protocol that keeps with each request the certificate (DER) that TLS verified, and whether it comes from one of these proxies."""

    class Peering(HttpToolsProtocol):
        def on_message_begin(self) -> None:
            super().on_message_begin()
            line: Any = self.transport.get_extra_info("ssl_object")
            shown = line.getpeercert(binary_form=True) if line is not None else None
            by_proxy = self.client is not None and self.client[0] in proxies
            self.scope["extensions"] = {_OURS: {"certificate": shown, "proxy": by_proxy}}

    return Peering


def serial_of(request: Request) -> str:
    """The serial number in the certificate (IEEE 802.1AR, section 8.6) that the other end showed, and that was verified. Empty where it showed none."""
    peer = request.scope.get("extensions", {}).get(_OURS, {})
    shown = peer.get("certificate")
    told = request.headers.get("client-cert", "")
    try:
        if peer.get("proxy"):
            # A byte sequence as RFC 8941 writes one.
            shown = base64.b64decode(told.strip().strip(":"), validate=True) if told else None
        if not shown:
            return ""
        [number] = x509.load_der_x509_certificate(shown).subject.get_attributes_for_oid(NameOID.SERIAL_NUMBER)
    except ValueError:
        return ""
    return str(number.value)
