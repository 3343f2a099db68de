"""Editions as compiled fabrics: from the inputs that they keep."""

from __future__ import annotations

from dataclasses import replace

from barrio.app.transaction import Transaction
from barrio.contained.process import APART
from barrio.core import Compiled, Refused
from barrio.core.edition import Inputs, program, read_inputs
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


MANY = 100
"""Switches from which on it is quicker to read what an edition keeps than to render it again."""


def fill(tx: Transaction, edition: Edition, compiled: Compiled, beside: Compiled) -> None:
    """Give a compiled edition the files that it keeps, where many are looked at beside another's and this very program wrote them."""
    other = sum(beside.models.get(key) is not model for key, model in compiled.models.items())
    if edition.program != program() or other < MANY or compiled.rendered > len(compiled.models) - MANY:
        return
    compiled.take_files(_files(tx, edition, compiled))


def as_left(tx: Transaction, edition: Edition, compiled: Compiled) -> Compiled:
    """A compiled edition with the very files that left, whichever program wrote them."""
    again = replace(compiled, _files={}, _stale={})
    again.take_files(_files(tx, edition, compiled))
    return again


def _files(tx: Transaction, edition: Edition, compiled: Compiled) -> dict[str, dict[str, str]]:
    """The files that an edition keeps, by switch."""
    names = {str(switch.name): switch.key for switch in compiled.staged}
    paths = {
        path: digest
        for path, digest in editions.files_of(tx.connection, edition.id).items()
        if path.startswith("switches/")
    }
    texts = {digest: content.decode() for digest, content in editions.texts(tx.connection, paths.values()).items()}
    found: dict[str, dict[str, str]] = {}
    for path, digest in paths.items():
        _, name, inside = path.split("/", 2)
        found.setdefault(names[name], {})[inside] = texts[digest]
    return found
