"""Fabrics and their drafts: every change is one transaction that compiles, draws numbers and adds to the history.

A change takes the version that the caller saw; if the fabric has moved on since, nothing is written and `Stale` says so. A
change, and its numbers, exist wholly or not at all.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from threading import Lock
from typing import Any, Literal, TypeVar

import psycopg
from psycopg import errors
from psycopg.types.json import Jsonb
from psycopg_pool import ConnectionPool

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import Document, locate, read
from barrio.core.brief.model import Brief
from barrio.core.catalogue.model import SwitchType
from barrio.core.errors import refuse
from barrio.core.ledger.demand import demands_of, pool_name, pools_of, space_of
from barrio.core.ledger.pool import Pool
from barrio.core.ledger.renumber import renumbering
from barrio.core.ledger.wanted import ByKey, Taken
from barrio.core.sums import effect
from barrio.store import derived, ledger, pins
from barrio.store.catalogue import Models, Shelf
from barrio.store.database import statement
from barrio.store.drafts import Draft, Missing, ModelEffect, Raced, Revision, Stale
from barrio.store.occupancy import Occupancy
from barrio.store.pins import Numbering

T = TypeVar("T")
Connections = ConnectionPool[psycopg.Connection[Any]]


class _OnlyTried(Exception):
    """All went well, and was not meant."""


class _PoolsGrow(Exception):
    """This change adds to pools, so it has to be alone."""


@dataclass(frozen=True, slots=True)
class _Change:
    """What is done to a draft: under which lock, after which revision, in whose words, and what it moves or pins."""

    alone: bool
    parent: int | None
    note: str
    author: str = ""
    numbering: Numbering | None = None
    act: str = "draft saved"


class Fabrics:
    """All fabrics of one database, with the newest compiled state of each kept at hand."""

    def __init__(self, connections: Connections) -> None:
        self._connections = connections
        self._models = Models()
        self._occupancy = Occupancy()
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
            return self._version(connection, name)

    def _version(self, connection: ledger.Connection, name: str) -> int:
        row = connection.execute("select version from fabrics where name = %s", [name]).fetchone()
        if row is None:
            raise _missing(name)
        return int(row[0])

    def _draft(self, connection: ledger.Connection, name: str) -> Draft:
        row = connection.execute(statement("draft"), {"name": name}).fetchone()
        if row is None:
            raise _missing(name)
        return Draft(name, *row)

    def compiled(self, draft: Draft) -> Compiled:
        """The compiled fabric of a draft; compiled again only when the version at hand is another.

        Raises `Refused`, with lines, for a draft that an earlier Barrio took and this one does not.
        """
        with self._connections.connection() as connection:
            return self._compile(connection, draft)

    def readable(self) -> dict[str, Compiled]:
        """Every fabric that can be compiled, by name."""
        return {draft.name: found for draft, found in self.all() if isinstance(found, Compiled)}

    def all(self) -> Iterator[tuple[Draft, Compiled | Refused]]:
        """Every fabric, the one saved last first, compiled or with why it cannot be."""
        for name, *_ in self.names():
            try:
                draft = self.draft(name)
            except Missing:
                continue
            try:
                yield draft, self.compiled(draft)
            except Refused as refusal:
                yield draft, refusal

    def _at_hand(self, name: str, version: tuple[int, int]) -> Compiled | None:
        with self._guard:
            at, compiled = self._compiled.get(name, ((0, 0), None))
        return compiled if at == version else None

    def _compile(self, connection: ledger.Connection, draft: Draft) -> Compiled:
        """As `compiled`, on a connection that is open already: a writer never waits for a second one."""
        shelf = self._models.shelf(connection)
        version = (draft.version, shelf.stamp)
        found = self._at_hand(draft.name, version)
        if found is not None:
            return found
        document = draft.document
        loaded = ledger.load(connection, self._occupancy, draft.name)
        try:
            compiled = compile(document.brief, loaded.ledger, shelf.catalogue)
        except Refused as error:
            raise locate(error, document) from None
        self._remember(draft.name, version, compiled)
        return compiled

    def _before(self, connection: ledger.Connection, draft: Draft) -> Compiled | None:
        """What a change starts from; nothing when the draft cannot be read, for then the change may be what mends it."""
        try:
            return self._compile(connection, draft)
        except Refused:
            return None

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

        def make(connection: ledger.Connection, alone: bool) -> tuple[Compiled, int]:
            if connection.execute("select 1 from fabrics where name = %s", [brief.fabric]).fetchone():
                raise refuse(
                    "fabric.twice", f"There is a fabric called {brief.fabric} already. Choose another name.", "fabric"
                )
            connection.execute(
                "insert into fabrics (name, title, cable_prefix, version) values (%s, %s, %s, 0)",
                [brief.fabric, brief.title, f"new fabric {brief.fabric}"],
            )
            return self._store(connection, document, _Change(alone, None, note, author), None)

        compiled, stamp = self.write(make)
        self._remember(brief.fabric, (1, stamp), compiled)
        return self.draft(brief.fabric)

    def write(self, work: Callable[[ledger.Connection, bool], T]) -> T:
        """Do work that draws numbers, in one transaction under the pools' lock.

        Shared with others at first; when the work finds that pools change with it (`_PoolsGrow`), again and alone. Raises
        what the work raises, and `Raced` when the database refused a number that looked free.
        """
        for alone in (False, True):
            try:
                with self._connections.connection() as connection:
                    ledger.lock_pools(connection, alone)
                    return work(connection, alone)
            except _PoolsGrow:
                if alone:
                    raise
            except (errors.ExclusionViolation, errors.UniqueViolation) as error:
                self._occupancy.forget()
                raise Raced(error.diag.message_detail or str(error)) from error
        raise AssertionError("the second try either returns or raises")

    def save(self, name: str, seen: int, change: Callable[[str], str], note: str, author: str = "") -> Draft:
        """Change the draft's text, if it still is the version that was seen.

        Raises `Missing`, `Stale`, or `Refused` when the changed brief cannot be compiled; then nothing is written.
        """

        def work(connection: ledger.Connection, alone: bool) -> tuple[Compiled, int] | None:
            head, before = self.begin(connection, name, seen)
            document = read(change(before.text))
            if document.brief.fabric != name:
                raise refuse(
                    "fabric.renamed",
                    f"A fabric keeps its name, {name}; change its title instead.",
                    "fabric",
                    document.lines.get("fabric", 0),
                )
            if document.text == before.text:
                return None
            change_of = _Change(alone, head, note, author)
            return self._store(connection, document, change_of, self._before(connection, before))

        return self._done(name, seen, self.write(work))

    def _done(self, name: str, seen: int, stored: tuple[Compiled, int] | None) -> Draft:
        if stored is not None:
            self._remember(name, (seen + 1, stored[1]), stored[0])
        return self.draft(name)

    def renumbering(self, name: str, uses: Collection[str]) -> ByKey:
        """Where keys of these uses would move if their numbers were drawn anew; writes nothing."""
        with self._connections.connection() as connection:
            draft = self._draft(connection, name)
            return self._moves(connection, draft, self._compile(connection, draft), uses)

    def _moves(self, connection: ledger.Connection, draft: Draft, now: Compiled, uses: Collection[str]) -> ByKey:
        loaded = ledger.load(connection, self._occupancy, draft.name, now, with_live=True)
        demands = demands_of(now.brief, now.structure, pools_of(now.brief, loaded.ledger.pools))
        return renumbering(demands, loaded.ledger.holdings, uses)

    def renumber(self, name: str, seen: int, uses: Collection[str], author: str = "") -> Draft:
        """Draw the numbers of these uses anew, as `renumbering` says. Raises as `save`."""

        def work(connection: ledger.Connection, alone: bool) -> tuple[Compiled, int] | None:
            head, before = self.begin(connection, name, seen)
            now = self._compile(connection, before)
            scopes = _scopes(before.document.brief, now.pools)
            ledger.lock_scopes(connection, scopes)
            ledger.end_rests(connection, scopes)
            moves = self._moves(connection, before, now, uses)
            count = sum(len(keys) for keys in moves.values())
            if not count:
                return None
            note = f"renumbered {', '.join(sorted(use for use in moves if moves[use]))}: {count} numbers"
            numbering = Numbering(moves, {}, _held(now, moves), {})
            return self._store(connection, before.document, _Change(alone, head, note, author, numbering), now)

        return self._done(name, seen, self.write(work))

    def pin(self, name: str, seen: int, wished: pins.Wishes, author: str = "", note: str = "") -> Draft:
        """Fix numbers for keys, or let them go (`None`). Raises as `save`, and `Refused` for a number that cannot be pinned."""
        return self._done(
            name, seen, self.write(lambda open_, alone: self._pin(open_, alone, name, seen, wished, author, note))
        )

    def _pin(
        self,
        connection: ledger.Connection,
        alone: bool,
        name: str,
        seen: int,
        wished: pins.Wishes,
        author: str,
        note: str,
    ) -> tuple[Compiled, int]:
        head, before = self.begin(connection, name, seen)
        now = self._compile(connection, before)
        earlier = pins.of(connection, name, wished)
        words = note or pins.words(wished)
        numbering = Numbering({}, wished, _held(now, wished), earlier)
        return self._store(connection, before.document, _Change(alone, head, words, author, numbering), now)

    def pin_many(
        self, wished: Mapping[str, pins.Wishes], kept: list[pins.Keep], author: str, note: str, keep: bool = True
    ) -> None:
        """Pin numbers in several fabrics and reserve others, all or nothing; without `keep` only try."""

        def work(connection: ledger.Connection, alone: bool) -> list[tuple[str, int, Compiled, int]]:
            if not alone:
                raise _PoolsGrow
            if kept:
                ledger.open_change(connection, ledger.Act("reserved", author, note=note))
            for one in kept:
                pins.reserve(connection, one, author)
            done = []
            for name in sorted(wished):
                seen = self._version(connection, name)
                done.append((name, seen, *self._pin(connection, alone, name, seen, wished[name], author, note)))
            if not keep:
                raise _OnlyTried
            return done

        try:
            done = self.write(work)
        except _OnlyTried:
            self._occupancy.forget()
            return
        except Exception:
            # A later fabric has read what an earlier one wrote, and all of it is undone now.
            self._occupancy.forget()
            raise
        for name, seen, compiled, stamp in done:
            self._remember(name, (seen + 1, stamp), compiled)

    def seal(self, name: str, seen: int, author: str = "", note: str = "") -> Draft:
        """Make the draft an edition: what it holds is live, and what it gave back of the edition before rests."""

        def work(connection: ledger.Connection, alone: bool) -> None:
            head, before = self.begin(connection, name, seen)
            now = self._compile(connection, before)
            ledger.lock_scopes(connection, _scopes(before.document.brief, now.pools))
            ledger.open_change(connection, ledger.Act("sealed", author, name, seen, note))
            connection.execute(statement("seal_entries"), {"fabric": name})
            connection.execute("update fabrics set sealed = %s where name = %s", [head, name])

        self.write(work)
        return self.draft(name)

    def discard(self, name: str, seen: int, author: str = "") -> Draft:
        """Go back to the newest edition: its numbers stay, and only what the draft held is given back."""
        with self._connections.connection() as connection:
            draft = self._draft(connection, name)
            row = connection.execute(
                "select revisions.brief from fabrics join revisions on revisions.id = fabrics.sealed where fabrics.name = %s",
                [name],
            ).fetchone()
        if row is None:
            raise refuse("draft.no-edition", f"{name} has no edition yet to go back to. Undo goes back step by step.")
        if draft.text == row[0]:
            return draft
        return self.save(name, seen, lambda _: str(row[0]), "draft discarded", author)

    def preview(self, name: str, change: Callable[[str], str]) -> Compiled:
        """What a change would compile to; writes nothing. Raises like `save`."""
        with self._connections.connection() as connection:
            before = self._draft(connection, name)
            document = read(change(before.text))
            shelf = self._models.shelf(connection)
            loaded = ledger.load(connection, self._occupancy, name, self._at_hand(name, (before.version, shelf.stamp)))
            connection.rollback()
        try:
            return compile(document.brief, loaded.ledger, shelf.catalogue)
        except Refused as error:
            raise locate(error, document) from None

    def undo(self, name: str, seen: int, author: str = "") -> Draft:
        """Go back to the state before the last change. Raises `Refused` when there is none."""
        return self._move(name, seen, "undo", author)

    def redo(self, name: str, seen: int, author: str = "") -> Draft:
        """Bring back what was undone last. Raises `Refused` when there is nothing."""
        return self._move(name, seen, "redo", author)

    def _move(self, name: str, seen: int, way: Literal["undo", "redo"], author: str) -> Draft:
        def work(connection: ledger.Connection, alone: bool) -> tuple[Compiled, int]:
            _, before = self.begin(connection, name, seen)
            row = connection.execute(statement(f"{way}_target"), {"name": name}).fetchone()
            if row is None:
                raise refuse("history.end", f"There is nothing to {way}.")
            revision, text, said = row
            numbering = Numbering.read(said, back=way == "undo") if said else None
            note = before.note if way == "undo" else before.redo or ""
            act = "undone" if way == "undo" else "redone"
            change = _Change(alone, None, note, author, numbering, act)
            drawn = self._draw(connection, read(text), change, self._before(connection, before))
            connection.execute("update fabrics set head = %s where name = %s", [revision, name])
            return drawn

        return self._done(name, seen, self.write(work))

    def history(self, name: str) -> list[Revision]:
        """The revisions of a fabric, newest first."""
        with self._connections.connection() as connection:
            rows = connection.execute(statement("history"), {"name": name}).fetchall()
        if not rows:
            raise _missing(name)
        return [Revision(*row) for row in rows]

    def begin(self, connection: ledger.Connection, name: str, seen: int) -> tuple[int, Draft]:
        """Take the fabric for ourselves, and make sure that it is still at the version that was seen."""
        row = connection.execute("select head from fabrics where name = %s for update", [name]).fetchone()
        if row is None:
            raise _missing(name)
        before = self._draft(connection, name)
        if before.version != seen:
            raise Stale(name, seen, before.version, before.note)
        return int(row[0]), before

    def _store(
        self, connection: ledger.Connection, document: Document, change: _Change, before: Compiled | None
    ) -> tuple[Compiled, int]:
        compiled, stamp = self._draw(connection, document, change, before)
        brief = document.brief
        fresh = _fresh(before, compiled) if before else []
        numbering = Jsonb(change.numbering.as_json()) if change.numbering else None
        row = connection.execute(
            "insert into revisions (fabric, parent, brief, note, author, effect, fresh, numbering) "
            "values (%s, %s, %s, %s, %s, %s, %s, %s) returning id",
            [brief.fabric, change.parent, document.text, change.note, change.author, Jsonb(effect(before, compiled)),
             fresh, numbering],
        ).fetchone()  # fmt: skip
        assert row is not None
        connection.execute("update fabrics set head = %s where name = %s", [row[0], brief.fabric])
        return compiled, stamp

    def _draw(
        self, connection: ledger.Connection, document: Document, change: _Change, before: Compiled | None
    ) -> tuple[Compiled, int]:
        """Compile with the ledger as it is, write the numbers, and step the version; returns the stamp as well."""
        brief, numbering = document.brief, change.numbering
        shelf = self._models.shelf(connection)
        known = ledger.load_pools(connection)
        try:
            pools = pools_of(brief, known)
            if not change.alone and ledger.new_ranges(pools, known):
                raise _PoolsGrow
            _same_scopes(connection, before, brief, pools)
            scopes = _scopes(brief, pools)
            ledger.lock_scopes(connection, scopes)
            version = connection.execute("select version + 1 from fabrics where name = %s", [brief.fabric]).fetchone()
            ledger.end_rests(connection, scopes)
            act = ledger.Act(change.act, change.author, brief.fabric, version[0] if version else 1, change.note)
            ledger.open_change(connection, act)
            moves: dict[str, dict[str, Taken]] = {}
            if numbering:
                moves = {use: dict(keys) for use, keys in numbering.moves.items()}
                for use, keys in pins.prepare(connection, brief, pools, numbering.pins, before).items():
                    moves.setdefault(use, {}).update(keys)
            loaded = ledger.load(connection, self._occupancy, brief.fabric, before, known, bool(moves))
            book = replace(loaded.ledger, holdings=replace(loaded.ledger.holdings, moves=moves))
            compiled = compile(brief, book, shelf.catalogue, previous=before)
        except Refused as error:
            raise locate(error, document) from None
        ledger.write(connection, compiled, loaded)
        derived.write(connection, compiled, before)
        if numbering:
            pins.mark(connection, brief.fabric, numbering.pins)
            compiled = replace(compiled, pinned=pins.all_of(connection, brief.fabric))
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
        return compiled, self._models.shelf(connection).stamp

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

        def work(
            connection: ledger.Connection, alone: bool
        ) -> tuple[list[ModelEffect], list[tuple[str, int, Compiled]]]:
            if not alone:
                raise _PoolsGrow
            drawn: list[tuple[str, int, Compiled]] = []
            names = self._using(connection, kind.id)
            before = {name: self._compile(connection, self._draft(connection, name)) for name in names}
            effects = [self._with_model(connection, name, kind)[0] for name in names]
            refused = next((found for found in effects if found.refusal), None)
            if refused:
                raise refuse("model.in-use", f"{refused.fabric} uses {kind.id}: {refused.refusal}", "id")
            self._models.put(connection, kind, author)
            for name in names:
                draft = self._draft(connection, name)
                change = _Change(alone, None, f"model {kind.id} changed", author)
                compiled, _ = self._draw(connection, draft.document, change, before[name])
                drawn.append((name, draft.version + 1, compiled))
            return effects, drawn

        try:
            effects, drawn = self.write(work)
        except Exception:
            self._occupancy.forget()
            raise
        with self._connections.connection() as connection:
            stamp = self._models.shelf(connection).stamp
        for name, version, compiled in drawn:
            self._remember(name, (version, stamp), compiled)
        return effects

    def drop_model(self, model: str) -> None:
        """Take an own model out. Raises `Missing`, or `Refused` when a fabric uses it."""
        with self._connections.connection() as connection:
            ledger.lock_pools(connection, alone=True)
            users = self._using(connection, model, unreadable=True)
            if users:
                words = f"{model} is used by {', '.join(users)}. Give their switches another model first."
                raise refuse("model.in-use", words, "id")
            if not self._models.drop(connection, model):
                raise Missing(f"There is no model of your own called {model}.")

    def _using(self, connection: ledger.Connection, model: str, unreadable: bool = False) -> list[str]:
        """The fabrics with a switch of this model; with `unreadable` those as well that name it and cannot be read."""
        found = []
        for name, _, _, _ in connection.execute(statement("list_fabrics")).fetchall():
            draft = self._draft(connection, name)
            compiled = self._before(connection, draft)
            if compiled is None:
                if unreadable and model in draft.text:
                    found.append(name)
            elif any(switch.type.id == model for switch in compiled.structure.switches):
                found.append(name)
        return found

    def _with_model(
        self, connection: ledger.Connection, name: str, kind: SwitchType
    ) -> tuple[ModelEffect, Compiled | None]:
        draft = self._draft(connection, name)
        before = self._compile(connection, draft)
        book = ledger.load(connection, self._occupancy, name, before).ledger
        catalogue = self._models.shelf(connection).catalogue.with_models([kind])
        try:
            after = compile(draft.document.brief, book, catalogue, previous=before)
        except Refused as error:
            return ModelEffect(name, None, error.faults[0].message), None
        return ModelEffect(name, dict(effect(before, after)), None), after


def _scopes(brief: Brief, pools: Mapping[str, Pool]) -> set[str]:
    """The scopes that a fabric draws from."""
    return {pools[name].scope for _, name in brief.numbers}


def _same_scopes(
    connection: ledger.Connection, before: Compiled | None, brief: Brief, pools: Mapping[str, Pool]
) -> None:
    """Refuse a change that would take numbers that are held into another scope."""
    if before is not None:
        held = [
            (use, space_of(before.brief, before.pools, use), len(entries))
            for use, entries in before.allocation.numbers.items()
            if entries
        ]
    else:
        held = connection.execute(statement("held_spaces"), {"fabric": brief.fabric}).fetchall()
    for use, was, count in held:
        name = pool_name(brief, use)
        if name and was != space_of(brief, pools, use):
            raise refuse(
                "pool.scope",
                f"{count} numbers of {use} are held in {was}, and pool {name} is in scope {pools[name].scope}. "
                "Numbers do not change their scope; draw from a pool of the same one.",
                f"pools.{name}",
            )


def _held(compiled: Compiled, keys: Mapping[str, Collection[str]]) -> dict[str, dict[str, Taken]]:
    """What these keys hold now."""
    return {
        use: {key: entries[key] for key in wanted if key in entries}
        for use, wanted in keys.items()
        if (entries := compiled.allocation.numbers.get(use, {})) is not None
    }


def _fresh(before: Compiled, after: Compiled) -> list[str]:
    return [key for key in after.models if key not in before.models]


def _missing(name: str) -> Missing:
    return Missing(f"There is no fabric called {name}.")
