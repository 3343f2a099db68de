"""The office's own provider of identities, asked who somebody is: OpenID Connect Core 1.0, the authorization code flow (3.1), with a
proof key (RFC 7636), and what it says of itself (OpenID Connect Discovery 1.0)."""

from __future__ import annotations

import secrets
import time
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

import httpx2
from authlib.common.errors import AuthlibBaseError
from authlib.integrations.httpx_client import OAuth2Client
from authlib.oidc.core import CodeIDToken
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from barrio.sending.trust import trust

PATIENCE = 5.0
"""Seconds in which a provider has to answer."""
FRESH = 600.0
"""Seconds for which what it says of itself is believed."""
LEEWAY = 60
"""Seconds by which its clock may be off."""
SIGNED_BY = ["RS256", "RS384", "RS512", "PS256", "PS384", "PS512", "ES256", "ES384", "ES512", "Ed25519", "EdDSA"]
"""With what it may sign. Never “none”, and nothing for which the key is one that both sides know."""
STRONG = frozenset({"mfa", "otp", "hwk", "swk", "sc", "fpt", "face"})
"""Ways in which somebody showed more than a password (RFC 8176)."""


class NotVouched(Exception):
    """The provider does not vouch for whoever came back from it."""


class Silent(Exception):
    """The provider does not answer, or not what a provider answers."""


@dataclass(frozen=True, slots=True)
class Outsider:
    """Somebody as the provider knows them: `subject` is theirs for ever, `name` and `called` are what it says today. `strong` when they
    showed it more than a password."""

    issuer: str
    subject: str
    name: str
    called: str
    strong: bool


class Provider:
    """One provider, as the configuration names it. `claim` is where the name stands by which people sign in here; with `welcomes`
    whoever it vouches for is somebody here, with no role yet. Where names are addresses, those of `domain` are people's without it, and no others."""

    def __init__(
        self, issuer: str, client: str, secret: str, called: str, claim: str, welcomes: bool, domain: str = ""
    ) -> None:
        self.issuer, self.called, self.welcomes, self.domain = issuer, called, welcomes, domain
        self._client, self._secret, self._claim = client, secret, claim
        self._said: tuple[float, dict[str, Any], KeySet] | None = None

    def begin(self, back: str) -> tuple[str, dict[str, str]]:
        """Where to send a browser, and what has to be known when it comes back. Raises `Silent`."""
        kept = {name: secrets.token_urlsafe(32) for name in ("state", "nonce", "verifier")}
        with self._asking(back) as client:
            where, _ = client.create_authorization_url(
                self._about()[0]["authorization_endpoint"], state=kept["state"], nonce=kept["nonce"],
                code_verifier=kept["verifier"],
            )  # fmt: skip
        return where, kept

    def who(self, kept: dict[str, str], code: str, state: str, back: str, now: float) -> Outsider:
        """Who came back with a code. Raises `NotVouched` for what the provider did not give to this browser, and `Silent`."""
        if not secrets.compare_digest(kept["state"].encode(), state.encode()):
            raise NotVouched("This is not the answer to what was asked from here. Begin again.")
        about, _ = self._about()
        try:
            with self._asking(back) as client:
                given = client.fetch_token(
                    about["token_endpoint"], grant_type="authorization_code", code=code, code_verifier=kept["verifier"]
                )
        except AuthlibBaseError as error:
            raise NotVouched(f"{self.called} does not vouch for this ({str(error.error)[:60]}). Begin again.") from None
        except (httpx2.HTTPError, ValueError) as error:
            raise self._silent(error) from None
        return self._outsider(str(given.get("id_token", "")), kept["nonce"], now)

    def _outsider(self, token: str, nonce: str, now: float) -> Outsider:
        try:
            claims = CodeIDToken(
                self._read(token), {},
                {"iss": {"essential": True, "value": self.issuer}, "aud": {"essential": True, "value": self._client}},
                {"nonce": nonce, "client_id": self._client},
            )  # fmt: skip
            claims.validate(now=int(now), leeway=LEEWAY)
        except (JoseError, AuthlibBaseError, ValueError, TypeError, KeyError) as error:
            why = str(error).rstrip(".") or type(error).__name__
            raise NotVouched(f"What {self.called} says of you does not hold ({why[:100]}). Begin again.") from None
        name, ways = claims.get(self._claim), claims.get("amr") or []
        if not isinstance(name, str) or not name or not isinstance(claims["sub"], str):
            raise NotVouched(
                f"{self.called} does not say what you are called here (its claim {self._claim} is missing)."
            )
        return Outsider(
            self.issuer,
            claims["sub"],
            name,
            str(claims.get("name") or name),
            any(way in STRONG for way in ways if isinstance(way, str)),
        )

    def _read(self, token: str) -> dict[str, Any]:
        """What a token says, whoever signed it being the provider. New keys of the provider's are looked up once."""
        try:
            return jwt.decode(token, self._about()[1], algorithms=SIGNED_BY).claims
        except (JoseError, ValueError):
            return jwt.decode(token, self._about(anew=True)[1], algorithms=SIGNED_BY).claims

    def _asking(self, back: str) -> OAuth2Client:
        return OAuth2Client(
            self._client, self._secret, scope="openid profile", redirect_uri=back, code_challenge_method="S256",
            timeout=PATIENCE, follow_redirects=False, verify=trust(),
        )  # fmt: skip

    def _about(self, anew: bool = False) -> tuple[dict[str, Any], KeySet]:
        """What the provider says of itself, and its keys. Raises `Silent`."""
        if self._said is not None and not anew and time.monotonic() - self._said[0] < FRESH:
            return self._said[1], self._said[2]
        try:
            with httpx2.Client(timeout=PATIENCE, verify=trust()) as client:
                about = (
                    client.get(f"{self.issuer.rstrip('/')}/.well-known/openid-configuration").raise_for_status().json()
                )
                places = [about[name] for name in ("authorization_endpoint", "token_endpoint", "jwks_uri")]
                if about["issuer"] != self.issuer:
                    raise ValueError(f"it calls itself {about['issuer']}")
                if not all(is_safe(place) for place in places):
                    raise ValueError("one of its addresses is not https")
                keys = KeySet.import_key_set(client.get(about["jwks_uri"]).raise_for_status().json())
        except (httpx2.HTTPError, httpx2.InvalidURL, ValueError, KeyError, TypeError, JoseError) as error:
            raise self._silent(error) from None
        self._said = (time.monotonic(), about, keys)
        return about, keys

    def _silent(self, error: Exception) -> Silent:
        why = str(error).splitlines()[0][:120] if str(error) else type(error).__name__
        return Silent(f"{self.called} does not answer as it should ({why}). Sign in by password, or try again later.")


def is_safe(address: str) -> bool:
    """Whether what is said at an address can be neither read nor altered on the way."""
    parts = urlsplit(address)
    return parts.scheme == "https" or (parts.scheme == "http" and parts.hostname in ("127.0.0.1", "localhost", "::1"))
