"""Any two bundles held against each other: editions, drafts, other fabrics, and what somebody brought."""

from __future__ import annotations

import re
from uuid import UUID

from barrio.app import editions as use_editions
from barrio.app.desk import Desk, Forbidden
from barrio.app.drafts import load
from barrio.app.output import render
from barrio.app.rights import Right
from barrio.app.transaction import Transaction
from barrio.core.archives import read_archive
from barrio.core.bundle import bundle_files
from barrio.core.compare.bundles import Apart, Files, TextRow, apart, rows
from barrio.core.errors import refuse
from barrio.store import editions
from barrio.store.entries import Act
from barrio.store.errors import Missing


def compare(desk: Desk, name: str, one: str, other: str) -> Apart:
    """What is other between two sides, as `side` names them. Raises `Missing`, `Refused`, `Forbidden`.

    Of two editions only the texts that differ are read.
    """
    ours, theirs = _edition(desk, name, one), _edition(desk, name, other)
    if ours is not None and theirs is not None:
        alike = {path for path, digest in ours.items() if theirs.get(path) == digest}
        with desk.reading() as tx:
            wanted = {digest for side in (ours, theirs) for path, digest in side.items() if path not in alike}
            texts = editions.texts(tx.connection, wanted)
        return apart(
            *({path: texts[digest] for path, digest in side.items() if path not in alike} for side in (ours, theirs))
        )
    return apart(side(desk, name, one), side(desk, name, other))


def _edition(desk: Desk, name: str, said: str) -> dict[str, bytes] | None:
    """The files of a side by their digests, where it is an edition that one may read."""
    words = re.fullmatch(r"edition (\d{1,9})(?: of ([a-z0-9-]{1,60}))?", said)
    if words is None or not desk.may_read(words[2] or name):
        return None
    with desk.reading() as tx:
        return editions.files_of(tx.connection, editions.find(tx.connection, words[2] or name, int(words[1])).id)


def compare_file(desk: Desk, name: str, one: str, other: str, path: str) -> list[TextRow]:
    """One file of two sides, line by line. Raises as `compare`, and `Missing` when neither has it."""
    ours, theirs = side(desk, name, one), side(desk, name, other)
    if path not in ours and path not in theirs:
        raise Missing(f"Neither of the two has a file {path}.")
    return list(rows(ours.get(path, b""), theirs.get(path, b"")))


def side(desk: Desk, name: str, said: str) -> Files:
    """A side by its name: `draft`, `edition 3`, `fabric tern`, `edition 3 of tern`, or `brought <id>`."""
    if said == "draft":
        return _draft(desk, name)
    words = re.fullmatch(
        r"edition (\d{1,9})(?: of ([a-z0-9-]{1,60}))?|fabric ([a-z0-9-]{1,60})|brought ([0-9a-f-]{36})", said
    )
    if words is None:
        raise refuse(
            "compare.side",
            "A side is draft, edition 3, edition 3 of tern, fabric tern, or a bundle that was brought.",
            "one",
        )
    number, of, fabric, brought = words.groups()
    if brought:
        return read_archive(_brought(desk, name, brought))
    other = fabric or of or name
    if not desk.may_read(other):
        raise Forbidden(Right.READ, other, [])
    return use_editions.files(desk, other, int(number)) if number else _draft(desk, other)


def _draft(desk: Desk, name: str) -> Files:
    """The bundle of a draft, to be looked at."""
    found = load(desk, name)
    with desk.house.gate.room_for(len(found.compiled.staged)):
        render(found)
        return bundle_files(found.draft.document, found.compiled, leaves=False)


def _brought(desk: Desk, name: str, identity: str) -> bytes:
    with desk.reading() as tx:
        try:
            row = tx.connection.execute(
                "select content from brought where fabric = %s and id = %s", [name, UUID(identity)]
            ).fetchone()
        except ValueError:
            row = None
    if row is None:
        raise Missing("That bundle is not here any more; bring it again.")
    return bytes(row[0])


def bring(desk: Desk, name: str, called: str, content: bytes) -> UUID:
    """Keep a bundle for a day, to hold it against others. Raises `Missing`, and `Refused` (`archive.*`)."""
    read_archive(content)

    def work(tx: Transaction) -> UUID:
        tx.draft(name)
        tx.act(Act("bundle brought to compare", name, note=called[:120], topic="draft"))
        tx.connection.execute("delete from brought where at < now() - interval '1 day'")
        row = tx.connection.execute(
            "insert into brought (fabric, name, content, author) values (%s, %s, %s, %s) returning id",
            [name, called[:120], content, tx.author.name],
        ).fetchone()
        assert row is not None
        found: UUID = row[0]
        return found

    return desk.writing(work)
