"""Editions: a draft is sealed, or given up for the edition that it came from."""

from __future__ import annotations

from barrio.app import drafts as use_drafts
from barrio.app.desk import Desk
from barrio.app.drafts import Opened
from barrio.app.transaction import Transaction
from barrio.core.errors import refuse
from barrio.store import drafts, entries
from barrio.store.entries import Act


def seal(desk: Desk, name: str, seen: int, note: str = "") -> Opened:
    """Make the draft an edition: what it holds is live, and what it gave back of the edition before rests."""

    def work(tx: Transaction) -> Opened:
        head, before = drafts.take(tx.connection, name, seen)
        now = tx.compiled(before)
        entries.lock_scopes(tx.connection, now.scopes)
        tx.act(Act("sealed", name, seen, note))
        entries.seal(tx.connection, name)
        drafts.seal(tx.connection, name, head)
        return Opened(tx.draft(name), now)

    return desk.writing(work)


def discard(desk: Desk, name: str, seen: int) -> Opened:
    """Go back to the newest edition: its numbers stay, and only what the draft held is given back."""
    with desk.reading() as tx:
        tx.draft(name)
        sealed = drafts.sealed_text(tx.connection, name)
    if sealed is None:
        raise refuse("draft.no-edition", f"{name} has no edition yet to go back to. Undo goes back step by step.")
    return use_drafts.save(desk, name, seen, lambda _: sealed, "draft discarded")
