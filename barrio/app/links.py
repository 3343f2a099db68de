"""Links that are good once: to make the first person, to choose a password, or just to come in."""

from __future__ import annotations

from barrio.app import secret
from barrio.app.door import LINK_LASTS, Caller, Entered, NoEntry, begin, hashed_password
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.app.transaction import Transaction
from barrio.store import people, proofs, signing
from barrio.store.entries import Act, Author


def look_at_link(house: House, shown: str) -> tuple[str, str]:
    """What a link is for, and for whom (by name; nobody for the first). Raises `NoEntry` when it has ended."""
    with house.reading() as tx:
        found = signing.link(tx.connection, secret.digest(shown), keep=False)
        if found is None:
            raise NoEntry(_ENDED)
        purpose, person = found
        name = next((one.name for one in people.everybody(tx.connection) if one.id == person), "")
        return purpose, name


_ENDED = "This link has been used, or has ended. Ask a keeper for another."


def enter(house: House, shown: str, password: str, caller: Caller) -> Entered:
    """Come in by a link: by one to choose a password with it, by one that just lets in without.

    Raises `NoEntry` when the link has ended, `Refused` for the password.
    """
    purpose, name = look_at_link(house, shown)
    hashed = hashed_password(house, password, name) if purpose == "welcome" else ""

    def work(tx: Transaction) -> Entered:
        found = signing.link(tx.connection, secret.digest(shown))
        if found is None or found[1] is None:
            raise NoEntry(_ENDED)
        person = people.find(tx.connection, name)
        if person.left_at is not None:
            raise NoEntry(_ENDED)
        tx.author = Author(person.called, person.id, "", caller.address)
        entered = begin(tx, person.id, person.name, caller, "came in by a link")
        signing.use_link(tx.connection, secret.digest(shown))
        if hashed:
            # Whoever had the old password, a second factor or another way in has none of them any more.
            signing.set_password(tx.connection, person.id, hashed)
            signing.set_second(tx.connection, person.id, None)
            proofs.drop_passkeys(tx.connection, person.id)
            proofs.part(tx.connection, person.id)
            signing.end(tx.connection, person.id, but=entered.session)
        return entered

    return house.writing(work, author=Author(name, None, "", caller.address))


def enter_link(house: House, person: int) -> str:
    """A link that lets a person in as they are; for the demo world."""
    fresh = secret.made()

    def work(tx: Transaction) -> str:
        name = next(one.name for one in people.everybody(tx.connection) if one.id == person)
        tx.act(Act("link made to come in", note=name, topic="people"))
        signing.add_link(tx.connection, secret.digest(fresh), "enter", person, LINK_LASTS)
        return fresh

    return house.writing(work)


def first_link(house: House) -> str | None:
    """A link to make the first person, when there never was anybody; an earlier one ends."""
    fresh = secret.made()

    def work(tx: Transaction) -> str | None:
        if not people.is_empty(tx.connection):
            return None
        tx.act(Act("link made for the first person", topic="people"))
        signing.add_link(tx.connection, secret.digest(fresh), "first", None, LINK_LASTS)
        return fresh

    return house.writing(work)


def first_person(house: House, shown: str, name: str, called: str, password: str, caller: Caller) -> Entered:
    """Make the first person, who may do all, and sign them in. Raises `NoEntry`, or `Refused` for name or password."""
    hashed = hashed_password(house, password, name)

    def work(tx: Transaction) -> Entered:
        people.lock(tx.connection)
        found = signing.link(tx.connection, secret.digest(shown))
        if found is None or found[0] != "first" or not people.is_empty(tx.connection):
            raise NoEntry(_ENDED)
        tx.act(Act("first person made", note=name, topic="people"))
        person = people.add(tx.connection, name, called)
        signing.set_password(tx.connection, person, hashed)
        for role in Role:
            people.give(tx.connection, person, None, role.value, None)
        signing.use_link(tx.connection, secret.digest(shown))
        tx.author = Author(called, person, "", caller.address)
        return begin(tx, person, name, caller)

    return house.writing(work, author=Author(called, None, "", caller.address))
