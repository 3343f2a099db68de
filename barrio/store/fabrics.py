"""Fabrics and their drafts: every save is one transaction that compiles, draws numbers and adds to the history.

`save` is the only way a draft changes. It takes the version that the caller saw; if the fabric has moved on since, nothing
is written and `Stale` says so. A save, and its numbers, exist wholly or not at all.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from threading import Lock
from typing import Any

import psycopg
from psycopg.types.json import Jsonb
from psycopg_pool import ConnectionPool

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import Document, locate, read
from barrio.core.catalogue.model import SwitchType
from barrio.core.errors import refuse
from barrio.core.sums import effect
from barrio.store import ledger
from barrio.store.catalogue import Models, Shelf
from barrio.store.database import statement

Connections = ConnectionPool[psycopg.Connection[Any]]


class Missing(Exception):
    """There is no such fabric, pool or revision; the message names it."""


class Stale(Exception):
    """The fabric changed after the caller had read it."""

    def __init__(self, fabric: str, seen: int, now: int, note: str) -> None:
        self.fabric, self.seen, self.now = fabric, seen, now
        super().__init__(
            f"{fabric} was changed elsewhere while you were editing (“{note}”); you saw version {seen}, it is now {now}. "
            "Nothing of yours was saved over it. Look at the newer draft, then make your change again."
        )


@dataclass(frozen=True, slots=True)
class Draft:
    """A fabric as it is being changed. `undo` and `redo` are what those would take back or bring back, in words.

    `fresh` are the keys of the switches that the last change brought in,
    and `text_before` the text before it.
    """

    name: str
    version: int
    document: Document
    text_before: str | None
    note: str
    saved_at: datetime
    effect: dict[str, int]
    fresh: list[str]
    undo: str | None
    redo: str | None


@dataclass(frozen=True, slots=True)
class Revision:
    id: int
    note: str
    author: str
    saved_at: datetime
    effect: dict[str, int]
    current: bool


class Fabrics:
    """All fabrics of one database, with the newest compiled state of each kept at hand."""

    def __init__(self, connections: Connections) -> None:
        self._connections = connections
        self._models = Models()
        self._compiled: dict[str, tuple[tuple[int, int], Compiled]] = {}
        self._guard = Lock()

    def catalogue(self) -> Shelf:
        """The models there are now."""
        with self._connections.connection() as connection:
            return self._models.shelf(connection)

    def names(self) -> list[tuple[str, str, int, datetime]]:
        """Every fabric: (name, title, version, when it was last saved)."""
        with self._connections.connection() as connection:
            return connection.execute(statement("list_fabrics")).fetchall()

    def draft(self, name: str) -> Draft:
        with self._connections.connection() as connection:
            return self._draft(connection, name)

    def version(self, name: str) -> int:
        with self._connections.connection() as connection:
            row = connection.execute("select version from fabrics where name = %s", [name]).fetchone()
        if row is None:
            raise _missing(name)
        return int(row[0])

    def _draft(self, connection: ledger.Connection, name: str) -> Draft:
        row = connection.execute(statement("draft"), {"name": name}).fetchone()
        if row is None:
            raise _missing(name)
        version, text, before, note, saved_at, counts, fresh, undo, redo = row
        return Draft(name, version, read(text), before, note, saved_at, counts, fresh, undo, redo)

    def compiled(self, draft: Draft) -> Compiled:
        """The compiled fabric of a draft; compiled again only when the version at hand is another."""
        with self._connections.connection() as connection:
            return self._compile(connection, draft)

    def _at_hand(self, name: str, version: tuple[int, int]) -> Compiled | None:
        with self._guard:
            at, compiled = self._compiled.get(name, ((0, 0), None))
        return compiled if at == version else None

    def _compile(self, connection: ledger.Connection, draft: Draft) -> Compiled:
        """As `compiled`, on a connection that is open already: a writer never waits for a second one."""
        shelf = self._models.shelf(connection)
        version = (draft.version, shelf.version)
        found = self._at_hand(draft.name, version)
        if found is not None:
            return found
        book, _ = ledger.load(connection, draft.name)
        compiled = compile(draft.document.brief, book, shelf.catalogue)
        self._remember(draft.name, version, compiled)
        return compiled

    def _remember(self, name: str, version: tuple[int, int], compiled: Compiled) -> None:
        with self._guard:
            known = self._compiled.get(name)
            if known is None or known[0] <= version:
                self._compiled[name] = (version, compiled)

    def create(self, text: str, note: str = "made", author: str = "") -> Draft:
        """A new fabric from the text of its brief.

        Raises `Refused` for what is wrong with the brief, or when the name or the cable prefix is taken.
        """
        document = read(text)
        brief = document.brief
        with self._connections.connection() as connection:
            ledger.lock(connection)
            if connection.execute("select 1 from fabrics where name = %s", [brief.fabric]).fetchone():
                raise refuse(
                    "fabric.twice", f"There is a fabric called {brief.fabric} already. Choose another name.", "fabric"
                )
            connection.execute(
                "insert into fabrics (name, title, cable_prefix, version) values (%s, %s, %s, 0)",
                [brief.fabric, brief.title, f"new fabric {brief.fabric}"],
            )
            compiled, shelf = self._store(connection, document, None, note, author, None)
        self._remember(brief.fabric, (1, shelf.version), compiled)
        return self.draft(brief.fabric)

    def save(self, name: str, seen: int, change: Callable[[str], str], note: str, author: str = "") -> Draft:
        """Change the draft's text, if it still is the version that was seen.

        Raises `Missing`, `Stale`, or `Refused` when the changed brief cannot be compiled; then nothing is written.
        """
        with self._connections.connection() as connection:
            head, before = self._begin(connection, name, seen)
            document = read(change(before.document.text))
            if document.brief.fabric != name:
                raise refuse(
                    "fabric.renamed",
                    f"A fabric keeps its name, {name}; change its title instead.",
                    "fabric",
                    document.lines.get("fabric", 0),
                )
            if document.text == before.document.text:
                return before
            known = self._compile(connection, before)
            compiled, shelf = self._store(connection, document, head, note, author, known)
        self._remember(name, (seen + 1, shelf.version), compiled)
        return self.draft(name)

    def preview(self, name: str, change: Callable[[str], str]) -> Compiled:
        """What a change would compile to; writes nothing. Raises like `save`."""
        with self._connections.connection() as connection:
            before = self._draft(connection, name)
            document = read(change(before.document.text))
            shelf = self._models.shelf(connection)
            book, _ = ledger.load(connection, name)
            connection.rollback()
        try:
            return compile(document.brief, book, shelf.catalogue)
        except Refused as error:
            raise locate(error, document) from None

    def undo(self, name: str, seen: int) -> Draft:
        """Go back to the state before the last change. Raises `Refused` when there is none."""
        return self._move(name, seen, "undo_target", "There is nothing to undo.")

    def redo(self, name: str, seen: int) -> Draft:
        """Bring back what was undone last. Raises `Refused` when there is nothing."""
        return self._move(name, seen, "redo_target", "There is nothing to redo.")

    def _move(self, name: str, seen: int, target: str, nothing: str) -> Draft:
        with self._connections.connection() as connection:
            _, before = self._begin(connection, name, seen)
            row = connection.execute(statement(target), {"name": name}).fetchone()
            if row is None:
                raise refuse("history.end", nothing)
            revision, text = row
            compiled, shelf = self._draw(connection, read(text), self._compile(connection, before))
            connection.execute("update fabrics set head = %s where name = %s", [revision, name])
        self._remember(name, (seen + 1, shelf.version), compiled)
        return self.draft(name)

    def history(self, name: str) -> list[Revision]:
        """The revisions of a fabric, newest first."""
        with self._connections.connection() as connection:
            rows = connection.execute(statement("history"), {"name": name}).fetchall()
        if not rows:
            raise _missing(name)
        return [Revision(*row) for row in rows]

    def _begin(self, connection: ledger.Connection, name: str, seen: int) -> tuple[int, Draft]:
        """Take the ledger's lock, and make sure that the fabric is still at the version that was seen."""
        ledger.lock(connection)
        row = connection.execute("select head, version from fabrics where name = %s for update", [name]).fetchone()
        if row is None:
            raise _missing(name)
        before = self._draft(connection, name)
        if before.version != seen:
            raise Stale(name, seen, before.version, before.note)
        return int(row[0]), before

    def _store(
        self,
        connection: ledger.Connection,
        document: Document,
        parent: int | None,
        note: str,
        author: str,
        before: Compiled | None,
    ) -> tuple[Compiled, Shelf]:
        compiled, shelf = self._draw(connection, document, before)
        brief = document.brief
        fresh = _fresh(before, compiled) if before else []
        row = connection.execute(
            "insert into revisions (fabric, parent, brief, note, author, effect, fresh) "
            "values (%s, %s, %s, %s, %s, %s, %s) returning id",
            [brief.fabric, parent, document.text, note, author, Jsonb(effect(before, compiled)), fresh],
        ).fetchone()
        assert row is not None
        connection.execute("update fabrics set head = %s where name = %s", [row[0], brief.fabric])
        return compiled, shelf

    def _draw(
        self, connection: ledger.Connection, document: Document, before: Compiled | None
    ) -> tuple[Compiled, Shelf]:
        """Compile with the ledger as it is, write the numbers, and step the version."""
        brief = document.brief
        shelf = self._models.shelf(connection)
        book, resting_ids = ledger.load(connection, brief.fabric, before)
        try:
            compiled = compile(brief, book, shelf.catalogue, previous=before)
        except Refused as error:
            raise locate(error, document) from None
        ledger.write(connection, compiled, resting_ids)
        taken = connection.execute(
            "select name from fabrics where cable_prefix = %s and name <> %s", [brief.cable_prefix, brief.fabric]
        ).fetchone()
        if taken:
            raise refuse(
                "cabling.prefix",
                f"Cable labels of {taken[0]} start with {brief.cable_prefix} as well. Give this fabric another cabling.prefix.",
                "cabling.prefix",
                document.lines.get("cabling.prefix", 0),
            )
        connection.execute(
            "update fabrics set title = %s, cable_prefix = %s, version = version + 1 where name = %s",
            [brief.title, brief.cable_prefix, brief.fabric],
        )
        return compiled, shelf

    def try_model(self, kind: SwitchType) -> list[ModelEffect]:
        """What adding or changing a model would do to each fabric that uses it; writes nothing."""
        with self._connections.connection() as connection:
            found = [self._with_model(connection, name, kind)[0] for name in self._using(connection, kind.id)]
            connection.rollback()
        return found

    def put_model(self, kind: SwitchType, author: str = "") -> list[ModelEffect]:
        """Add or change a model, and draw the fabrics that use it again: all of them, or nothing.

        Raises `Refused` when a fabric could not be compiled with the changed model.
        """
        drawn: list[tuple[str, tuple[int, int], Compiled]] = []
        with self._connections.connection() as connection:
            ledger.lock(connection)
            names = self._using(connection, kind.id)
            before = {name: self._compile(connection, self._draft(connection, name)) for name in names}
            effects = [self._with_model(connection, name, kind)[0] for name in names]
            refused = next((found for found in effects if found.refusal), None)
            if refused:
                raise refuse("model.in-use", f"{refused.fabric} uses {kind.id}: {refused.refusal}", "id")
            self._models.put(connection, kind, author)
            for name in names:
                draft = self._draft(connection, name)
                compiled, shelf = self._draw(connection, draft.document, before[name])
                drawn.append((name, (draft.version + 1, shelf.version), compiled))
        for name, version, compiled in drawn:
            self._remember(name, version, compiled)
        return effects

    def drop_model(self, model: str) -> None:
        """Take an own model out. Raises `Missing`, or `Refused` when a fabric uses it."""
        with self._connections.connection() as connection:
            ledger.lock(connection)
            users = self._using(connection, model)
            if users:
                words = f"{model} is used by {', '.join(users)}. Give their switches another model first."
                raise refuse("model.in-use", words, "id")
            if not self._models.drop(connection, model):
                raise Missing(f"There is no model of your own called {model}.")

    def _using(self, connection: ledger.Connection, model: str) -> list[str]:
        found = []
        for name, _, _, _ in connection.execute(statement("list_fabrics")).fetchall():
            compiled = self._compile(connection, self._draft(connection, name))
            if any(switch.type.id == model for switch in compiled.structure.switches):
                found.append(name)
        return found

    def _with_model(
        self, connection: ledger.Connection, name: str, kind: SwitchType
    ) -> tuple[ModelEffect, Compiled | None]:
        draft = self._draft(connection, name)
        before = self._compile(connection, draft)
        book, _ = ledger.load(connection, name, before)
        catalogue = self._models.shelf(connection).catalogue.with_models([kind])
        try:
            after = compile(draft.document.brief, book, catalogue, previous=before)
        except Refused as error:
            return ModelEffect(name, None, error.faults[0].message), None
        return ModelEffect(name, dict(effect(before, after)), None), after


@dataclass(frozen=True, slots=True)
class ModelEffect:
    """What a changed model does to one fabric that uses it: counts, or why it cannot be."""

    fabric: str
    effect: dict[str, int] | None
    refusal: str | None


def _fresh(before: Compiled, after: Compiled) -> list[str]:
    return [key for key in after.models if key not in before.models]


def _missing(name: str) -> Missing:
    return Missing(f"There is no fabric called {name}.")
