"""Numbers that a person moves: drawn anew by today's plans, or fixed by hand."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from barrio.app import drawing
from barrio.app.desk import Desk
from barrio.app.drafts import Opened
from barrio.app.drawing import Change
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.compile import ask
from barrio.core.ledger.renumber import renumbering
from barrio.core.ledger.wanted import ByKey, Taken
from barrio.store import drafts, entries, pins
from barrio.store.drafts import Draft
from barrio.store.entries import Act
from barrio.store.pins import Numbering, Wishes


class _OnlyTried(Exception):
    """All went well, and was not meant."""


def preview(desk: Desk, name: str, uses: Collection[str]) -> tuple[Compiled, ByKey]:
    """Where keys of these uses would move if their numbers were drawn anew, beside how it is now; writes nothing."""
    with desk.reading() as tx:
        draft = tx.draft(name)
        now = tx.compiled(draft)
        return now, _moves(tx, draft, now, uses)


def _moves(tx: Transaction, draft: Draft, now: Compiled, uses: Collection[str]) -> ByKey:
    loaded = tx.ledger(draft.name, now, with_live=True)
    asked = ask(now.brief, loaded.stock.pools, now.catalogue, now, tx.office())
    return renumbering(asked.demands, loaded.stock.holdings, uses)


def renumber(desk: Desk, name: str, seen: int, uses: Collection[str]) -> Opened:
    """Draw the numbers of these uses anew, as `preview` says. Raises as a save."""

    def work(tx: Transaction) -> Opened:
        head, before = drafts.take(tx.connection, name, seen)
        now = tx.compiled(before)
        entries.lock_scopes(tx.connection, now.scopes)
        tx.end_rests(now.scopes)
        moves = _moves(tx, before, now, uses)
        count = sum(len(keys) for keys in moves.values())
        if not count:
            return Opened(before, now)
        note = f"renumbered {', '.join(sorted(use for use in moves if moves[use]))}: {count} numbers"
        return _moved(tx, before, now, head, moves, note)

    return desk.writing(work)


def move(desk: Desk, name: str, seen: int, moves: ByKey, note: str) -> Opened:
    """Move what these keys hold to the numbers named, all at once, so that two may change places. Raises as a save."""

    def work(tx: Transaction) -> Opened:
        head, before = drafts.take(tx.connection, name, seen)
        now = tx.compiled(before)
        entries.lock_scopes(tx.connection, now.scopes)
        return _moved(tx, before, now, head, moves, note)

    return desk.writing(work)


def _moved(tx: Transaction, before: Draft, now: Compiled, head: int, moves: ByKey, note: str) -> Opened:
    numbering = Numbering(moves, {}, _held(now, moves), {})
    compiled = drawing.store(tx, before.document, Change(head, note, numbering), now)
    return Opened(tx.draft(before.name), compiled)


def pin(desk: Desk, name: str, seen: int, wished: Wishes, note: str = "") -> Opened:
    """Fix numbers for keys, or let them go (`None`). Raises as a save, and `Refused` for a number that cannot be pinned."""
    return desk.writing(lambda tx: _pin(tx, name, seen, wished, note))


def _pin(tx: Transaction, name: str, seen: int, wished: Wishes, note: str) -> Opened:
    head, before = drafts.take(tx.connection, name, seen)
    now = tx.compiled(before)
    earlier = pins.of(tx.connection, name, wished)
    words = note or pins.words(wished)
    numbering = Numbering({}, wished, _held(now, wished), earlier)
    compiled = drawing.store(tx, before.document, Change(head, words, numbering), now)
    return Opened(tx.draft(name), compiled)


def pin_many(desk: Desk, wished: Mapping[str, Wishes], kept: list[pins.Keep], note: str, keep: bool = True) -> None:
    """Pin numbers in several fabrics and reserve others, all or nothing; without `keep` only try."""

    def work(tx: Transaction) -> None:
        if kept:
            tx.act(Act("reserved", note=note))
            tx.wrote()
        for one in kept:
            pins.reserve(tx.connection, one, tx.author.name)
        for name in sorted(wished):
            _pin(tx, name, drafts.version(tx.connection, name), wished[name], note)
        if not keep:
            raise _OnlyTried

    try:
        desk.writing(work, alone=True)
    except _OnlyTried:
        return


def _held(compiled: Compiled, keys: Mapping[str, Collection[str]]) -> dict[str, dict[str, Taken]]:
    """What these keys hold now."""
    numbers = compiled.allocation.numbers
    return {
        use: {key: numbers[use][key] for key in wanted if key in numbers.get(use, {})} for use, wanted in keys.items()
    }
