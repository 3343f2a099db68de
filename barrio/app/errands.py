"""The page for whoever replaces a switch, takes it out or moves it, from what is known of it now."""

from __future__ import annotations

from barrio.app import kept, rollcall
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.errors import refuse
from barrio.core.staging.boxes import Box
from barrio.core.staging.errands import Errand, errand
from barrio.store import boxes, drains, editions, stagings


def page(desk: Desk, name: str, switch: str, kind: Errand) -> str:
    """The page for a switch. Raises `Missing`, and `Refused` (`errand.place`) for a move of one whose place and cables are as they were."""
    with desk.reading() as tx:
        now = rollcall.newest(tx, name)
        found = rollcall.named(now, switch)
        was = _standing(tx, name, found.key) or now
        if found.key not in was.models:
            was = now
        before = was.structure.by_key[found.key]
        if kind == "move" and (before.rack, before.unit) == (found.rack, found.unit):
            words = f"{switch} stands where the newest edition has it: rack {found.rack}, unit {found.unit}. Change the brief, and seal an edition, first."
            raise refuse("errand.place", words, "switch")
        bound = boxes.of_fabric(tx.connection, name).get(found.key)
        under_way = drains.of_switch(tx.connection, name, found.key)
    drained = under_way.words if under_way else "it is not drained"
    return errand(kind, was, now, found.key, bound.box if bound else Box(), drained)


def _standing(tx: Transaction, name: str, key: str) -> Compiled | None:
    """The edition that a switch was handed over with last."""
    number = stagings.handed_over_with(tx.connection, name, key)
    return (
        kept.compiled(tx, editions.find(tx.connection, name, number), tx.readable(tx.draft(name))) if number else None
    )
