"""Signing in and out: who shows what, and who they are by it.

Whoever fails is slowed down by their name, by their address, and by both together, and is never told which of name and password
was wrong. Time is the database's.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import NoReturn

import pyotp

from barrio.app import codes, secret
from barrio.app.desk import Actor, Desk
from barrio.app.gate import Busy
from barrio.app.house import House
from barrio.app.rights import Grant, Role, limited
from barrio.app.transaction import Transaction
from barrio.core.errors import refuse
from barrio.store import people, signing
from barrio.store.entries import Act, Author
from barrio.store.signing import Asking, Lock

LASTS, IDLE = timedelta(days=14), timedelta(days=3)
"""How long a session lasts, and how long without a sign of life."""
LINK_LASTS = timedelta(days=3)
FRESH = timedelta(minutes=10)
"""How long somebody has come in just now."""
SHORTEST, LONGEST = 12, 200
"""Characters of a password."""
FREE = {"name": 25, "address": 50, "both": 5}
"""Failures before whoever guesses is slowed down."""


class NoEntry(Exception):
    """Nobody comes in by this. `missing` is `code` when everything was right but for the second factor, which was not shown."""

    def __init__(self, words: str, missing: str = "") -> None:
        self.missing = missing
        super().__init__(words)


@dataclass(frozen=True, slots=True)
class Caller:
    """From where somebody signs in, and with what program."""

    address: str = ""
    agent: str = ""


@dataclass(frozen=True, slots=True)
class Entered:
    """Somebody came in: the secret that their browser keeps, and until when."""

    secret: str
    ends_at: datetime
    session: int


def actor_of(house: House, session: str = "", token: str = "", address: str = "") -> Actor | None:
    """Who shows these secrets. Nobody, when they have ended, are wrong, or their person has left."""
    if not session and not token:
        return None
    with house.alone() as connection:
        asking = signing.who_asks(
            connection, secret.digest(session) if session else None, secret.digest(token) if token else None, IDLE
        )
        if asking is None:
            return None
        if asking.stale:
            signing.seen(connection, asking)
    actor = _actor(asking, address)
    if house.second_factor and not asking.has_second:
        return replace(actor, grants=frozenset())
    return actor


def _actor(asking: Asking, address: str) -> Actor:
    held = [one.partition(" ") for one in asking.held]
    grants = frozenset(Grant(Role(role), fabric or None) for role, _, fabric in held)
    if asking.roles is not None:
        grants = limited(grants, map(Role, asking.roles), asking.fabrics)
    return Actor(asking.called, grants, asking.person, asking.session, asking.token_name, address)


def actor_of_person(house: House, person: int) -> Actor | None:
    """A person as they are now, for whom something is done that they asked for earlier. Nobody, when they have left."""
    with house.alone() as connection:
        asking = signing.of_person(connection, person)
    return _actor(asking, "") if asking else None


def sign_in(house: House, name: str, password: str, code: str, caller: Caller) -> Entered:
    """Sign somebody in by name and password, and by the code of their second factor if they have one.

    Raises `NoEntry` when one of them is wrong, and `Busy` when it has been wrong too often.
    """
    name = name.strip().lower()
    who = _guessers(house, name, caller)
    with house.reading() as tx:
        wait = signing.waiting(tx.connection, who)
        lock = signing.lock_of(tx.connection, name)
    if wait:
        raise Busy(f"Signing in has failed too often. It can be tried again in {_span(wait)}.", wait, guess=True)
    if not house.passwords.fits(lock.password if lock else None, password[:LONGEST]) or lock is None:
        _fail(house, who, lock, caller, "the password was wrong")
    if lock.has_second and lock.seconds is None:
        raise NoEntry("Come in by your passkey; a password alone is not enough since you have one.", "passkey")
    if lock.seconds is not None and not code.strip():
        raise NoEntry("Show the code of your second factor as well.", "code")
    if lock.seconds is not None and not codes.fits(house, lock, code):
        _fail(house, who, lock, caller, "the code was wrong")

    def work(tx: Transaction) -> Entered:
        signing.succeeded(tx.connection, who)
        return begin(tx, lock.person, lock.name, caller)

    return house.writing(work, author=Author(lock.called, lock.person, "", caller.address))


def _fail(
    house: House,
    who: dict[bytes, int],
    lock: Lock | None,
    caller: Caller,
    why: str,
    says: str = "Name and password do not belong together, or the code is wrong.",
) -> NoReturn:
    def work(tx: Transaction) -> None:
        # Recorded for nobody as well, so that it takes as long.
        said = f"{lock.name}: {why}" if lock else "there is nobody of that name"
        tx.act(Act("sign-in failed", note=said, topic="people"))
        signing.failed(tx.connection, who)

    house.writing(work, author=Author("", lock.person if lock else None, "", caller.address))
    raise NoEntry(says)


def _guessers(house: House, name: str, caller: Caller) -> dict[bytes, int]:
    """Under which digests failures are counted, with how many are free. The name may be a password typed in the wrong field."""
    blind = house.keys.blind
    return {
        blind(f"name {name}"): FREE["name"],
        blind(f"address {caller.address}"): FREE["address"],
        blind(f"both {name} {caller.address}"): FREE["both"],
    }


def _span(seconds: int) -> str:
    return f"{seconds} s" if seconds < 90 else f"{round(seconds / 60)} minutes"


@contextmanager
def by_another_way(house: House, caller: Caller) -> Iterator[None]:
    """Where nothing can be guessed, who fails is recorded all the same, and slowed down by their address. Raises `Busy`."""
    who = {house.keys.blind(f"address {caller.address}"): FREE["address"]}
    with house.reading() as tx:
        wait = signing.waiting(tx.connection, who)
    if wait:
        raise Busy(f"Signing in has failed too often. It can be tried again in {_span(wait)}.", wait, guess=True)
    try:
        yield
    except NoEntry as error:
        why = str(error)

        def work(tx: Transaction) -> None:
            tx.act(Act("sign-in failed", note=why, topic="people"))
            signing.failed(tx.connection, who)

        house.writing(work, author=Author("", None, "", caller.address))
        raise


def begin(
    tx: Transaction, person: int, name: str, caller: Caller, act: str = "signed in", vouched: bool = False
) -> Entered:
    """A session for a person who has shown who they are; `vouched` when they showed two factors, not kept here."""
    tx.act(Act(act, note=name, topic="people"))
    signing.tidy(tx.connection)
    fresh = secret.made()
    session, ends_at = signing.begin(
        tx.connection, secret.digest(fresh), person, LASTS, caller.address, caller.agent, vouched
    )
    return Entered(fresh, ends_at, session)


def sign_out(desk: Desk, session: int | None = None, others: bool = False) -> int:
    """End one's own session, another of one's own, or all but this one; how many ended."""
    person = own(desk)

    def work(tx: Transaction) -> int:
        tx.act(Act("signed out", topic="people"))
        if others:
            return signing.end(tx.connection, person, but=desk.actor.session)
        return signing.end(tx.connection, person, session if session is not None else desk.actor.session)

    return desk.writing(work)


def own(desk: Desk, by_token: bool = False) -> int:
    """The person who acts, themselves. Raises `Refused` for a token, where it may not act for them, and for nobody."""
    if desk.actor.id is None or (desk.actor.token and not by_token):
        raise refuse("person.token", "A token cannot do this. Sign in as the person it belongs to.")
    return desk.actor.id


def new_password(desk: Desk, old: str, new: str) -> None:
    """Change one's own password, which ends all other sessions. Raises `NoEntry` when the old one is wrong."""
    person = own(desk)
    lock = prove(desk, old)
    hashed = hashed_password(desk.house, new, lock.name)

    def work(tx: Transaction) -> None:
        tx.act(Act("password changed", topic="people"))
        signing.set_password(tx.connection, person, hashed)
        signing.end(tx.connection, person, but=desk.actor.session)

    desk.writing(work)


