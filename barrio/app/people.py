"""People and teams, the roles that they are given, and their tokens."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import TypeVar

from barrio.app import door, secret
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.rights import OF_A_FABRIC, RIGHTS, Right, Role
from barrio.app.transaction import Transaction
from barrio.core.errors import refuse
from barrio.store import people, proofs, signing
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.people import Given, Person, Team
from barrio.store.proofs import Passkey
from barrio.store.signing import Session, Token

T = TypeVar("T")
NAME = re.compile(r"[a-z][a-z0-9._-]{1,31}")
MOST_DAYS = 366


def everybody(desk: Desk) -> tuple[list[Person], list[Team], list[Given]]:
    """All people, teams and roles, as one snapshot."""
    with desk.reading() as tx:
        return people.everybody(tx.connection), people.teams(tx.connection), people.grants(tx.connection)


def _change(desk: Desk, act: str, note: str, work: Callable[[Transaction], T], fabric: str | None = None) -> T:
    """A change of people or roles: recorded, one at a time, and never one that leaves nobody to keep this Barrio."""

    def whole(tx: Transaction) -> T:
        people.lock(tx.connection)
        tx.act(Act(act, fabric, note=note, topic="people"))
        before = people.keepers(tx.connection)
        done = work(tx)
        if before and not people.keepers(tx.connection):
            words = f"{' and '.join(before)} is the last keeper. Make somebody else a keeper first."
            raise refuse("people.last-keeper", words)
        return done

    return desk.writing(whole)


def add(desk: Desk, name: str, called: str) -> str:
    """Somebody new, who may do nothing yet; returns the secret of a link by which they choose a password.

    Raises `Refused` for a name that is taken, could be taken for another, or cannot be one.
    """
    check_name(name)
    shown = clean(called, "called")

    def work(tx: Transaction) -> str:
        other = people.named_alike(tx.connection, name)
        if other:
            words = f"There is {other} already." if other == name else f"{name} could be taken for {other}."
            raise refuse("people.name-taken", f"{words} Choose another name.", "name")
        return _link(tx, people.add(tx.connection, name, shown))

    return _change(desk, "person added", name, work)


def check_name(name: str) -> None:
    """Raises `Refused` for what cannot be a name to sign in by."""
    if not NAME.fullmatch(name):
        words = (
            "A name to sign in by has 2 to 32 characters: small letters a to z first, then also digits, dots, - and _."
        )
        raise refuse("people.name", words, "name")


def clean(text: str, path: str) -> str:
    """A name that people are called by: one line, letters of one script, nothing that cannot be seen. Raises `Refused`."""
    shown = " ".join(unicodedata.normalize("NFKC", text).split())
    scripts = {unicodedata.name(letter, "?").split()[0] for letter in shown if letter.isalpha()}
    if not 1 <= len(shown) <= 60 or not all(letter.isprintable() for letter in shown):
        raise refuse("people.called", "A name that people are called by has 1 to 60 characters that can be seen.", path)
    if len(scripts) > 1:
        words = f"This name mixes letters of {' and '.join(sorted(one.title() for one in scripts))}, so it could look like another. Use one script."
        raise refuse("people.mixed", words, path)
    return shown


def _link(tx: Transaction, person: int) -> str:
    fresh = secret.made()
    signing.add_link(tx.connection, secret.digest(fresh), "welcome", person, door.LINK_LASTS)
    return fresh


def link(desk: Desk, name: str) -> str:
    """A link by which somebody chooses a new password; their second factor goes when they use it. Raises `Missing`."""

    def work(tx: Transaction) -> str:
        person = people.find(tx.connection, name)
        if person.left_at is not None:
            raise refuse("people.left", f"{name} has left. Let them come back first.")
        return _link(tx, person.id)

    return _change(desk, "link made for a new password", name, work)


def leave(desk: Desk, name: str, away: bool = True) -> None:
    """Somebody leaves, and is signed out everywhere, or comes back. Raises `Missing`, or `Refused` for the last keeper."""

    def work(tx: Transaction) -> None:
        people.leave(tx.connection, people.find(tx.connection, name).id, away)

    _change(desk, "person left" if away else "person came back", name, work)


def set_team(desk: Desk, name: str, note: str, members: Sequence[str]) -> None:
    """A team with just these members; made when there is none of the name. Raises `Missing` for a member who is nobody."""
    shown = clean(name, "name")

    def work(tx: Transaction) -> None:
        if all(team.name != shown for team in people.teams(tx.connection)):
            people.add_team(tx.connection, shown, note)
        team = people.team(tx.connection, shown)
        tx.connection.execute("update teams set note = %s where id = %s", [note, team.id])
        for member in members:
            people.find(tx.connection, member)
        people.set_members(tx.connection, team.id, members)

    _change(desk, "team set", f"{shown}: {', '.join(members) or 'nobody'}", work)


def drop_team(desk: Desk, name: str) -> None:
    """End a team, with the roles that it gave. Raises `Missing`, or `Refused` when it has the last keeper."""
    _change(desk, "team ended", name, lambda tx: people.drop_team(tx.connection, people.team(tx.connection, name).id))


def shared(desk: Desk, fabric: str) -> list[Given]:
    """The roles that reach a fabric: those for it, and those for all."""
    with desk.reading() as tx:
        tx.draft(fabric)
        return people.grants(tx.connection, fabric)


def holders(desk: Desk, fabric: str) -> dict[Right, list[str]]:
    """Who has each right that somebody at work on a fabric may miss, as they are called."""
    with desk.reading() as tx:
        tx.draft(fabric)
        wanted = (Right.EDIT, Right.NUMBER, Right.SEAL, Right.POOLS)
        return {
            right: people.holders(
                tx.connection, [role.value for role in RIGHTS[right][0]], fabric if right in OF_A_FABRIC else None
            )
            for right in wanted
        }


def give(desk: Desk, role: Role, fabric: str | None, person: str | None = None, team: str | None = None) -> None:
    """Give a person or a team a role, for a fabric or for all. Raises `Missing`, or `Refused` for a keeper of one fabric."""
    if role is Role.KEEPER and fabric is not None:
        raise refuse("people.keeper", "A keeper keeps all fabrics; give this role for all.", "role")
    if (person is None) == (team is None):
        raise refuse("people.whom", "Name a person or a team to give the role to.", "person")

    def work(tx: Transaction) -> None:
        if fabric is not None:
            tx.draft(fabric)
        one = people.find(tx.connection, person) if person is not None else None
        if one is not None and one.left_at is not None:
            raise refuse("people.left", f"{one.name} has left. Let them come back first.", "person")
        group = people.team(tx.connection, team) if team is not None else None
        people.give(tx.connection, one.id if one else None, group.id if group else None, role.value, fabric)

    note = f"{role} of {fabric or 'all fabrics'} to {person or f'team {team}'}"
    _change(desk, "role given", note, work, fabric)


def take(desk: Desk, grant: int, fabric: str | None = None) -> None:
    """Take a role away; with a fabric, only one that is for it. Raises `Missing`, or `Refused` for the last keeper's."""
    with desk.reading() as tx:
        found = next((one for one in people.grants(tx.connection) if one.id == grant), None)
    if found is None or (fabric is not None and found.fabric != fabric):
        raise Missing("This role is not given any more.")

    def work(tx: Transaction) -> None:
        people.take(tx.connection, grant)

    note = f"{found.role} of {found.fabric or 'all fabrics'} from {found.person or f'team {found.team}'}"
    _change(desk, "role taken away", note, work, found.fabric)


