"""Who acts, and where."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import dataclass
from typing import TypeVar

from barrio.app.house import House
from barrio.app.transaction import Transaction

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Actor:
    """A person, by the name that they gave; empty when nobody said."""

    name: str = ""


@dataclass(frozen=True, slots=True)
class Desk:
    """Somebody at work in a house."""

    house: House
    actor: Actor = Actor()

    def reading(self) -> AbstractContextManager[Transaction]:
        """One snapshot of all that there is."""
        return self.house.reading()

    def writing(self, work: Callable[[Transaction], T], alone: bool = False) -> T:
        """As `House.writing`."""
        return self.house.writing(work, alone)
