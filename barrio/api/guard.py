"""From where may be asked: by the names of this machine's loopback, or the one public name that Barrio is given.

A page from elsewhere could make a browser send requests here with its session, or point a host name of its own at this server,
so requests with a foreign Host or Origin are refused; what changes something by a session must come from our own page
(OWASP CSRF, “verifying origin with standard headers”). Bodies are bounded.
"""

from __future__ import annotations

import re
import secrets
from urllib.parse import unquote, urlsplit

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from barrio.api.leaving import watched
from barrio.api.problems import REQUEST, answer, broken

HERE = frozenset({"127.0.0.1", "localhost", "::1"})
MOST_BODY = 1_000_000
MOST_IMPORT = 20_000_000
"""Sheets of links and of numbers are larger than most of what is sent."""
MOST_SOFTWARE = 8 << 30
_SOFTWARE = re.compile(r"/api/v1/fabrics/[^/]+/staging/images/[^/]+")


def is_here(authority: str) -> bool:
    """Whether a Host header's value names this machine's loopback."""
    try:
        return urlsplit(f"//{authority}").hostname in HERE
    except ValueError:
        return False


_SAFE = frozenset({"GET", "HEAD", "OPTIONS"})
_UNPRINTABLE = re.compile(r"[\x00-\x1f\x7f]")
BY_DEVICES = ("/boot/v1/", "/restconf/operations/", "/.well-known/host-meta")
MOST_ADDRESS = 4096


class Guard:
    """ASGI middleware: refuses what is foreign, malformed or too large, numbers requests, and notices who leaves."""

    def __init__(self, app: ASGIApp, public: str = "") -> None:
        self.app = app
        self.public = urlsplit(public).netloc

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        number = REQUEST.set(secrets.token_hex(6))
        headers = {name: value.decode("latin-1") for name, value in scope["headers"]}
        sheet = scope["path"] == "/api/v1/imports" or scope["path"].endswith(
            (
                "/numbers/preview",
                "/numbers/take",
                "/delivery/preview",
                "/delivery/take",
                "/apart/brought",
                "/git-receive-pack",
                "/adoption",
                "/drift/outputs",
            )
        )
        most = MOST_SOFTWARE if _SOFTWARE.fullmatch(scope["path"]) else MOST_IMPORT if sheet else MOST_BODY
        refusal = _malformed(scope) or self._refusal(headers, scope, most)
        answering = _Answering(send)
        try:
            await watched(refusal or self.app)(scope, receive, answering)
        except Exception as error:
            if not answering.begun:
                await broken(scope["path"], error)(scope, receive, answering)
            else:
                raise
        finally:
            REQUEST.reset(number)

    def _refusal(self, headers: dict[bytes, str], scope: Scope, most: int) -> ASGIApp | None:
        host, origin = headers.get(b"host", ""), headers.get(b"origin")
        # Switches come by whatever name DHCP told them; each of their requests is signed, or shows who they are.
        by_name = is_here(host) or (self.public and host == self.public) or scope["path"].startswith(BY_DEVICES)
        if not by_name:
            names = f"{self.public}, 127.0.0.1 and localhost" if self.public else "127.0.0.1 and localhost"
            words = f"Barrio answers to {names} only. Open it by one of these names."
            return answer(403, "foreign-host", "Not from here", words)
        site = headers.get(b"sec-fetch-site", "none")
        foreign = scope["path"].startswith("/api/") and site not in ("same-origin", "none")
        if foreign or (origin is not None and origin != f"{scope['scheme']}://{host}"):
            return answer(
                403,
                "foreign-origin",
                "Not from here",
                "This request comes from another site's page, and Barrio takes none of those.",
            )
        shown = "barrio=" in headers.get(b"cookie", "") and b"authorization" not in headers
        if shown and scope["method"] not in _SAFE and origin is None and site != "same-origin":
            words = (
                "A session changes things from Barrio's own pages only. A program shows a token: Authorization: Bearer."
            )
            return answer(403, "foreign-origin", "Not from here", words)
        length = headers.get(b"content-length", "0")
        if b"transfer-encoding" in headers or not length.isdigit() or int(length) > most:
            return answer(
                413,
                "too-large",
                "Too large",
                f"This request may carry {most // 1000:,} KB, with its length said first. A brief is 256 KB at most; split a larger sheet.",
            )
        return None


def _malformed(scope: Scope) -> ASGIApp | None:
    """Refuse an address that no link of ours has: too long, or with characters that cannot be printed."""
    query = unquote(scope["query_string"].decode("latin-1"), errors="replace")
    if len(scope["path"]) + len(query) > MOST_ADDRESS:
        return answer(414, "address", "Malformed", f"An address has {MOST_ADDRESS:,} characters at most.")
    if _UNPRINTABLE.search(scope["path"]) or _UNPRINTABLE.search(query):
        return answer(400, "address", "Malformed", "The address holds a character that cannot be printed. Take it out.")
    return None


class _Answering:
    """Sends an answer, with the number of its request, and that nobody may guess what kind of file it is."""

    def __init__(self, send: Send) -> None:
        self._send = send
        self.begun = False

    async def __call__(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            self.begun = True
            headers = MutableHeaders(scope=message)
            headers["X-Request-Id"] = REQUEST.get()
            headers["X-Content-Type-Options"] = "nosniff"
        await self._send(message)
