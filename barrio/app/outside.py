"""Signing in by the word of the office's provider, and who its people are here.

Somebody whom it vouches for the first time is the person of that name, if that person has no password: a keeper added them, and they never
came. Whoever has a password signs in by it, and joins the two on their own page.
"""

from __future__ import annotations

from barrio.app import door, people, tickets
from barrio.app.desk import Desk
from barrio.app.door import Caller, Entered, NoEntry
from barrio.app.house import House
from barrio.app.provider import NotVouched, Outsider, Provider
from barrio.app.transaction import Transaction
from barrio.core.errors import Refused, refuse
from barrio.store import people as kept
from barrio.store import proofs, signing
from barrio.store.entries import Act, Author
from barrio.store.errors import Missing
from barrio.store.signing import Lock

SIGN_IN = "sign in by provider"


def begin(house: House, back: str, what: str = SIGN_IN) -> tuple[str, str]:
    """Where to send a browser, and the ticket that it shows when it comes back. Raises `Missing`, and `Silent`."""
    where, said = _provider(house).begin(back)
    return where, tickets.made(house, what, said | {"back": back})


def _provider(house: House) -> Provider:
    if house.provider is None:
        raise Missing("Nobody vouches for people of this Barrio but itself.")
    return house.provider


def _who(house: House, what: str, ticket: str, code: str, state: str) -> Outsider:
    provider = _provider(house)
    said = tickets.spend(house, what, ticket)
    with house.alone() as connection:
        now = proofs.now(connection)
    try:
        return provider.who(said, code, state, said["back"], now)
    except NotVouched as error:
        raise NoEntry(str(error)) from None


def sign_in(house: House, ticket: str, code: str, state: str, caller: Caller) -> Entered:
    """Sign in whoever came back from the provider. Raises `NoEntry`, `Busy`, and `Silent`."""
    with door.by_another_way(house, caller):
        return _let_in(house, _who(house, SIGN_IN, ticket, code, state), caller)


def _let_in(house: House, outsider: Outsider, caller: Caller) -> Entered:
    provider = _provider(house)

    def work(tx: Transaction) -> Entered:
        kept.lock(tx.connection)
        name = proofs.known_outside(tx.connection, outsider.issuer, outsider.subject)
        lock = signing.lock_of(tx.connection, name) if name else _newcomer(tx, provider, outsider)
        if lock is None:
            raise NoEntry(f"{name} has left. Ask a keeper.")
        if lock.has_second and not outsider.strong:
            words = f"You have a second factor here, and {provider.called} does not say that you showed one. Sign in by password."
            raise NoEntry(words)
        tx.author = Author(lock.called, lock.person, "", caller.address)
        return door.begin(tx, lock.person, lock.name, caller, "signed in by provider", vouched=outsider.strong)

    return house.writing(work, author=Author("", None, "", caller.address))


def _newcomer(tx: Transaction, provider: Provider, outsider: Outsider) -> Lock:
    """The person of the provider's name, who was never here; made, when whoever is vouched for is welcome."""
    name = outsider.name.strip().lower()
    if provider.domain:
        # Whoever has the same name at another office is somebody else.
        name = name.removesuffix(f"@{provider.domain.lower()}")
    lock = signing.lock_of(tx.connection, name)
    if lock is not None and lock.password is not None:
        raise NoEntry(f"{name} signs in here by password. Do that, then join the two on your own page.")
    if lock is None:
        if not provider.welcomes:
            raise NoEntry(f"There is nobody called {name} here yet. Ask a keeper to add you.")
        try:
            people.check_name(name)
            called = people.clean(outsider.called, "called")
        except Refused as error:
            raise NoEntry(f"{name} cannot be a name here: {error} Ask a keeper to add you.") from None
        other = kept.named_alike(tx.connection, name)
        if other:
            raise NoEntry(f"{name} could be taken for {other}. Ask a keeper.")
        tx.act(Act("person added by provider", note=name, topic="people"))
        kept.add(tx.connection, name, called)
        lock = signing.lock_of(tx.connection, name)
        assert lock is not None
    else:
        tx.act(Act("provider joined", note=name, topic="people"))
    if not proofs.join(tx.connection, lock.person, outsider.issuer, outsider.subject, outsider.name):
        raise NoEntry(f"{provider.called} knows {name} by another account. Ask a keeper.")
    return lock


def begin_to_join(desk: Desk, password: str, back: str) -> tuple[str, str]:
    """As `begin`, for somebody who is here and wants to sign in by the provider as well. Raises `NoEntry` for a wrong password."""
    person = door.own(desk)
    door.prove(desk, password)
    return begin(desk.house, back, f"join {person}")


def join(desk: Desk, ticket: str, code: str, state: str) -> None:
    """Whoever the provider vouches for is the one who acts. Raises `NoEntry`, `Silent`, or `Refused` for an account that is somebody else's."""
    person = door.own(desk)
    outsider = _who(desk.house, f"join {person}", ticket, code, state)

    def work(tx: Transaction) -> None:
        tx.act(Act("provider joined", note=outsider.name, topic="people"))
        if not proofs.join(tx.connection, person, outsider.issuer, outsider.subject, outsider.name):
            raise refuse(
                "provider.taken", "This account is somebody's here already, or you have another. Part from it first."
            )

    desk.writing(work)


def part(desk: Desk) -> None:
    """Sign in by the provider no more. Raises `Missing`, or `Refused` for who has no other way in."""
    person = door.own(desk)

    def work(tx: Transaction) -> None:
        tx.act(Act("provider parted from", topic="people"))
        if not proofs.part(tx.connection, person):
            raise Missing("You are joined to no account.")
        door.check_way_in(tx, person)

    desk.writing(work)
