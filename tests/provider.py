"""A small provider of identities for tests, on loopback: it signs what its people are, and lies when it is told to."""

from __future__ import annotations

import base64
import hashlib
import hmac
import json
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, parse_qsl, urlencode, urlsplit

from joserfc import jwt
from joserfc.jwk import RSAKey

from barrio.app.provider import Provider

CLIENT, SECRET = "barrio", "the-secret-of-the-client"
KEY = RSAKey.generate_key(2048, {"kid": "one", "use": "sig"}, auto_kid=False)


class Office:
    """What it says of whoever is before it; `lie` alters the claims, `sign` signs them, `broken` answers in its place."""

    def __init__(self) -> None:
        self.person: dict[str, Any] = {"sub": "7f3a", "preferred_username": "ines", "name": "Ines Marrero"}
        self.lie: Callable[[dict[str, Any]], dict[str, Any]] = dict
        self.sign: Callable[[dict[str, Any]], str] = lambda said: jwt.encode({"alg": "RS256", "kid": "one"}, said, KEY)
        self.broken: dict[str, tuple[int, bytes]] = {}
        self.given: dict[str, dict[str, str]] = {}
        self.issuer = ""

    @property
    def provider(self) -> Provider:
        return Provider(self.issuer, CLIENT, SECRET, "Harbour office", "preferred_username", welcomes=False)

    def about(self) -> dict[str, Any]:
        names = ("authorization_endpoint", "token_endpoint", "jwks_uri")
        return {"issuer": self.issuer, **{name: f"{self.issuer}/{name}" for name in names}}

    def agree(self, address: str) -> str:
        """What a person does who is sent here: they agree. Returns where they are sent back to."""
        asked = dict(parse_qsl(urlsplit(address).query))
        assert asked["client_id"] == CLIENT and asked["response_type"] == "code" and "openid" in asked["scope"]
        code = f"code-{len(self.given)}"
        self.given[code] = asked
        return f"{asked['redirect_uri']}?{urlencode({'code': code, 'state': asked['state']})}"

    def token(self, said: dict[str, str], shown: str) -> tuple[int, dict[str, Any]]:
        """What a code is worth: once, to the client that has its secret and the verifier."""
        asked = self.given.pop(said.get("code", ""), None)
        verifier = hashlib.sha256(said.get("code_verifier", "").encode()).digest()
        challenge = base64.urlsafe_b64encode(verifier).decode().rstrip("=")
        client = base64.b64encode(f"{CLIENT}:{SECRET}".encode()).decode()
        if asked is None or asked["code_challenge"] != challenge or asked["redirect_uri"] != said["redirect_uri"]:
            return 400, {"error": "invalid_grant"}
        if shown != f"Basic {client}":
            return 401, {"error": "invalid_client"}
        now = int(time.time())
        claims = {
            "iss": self.issuer,
            "aud": CLIENT,
            "iat": now,
            "exp": now + 300,
            "nonce": asked["nonce"],
            **self.person,
        }
        return 200, {"access_token": "x", "token_type": "Bearer", "id_token": self.sign(self.lie(claims))}


def unsigned(said: dict[str, Any]) -> str:
    """A token that nobody has signed."""
    return f"{_parts({'alg': 'none'}, said)}."


def signed_by_public_key(said: dict[str, Any]) -> str:
    """A token signed with what everybody knows, as if that were a secret that both sides share."""
    parts = _parts({"alg": "HS256", "kid": "one"}, said)
    return f"{parts}.{_encoded(hmac.digest(KEY.as_pem(private=False), parts.encode(), 'sha256'))}"


def _parts(*parts: dict[str, Any]) -> str:
    return ".".join(_encoded(json.dumps(part).encode()) for part in parts)


def _encoded(raw: bytes) -> str:
    return base64.urlsafe_b64encode(raw).decode().rstrip("=")


def signed_by_another(said: dict[str, Any]) -> str:
    return jwt.encode({"alg": "RS256", "kid": "one"}, said, RSAKey.generate_key(2048, {"kid": "one"}))


@contextmanager
def office() -> Iterator[Office]:
    """A provider that answers until the end."""
    it = Office()

    class Handler(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            path = urlsplit(self.path).path
            if path == "/authorization_endpoint":
                self.send_response(302)
                self.send_header("Location", it.agree(f"{it.issuer}{self.path}"))
                self.end_headers()
                return
            says = {
                "/.well-known/openid-configuration": it.about(),
                "/jwks_uri": {"keys": [KEY.as_dict(private=False)]},
            }
            self.say(*it.broken.get(path, (200, json.dumps(says.get(path)).encode())))

        def do_POST(self) -> None:
            said = parse_qs(self.rfile.read(int(self.headers["Content-Length"])).decode())
            status, body = it.token({name: value[0] for name, value in said.items()}, self.headers["Authorization"])
            self.say(*it.broken.get("/token_endpoint", (status, json.dumps(body).encode())))

        def say(self, status: int, body: bytes) -> None:
            self.send_response(status)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *_: Any) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    it.issuer = f"http://127.0.0.1:{server.server_address[1]}"
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.05})
    thread.start()
    try:
        yield it
    finally:
        server.shutdown()
        server.server_close()
        thread.join()
