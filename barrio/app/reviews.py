"""Reviews: a draft is offered, seen, talked about and agreed to; who agreed, agreed to exactly what they saw."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from barrio.app import outlets
from barrio.app import rehearsed as rehearsals
from barrio.app.desk import Desk
from barrio.app.rights import RIGHTS, Right
from barrio.app.ripples import Rippled, Sides, between
from barrio.app.transaction import Transaction
from barrio.contained.process import APART
from barrio.core import Compiled
from barrio.core.brief.compare import words_at
from barrio.core.compile import BLOCKING
from barrio.core.edition import digest_of, inputs_of, read_inputs
from barrio.core.errors import refuse
from barrio.core.ledger.pool import family_of, prefix_text
from barrio.store import drafts, editions, people, reviews
from barrio.store.drafts import Draft
from barrio.store.editions import pack
from barrio.store.entries import Act, Author
from barrio.store.errors import Missing, Stale
from barrio.store.reviews import Comment, Offer, Rule, Voice

Verdict = Literal["agrees", "asks", "declines"]


@dataclass(frozen=True, slots=True)
class Heard:
    """A voice as it counts now. `current` says whether it is of exactly what the draft is now; a later one of the same person takes its place."""

    voice: Voice
    current: bool
    last: bool


@dataclass(frozen=True)
class Review:
    """The review of a draft. `seen` is what the draft's inputs are known by now; `lacking` says in words what keeps it from being sealed, `editors`
    who changed it since the newest edition, and so may not agree. `gone` are the comments that are about what is no more; `despite` is what its change drill showed
    beyond its Ripple, for which whoever seals gives a reason."""

    offer: Offer | None
    rule: Rule
    seen: str
    voices: Sequence[Heard]
    comments: Sequence[Comment]
    editors: Sequence[str]
    may_agree: Sequence[str]
    gone: frozenset[int]
    lacking: Sequence[str]
    despite: str = ""


def review(desk: Desk, name: str) -> Review:
    """The review of a draft as it stands, whether or not it is offered. Raises `Missing`, and `Refused` for a draft that cannot be read."""
    with desk.reading() as tx:
        return review_of(tx, tx.draft(name))


def review_of(tx: Transaction, draft: Draft) -> Review:
    """The review of a draft, within a transaction."""
    connection, name = tx.connection, draft.name
    offer, rule = reviews.open_offer(connection, name), reviews.rule(connection, name)
    digest = digest_of(_inputs(tx, draft))
    voices = reviews.voices(connection, offer.id) if offer else []
    last = {_who(one.person, one.author): one.id for one in voices}
    heard = [Heard(one, one.seen == digest, last[_who(one.person, one.author)] == one.id) for one in voices]
    comments = reviews.comments(connection, offer.id) if offer else []
    compiled = tx.compiled(draft)
    gone = frozenset(one.id for one in comments if not stands(compiled, one))
    mine = _editors(tx, name, offer)
    may = [
        one for one in people.holders(connection, [role.value for role in RIGHTS[Right.AGREE][0]], name)
        if one not in {called for _, called in mine} and (not rule.people or one in rule.people)
    ]  # fmt: skip
    found = Review(offer, rule, digest.hex(), heard, comments, [called for _, called in mine], may, gone, ())
    rehearsed = rehearsals.standing(tx, name, rule, digest)
    return replace(found, lacking=[*_lacking(tx, draft, found), *rehearsed.lacking], despite=rehearsed.despite)


def _who(person: int | None, name: str) -> object:
    return name if person is None else person


def _editors(tx: Transaction, name: str, offer: Offer | None) -> list[tuple[int | None, str]]:
    newest = editions.newest(tx.connection, name)
    found = reviews.editors(tx.connection, name, newest.version if newest else 0)
    if offer and (offer.person, offer.author) not in found:
        found.append((offer.person, offer.author))
    return found


def _inputs(tx: Transaction, draft: Draft) -> str:
    compiled = tx.compiled(draft)
    return tx.inputs_text(draft, compiled, lambda: inputs_of(draft.text, compiled, tx.office().files).text())


def _lacking(tx: Transaction, draft: Draft, found: Review) -> list[str]:
    """What keeps a draft from being sealed, each in words with the way out."""
    words = []
    blocking = [one for one in tx.compiled(draft).findings if one.code in BLOCKING]
    words += [f"A finding blocks it: {one.message}" for one in blocking]
    if not found.rule.agree:
        return words
    agreed = agreeing(found)
    if found.offer is None:
        words.append("It is not offered for review yet. Offer it with a sentence that says what it is for.")
    elif len(agreed) < found.rule.agree:
        ask = f"Ask {_some(found.may_agree)}." if found.may_agree else _nobody(found)
        words.append(f"{len(agreed)} of {found.rule.agree} agree to what it is now. {ask}")
    against = [one.voice for one in found.voices if one.last and one.voice.verdict == "declines"]
    words += [f"{one.author} declined it. Settle it with them, or change the draft and ask again." for one in against]
    asked = [one.voice for one in found.voices if one.last and one.voice.verdict == "asks"]
    words += [f"{one.author} asks for changes: {one.note or 'see the comments'}." for one in asked]
    open_ones = [one for one in found.comments if one.answers is None and one.settled_at is None]
    if open_ones:
        words.append(
            f"{len(open_ones)} {'comment is' if len(open_ones) == 1 else 'comments are'} open. Answer them, and say that they are settled."
        )
    return words


def _nobody(found: Review) -> str:
    by = " who did not change the draft" if found.editors else ""
    return f"Nobody{by} may agree. A keeper can make somebody a reviewer, or lower the number that must agree."


def _some(names: Sequence[str]) -> str:
    return " or ".join([*names[:3], *(["another reviewer"] if len(names) > 3 else [])])


def agreeing(found: Review) -> list[Voice]:
    """Those who agree to exactly what the draft is now, and may."""
    return [
        one.voice for one in found.voices
        if one.last and one.current and one.voice.verdict == "agrees" and one.voice.author in found.may_agree
    ]  # fmt: skip


def check(tx: Transaction, draft: Draft, despite: str = "") -> list[dict[str, str]]:
    """Who agreed to a draft as it is now, and when. Raises `Refused`: `review.lacking` with all that keeps it from being sealed, `review.despite` where its change
    drill showed more than its Ripple said, and nobody says why it is sealed all the same."""
    found = review_of(tx, draft)
    if found.lacking:
        raise refuse("review.lacking", " ".join(found.lacking))
    if found.despite and not despite:
        words = f"Its change drill showed what its Ripple did not say: {found.despite}. Mend the draft, or say why it is sealed all the same."
        raise refuse("review.despite", words, "despite")
    return [{"who": one.author, "at": one.said_at.isoformat()} for one in agreeing(found)]


def offer(desk: Desk, name: str, title: str, why: str, seen: int) -> Review:
    """Offer the draft for review, or say otherwise what it is for. Raises `Missing`, `Stale`, `Refused`."""

    def work(tx: Transaction) -> Review:
        _, draft = drafts.take(tx.connection, name, seen)
        there = reviews.open_offer(tx.connection, name)
        tx.act(Act("offered for review" if there is None else "offer reworded", name, seen, title, "review"))
        if there is None:
            reviews.offer(tx.connection, name, title, why, tx.author)
        else:
            reviews.reword(tx.connection, there.id, title, why)
        found = review_of(tx, draft)
        if there is None:
            outlets.tell(tx, name, "offered", title=title, why=why, to=list(found.may_agree))
        return found

    return desk.writing(work)


def withdraw(desk: Desk, name: str) -> Review:
    """Take an offer back. Raises `Missing`, and `Refused` (`review.none`) without one."""

    def work(tx: Transaction) -> Review:
        there = _open(tx, name)
        tx.act(Act("offer withdrawn", name, note=there.title, topic="review"))
        reviews.end(tx.connection, there.id, "withdrawn")
        outlets.tell(
            tx, name, "withdrawn", title=there.title, to=[one.author for one in reviews.voices(tx.connection, there.id)]
        )
        return review_of(tx, tx.draft(name))

    return desk.writing(work)


def say(desk: Desk, name: str, verdict: Verdict, note: str, seen: str) -> Review:
    """Agree, decline, or ask for changes, of the inputs that were seen (`Review.seen`).

    Raises `Missing`; `Stale` when the draft, the office or a pool has moved on since; `Refused`: `review.none`, `review.own` for who changed the draft, `review.rule`
    for who is not among those that may.
    """

    def work(tx: Transaction) -> Review:
        there = _open(tx, name)
        draft = tx.draft(name)
        before = review_of(tx, draft)
        if before.seen != seen:
            raise Stale(name, draft.version, draft.version, "it, the office or a pool was changed since you looked")
        _may(before, tx.author)
        tx.act(Act(f"review: {verdict}", name, draft.version, note, "review"))
        inputs = _inputs(tx, draft).encode()
        digest = bytes.fromhex(seen)
        if digest not in editions.known(tx.connection, [digest]):
            editions.keep_texts(tx.connection, [pack(digest, inputs)])
        reviews.say(tx.connection, there.id, verdict, note, digest, tx.author)
        outlets.tell(tx, name, verdict, title=there.title, note=note, to=list(before.editors))
        return review_of(tx, draft)

    return desk.writing(work)


def _may(found: Review, author: Author) -> None:
    if author.name in found.editors:
        raise refuse("review.own", "You changed this draft, so somebody else has to agree to it.")
    if found.rule.people and author.name not in found.rule.people:
        raise refuse("review.rule", f"For this fabric {_some(found.rule.people)} may agree. A keeper can add you.")


def _open(tx: Transaction, name: str) -> Offer:
    drafts.version(tx.connection, name)
    there = reviews.open_offer(tx.connection, name)
    if there is None:
        raise refuse("review.none", f"The draft of {name} is not offered for review. Offer it first.")
    return there


def comment(desk: Desk, name: str, thing: str, at: str, stood: str, words: str, answers: int | None = None) -> Review:
    """Say something of the whole, or of a line, number, cable or word. Raises `Missing`, and `Refused` (`review.none`)."""

    def work(tx: Transaction) -> Review:
        there = _open(tx, name)
        tx.act(Act("commented", name, note=words[:200], topic="review"))
        reviews.comment(tx.connection, there.id, thing, at, stood, words, answers, tx.author)
        others = {one.author for one in reviews.comments(tx.connection, there.id)} | {there.author}
        outlets.tell(tx, name, "commented", title=there.title, about=at, words=words, to=sorted(others))
        return review_of(tx, tx.draft(name))

    return desk.writing(work)


def settle(desk: Desk, name: str, number: int, settled: bool) -> Review:
    """Say that a comment is settled, or open again. Raises `Missing`, and `Refused` (`review.none`)."""

    def work(tx: Transaction) -> Review:
        there = _open(tx, name)
        tx.act(Act("comment settled" if settled else "comment opened again", name, note=str(number), topic="review"))
        reviews.settle(tx.connection, there.id, number, tx.author.name, settled)
        return review_of(tx, tx.draft(name))

    return desk.writing(work)


def set_rule(desk: Desk, name: str, agree: int, who: Sequence[str], rehearsed: bool | None = None) -> Review:
    """Say how many must agree, and who may, and whether a rehearsal must have said yes (as it is, when left out). Raises `Missing`, and `Refused` (`review.rule`) for names that nobody has."""

    def work(tx: Transaction) -> Review:
        draft = tx.draft(name)
        holders = people.holders(tx.connection, [role.value for role in RIGHTS[Right.AGREE][0]], name)
        strangers = [one for one in who if one not in holders]
        if strangers:
            raise refuse(
                "review.rule",
                f"{_some(strangers)} may not agree to anything of {name}. Make them reviewers first.",
                "people",
            )
        if agree > len(who or holders) and agree:
            raise refuse(
                "review.rule",
                f"{agree} are to agree, and {len(who or holders)} may. Name fewer, or make more people reviewers.",
                "agree",
            )
        asked = reviews.rule(tx.connection, name).rehearsed if rehearsed is None else rehearsed
        note = f"{agree} must agree{', and it must be rehearsed' if asked else ''}"
        tx.act(Act("review rule set", name, note=note, topic="review"))
        reviews.set_rule(tx.connection, name, Rule(agree, list(who), asked))
        return review_of(tx, draft)

    return desk.writing(work)


def since(desk: Desk, name: str, voice: int) -> Rippled:
    """What is new since somebody spoke: the draft as it is held against what they saw. Raises `Missing`, `Refused`."""
    with desk.reading() as tx:
        there, draft = _open(tx, name), tx.draft(name)
        one = next((one for one in reviews.voices(tx.connection, there.id) if one.id == voice), None)
        if one is None:
            raise Missing("Nobody said that of this offer.")
        inputs = read_inputs(editions.texts(tx.connection, [one.seen])[one.seen].decode())
        after = tx.compiled(draft)
        before = inputs.compiled(APART, after)
    return between(desk, Sides(before, after, draft.version))


def stands(compiled: Compiled, one: Comment) -> bool:
    """Whether what a comment is about is still there, and says the same."""
    first, _, rest = one.at.partition(" ")
    if one.thing == "line":
        switch = compiled.switch(first)
        if switch is None or switch.key in compiled.without_files or switch not in compiled.staged:
            return False
        return one.stood.strip() in (line.strip() for line in compiled.files(switch.key).get(rest, "").splitlines())
    if one.thing == "number":
        taken = compiled.allocation.numbers.get(first, {}).get(rest)
        return taken is not None and prefix_text(family_of(first), taken.low, taken.size) == one.stood
    if one.thing == "cable":
        return any(lead.label == one.at for lead in compiled.leads)
    return one.thing == "whole" or words_at(compiled.brief, one.at) != "nothing"


@dataclass(frozen=True, slots=True)
class Told:
    """An offer with all that was said of it."""

    offer: Offer
    voices: list[dict[str, str]]
    comments: list[Comment]


def told(desk: Desk, name: str, number: int) -> list[Told]:
    """The offers that led to an edition, those taken back among them, the first first. Raises `Missing`."""
    with desk.reading() as tx:
        edition = editions.find(tx.connection, name, number)
        earlier = editions.find(tx.connection, name, number - 1) if number > 1 else None
        return [
            Told(
                one,
                [
                    {
                        "author": each.author,
                        "verdict": each.verdict,
                        "note": each.note,
                        "said_at": each.said_at.isoformat(),
                        "seen": each.seen.hex(),
                    }
                    for each in reviews.voices(tx.connection, one.id)
                ],
                reviews.comments(tx.connection, one.id),
            )
            for one in reversed(reviews.offers(tx.connection, name))
            if one.offered_at <= edition.sealed_at and (earlier is None or one.offered_at > earlier.sealed_at)
        ]


@dataclass(frozen=True, slots=True)
class Waiting:
    """Something that waits for somebody: of which fabric, the offer's title, and in words for what."""

    fabric: str
    title: str
    words: str


