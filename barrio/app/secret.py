"""Secrets: those that are made and handed out, passwords, and what is encrypted before it is kept.

What is handed out is kept as its digest only; a password as its Argon2id hash (RFC 9106); what Barrio itself must read again is
sealed with a key that stands in a file beside the database, never in it.
"""

from __future__ import annotations

import base64
import binascii
import hashlib
import hmac
import os
import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Condition

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM

from barrio.app.gate import Busy


def made() -> str:
    """A new secret of 256 bits, as text that can stand in an address."""
    return secrets.token_urlsafe(32)


def digest(secret: str) -> bytes:
    """What is kept of a secret that was made here. It is random, so one round is enough."""
    return hashlib.sha256(secret.encode()).digest()


class Keys:
    """The key file: 32 random bytes, for sealing and for digests of what is easily guessed."""

    def __init__(self, key: bytes) -> None:
        self._key = key

    @classmethod
    def of_file(cls, path: Path) -> Keys:
        """The key in a file, which is made when it is not there. Raises `OSError`, or `ValueError` for a file that holds none."""
        try:
            place = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        except FileExistsError:
            pass
        else:
            with os.fdopen(place, "wb") as out:
                out.write(base64.b64encode(secrets.token_bytes(32)) + b"\n")
        try:
            key = base64.b64decode(path.read_bytes())
        except binascii.Error:
            key = b""
        if len(key) != 32:
            raise ValueError(
                f"{path} holds no key of Barrio's. Put back the file that was there, or name it by key_file."
            )
        return cls(key)

    @property
    def digest(self) -> bytes:
        """By which a database knows its key."""
        return hashlib.sha256(b"barrio key" + self._key).digest()

    def blind(self, text: str) -> bytes:
        """A digest of something that could be guessed, of use only to who has the key."""
        return hmac.new(self._key, text.encode(), hashlib.sha256).digest()

    def seal(self, text: str, what: str) -> bytes:
        """A text that nobody can read without the key; `what` says what it is for, and must be said again to open it."""
        nonce = secrets.token_bytes(12)
        return nonce + AESGCM(self._key).encrypt(nonce, text.encode(), what.encode())

    def open(self, sealed: bytes, what: str) -> str:
        """The text that was sealed. Raises `ValueError` when it was sealed with another key or for something else."""
        try:
            return AESGCM(self._key).decrypt(sealed[:12], sealed[12:], what.encode()).decode()
        except InvalidTag:
            raise ValueError(f"the secret ({what}) was sealed with another key") from None


class Passwords:
    """Hashes passwords, one at a time, so that guessers take no time from others. More than a few waiting are sent away."""

    MOST_WAITING = 6
    COST = (2, 48 * 1024, 2)
    """Passes, KiB of memory and lanes of Argon2id (RFC 9106, 3.1): more than what is held to be enough (46 MiB, one pass), and under 300 ms
    on two slow cores."""

    def __init__(self) -> None:
        passes, memory, lanes = self.COST
        self._hasher = PasswordHasher(time_cost=passes, memory_cost=memory, parallelism=lanes)
        self._nobody = ""
        self._turn = Condition()
        self._busy, self._waiting = False, 0

    def hash(self, password: str) -> str:
        with self._alone():
            return self._hasher.hash(password)

    def fits(self, hashed: str | None, password: str) -> bool:
        """Whether a password is the one; for nobody's it takes as long to say no."""
        with self._alone():
            try:
                self._nobody = self._nobody or self._hasher.hash(made())
                return self._hasher.verify(hashed or self._nobody, password) and hashed is not None
            except (VerificationError, InvalidHashError):
                return False

    @contextmanager
    def _alone(self) -> Iterator[None]:
        with self._turn:
            if self._waiting >= self.MOST_WAITING:
                raise Busy("Many people sign in at once. Try again in a few seconds.", 5, guess=True)
            self._waiting += 1
            self._turn.wait_for(lambda: not self._busy)
            self._waiting -= 1
            self._busy = True
        try:
            yield
        finally:
            with self._turn:
                self._busy = False
                self._turn.notify()
