"""Who acts, what they may do, and where."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import TypeVar

from barrio.app.house import House
from barrio.app.rights import RIGHTS, Grant, Right, Role, allowed
from barrio.app.transaction import Transaction
from barrio.store.entries import Author

T = TypeVar("T")
ALL = frozenset(Grant(role) for role in Role)


class NotSignedIn(Exception):
    """Nobody is known to act, and this is for somebody."""


class Forbidden(Exception):
    """Who acts may not do this; `who` are those who could."""

    def __init__(self, right: Right, fabric: str | None, who: list[str]) -> None:
        self.right, self.fabric, self.who = right, fabric, who
        if right is Right.LOOK:
            # Anybody with a role may; what helps is to be given one.
            ask = f"{_listed(who)} can give you one." if who else "Ask whoever keeps this Barrio for one."
            super().__init__(f"You have no role here yet. {ask}")
            return
        could = f"{_listed(who)} can." if who else "Nobody can now; ask whoever keeps this Barrio."
        super().__init__(f"You may not {RIGHTS[right][1].format(it=fabric or 'the fabric')}. {could}")


def _listed(names: list[str]) -> str:
    shown = names[:4] + ([f"{len(names) - 4} more"] if len(names) > 4 else [])
    return " and ".join(filter(None, [", ".join(shown[:-1]), shown[-1]]))


@dataclass(frozen=True, slots=True)
class Actor:
    """A person, or a token of theirs. Barrio itself acts with an empty name, and may do all.

    `id` is the person, `session` what they are signed in by, `token` the name of the token that acts for them; `address` is from where.
    """

    name: str = ""
    grants: frozenset[Grant] = ALL
    id: int | None = None
    session: int | None = None
    token: str = ""
    address: str = ""

    def may(self, right: Right, fabric: str | None = None) -> bool:
        return allowed(self.grants, right, fabric)

    @property
    def author(self) -> Author:
        """How the record names who acts."""
        return Author(self.name, self.id, self.token, self.address)


@dataclass(frozen=True, slots=True)
class Desk:
    """Somebody at work in a house."""

    house: House
    actor: Actor = Actor()

    def may_read(self, fabric: str) -> bool:
        return self.actor.may(Right.READ, fabric)

    def reading(self) -> AbstractContextManager[Transaction]:
        """One snapshot of all that there is."""
        return self.house.reading()

    def writing(self, work: Callable[[Transaction], T], alone: bool = False) -> T:
        """As `House.writing`; what is done is recorded as the actor's."""
        return self.house.writing(work, alone, self.actor.author)