def waiting(desk: Desk) -> list[Waiting]:
    """The offers that wait for whoever asks: to agree to, to answer, to seal."""
    found: list[Waiting] = []
    me = desk.actor
    with desk.reading() as tx:
        for name in reviews.offered(tx.connection):
            if not desk.may_read(name):
                continue
            draft = tx.draft(name)
            if tx.readable(draft) is None:
                continue
            one = review_of(tx, draft)
            assert one.offer is not None
            words = _waits(one, me.name, me.may(Right.SEAL, name))
            if words:
                found.append(Waiting(name, one.offer.title, words))
    return found


def _waits(one: Review, me: str, may_seal: bool) -> str:
    """What a review waits for from somebody, in words; nothing when for others alone."""
    mine = [heard for heard in one.voices if heard.voice.author == me and heard.last]
    if me in one.may_agree and not any(heard.current for heard in mine):
        return "It changed since you spoke; look again." if mine else "Look at it, and agree or say what is wrong."
    if me in one.editors:
        asked = [heard.voice.author for heard in one.voices if heard.last and heard.voice.verdict != "agrees"]
        if asked:
            return f"{asked[0]} wants something changed."
        if any(c.author != me and c.answers is None and c.settled_at is None for c in one.comments):
            return "A comment waits for an answer."
    return "It may be sealed." if may_seal and not one.lacking else ""
