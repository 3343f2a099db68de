"""Fabrics and the revisions of their drafts, as they stand in PostgreSQL."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import cached_property
from typing import Any, Literal

from psycopg.types.json import Jsonb

from barrio.core.brief.document import Document, read
from barrio.store.database import Connection, statement
from barrio.store.errors import Missing, Stale


@dataclass(frozen=True)
class Draft:
    """A fabric as it is being changed. `undo` and `redo` are what those would take back or bring back, in words.

    `fresh` are the keys of the switches that the last change brought in,
    and `text_before` the text before it. The text may be one that an earlier Barrio took and this one refuses.
    """

    name: str
    title: str
    version: int
    text: str
    text_before: str | None
    note: str
    saved_at: datetime
    effect: dict[str, int]
    fresh: list[str]
    sealed: int | None
    undo: str | None
    redo: str | None

    @cached_property
    def document(self) -> Document:
        """The text as it is understood. Raises `Refused` when it is not."""
        return read(self.text)


@dataclass(frozen=True, slots=True)
class Revision:
    id: int
    note: str
    author: str
    saved_at: datetime
    effect: dict[str, int]
    current: bool


@dataclass(frozen=True, slots=True)
class Step:
    """A revision that undo or redo goes to, and what the one that it leaves or takes up did to numbers."""

    revision: int
    text: str
    numbering: Mapping[str, Any] | None


def names(connection: Connection) -> list[tuple[str, str, int, datetime]]:
    """Every fabric: (name, title, version, when it was last saved), the one saved last first."""
    return connection.execute(statement("list_fabrics")).fetchall()


def find(connection: Connection, name: str) -> Draft:
    """The draft of a fabric. Raises `Missing`."""
    row = connection.execute(statement("draft"), {"name": name}).fetchone()
    if row is None:
        raise missing(name)
    return Draft(name, *row)


def version(connection: Connection, name: str) -> int:
    """The version that a fabric is at. Raises `Missing`."""
    row = connection.execute("select version from fabrics where name = %s and head is not null", [name]).fetchone()
    if row is None:
        raise missing(name)
    return int(row[0])


def take(connection: Connection, name: str, seen: int | None) -> tuple[int, Draft]:
    """Take a fabric for ourselves until the transaction ends: (its revision, its draft).

    Raises `Missing`, and `Stale` when it is no longer at the version that was seen, if one was.
    """
    row = connection.execute(
        "select head from fabrics where name = %s and head is not null for update", [name]
    ).fetchone()
    if row is None:
        raise missing(name)
    draft = find(connection, name)
    if seen is not None and draft.version != seen:
        raise Stale(name, seen, draft.version, draft.note)
    return int(row[0]), draft


def text_at(connection: Connection, name: str, version: int) -> str | None:
    """The text that a version of a draft had; nothing when it is too long ago."""
    row = connection.execute(
        "select brief from versions join revisions on revisions.id = revision where versions.fabric = %s and version = %s",
        [name, version],
    ).fetchone()
    return None if row is None else str(row[0])


def author(connection: Connection, name: str) -> str:
    """Who made the draft what it is."""
    row = connection.execute(
        "select author from revisions join fabrics on fabrics.head = revisions.id where fabrics.name = %s", [name]
    ).fetchone()
    return str(row[0]) if row else ""


def history(connection: Connection, name: str) -> list[Revision]:
    """The revisions of a fabric, newest first. Raises `Missing`."""
    rows = connection.execute(statement("history"), {"name": name}).fetchall()
    if not rows:
        raise missing(name)
    return [Revision(*row) for row in rows]


def step_of(connection: Connection, name: str, revision: int) -> tuple[str | None, str, str]:
    """A revision of a fabric: the brief before it, its own, and its words. Raises `Missing`."""
    row = connection.execute(
        "select parents.brief, revisions.brief, revisions.note from revisions left join revisions as parents on parents.id = revisions.parent "
        "where revisions.fabric = %s and revisions.id = %s",
        [name, revision],
    ).fetchone()
    if row is None:
        raise Missing(f"{name} has no such change.")
    return row[0], row[1], row[2]


def add(connection: Connection, name: str) -> bool:
    """A fabric without a draft yet; returns whether the name was free, as that of a deleted one whose numbers rest is."""
    return connection.execute(statement("add_fabric"), {"name": name}).fetchone() is not None


def add_revision(
    connection: Connection,
    name: str,
    text: str,
    parent: int | None,
    note: str,
    author: str,
    effect: Mapping[str, int],
    fresh: list[str],
    numbering: Mapping[str, Any] | None,
) -> None:
    """A new revision, which is then the draft."""
    row = connection.execute(
        "insert into revisions (fabric, parent, brief, note, author, effect, fresh, numbering) "
        "values (%s, %s, %s, %s, %s, %s, %s, %s) returning id",
        [name, parent, text, note, author, Jsonb(effect), fresh, Jsonb(numbering) if numbering else None],
    ).fetchone()
    assert row is not None
    move(connection, name, row[0])


def move(connection: Connection, name: str, revision: int) -> None:
    """Make another revision the draft."""
    connection.execute("update fabrics set head = %s where name = %s", [revision, name])


def next_version(connection: Connection, name: str) -> int:
    """The version that the next change of a fabric makes."""
    row = connection.execute("select version + 1 from fabrics where name = %s", [name]).fetchone()
    return 1 if row is None else int(row[0])


def step(connection: Connection, name: str, title: str, cable_prefix: str) -> int:
    """Count a change, and keep what others look a fabric up by; returns the new version."""
    row = connection.execute(
        "update fabrics set title = %s, cable_prefix = %s, version = version + 1 where name = %s returning version",
        [title, cable_prefix, name],
    ).fetchone()
    assert row is not None
    return int(row[0])


def with_prefix(connection: Connection, cable_prefix: str, but: str) -> str | None:
    """The other fabric whose cable labels start with this prefix."""
    row = connection.execute(
        "select name from fabrics where cable_prefix = %s and name <> %s", [cable_prefix, but]
    ).fetchone()
    return None if row is None else str(row[0])


def target(connection: Connection, name: str, way: Literal["undo", "redo"]) -> Step | None:
    """Where undo or redo goes."""
    row = connection.execute(statement(f"{way}_target"), {"name": name}).fetchone()
    return None if row is None else Step(*row)


def sealed_text(connection: Connection, name: str) -> str | None:
    """The brief of the newest edition."""
    row = connection.execute(
        "select revisions.brief from fabrics join revisions on revisions.id = fabrics.sealed where fabrics.name = %s",
        [name],
    ).fetchone()
    return None if row is None else str(row[0])


def seal(connection: Connection, name: str, revision: int) -> None:
    """Say that a revision is the newest edition."""
    connection.execute("update fabrics set sealed = %s where name = %s", [revision, name])


@dataclass(frozen=True, slots=True)
class Ended:
    """A fabric that was deleted and can be brought back until `until`. `inputs` is what its draft was compiled from, if it could be."""

    name: str
    title: str
    ended_by: str
    until: datetime
    head: int
    inputs: bytes | None


KEPT = "1 day"
"""How long a deleted fabric can be brought back."""


def end(connection: Connection, name: str, who: str, inputs: bytes | None) -> None:
    """Delete a fabric in such a way that it can be brought back."""
    connection.execute(statement("end_fabric"), {"name": name, "who": who, "inputs": inputs})


def ended(connection: Connection) -> list[Ended]:
    """The deleted fabrics that can be brought back, the latest first."""
    rows = connection.execute(
        "select name, title, ended_by, ended_at + %s::interval, ended_head, ended_inputs from fabrics "
        "where ended_at > now() - %s::interval order by ended_at desc",
        [KEPT, KEPT],
    )
    return [Ended(*row) for row in rows]


def take_up(connection: Connection, name: str, head: int) -> None:
    """Make a deleted fabric one that is there, at the revision that it had."""
    connection.execute(
        "update fabrics set head = %s, ended_at = null, ended_head = null, ended_inputs = null, ended_by = '' where name = %s",
        [head, name],
    )


def to_forget(connection: Connection, name: str = "") -> list[str]:
    """Deleted fabrics that cannot be brought back any more, and one that is to be made anew."""
    rows = connection.execute(
        "select name from fabrics where ended_at is not null and (ended_at <= now() - %s::interval or name = %s) for update",
        [KEPT, name],
    )
    return [gone for (gone,) in rows]


def remove(connection: Connection, name: str) -> None:
    """Forget a deleted fabric. Its name stays behind, so that a later fabric of it has later versions."""
    connection.execute("select set_config('barrio.fabric_ends', 'yes', true)")
    connection.execute(statement("remove_fabric"), {"name": name})
    connection.execute(statement("forget_texts"))
    connection.execute("select set_config('barrio.fabric_ends', '', true)")


def missing(name: str) -> Missing:
    return Missing(f"There is no fabric called {name}.")
