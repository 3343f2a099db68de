"""Any two bundles held against each other: editions, drafts, other fabrics, and what somebody brought."""

from __future__ import annotations

import re
from uuid import UUID

from barrio.app import editions as use_editions
from barrio.app import kept
from barrio.app.desk import Desk, Forbidden
from barrio.app.drafts import load
from barrio.app.leaving import while_wanted
from barrio.app.output import render
from barrio.app.rights import Right
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.archives import read_archive
from barrio.core.bundle import bundle_files, sheets, switch_files
from barrio.core.compare.bundles import Apart, Files, TextRow, apart, rows
from barrio.core.edition import program
from barrio.core.errors import Refused, refuse
from barrio.store import editions
from barrio.store.entries import Act
from barrio.store.errors import Missing


def compare(desk: Desk, name: str, one: str, other: str) -> Apart:
    """What is other between two sides, as `side` names them. Raises `Missing`, `Refused`, `Forbidden`.

    Of two editions only the texts that differ are read, and of a draft beside an edition only the switches that differ are rendered.
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
    if "draft" in (one, other):
        near = _beside(desk, name, other if one == "draft" else one)
        if near is not None:
            return apart(*(near if other == "draft" else near[::-1]))
    return apart(side(desk, name, one), side(desk, name, other))


def _beside(desk: Desk, name: str, said: str) -> tuple[Files, Files] | None:
    """What may be other between an edition of a fabric and its draft: no file of a switch whose model and target are the same. Nothing where the side
    is no such edition, or where another program wrote its files, which may have said the same otherwise."""
    words = re.fullmatch(r"edition (\d{1,9})(?: of ([a-z0-9-]{1,60}))?", said)
    if words is None or words[2] not in (None, name):
        return None
    with desk.reading() as tx:
        draft, edition = tx.draft(name), editions.find(tx.connection, name, int(words[1]))
        if edition.program != program():
            return None
        after = tx.compiled(draft)
        try:
            before = kept.compiled(tx, edition, after)
        except Refused:
            return None
        kept.fill(tx, edition, before, after)
    with desk.house.gate.room_for(len(after.staged)):
        there = {switch.key: switch for switch in before.staged}
        alike = {
            switch.key
            for switch in after.staged
            if switch.key in there
            and before.models[switch.key] is after.models[switch.key]
            and before.targets[switch.key] == after.targets[switch.key]
        }
        same = _same_sheets(before, after)
        return (
            _sheets_of(desk, edition, same) | _others(before, alike),
            sheets(draft.document, after, same) | _others(after, alike),
        )


def _others(compiled: Compiled, alike: set[str]) -> dict[str, bytes]:
    """The files of all switches that are not alike."""
    others = (switch for switch in while_wanted(compiled.staged) if switch.key not in alike)
    return {path: content for switch in others for path, content in switch_files(compiled, switch).items()}


def _same_sheets(before: Compiled, after: Compiled) -> frozenset[str]:
    """The large files about a whole fabric that must read the same, since what they tell is the same."""
    same = {
        "numbers.csv": before.allocation.numbers == after.allocation.numbers,
        "cabling.csv": before.laid == after.laid,
    }
    return frozenset(path for path, holds in same.items() if holds)


def _sheets_of(desk: Desk, edition: editions.Edition, but: frozenset[str]) -> dict[str, bytes]:
    """The files of an edition that are about the whole fabric, without some."""
    with desk.reading() as tx:
        paths = editions.files_of(tx.connection, edition.id)
        whole = {path: digest for path, digest in paths.items() if not path.startswith("switches/") and path not in but}
        texts = editions.texts(tx.connection, whole.values())
    return {path: texts[digest] for path, digest in whole.items()}


def _edition(desk: Desk, name: str, said: str) -> dict[str, bytes] | None:
    """The files of a side by their digests, where it is an edition that one may read."""
    words = re.fullmatch(r"edition (\d{1,9})(?: of ([a-z0-9-]{1,60}))?", said)
    if words is None or not desk.may_read(words[2] or name):
        return None
    with desk.reading() as tx:
        return editions.files_of(tx.connection, editions.find(tx.connection, words[2] or name, int(words[1])).id)


def compare_file(desk: Desk, name: str, one: str, other: str, path: str) -> list[TextRow]:
    """One file of two sides, line by line. Raises as `compare`, and `Missing` when neither has it."""
    ours, theirs = _file(desk, name, one, path), _file(desk, name, other, path)
    if ours is None and theirs is None:
        raise Missing(f"Neither of the two has a file {path}.")
    return list(rows(ours or b"", theirs or b""))


def _file(desk: Desk, name: str, said: str, path: str) -> bytes | None:
    """One file of a side, where it has it; of an edition only that is read, of a draft only that switch rendered."""
    digests = _edition(desk, name, said)
    if digests is not None:
        if path not in digests:
            return None
        with desk.reading() as tx:
            return editions.texts(tx.connection, [digests[path]])[digests[path]]
    top, _, rest = path.partition("/")
    if said == "draft" and top == "switches":
        found = load(desk, name).compiled
        switch = next((one for one in found.staged if one.name == rest.partition("/")[0]), None)
        return switch_files(found, switch).get(path) if switch else None
    return side(desk, name, said).get(path)


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
