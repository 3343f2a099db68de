"""Editions: a draft is sealed, an older one brought back as a draft, or a draft given up for the edition that it came from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from hashlib import sha256

from barrio.app import drafts as use_drafts
from barrio.app import kept, outlets
from barrio.app import reviews as use_reviews
from barrio.app.desk import Desk
from barrio.app.drafts import Opened
from barrio.app.leaving import while_wanted
from barrio.app.transaction import Transaction
from barrio.contained.process import APART
from barrio.core import Compiled, Refused
from barrio.core.brief.document import read
from barrio.core.bundle import bundle_files
from barrio.core.edition import differences, digest_of, inputs_of, program
from barrio.core.errors import refuse
from barrio.core.sums import effect
from barrio.store import drafts, editions, entries, reviews
from barrio.store.drafts import Draft
from barrio.store.editions import Edition, Packed, pack
from barrio.store.entries import Act
from barrio.store.errors import Stale


@dataclass(frozen=True, slots=True)
class Made:
    """What an edition is to keep: inputs and files, by path the digest of each, and the texts themselves, by their digest."""

    inputs: bytes
    files: Mapping[str, bytes]
    texts: Mapping[bytes, bytes]


def seal(desk: Desk, name: str, seen: int, note: str = "", why: str = "", despite: str = "") -> Opened:
    """Make the draft an edition: what it holds is live, and what it gave back of the edition before rests. `despite` says why it is sealed though its change
    drill showed more than its Ripple said.

    Raises `Missing`; `Stale` when draft, office or pools have moved on meanwhile; and `Refused`: `review.*` as long as its rule is not met,
    `edition.same` when nothing is other than in the newest edition, and as the bundle does.
    """
    with desk.reading() as tx:
        draft = tx.draft(name)
        if draft.version != seen:
            raise Stale(name, seen, draft.version, draft.note)
        found, office = tx.compiled(draft), tx.office().files
        use_reviews.check(tx, draft, despite)
        before = kept.base(tx, draft)
        newest = editions.newest(tx.connection, name)
    with desk.house.gate.room_for(len(found.staged)):
        inputs = inputs_of(draft.text, found, office).text()
        if newest is not None and newest.inputs == digest_of(inputs):
            raise refuse("edition.same", f"Nothing of {name} is other than in edition {newest.number}.")
        made = _made(draft, found, inputs)
        with desk.reading() as tx:
            there = editions.known(tx.connection, made.texts)
        packed = [pack(digest, content) for digest, content in while_wanted(made.texts.items()) if digest not in there]
        counts = dict(effect(before, found))

    def work(tx: Transaction) -> Opened:
        head, now = drafts.take(tx.connection, name, seen)
        compiled = tx.compiled(now)
        if compiled is not found and inputs_of(now.text, compiled, tx.office().files).text() != inputs:
            raise Stale(name, seen, now.version, "the office, the catalogue or a pool was changed")
        entries.lock_scopes(tx.connection, compiled.scopes)
        agreed = use_reviews.check(tx, now, despite)
        shown = use_reviews.review_of(tx, now).despite
        offer = reviews.open_offer(tx.connection, name)
        last = editions.newest(tx.connection, name)
        title = note or (offer.title if offer else now.note)
        tx.act(Act("sealed", name, seen, title))
        edition = Edition(
            0, name, last.number + 1 if last else 1, now.version, title, why or (offer.why if offer else ""),
            tx.author.name, offer.author if offer else tx.author.name, agreed, _findings(compiled), counts, program(), made.inputs, now.saved_at,
            f"{shown}. {despite}" if shown else "",
        )  # fmt: skip
        _keep(tx, edition, made, packed)
        if offer is not None:
            reviews.end(tx.connection, offer.id, "sealed")
        entries.seal(tx.connection, name)
        drafts.seal(tx.connection, name, head)
        concerned = {edition.asked_by, *(one["who"] for one in agreed)}
        outlets.tell(tx, name, "sealed", number=edition.number, title=title, why=edition.why, to=sorted(concerned))
        return Opened(tx.draft(name), compiled)

    return desk.writing(work)


def _made(draft: Draft, compiled: Compiled, inputs: str) -> Made:
    files = {
        path: (sha256(content).digest(), content) for path, content in bundle_files(draft.document, compiled).items()
    }
    digest = digest_of(inputs)
    texts = dict(files.values()) | {digest: inputs.encode()}
    return Made(digest, {path: one for path, (one, _) in files.items()}, texts)


def _keep(tx: Transaction, edition: Edition, made: Made, packed: list[Packed]) -> None:
    there = editions.known(tx.connection, made.texts)
    late = made.texts.keys() - there - {one.digest for one in packed}
    more = [pack(digest, made.texts[digest]) for digest in late]
    editions.keep_texts(tx.connection, [*packed, *more])
    editions.add(tx.connection, edition, made.files)


def _findings(compiled: Compiled) -> list[dict[str, object]]:
    return [asdict(one) for one in compiled.findings]


def every(desk: Desk, name: str) -> list[Edition]:
    """The editions of a fabric, newest first. Raises `Missing` for a fabric that there is not."""
    with desk.reading() as tx:
        drafts.version(tx.connection, name)
        return editions.every(tx.connection, name)


def one(desk: Desk, name: str, number: int) -> Edition:
    """One edition. Raises `Missing`."""
    with desk.reading() as tx:
        return editions.find(tx.connection, name, number)


def files(desk: Desk, name: str, number: int) -> dict[str, bytes]:
    """The files of an edition as they left, by path and in their order. Raises `Missing`."""
    with desk.reading() as tx:
        edition = editions.find(tx.connection, name, number)
        paths = editions.files_of(tx.connection, edition.id)
        texts = editions.texts(tx.connection, paths.values())
    return {path: texts[digest] for path, digest in paths.items()}


@dataclass(frozen=True, slots=True)
class Again:
    """An edition compiled once more. `other` are the files that come out otherwise; `refusal` says why it does not compile, `cause` what may have
    led to either."""

    files: int
    other: list[str]
    refusal: str
    cause: str


def compile_again(desk: Desk, name: str, number: int) -> Again:
    """Whether an old edition compiles to the same bytes today. Raises `Missing`."""
    with desk.reading() as tx:
        edition = editions.find(tx.connection, name, number)
        there, said = editions.files_of(tx.connection, edition.id), kept.inputs(tx, edition)
    cause = (
        ""
        if edition.program == program()
        else f"it was compiled by another Barrio ({edition.program}; this is {program()})"
    )
    try:
        again = said.compiled(APART)
        with desk.house.gate.room_for(len(again.staged)):
            document = read(said.brief)
            made = {path: sha256(content).digest() for path, content in bundle_files(document, again).items()}
    except Refused as refusal:
        return Again(
            len(there), [], str(refusal), cause or "the same Barrio compiled it, so this is a fault of Barrio's"
        )
    other = differences(there, made)
    return Again(
        len(there), other, "", (cause or "the same Barrio compiled it, so this is a fault of Barrio's") if other else ""
    )


def discard(desk: Desk, name: str, seen: int) -> Opened:
    """Go back to the newest edition: its numbers stay, and only what the draft held is given back; an open offer ends."""
    with desk.reading() as tx:
        tx.draft(name)
        sealed = drafts.sealed_text(tx.connection, name)
    if sealed is None:
        raise refuse("draft.no-edition", f"{name} has no edition yet to go back to. Undo goes back step by step.")
    return use_drafts.save(desk, name, seen, lambda _: sealed, "draft discarded")
