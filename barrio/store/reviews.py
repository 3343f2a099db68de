"""Reviews as they stand in PostgreSQL: rules, offers, what was said of them, and comments."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from barrio.store.database import Connection
from barrio.store.entries import Author
from barrio.store.errors import Missing


@dataclass(frozen=True, slots=True)
class Rule:
    """How many must agree, and who may; everybody with the right, without names. `rehearsed` says whether the very state that is sealed must have been
    rehearsed, and every question have said yes."""

    agree: int
    people: list[str]
    rehearsed: bool = False


USUAL = Rule(1, [])


@dataclass(frozen=True, slots=True)
class Offer:
    """A draft that is offered for review. `outcome` is empty while it is open."""

    id: int
    fabric: str
    title: str
    why: str
    author: str
    person: int | None
    offered_at: datetime
    outcome: str
    ended_at: datetime | None


@dataclass(frozen=True, slots=True)
class Voice:
    """What somebody said of an offer, of the inputs that they saw."""

    id: int
    verdict: str
    note: str
    author: str
    person: int | None
    seen: bytes
    said_at: datetime


@dataclass(frozen=True, slots=True)
class Comment:
    """Words on the whole, or on a line, a number, a cable or a word of the brief; `stood` is what stood there."""

    id: int
    thing: str
    at: str
    stood: str
    words: str
    answers: int | None
    author: str
    person: int | None
    said_at: datetime
    settled_by: str
    settled_at: datetime | None


def rule(connection: Connection, fabric: str) -> Rule:
    """The rule of a fabric: its own, else the office's, else the usual one."""
    row = connection.execute(
        "select agree, people, rehearsed from review_rules where fabric = %s or fabric is null order by fabric nulls last limit 1", [fabric]
    ).fetchone()  # fmt: skip
    return Rule(*row) if row else USUAL


def set_rule(connection: Connection, fabric: str | None, wanted: Rule) -> None:
    connection.execute(
        "insert into review_rules (fabric, agree, people, rehearsed) values (%s, %s, %s, %s) "
        "on conflict (fabric) do update set agree = excluded.agree, people = excluded.people, rehearsed = excluded.rehearsed",
        [fabric, wanted.agree, wanted.people, wanted.rehearsed],
    )


_OFFER = "id, fabric, title, why, author, person, offered_at, outcome, ended_at"


def open_offer(connection: Connection, fabric: str) -> Offer | None:
    """The offer of a fabric that is open, if one is."""
    row = connection.execute(f"select {_OFFER} from offers where fabric = %s and outcome = ''", [fabric]).fetchone()
    return Offer(*row) if row else None


def offered(connection: Connection) -> list[str]:
    """The fabrics whose drafts are offered, the one offered first first."""
    return [name for (name,) in connection.execute("select fabric from offers where outcome = '' order by id")]


def offers(connection: Connection, fabric: str) -> list[Offer]:
    """Every offer of a fabric, newest first."""
    return [
        Offer(*row)
        for row in connection.execute(f"select {_OFFER} from offers where fabric = %s order by id desc", [fabric])
    ]


def offer(connection: Connection, fabric: str, title: str, why: str, author: Author) -> int:
    """A new offer; its number."""
    row = connection.execute(
        "insert into offers (fabric, title, why, author, person) values (%s, %s, %s, %s, %s) returning id",
        [fabric, title, why, author.name, author.person],
    ).fetchone()
    assert row is not None
    return int(row[0])


def reword(connection: Connection, offer: int, title: str, why: str) -> None:
    connection.execute("update offers set title = %s, why = %s where id = %s", [title, why, offer])


def end(connection: Connection, offer: int, outcome: str) -> None:
    connection.execute("update offers set outcome = %s, ended_at = now() where id = %s", [outcome, offer])


def say(connection: Connection, offer: int, verdict: str, note: str, seen: bytes, author: Author) -> None:
    connection.execute(
        "insert into voices (offer, verdict, note, author, person, seen) values (%s, %s, %s, %s, %s, %s)",
        [offer, verdict, note, author.name, author.person, seen],
    )


def voices(connection: Connection, offer: int) -> list[Voice]:
    """What was said of an offer, in order."""
    rows = connection.execute(
        "select id, verdict, note, author, person, seen, said_at from voices where offer = %s order by id", [offer]
    )
    return [Voice(*row) for row in rows]


_COMMENT = "id, thing, at, stood, words, answers, author, person, said_at, settled_by, settled_at"


def comments(connection: Connection, offer: int) -> list[Comment]:
    """The comments on an offer, in order."""
    return [
        Comment(*row)
        for row in connection.execute(f"select {_COMMENT} from comments where offer = %s order by id", [offer])
    ]


def comment(
    connection: Connection, offer: int, thing: str, at: str, stood: str, words: str, answers: int | None, author: Author
) -> int:
    """A new comment; its number. Raises `Missing` when it answers one that is not there."""
    if answers is not None and not any(one.id == answers for one in comments(connection, offer)):
        raise Missing("The comment that this answers is not there.")
    row = connection.execute(
        "insert into comments (offer, thing, at, stood, words, answers, author, person) values (%s, %s, %s, %s, %s, %s, %s, %s) returning id",
        [offer, thing, at, stood, words, answers, author.name, author.person],
    ).fetchone()
    assert row is not None
    return int(row[0])


def settle(connection: Connection, offer: int, comment: int, who: str, settled: bool) -> None:
    """Say that a comment is settled, or open again. Raises `Missing`."""
    done = connection.execute(
        "update comments set settled_by = %s, settled_at = case when %s then now() end where id = %s and offer = %s",
        [who if settled else "", settled, comment, offer],
    )
    if not done.rowcount:
        raise Missing("There is no such comment.")


def editors(connection: Connection, fabric: str, since: int) -> list[tuple[int | None, str]]:
    """Who has changed the draft of a fabric since it was at a version: the person's number, and the name."""
    return connection.execute(
        "select distinct person, author from changes where fabric = %s and version > %s "
        "and act in ('draft saved', 'undone', 'redone') and author <> '' order by author",
        [fabric, since],
    ).fetchall()
