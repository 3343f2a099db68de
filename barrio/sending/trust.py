"""Which authorities' certificates are trusted, of whoever Barrio speaks to by TLS."""

from __future__ import annotations

import ssl
from functools import cache

import httpx2


@cache
def trust() -> ssl.SSLContext:
    """What this machine trusts. Loading it takes a tenth of a second of processor, so it is done once."""
    return httpx2.create_ssl_context()
