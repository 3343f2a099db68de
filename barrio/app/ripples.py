"""What a draft would do: its Ripple against an edition, and the order in which it is safe."""

from __future__ import annotations

from dataclasses import dataclass
from threading import Lock

from barrio.app import kept
from barrio.app.desk import Desk
from barrio.app.leaving import go_on
from barrio.app.transaction import Transaction
from barrio.core import Compiled, Refused
from barrio.core.compare.order import Order, order
from barrio.core.compare.ripple import Ripple, ripple
from barrio.core.errors import refuse
from barrio.core.sums import effect
from barrio.store import editions
from barrio.store.editions import Edition


@dataclass(frozen=True, slots=True)
class Rippled:
    """A draft at a version (or the edition `of`) held against an edition (0 for none)."""

    version: int
    of: int
    against: int
    before: Compiled | None
    after: Compiled
    ripple: Ripple
    order: Order


class Kept:
    """The ripples that were worked out last, by what they were worked out from."""

    MOST = 4

    def __init__(self) -> None:
        self._known: list[tuple[tuple[int, int], Rippled]] = []
        self._guard = Lock()

    def get(self, before: Compiled | None, after: Compiled) -> Rippled | None:
        with self._guard:
            return next(
                (one for key, one in self._known if key == (id(before), id(after)) and one.after is after), None
            )

    def keep(self, one: Rippled) -> None:
        with self._guard:
            self._known = [((id(one.before), id(one.after)), one), *self._known[: self.MOST - 1]]


_KEPT = Kept()


def sums(desk: Desk, name: str) -> tuple[int, int, dict[str, int]]:
    """What a draft would do in counts of switches, cables and numbers, at once: (version, edition held against, counts)."""
    sides = _sides(desk, name, None, None)
    return sides.version, sides.against, dict(effect(sides.before, sides.after))


def of(desk: Desk, name: str, against: int | None = None, edition: int | None = None) -> Rippled:
    """What a draft would do, or an edition did, against another edition: the newest, or the one before it.

    Raises `Missing`, and `Refused`: `edition.old` for one that this Barrio does not read any more, and as files do.
    """
    return between(desk, _sides(desk, name, against, edition))


@dataclass(frozen=True, slots=True)
class Sides:
    """Two compiled fabrics that are held against each other. `of` and `against` are editions; 0 is the draft, or nothing."""

    before: Compiled | None
    after: Compiled
    version: int
    of: int = 0
    against: int = 0


def between(desk: Desk, sides: Sides) -> Rippled:
    """What lies between two compiled fabrics. Raises `Refused` as files do."""
    before, after = sides.before, sides.after
    found = _KEPT.get(before, after)
    if found is not None and (found.version, found.of, found.against) == (sides.version, sides.of, sides.against):
        return found
    with desk.house.gate.room_for(len(after.staged)):
        what = ripple(before, after, lambda done: go_on())
        made = Rippled(sides.version, sides.of, sides.against, before, after, what, order(before, after, what))
    _KEPT.keep(made)
    return made


def _sides(desk: Desk, name: str, against: int | None, edition: int | None) -> Sides:
    with desk.reading() as tx:
        draft = tx.draft(name)
        if edition is None:
            after, newest = tx.compiled(draft), editions.newest(tx.connection, name)
            usual = newest.number if newest else 0
        else:
            after, usual = _read(tx, editions.find(tx.connection, name, edition), tx.readable(draft)), edition - 1
        number = usual if against is None else against
        earlier = editions.find(tx.connection, name, number) if number else None
        before = _read(tx, earlier, after) if earlier else None
        if earlier is not None and before is not None:
            kept.fill(tx, earlier, before, after)
        return Sides(before, after, draft.version, edition or 0, number)


def _read(tx: Transaction, edition: Edition, previous: Compiled | None) -> Compiled:
    try:
        return kept.compiled(tx, edition, previous)
    except Refused as refusal:
        raise refuse(
            "edition.old",
            f"Edition {edition.number} cannot be read by this Barrio any more ({refusal}), so there is no telling what would change "
            "by meaning. Its files can be compared as they are.",
        ) from None
