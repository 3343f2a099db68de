"""Who is told outside: outlets, and the deliveries to them."""

from __future__ import annotations

import re
from typing import Any, Literal
from urllib.parse import urlsplit
from uuid import UUID

from barrio.app import secret as secrets
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core.errors import refuse
from barrio.store import drafts, outlets
from barrio.store.entries import Act
from barrio.store.outlets import Delivery, Outlet

Kind = Literal["webhook", "mail", "git"]
_SEALED = "outlet"


def tell(tx: Transaction, fabric: str, what: str, **said: Any) -> None:
    """Have what happens told outside, in the very transaction in which it happens."""
    outlets.put(tx.connection, fabric, what, {"what": what, "fabric": fabric, "by": tx.author.name, **said})


def every(desk: Desk) -> tuple[list[Outlet], list[Delivery]]:
    """All outlets, and what was sent there last or waits."""
    with desk.reading() as tx:
        return outlets.every(tx.connection), outlets.newest(tx.connection)


def add(desk: Desk, kind: Kind, fabric: str | None, address: str, secret: str) -> tuple[int, str]:
    """A new outlet: its number, and the secret that webhooks are signed with, which is shown once.

    Raises `Missing` for a fabric that there is not, and `Refused` (`outlet.address`) for an address that cannot be one.
    """
    address = address.strip()
    _check(kind, address)
    if kind == "webhook" and not secret:
        secret = secrets.made()

    def work(tx: Transaction) -> int:
        if fabric is not None:
            drafts.version(tx.connection, fabric)
        if any((one.kind, one.fabric, one.address) == (kind, fabric, address) for one in outlets.every(tx.connection)):
            raise refuse("outlet.twice", "This is told there already.", "address")
        tx.act(Act("outlet added", fabric, note=f"{kind} {address}", topic="people"))
        sealed = desk.house.keys.seal(secret, _SEALED) if secret else None
        return outlets.add(tx.connection, kind, fabric, address, sealed, tx.author.name)

    return desk.writing(work), secret if kind == "webhook" else ""


def _check(kind: Kind, address: str) -> None:
    url = urlsplit(address)
    words = ""
    if kind == "webhook" and not (url.scheme in ("http", "https") and url.hostname and not url.username):
        words = "A webhook is an address that begins with https://, without a name or password in it."
    if kind == "mail" and not (
        url.scheme in ("smtp", "smtps") and url.hostname and "from=" in url.query and not url.password
    ):
        words = "A mail server is written smtp://user@mail.example:587?from=barrio@office.example; its password goes into the field for it."
    if kind == "git" and not re.fullmatch(r"/[^\s]+|ssh://[^\s]+|[A-Za-z0-9._-]+@[A-Za-z0-9.-]+:[^\s]+", address):
        words = "A git remote is a path (/srv/git/fabrics.git) or an address of SSH (git@git.example:fabrics.git)."
    if words:
        raise refuse("outlet.address", words, "address")


def drop(desk: Desk, outlet: int) -> None:
    """Take an outlet away. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        one = outlets.find(tx.connection, outlet)
        tx.act(Act("outlet taken away", one.fabric, note=f"{one.kind} {one.address}", topic="people"))
        outlets.drop(tx.connection, outlet)

    desk.writing(work)


def at_once(desk: Desk, delivery: UUID) -> None:
    """Try a delivery now, also one that was given up. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        tx.act(Act("delivery tried again", topic="people"))
        outlets.at_once(tx.connection, delivery)

    desk.writing(work)


def opened(desk: Desk, one: Outlet) -> str:
    """The secret of an outlet."""
    return desk.house.keys.open(one.secret, _SEALED) if one.secret else ""
