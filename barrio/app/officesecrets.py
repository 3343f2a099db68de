"""Secrets of the office: set and forgotten by name, never shown again, and put into files only as these leave for switches."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping

from barrio.app.desk import Desk
from barrio.app.secret import Keys
from barrio.app.transaction import Transaction
from barrio.core.brief.variables import SECRET
from barrio.core.errors import Fault, Refused, refuse
from barrio.store import secrets
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.secrets import Kept

_NAME = re.compile(r"[a-z][a-z0-9-]{0,62}")


def kept(desk: Desk) -> list[Kept]:
    """Which secrets there are."""
    with desk.reading() as tx:
        return secrets.kept(tx.connection)


def put(desk: Desk, name: str, value: str) -> None:
    """Keep a secret. Raises `Refused` for a name that is none, and a value that could not stand in a line of a file."""
    if not _NAME.fullmatch(name):
        raise refuse("secret.name", "A secret is called by small letters, digits and dashes, a letter first.", "name")
    if not value.isprintable() or not value:
        raise refuse("secret.value", "A secret is one line of text that can be seen.", "value")
    sealed = desk.house.keys.seal(value, f"secret {name}")

    def work(tx: Transaction) -> None:
        tx.act(Act("secret set", note=name, topic="catalogue"))
        secrets.put(tx.connection, name, sealed, tx.author.name)

    desk.writing(work)


def drop(desk: Desk, name: str) -> None:
    """Forget a secret. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        tx.act(Act("secret forgotten", note=name, topic="catalogue"))
        if not secrets.drop(tx.connection, name):
            raise Missing(f"There is no secret {name}.")

    desk.writing(work)


def filled(desk: Desk, files: Mapping[str, bytes]) -> dict[str, bytes]:
    """Files with secrets in the place of their names. Raises as `opened`."""
    used = {name for content in files.values() for name in SECRET.findall(content.decode())}
    with desk.reading() as tx:
        found = opened(tx, desk.house.keys, used)
    return {path: SECRET.sub(lambda name: found[name[1]], content.decode()).encode() for path, content in files.items()}


def opened(tx: Transaction, keys: Keys, names: Collection[str]) -> dict[str, str]:
    """What secrets are, by their names. Raises `Refused`: `secret.missing` for each that was never set, and `secret.key` when what is sealed cannot be opened
    with this key."""
    sealed = secrets.sealed(tx.connection) if names else {}
    lacking = sorted(set(names) - sealed.keys())
    if lacking:
        raise Refused(
            [Fault("secret.missing", f"The secret {name} was never set. Set it in the Office.") for name in lacking]
        )
    try:
        return {name: keys.open(sealed[name], f"secret {name}") for name in names}
    except ValueError as error:
        raise refuse("secret.key", f"A secret cannot be opened: {error}.") from None