def prove(desk: Desk, password: str) -> Lock:
    """Show once more that it is oneself, by the password; without one by having come in just now, if that can be done again.

    Who came in by a link need not. Guesses are slowed down as at the door. Raises `NoEntry`, `Busy`, and `Refused`.
    """
    person = own(desk)
    house, caller = desk.house, Caller(desk.actor.address)
    with desk.reading() as tx:
        lock = _lock(tx, person)
        who = _guessers(house, lock.name, caller)
        wait = signing.waiting(tx.connection, who)
        fresh = signing.is_fresh(tx.connection, desk.actor.session, FRESH)
    if lock.password is None and (lock.passkeys or lock.outside) and not fresh:
        raise refuse("person.prove", "It is a while since you came in. Sign out and in again to show that it is you.")
    if wait:
        raise Busy(f"It has failed too often. It can be tried again in {_span(wait)}.", wait, guess=True)
    if lock.password is not None and not house.passwords.fits(lock.password, password[:LONGEST]):
        _fail(house, who, lock, caller, "the password was wrong", "The password you have now is another one.")
    return lock


def check_way_in(tx: Transaction, person: int) -> None:
    """Raises `Refused` when nothing is left by which a person could sign in."""
    lock = _lock(tx, person)
    if lock.password is None and not lock.passkeys and not lock.outside:
        raise refuse("person.no-way-in", "You could not sign in any more. Choose a password first.")


