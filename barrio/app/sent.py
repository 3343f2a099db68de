"""The files of an edition as they are sent to a switch: with secrets in the place of their names, which no edition holds."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Mapping

from barrio.app.officesecrets import opened
from barrio.app.secret import Keys
from barrio.app.transaction import Transaction
from barrio.core.brief.variables import SECRET
from barrio.store import editions

MOST = 200_000
_named: dict[bytes, bool] = {}
"""Whether a text names secrets, by its digest: what a digest stands for never changes, so that any process may remember it."""


def files(tx: Transaction, keys: Keys, edition: int, switch: str) -> dict[str, bytes]:
    """The SHA-256 of each file of a switch (by name) as it is sent, by path. Raises as `officesecrets.opened`."""
    kept = editions.files_of_switch(tx.connection, edition, switch)
    filled = _filled(tx, keys, kept.values())
    return {path: hashlib.sha256(filled[one]).digest() if one in filled else one for path, one in kept.items()}


def texts(tx: Transaction, keys: Keys, edition: int, switch: str, wanted: Iterable[bytes]) -> dict[bytes, bytes]:
    """The files of a switch as they are sent, by the digests that they have then; only those wanted that are its own. Raises as `files`."""
    kept = editions.files_of_switch(tx.connection, edition, switch)
    filled = {hashlib.sha256(one).digest(): one for one in _filled(tx, keys, kept.values()).values()}
    asked = set(wanted)
    plain = editions.texts(tx.connection, asked & set(kept.values()) - filled.keys())
    return {one: text for one, text in {**plain, **filled}.items() if one in asked}


def secrets_of(tx: Transaction, keys: Keys, edition: int, switch: str) -> dict[str, str]:
    """The secrets that the files of a switch name, by their names. Raises as `files`."""
    kept = editions.files_of_switch(tx.connection, edition, switch)
    texts = editions.texts(tx.connection, set(kept.values())).values()
    return opened(tx, keys, {name for text in texts for name in SECRET.findall(text.decode())})


def _filled(tx: Transaction, keys: Keys, kept: Iterable[bytes]) -> Mapping[bytes, bytes]:
    """Those of some texts that name secrets, by their digests, with the secrets in."""
    every = set(kept)
    new = every - _named.keys()
    read = editions.texts(tx.connection, new) if new else {}
    if len(_named) > MOST:
        _named.clear()
    _named.update({one: SECRET.search(text.decode()) is not None for one, text in read.items()})
    naming = {one for one in every if _named.get(one)}
    if not naming:
        return {}
    found = {one: text.decode() for one, text in editions.texts(tx.connection, naming).items()}
    secrets = opened(tx, keys, {name for text in found.values() for name in SECRET.findall(text)})
    return {one: SECRET.sub(lambda name: secrets[name[1]], text).encode() for one, text in found.items()}
