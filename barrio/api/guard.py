"""Who may ask: only browsers and programs on this machine, until there are accounts.

The server listens on loopback. A page from elsewhere could still make a browser here send requests to it, or point a
host name of its own at 127.0.0.1, so requests with a foreign Host or Origin are refused, and bodies are bounded.
"""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.types import ASGIApp, Receive, Scope, Send

from barrio.api.problems import answer

HERE = frozenset({"127.0.0.1", "localhost", "::1"})
MOST_BODY = 1_000_000
MOST_IMPORT = 20_000_000
"""Sheets of links and of numbers are larger than anything else that is sent."""


def is_here(authority: str) -> bool:
    """Whether a Host header's value names this machine's loopback."""
    try:
        return urlsplit(f"//{authority}").hostname in HERE
    except ValueError:
        return False


class Guard:
    """ASGI middleware that refuses foreign Host and Origin headers and bodies that are too large."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        headers = {name: value.decode("latin-1") for name, value in scope["headers"]}
        sheet = scope["path"] == "/api/v1/imports" or scope["path"].endswith(("/numbers/preview", "/numbers/take"))
        most = MOST_IMPORT if sheet else MOST_BODY
        refusal = self._refusal(headers, most)
        await (refusal or self.app)(scope, receive, send)

    def _refusal(self, headers: dict[bytes, str], most: int) -> ASGIApp | None:
        host, origin = headers.get(b"host", ""), headers.get(b"origin")
        if not is_here(host):
            return answer(
                403,
                "foreign-host",
                "Not from here",
                "Barrio answers to 127.0.0.1 and localhost only. Open it by one of these names.",
            )
        if origin is not None and origin != f"http://{host}":
            return answer(
                403,
                "foreign-origin",
                "Not from here",
                "This request comes from another site's page, and Barrio takes none of those.",
            )
        length = headers.get(b"content-length", "0")
        if b"transfer-encoding" in headers or not length.isdigit() or int(length) > most:
            return answer(
                413,
                "too-large",
                "Too large",
                f"This request may carry {most // 1000:,} KB, with its length said first. A brief is 256 KB at most; split a larger sheet.",
            )
        return None