def _lock(tx: Transaction, person: int) -> Lock:
    name = next(one.name for one in people.everybody(tx.connection) if one.id == person)
    lock = signing.lock_of(tx.connection, name)
    assert lock is not None, "who acts has not left"
    return lock


def hashed_password(house: House, password: str, name: str) -> str:
    """The hash of a new password. Raises `Refused` for one that is soon guessed."""
    if not SHORTEST <= len(password) <= LONGEST:
        words = f"A password has {SHORTEST} characters or more ({LONGEST} at most). Four words that do not belong together do."
        raise refuse("password.length", words, "password")
    if len(set(password)) < 5 or name in password.lower():
        words = "This password is soon guessed. Take one without your name, of more than a few different characters."
        raise refuse("password.weak", words, "password")
    return house.passwords.hash(password)


# The second factor, on one's own page


@dataclass(frozen=True, slots=True)
class Second:
    """What an app for codes is told: the secret, and the same as an address (`otpauth:`)."""

    secret: str
    uri: str


def propose_second(desk: Desk) -> Second:
    """A new secret for codes; nothing is kept of it until a code shows that it was taken up."""
    person = own(desk)
    with desk.reading() as tx:
        lock = _lock(tx, person)
    fresh = pyotp.random_base32()
    return Second(fresh, pyotp.TOTP(fresh).provisioning_uri(name=lock.name, issuer_name="Barrio"))


def take_second(desk: Desk, proposed: str, code: str) -> None:
    """Ask for codes of this secret from now on. Raises `NoEntry` when the code is none of it."""
    person = own(desk)
    with desk.reading() as tx:
        step = codes.step_of(tx)
    if codes.steps_of(proposed, code, step) is None:
        raise NoEntry("This is not the code that the secret gives now. Is the clock of the app right?")
    sealed = codes.sealed(desk.house, person, proposed, step)

    def work(tx: Transaction) -> None:
        tx.act(Act("second factor set up", topic="people"))
        signing.set_second(tx.connection, person, sealed)
        signing.end(tx.connection, person, but=desk.actor.session)

    desk.writing(work)


def drop_second(desk: Desk, password: str) -> None:
    """Ask for no codes any more. Raises `NoEntry` when the password is wrong."""
    person = own(desk)
    prove(desk, password)

    def work(tx: Transaction) -> None:
        tx.act(Act("second factor taken away", topic="people"))
        signing.set_second(tx.connection, person, None)

    desk.writing(work)
