"""From a document to numbers in the ledger: the one way in which a draft is compiled and written.

Asked of catalogue and pools first, without holding anybody up; then, in turn with all who draw from the same scopes, numbers are
drawn beside what is taken there, and written.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from barrio.app.transaction import PoolsGrow, Transaction
from barrio.core import Compiled, Refused
from barrio.core.brief.document import Document, locate
from barrio.core.compile import ask, complete
from barrio.core.compiled import Asked
from barrio.core.errors import refuse
from barrio.core.ledger.demand import pool_name
from barrio.core.ledger.wanted import Taken
from barrio.core.sums import effect
from barrio.store import derived, drafts, entries, pins
from barrio.store.entries import Act
from barrio.store.pins import Numbering


@dataclass(frozen=True, slots=True)
class Change:
    """What is done to a draft: after which revision, in whose words, and what it moves or pins."""

    parent: int | None
    note: str
    numbering: Numbering | None = None
    act: str = "draft saved"


def store(tx: Transaction, document: Document, change: Change, before: Compiled | None) -> Compiled:
    """Draw a document's numbers, and make it the draft by a revision of its own."""
    compiled = draw(tx, document, change, before)
    fresh = [key for key in compiled.models if key not in before.models] if before else []
    numbering = change.numbering.as_json() if change.numbering else None
    drafts.add_revision(
        tx.connection, document.brief.fabric, document.text, change.parent, change.note, tx.author.name,
        effect(before, compiled), fresh, numbering,
    )  # fmt: skip
    return compiled


def draw(tx: Transaction, document: Document, change: Change, before: Compiled | None) -> Compiled:
    """Compile with the ledger as it is, write the numbers, and step the version.

    `before` is the draft as it stands, or nothing when there is none that can be read. Raises `Refused` with lines, and
    `PoolsGrow` when the brief adds to pools and this transaction is not alone.
    """
    brief, numbering, connection = document.brief, change.numbering, tx.connection
    known = entries.load_pools(connection)
    try:
        asked = ask(brief, known, tx.catalogue().catalogue, before, tx.office())
        if not tx.alone and entries.new_ranges(asked.pools, known):
            raise PoolsGrow
        _same_scopes(tx, asked, before)
        entries.lock_scopes(connection, asked.scopes)
        tx.end_rests(asked.scopes)
        version = drafts.next_version(connection, brief.fabric)
        tx.act(Act(change.act, brief.fabric, version, change.note))
        moves = _moves(tx, asked, numbering, before) if numbering else {}
        loaded = tx.ledger(brief.fabric, before, known, bool(moves))
        compiled = complete(asked, replace(loaded.stock.holdings, moves=moves))
    except Refused as error:
        raise locate(error, document) from None
    entries.write(connection, compiled, loaded)
    derived.write(connection, compiled, before)
    if numbering:
        pins.mark(connection, brief.fabric, numbering.pins)
        compiled = replace(compiled, pinned=pins.all_of(connection, brief.fabric))
    taken = drafts.with_prefix(connection, brief.cable_prefix, brief.fabric)
    if taken:
        raise refuse(
            "cabling.prefix",
            f"Cable labels of {taken} start with {brief.cable_prefix} as well. Give this fabric another cabling.prefix.",
            "cabling.prefix",
            document.lines.get("cabling.prefix", 0),
        )
    tx.drew(brief.fabric, drafts.step(connection, brief.fabric, brief.title, brief.cable_prefix), compiled)
    return compiled


def _moves(
    tx: Transaction, asked: Asked, numbering: Numbering, before: Compiled | None
) -> Mapping[str, Mapping[str, Taken]]:
    moves: dict[str, dict[str, Taken]] = {use: dict(keys) for use, keys in numbering.moves.items()}
    if numbering.pins:
        tx.wrote()
    for use, keys in pins.prepare(tx.connection, asked, numbering.pins, before).items():
        moves.setdefault(use, {}).update(keys)
    return moves


def _same_scopes(tx: Transaction, asked: Asked, before: Compiled | None) -> None:
    """Refuse a change that would take numbers that are held into another scope."""
    brief, spaces = asked.brief, asked.spaces
    if before is not None:
        was = before.spaces
        held = [(use, was[use], len(taken)) for use, taken in before.allocation.numbers.items() if taken]
    else:
        held = entries.held_spaces(tx.connection, brief.fabric)
    for use, space, count in held:
        name = pool_name(brief, use)
        if name and use in spaces and space != spaces[use]:
            raise refuse(
                "pool.scope",
                f"{count} numbers of {use} are held in {space}, and pool {name} is in scope {asked.pools[name].scope}. "
                "Numbers do not change their scope; draw from a pool of the same one.",
                f"pools.{name}",
            )
