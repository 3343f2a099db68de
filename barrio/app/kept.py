"""Editions as compiled fabrics: from the inputs that they keep."""

from __future__ import annotations

from barrio.app.transaction import Transaction
from barrio.contained.process import APART
from barrio.core import Compiled, Refused
from barrio.core.edition import Inputs, read_inputs
from barrio.store import editions
from barrio.store.drafts import Draft
from barrio.store.editions import Edition


def inputs(tx: Transaction, edition: Edition) -> Inputs:
    """What an edition was compiled from."""
    return read_inputs(editions.texts(tx.connection, [edition.inputs])[edition.inputs].decode())


def compiled(tx: Transaction, edition: Edition, previous: Compiled | None = None) -> Compiled:
    """An edition as this program compiles it. Raises `Refused` when it does not take the inputs any more."""
    at = f"{edition.fabric}@{edition.number}"
    return tx.kept(at, (edition.id, 0), lambda: inputs(tx, edition).compiled(APART, previous))


def base(tx: Transaction, draft: Draft) -> Compiled | None:
    """What a draft is held against: the newest edition, as this program compiles it; nothing when there is none, or it cannot be read."""
    newest = editions.newest(tx.connection, draft.name)
    try:
        return compiled(tx, newest, tx.readable(draft)) if newest else None
    except Refused:
        return None
