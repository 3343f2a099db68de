"""Fabrics and their drafts: every change is one transaction that compiles, draws numbers and adds to the history.

A change takes the version that the caller saw; if the fabric has moved on since, nothing is written and `Stale` says so. A
change, and its numbers, exist wholly or not at all.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass
from typing import Literal

from barrio.app import drawing
from barrio.app.desk import Desk
from barrio.app.drawing import Change
from barrio.app.transaction import Transaction
from barrio.core import Compiled, Fault, Refused
from barrio.core.brief.compare import changed_paths, touch, words_at
from barrio.core.brief.document import locate, read
from barrio.core.compile import ask, complete
from barrio.core.edits.duplicate import duplicate
from barrio.core.errors import refuse
from barrio.store import drafts, entries
from barrio.store.drafts import Draft, Revision
from barrio.store.entries import Act
from barrio.store.errors import Stale
from barrio.store.pins import Numbering


@dataclass(frozen=True, slots=True)
class Opened:
    """A draft and the fabric that it compiles to."""

    draft: Draft
    compiled: Compiled


def every(desk: Desk) -> list[tuple[Draft, Compiled | Refused]]:
    """Every fabric, the one saved last first, compiled or with why it cannot be."""
    with desk.reading() as tx:
        return [(draft, _found(tx, draft)) for draft in tx.drafts() if desk.may_read(draft.name)]


def _found(tx: Transaction, draft: Draft) -> Compiled | Refused:
    try:
        return tx.compiled(draft)
    except Refused as refusal:
        return refusal


def readable(desk: Desk) -> dict[str, Compiled]:
    """Every fabric that can be compiled, by name."""
    return {draft.name: found for draft, found in every(desk) if isinstance(found, Compiled)}


def load(desk: Desk, name: str) -> Opened:
    """A fabric as it is. Raises `Missing`, or `Refused` with lines when its draft cannot be read any more."""
    with desk.reading() as tx:
        draft = tx.draft(name)
        return Opened(draft, tx.compiled(draft))


def text(desk: Desk, name: str) -> tuple[Draft, tuple[Fault, ...]]:
    """The draft of a fabric and what is wrong with it, also when it cannot be read. Raises `Missing`."""
    with desk.reading() as tx:
        draft = tx.draft(name)
        found = _found(tx, draft)
        return draft, found.faults if isinstance(found, Refused) else ()


def draft(desk: Desk, name: str) -> Draft:
    """The draft of a fabric, not looked into. Raises `Missing`."""
    with desk.reading() as tx:
        return tx.draft(name)


def version(desk: Desk, name: str) -> int:
    """The version that a fabric is at. Raises `Missing`."""
    with desk.reading() as tx:
        return drafts.version(tx.connection, name)


def history(desk: Desk, name: str) -> list[Revision]:
    """The revisions of a fabric, newest first. Raises `Missing`."""
    with desk.reading() as tx:
        return drafts.history(tx.connection, name)


def create(desk: Desk, text: str, note: str = "made") -> Opened:
    """A new fabric from the text of its brief.

    Raises `Refused` for what is wrong with the brief, or when the name or the cable prefix is taken.
    """
    document = read(text)
    name = document.brief.fabric

    def make(tx: Transaction) -> Opened:
        forget_ended(tx, name)
        if not drafts.add(tx.connection, name):
            words = f"There is a fabric called {name} already. Choose another name."
            raise refuse("fabric.twice", words, "fabric", document.lines.get("fabric", 0))
        compiled = drawing.store(tx, document, Change(None, note), None)
        return Opened(tx.draft(name), compiled)

    return desk.writing(make)


def forget_ended(tx: Transaction, name: str = "") -> None:
    """Forget for good what was deleted and cannot be brought back any more, and a deleted fabric that is to be made anew."""
    for gone in drafts.to_forget(tx.connection, name):
        tx.act(Act("deleted fabric forgotten", gone))
        drafts.remove(tx.connection, gone)


def copy(desk: Desk, name: str, other: str) -> Opened:
    """A new fabric with the brief of one that is there. Raises as `load` and `create`."""
    return create(desk, duplicate(draft(desk, name).document, other), f"copied from {name}")


def save(
    desk: Desk, name: str, seen: int, change: Callable[[str], str], note: str, paths: Collection[str] = ()
) -> Opened:
    """Change the draft's text, if it still is the version that was seen, or only other fields than `paths` changed since.

    Raises `Missing`, `Stale`, or `Refused` when the changed brief cannot be compiled; then nothing is written.
    """

    def work(tx: Transaction) -> Opened:
        head, before = drafts.take(tx.connection, name, None if paths else seen)
        if before.version != seen:
            _apart(tx, before, seen, paths)
        document = read(change(before.text))
        if document.brief.fabric != name:
            raise refuse(
                "fabric.renamed",
                f"A fabric keeps its name, {name}; change its title instead.",
                "fabric",
                document.lines.get("fabric", 0),
            )
        if document.text == before.text:
            return Opened(before, tx.compiled(before))
        # A draft that cannot be read may be mended by this very change, so it is no hindrance.
        compiled = drawing.store(tx, document, Change(head, note), tx.readable(before))
        return Opened(tx.draft(name), compiled)

    return desk.writing(work)


def _apart(tx: Transaction, now: Draft, seen: int, paths: Collection[str]) -> None:
    """Raises `Stale` when one of these fields was changed since a version was seen, or nobody knows any more what was."""
    text, who = drafts.text_at(tx.connection, now.name, seen), drafts.author(tx.connection, now.name)
    if text is None:
        raise Stale(now.name, seen, now.version, now.note)
    try:
        then, brief = read(text).brief, now.document.brief
    except Refused:
        raise Stale(now.name, seen, now.version, now.note) from None
    both = [path for path in paths if any(touch(path, other) for other in changed_paths(then, brief))]
    if both:
        said = f"{who or 'Somebody'} changed this meanwhile (“{now.note}”)."
        words = {path: f"{said} It says {words_at(brief, path)} now." for path in both}
        raise Stale(now.name, seen, now.version, now.note, words)


def preview(desk: Desk, name: str, change: Callable[[str], str]) -> Compiled:
    """What a change would compile to; writes nothing. Raises like `save`."""
    with desk.reading() as tx:
        before = tx.draft(name)
        document = read(change(before.text))
        pools = entries.load_pools(tx.connection)
        try:
            known = tx.at_hand(before)
            asked = ask(document.brief, pools, tx.catalogue().catalogue, known, tx.office())
            loaded = tx.ledger(name, known, pools)
            return complete(asked, loaded.stock.holdings)
        except Refused as error:
            raise locate(error, document) from None


def before(desk: Desk, name: str) -> Compiled:
    """The fabric as its brief was before the last change, with the numbers there are now. Raises `Missing`, `Refused` when it has none."""
    text = draft(desk, name).text_before
    if text is None:
        raise refuse("history.end", f"Nothing of {name} was changed since it was made.")
    return preview(desk, name, lambda _: text)


def undo(desk: Desk, name: str, seen: int) -> Opened:
    """Go back to the state before the last change. Raises `Refused` when there is none."""
    return _move(desk, name, seen, "undo")


def redo(desk: Desk, name: str, seen: int) -> Opened:
    """Bring back what was undone last. Raises `Refused` when there is nothing."""
    return _move(desk, name, seen, "redo")


def _move(desk: Desk, name: str, seen: int, way: Literal["undo", "redo"]) -> Opened:
    def work(tx: Transaction) -> Opened:
        _, before = drafts.take(tx.connection, name, seen)
        step = drafts.target(tx.connection, name, way)
        if step is None:
            raise refuse("history.end", f"There is nothing to {way}.")
        numbering = Numbering.read(step.numbering, back=way == "undo") if step.numbering else None
        note = before.note if way == "undo" else before.redo or ""
        change = Change(None, note, numbering, "undone" if way == "undo" else "redone")
        compiled = drawing.draw(tx, read(step.text), change, tx.readable(before))
        drafts.move(tx.connection, name, step.revision)
        return Opened(tx.draft(name), compiled)

    return desk.writing(work)