# One's own page


@dataclass(frozen=True, slots=True)
class Me:
    """A person's own page."""

    person: Person
    given: list[Given]
    sessions: list[Session]
    tokens: list[Token]
    passkeys: list[Passkey]
    outside: str | None
    codes: bool


def me(desk: Desk) -> Me:
    person = door.own(desk, by_token=True)
    with desk.reading() as tx:
        found = next(one for one in people.everybody(tx.connection) if one.id == person)
        teams = {team.name for team in people.teams(tx.connection) if found.name in team.members}
        given = [one for one in people.grants(tx.connection) if one.person == found.name or one.team in teams]
        return Me(
            found, given, signing.sessions(tx.connection, person), signing.tokens(tx.connection, person),
            proofs.passkeys(tx.connection, person), proofs.shown_outside(tx.connection, person), proofs.has_codes(tx.connection, person),
        )  # fmt: skip


def change_me(desk: Desk, called: str, keys: Sequence[str], manners: dict[str, str]) -> None:
    """Change how one is called, one's SSH keys, and how one likes things shown."""
    person, shown = door.own(desk), clean(called, "called")

    def work(tx: Transaction) -> None:
        tx.act(Act("own page changed", topic="people"))
        people.change(tx.connection, person, shown, keys, manners)

    desk.writing(work)


def add_token(desk: Desk, name: str, roles: Sequence[Role], fabrics: Sequence[str] | None, days: int) -> str:
    """A token of one's own, limited to some roles and, if named, some fabrics; its secret is returned once and never again.

    A token makes others that may do no more than itself, and no longer. Raises `Refused`.
    """
    person = door.own(desk, by_token=True)
    shown = clean(name, "name")
    if not roles:
        raise refuse("token.roles", "A token needs a role, or it may do nothing.", "roles")
    if not 1 <= days <= MOST_DAYS:
        raise refuse("token.days", f"A token ends after 1 to {MOST_DAYS} days.", "days")
    fresh = secret.made()

    def work(tx: Transaction) -> None:
        if desk.actor.token:
            _within(tx, person, desk.actor.token, roles, fabrics, days)
        tx.act(Act("token made", note=shown, topic="people"))
        for fabric in fabrics or ():
            tx.draft(fabric)
        lasts = timedelta(days=days)
        if not signing.add_token(tx.connection, secret.digest(fresh), person, shown, roles, fabrics, lasts):
            raise refuse("token.twice", f"You have a token called {shown} already. Choose another name.", "name")

    desk.writing(work)
    return fresh


def _within(
    tx: Transaction, person: int, token: str, roles: Sequence[Role], fabrics: Sequence[str] | None, days: int
) -> None:
    """Raises `Refused` when a token is to make one that may do more than itself."""
    parent = next(one for one in signing.tokens(tx.connection, person) if one.name == token)
    wider = set(roles) - set(parent.roles)
    elsewhere = parent.fabrics is not None and (fabrics is None or not set(fabrics) <= set(parent.fabrics))
    longer = datetime.now(UTC) + timedelta(days=days) > parent.ends_at + timedelta(minutes=5)
    if wider or elsewhere or longer:
        words = f"Token {token} may do less than this, or not for so long. Make it on your own page, or ask for less."
        raise refuse("token.wider", words)


def drop_token(desk: Desk, name: str) -> None:
    """End a token of one's own. Raises `Missing`."""
    person = door.own(desk, by_token=True)

    def work(tx: Transaction) -> None:
        tx.act(Act("token ended", note=name, topic="people"))
        if not signing.drop_token(tx.connection, person, name):
            raise Missing(f"You have no token called {name}.")

    desk.writing(work)


def manners_of(house: House, person: int) -> tuple[str, dict[str, str]]:
    """The name that somebody signs in by, and how they like things shown."""
    with house.alone() as connection:
        return people.manners(connection, person)
