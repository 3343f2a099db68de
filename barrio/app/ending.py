"""The end of a fabric, said in numbers first, and the way back from it within a day."""

from __future__ import annotations

from dataclasses import dataclass

from barrio.app import drawing
from barrio.app.desk import Desk
from barrio.app.drafts import Opened, forget_ended
from barrio.app.drawing import Change
from barrio.app.goingback import Back, moves_to, not_back
from barrio.app.transaction import Transaction
from barrio.core.brief.document import read
from barrio.core.edition import digest_of, inputs_of, read_inputs
from barrio.core.errors import refuse
from barrio.store import drafts, editions, entries, record
from barrio.store.drafts import Ended
from barrio.store.editions import pack
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.pins import Numbering


@dataclass(frozen=True, slots=True)
class Ending:
    """What goes with a fabric, in numbers."""

    switches: int
    cables: int
    numbers: int
    changes: int
    editions: int
    deeds: int


def ending(desk: Desk, name: str) -> Ending:
    """What deleting a fabric would take away. Raises `Missing`."""
    with desk.reading() as tx:
        draft = tx.draft(name)
        compiled = tx.readable(draft)
        count = tx.connection.execute(
            "select (select count(*) from entries where fabric = %(name)s and state in ('held', 'live')), (select count(*) from revisions where fabric = %(name)s), "
            "(select count(*) from editions where fabric = %(name)s), (select count(*) from cable_work where fabric = %(name)s)",
            {"name": name},
        ).fetchone()
        assert count is not None
        return Ending(len(compiled.staged) if compiled else 0, len(compiled.leads) if compiled else 0, *count)


def delete(desk: Desk, name: str, seen: int) -> None:
    """End a fabric with its draft, its history and its editions; all its numbers rest. It can be brought back for a day.

    Raises `Missing`, `Stale`, or `Refused` (`fabric.pools`) while a pool is private to it.
    """

    def work(tx: Transaction) -> None:
        _, draft = drafts.take(tx.connection, name, seen)
        private = [pool.name for pool in entries.load_pools(tx.connection).values() if pool.private_to == name]
        if private:
            words = f"{' and '.join(private)} is private to {name}. Share it in the Ledger, or delete it, first."
            raise refuse("fabric.pools", words)
        compiled = tx.readable(draft)
        text = inputs_of(draft.text, compiled, tx.office().files).text() if compiled else None
        entries.lock_scopes(tx.connection, entries.scopes_held(tx.connection, name))
        forget_ended(tx)
        tx.act(Act("fabric deleted", name, seen + 1))
        record.alter(tx.connection, "brief", name, {"brief": draft.text}, None)
        if text is not None and not editions.known(tx.connection, [digest_of(text)]):
            editions.keep_texts(tx.connection, [pack(digest_of(text), text.encode())])
        entries.give_up(tx.connection, name)
        drafts.end(tx.connection, name, tx.author.name, digest_of(text) if text is not None else None)

    desk.writing(work)


def ended(desk: Desk) -> list[Ended]:
    """The deleted fabrics that can be brought back, of those that one may read."""
    with desk.reading() as tx:
        return [one for one in drafts.ended(tx.connection) if desk.may_read(one.name)]


def bring_back(desk: Desk, name: str) -> Back:
    """Bring a deleted fabric back as it was; numbers that others have since are drawn anew and told.

    Raises `Missing` when it was not deleted within a day, and `Refused` when it cannot be compiled any more.
    """

    def work(tx: Transaction) -> Back:
        one = next((one for one in drafts.ended(tx.connection) if one.name == name), None)
        if one is None:
            raise Missing(f"No fabric called {name} was deleted within a day.")
        if one.inputs is None:
            raise refuse(
                "fabric.unreadable", f"{name} could not be read when it was deleted. Its brief stands in the record."
            )
        inputs = read_inputs(editions.texts(tx.connection, [one.inputs])[one.inputs].decode())
        scopes = entries.scopes_held(tx.connection, name)
        entries.lock_scopes(tx.connection, scopes)
        tx.act(Act("brought back", name))
        drafts.take_up(tx.connection, name, one.head)
        brief = read(inputs.brief)
        moves, taken = moves_to(tx, brief, inputs.numbers, None)
        change = Change(None, "brought back", Numbering(moves, {}), "brought back")
        compiled = drawing.draw(tx, brief, change, None)
        return Back(Opened(tx.draft(name), compiled), list(not_back(inputs.numbers, compiled, taken)))

    return desk.writing(work)
