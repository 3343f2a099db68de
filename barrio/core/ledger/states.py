"""The life of a number: free, held by a draft, live in an edition, resting, free again; or reserved for a key that is to come.

Each function is one transition and says in which state a number is afterwards; None is free. `leaving` marks a live number
that the draft no longer wants: the edition still has it, so that nobody else can, until the next edition is sealed.
"""

from __future__ import annotations

from enum import StrEnum
from typing import NamedTuple


class State(StrEnum):
    HELD = "held"
    LIVE = "live"
    RESTING = "resting"
    RESERVED = "reserved"


class Life(NamedTuple):
    """A state; whether a live number is leaving; whether a person pinned it to its key."""

    state: State
    leaving: bool = False
    pinned: bool = False

    @property
    def current(self) -> bool:
        """Whether this is the number that the draft's key has now."""
        return self.state in (State.HELD, State.LIVE) and not self.leaving


def release(life: Life) -> Life:
    """The draft wants it no more: a live number leaves with the next edition, a pinned one waits, any other rests."""
    if life.state is State.LIVE:
        return life._replace(leaving=True)
    return life._replace(state=State.RESERVED if life.pinned else State.RESTING)


def take_up(life: Life) -> Life:
    """Its key wants it again: from its rest, out of waiting, or because the draft no longer leaves it."""
    return life._replace(state=State.LIVE if life.leaving else State.HELD, leaving=False)


def seal(life: Life) -> Life:
    """The draft becomes an edition: what is held is live, and what was leaving rests, or waits when it is pinned."""
    if life.leaving:
        return Life(State.RESERVED if life.pinned else State.RESTING, False, life.pinned)
    return life._replace(state=State.LIVE) if life.state is State.HELD else life


def unpin(life: Life) -> Life | None:
    """No longer fixed: what waited for its key is free, the rest stays as it is."""
    return None if life.state is State.RESERVED else life._replace(pinned=False)
