"""What a draft would do: its Ripple against an edition, and the order in which it is safe."""

from __future__ import annotations

from dataclasses import dataclass
from threading import Lock

from barrio.app import kept
from barrio.app.desk import Desk
from barrio.app.leaving import go_on
from barrio.core import Compiled, Refused
from barrio.core.compare.order import Order, order
from barrio.core.compare.ripple import Ripple, ripple
from barrio.core.errors import refuse
from barrio.core.sums import effect
from barrio.store import editions


@dataclass(frozen=True, slots=True)
class Rippled:
    """A draft at a version held against an edition (0 for none), with the findings that are new and those that are gone."""

    version: int
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
    version, against, before, after = _sides(desk, name, None)
    return version, against, dict(effect(before, after))


def of_draft(desk: Desk, name: str, against: int | None = None) -> Rippled:
    """What a draft would do, against an edition or the newest. Raises `Missing`, and `Refused` as files do."""
    version, number, before, after = _sides(desk, name, against)
    return between(desk, before, after, version, number)


def between(desk: Desk, before: Compiled | None, after: Compiled, version: int, against: int = 0) -> Rippled:
    """What lies between two compiled fabrics. Raises `Refused` as files do."""
    found = _KEPT.get(before, after)
    if found is not None and (found.version, found.against) == (version, against):
        return found
    with desk.house.gate.room_for(len(after.staged)):
        what = ripple(before, after, lambda done: go_on())
        made = Rippled(version, against, before, after, what, order(before, after, what))
    _KEPT.keep(made)
    return made


def _sides(desk: Desk, name: str, against: int | None) -> tuple[int, int, Compiled | None, Compiled]:
    with desk.reading() as tx:
        draft = tx.draft(name)
        after = tx.compiled(draft)
        if against is None:
            edition = editions.newest(tx.connection, name)
        else:
            edition = editions.find(tx.connection, name, against) if against else None
        if edition is None:
            return draft.version, 0, None, after
        try:
            return draft.version, edition.number, kept.compiled(tx, edition, after), after
        except Refused as refusal:
            raise refuse(
                "edition.old",
                f"Edition {edition.number} cannot be read by this Barrio any more ({refusal}), so there is no telling what would change "
                "by meaning. Its files can be compared as they are.",
            ) from None
