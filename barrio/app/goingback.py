"""The way back: the brief of an older edition as the draft, with the numbers that it had where nobody else has them since."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from barrio.app import drawing, kept
from barrio.app.desk import Desk
from barrio.app.drafts import Opened, save
from barrio.app.drawing import Change
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.brief.document import Document, read
from barrio.core.compile import ask
from barrio.core.edits import inverse
from barrio.core.errors import refuse
from barrio.core.ledger.pool import family_of, full_text
from barrio.core.ledger.wanted import ByKey, Taken
from barrio.store import drafts, editions, entries
from barrio.store.pins import Numbering


@dataclass(frozen=True, slots=True)
class NotBack:
    """A number that an edition had and that does not come back: of which key, what it was, what it is now, and why."""

    use: str
    key: str
    was: str
    now: str
    why: str


@dataclass(frozen=True)
class Back:
    """The draft after the way back, and the numbers that are not as they were."""

    opened: Opened
    not_back: list[NotBack]


def go_back(desk: Desk, name: str, number: int, seen: int) -> Back:
    """Make the brief of an older edition the draft. Numbers that it had come back where nobody else has them since; the others are drawn anew and told.

    Raises `Missing`, `Stale`, and `Refused` when that brief cannot be compiled with what there is now.
    """

    def work(tx: Transaction) -> Back:
        head, before = drafts.take(tx.connection, name, seen)
        edition = editions.find(tx.connection, name, number)
        said = kept.inputs(tx, edition)
        now = tx.readable(before)
        scopes = now.scopes if now else frozenset(entries.scopes_held(tx.connection, name))
        entries.lock_scopes(tx.connection, scopes)
        tx.end_rests(scopes)
        brief = read(said.brief)
        moves, taken = moves_to(tx, brief, said.numbers, now)
        held = now.allocation.numbers if now else {}
        was = {use: {key: held[use][key] for key in keys if key in held.get(use, {})} for use, keys in moves.items()}
        change = Change(head, f"back to edition {number}", Numbering(moves, {}, was, {}))
        compiled = drawing.store(tx, brief, change, now)
        return Back(Opened(tx.draft(name), compiled), list(not_back(said.numbers, compiled, taken)))

    return desk.writing(work)


def take_back(desk: Desk, name: str, revision: int, seen: int) -> Opened:
    """Take one change of a draft back and leave those after it. Raises as a save, `Missing`, and `Refused`: `history.overlaid` when a word of it was
    changed again since, `history.end` for the first."""
    with desk.reading() as tx:
        before, after, note = drafts.step_of(tx.connection, name, revision)
    if before is None:
        raise refuse("history.end", "This is how the fabric began; there is nothing before it to go back to.")
    return save(desk, name, seen, lambda now: inverse.take_back(before, after, now), f"taken back: {note}"[:200])


def moves_to(
    tx: Transaction, document: Document, wanted: ByKey, now: Compiled | None
) -> tuple[ByKey, set[tuple[str, str]]]:
    """Which keys are to move to what they had, and which cannot, since others have that."""
    brief = document.brief
    loaded = tx.ledger(brief.fabric, now, with_live=True)
    spaces = ask(brief, loaded.stock.pools, tx.catalogue().catalogue, None, tx.office()).spaces
    holdings = loaded.stock.holdings
    held = holdings.held
    moves: dict[str, dict[str, Taken]] = {}
    taken: set[tuple[str, str]] = set()
    for use, keys in wanted.items():
        mine = held.get(use, {})
        moving = {key for key, at in keys.items() if mine.get(key) != at}
        owners = {at: key for key, at in mine.items()}
        others = holdings.others.get(spaces.get(use, ""))
        for key in moving:
            at = keys[key]
            owner = owners.get(at, key)
            if (owner != key and owner not in moving) or (
                others is not None and others.hit(at.low, at.high) is not None
            ):
                taken.add((use, key))
            elif key in mine or now is None:
                moves.setdefault(use, {})[key] = at
    return moves, taken


def not_back(wanted: ByKey, compiled: Compiled, taken: set[tuple[str, str]]) -> Iterator[NotBack]:
    for use, keys in wanted.items():
        family = family_of(use)
        for key, at in keys.items():
            is_now = compiled.allocation.numbers.get(use, {}).get(key)
            if is_now is not None and is_now != at:
                why = "another has it since" if (use, key) in taken else "its pool gives it to nobody now"
                yield NotBack(
                    use, key, full_text(family, at.low, at.size), full_text(family, is_now.low, is_now.size), why
                )
