"""What a browser keeps between two steps of signing in: sealed, so that nothing stands in one server only, for ten minutes, good once."""

from __future__ import annotations

import hashlib
import json
from base64 import urlsafe_b64decode, urlsafe_b64encode
from typing import Any

from barrio.app.door import NoEntry
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.store import proofs

LASTS = 600


class NoTicket(NoEntry):
    """This is no ticket for what is asked, has ended, or was used."""

    def __init__(self) -> None:
        super().__init__("This way in was begun too long ago, or was used already. Begin again.")


def made(house: House, what: str, said: dict[str, Any]) -> str:
    """A ticket for one step that follows, with what has to be known in it."""
    with house.alone() as connection:
        whole = said | {"ends": proofs.now(connection) + LASTS}
    return urlsafe_b64encode(house.keys.seal(json.dumps(whole), what)).decode()


def spend(house: House, what: str, ticket: str) -> dict[str, Any]:
    """What a ticket says, which is used up, whatever comes of it. Raises `NoTicket`."""
    try:
        sealed = urlsafe_b64decode(ticket)
        said: dict[str, Any] = json.loads(house.keys.open(sealed, what))
    except ValueError:
        raise NoTicket from None
    # Of the bytes, as one text of many stands for the same.
    digest = hashlib.sha256(sealed).digest()

    def work(tx: Transaction) -> bool:
        return said["ends"] >= proofs.now(tx.connection) and proofs.spend(tx.connection, digest, said["ends"])

    if not house.writing(work):
        raise NoTicket
    return said
