"""Software for the switches of a fabric: brought by people, piece by piece, and fetched by switches by its SHA-256."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator

from barrio.app import rollcall
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core.errors import nearest, refuse
from barrio.core.staging.software import version
from barrio.store import images
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.images import PIECE, Image

MOST = 8 << 30
"""Bytes of software."""
HOURS = 24
"""After so many hours what was begun to be brought is forgotten."""


class Bringing:
    """Software that is being brought, of a version, for a model (by id) or for any. Raises `Missing`, and `Refused` (`image.version`, `image.model`)."""

    def __init__(self, desk: Desk, name: str, called: str, model: str, file: str) -> None:
        self.desk, self.name, self.version, self.model, self.file = desk, name, version(called), model, file

        def work(tx: Transaction) -> int:
            kinds = {one.type.id for one in rollcall.newest(tx, name).staged}
            if model and model not in kinds:
                words = f"No switch of {name} is a {model[:60]}.{nearest(model, kinds)}"
                raise refuse("image.model", words, "model")
            return images.begin(tx.connection, HOURS)

        self._upload = desk.writing(work)
        self._sum, self._size, self._at, self._left = hashlib.sha256(), 0, 0, b""

    def take(self, content: bytes) -> None:
        """Take what came. Raises `Refused` (`image.size`)."""
        self._sum.update(content)
        self._size += len(content)
        if self._size > MOST:
            self.leave()
            raise refuse("image.size", f"Software has {MOST >> 30} GiB at most.", "content")
        self._left += content
        while len(self._left) >= PIECE:
            self._put(self._left[:PIECE])
            self._left = self._left[PIECE:]

    def _put(self, content: bytes) -> None:
        self.desk.writing(lambda tx: images.add(tx.connection, self._upload, self._at, content))
        self._at += 1

    def end(self) -> Image:
        """All of it came. Raises `Refused` (`image.size`) when nothing did."""
        if not self._size:
            self.leave()
            raise refuse("image.size", "There is nothing in it.", "content")
        if self._left:
            self._put(self._left)
        digest = self._sum.digest()

        def work(tx: Transaction) -> Image:
            images.end(tx.connection, self._upload, digest, self._size)
            images.keep(tx.connection, self.name, self.version, self.model, self.file, digest, tx.author.name)
            note = f"{self.version} for {self.model or 'any model'}, SHA-256 {digest.hex()[:12]}…"
            tx.act(Act("software brought", self.name, note=note, topic="staging"))
            found = images.wanted(tx.connection, self.name, self.version, self.model)
            assert found is not None
            return found

        return self.desk.writing(work)

    def leave(self) -> None:
        """Forget what came so far."""
        self.desk.writing(lambda tx: images.forget(tx.connection, self._upload))


def every(desk: Desk, name: str) -> list[Image]:
    """The software of a fabric. Raises `Missing`."""
    with desk.reading() as tx:
        tx.readable(tx.draft(name))
        return images.of_fabric(tx.connection, name)


def drop(desk: Desk, name: str, called: str, model: str) -> None:
    """Take software out of a fabric. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        tx.act(Act("software taken out", name, note=f"{called} for {model or 'any model'}", topic="staging"))
        if not images.drop(tx.connection, name, called, model):
            raise Missing(f"{name} has no software {called} for {model or 'any model'}.")

    desk.writing(work)


def size_of(house: House, digest: bytes) -> int:
    """The bytes of some software. Raises `Missing`."""
    with house.alone() as connection:
        found = images.size_of(connection, digest)
    if found is None:
        raise Missing("There is no such software.")
    return found


def parts(house: House, digest: bytes, begin: int, end: int) -> Iterator[bytes]:
    """The bytes of some software from one place up to another, piece by piece."""
    for at, first, upto in images.places(begin, end):
        with house.alone() as connection:
            content = images.piece(connection, digest, at)
        yield content[first:upto]
