"""Numbers of the ledger as they are asked for one by one: what each is, what it was, and the acts that made it so."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Number:
    """A number in some state: whose, and since when. `key` is the thing that has it, as the structure names it."""

    use: str
    key: str
    fabric: str
    number: str
    state: str
    leaving: bool
    pinned: bool
    note: str
    since: datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry(Number):
    """A number that is taken now, and the act that made it what it is."""

    id: int
    space: str
    author: str | None
    act: str | None
    rests_until: datetime | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PastState(Number):
    """What a number was for a time; `until` is nothing while it still is."""

    pool: str
    author: str
    act: str
    version: int | None
    why: str
    until: datetime | None
    ended_by: str
    ended_act: str
    ended_version: int | None


@dataclass(frozen=True, slots=True)
class Change:
    """An act that changed the ledger."""

    id: int
    at: datetime
    author: str
    fabric: str | None
    version: int | None
    act: str
    note: str


def bare(number: str) -> str:
    """A number without the length that every address has.

    >>> bare("10.60.0.7/32"), bare("10.61.0.0/31"), bare("fd60::11/128"), bare("4200065007")
    ('10.60.0.7', '10.61.0.0/31', 'fd60::11', '4200065007')
    """
    return number.removesuffix("/128" if ":" in number else "/32")
