"""What drifted is put back by itself, where a fabric's rule says so: what takes nothing away and touches nobody, or all; each finding once."""

from __future__ import annotations

from collections.abc import Set
from contextlib import suppress
from typing import Literal

from barrio.app import watching
from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from barrio.app.rights import Grant, Role
from barrio.app.transaction import Transaction
from barrio.core.errors import Refused, refuse
from barrio.core.render.effects import Effect
from barrio.store import editions, snapshots
from barrio.store import stagings as staged
from barrio.store.entries import Act
from barrio.store.errors import Missing

Back = Literal["nothing", "harmless", "all"]
WORDS: dict[Back, str] = {
    "nothing": "nothing",
    "harmless": "what takes nothing away and touches nobody",
    "all": "every file that drifts",
}


def rule(desk: Desk, name: str) -> str:
    """What of a fabric's drift is put back by itself. Raises `Missing`."""
    with desk.reading() as tx:
        tx.draft(name)
        return snapshots.rule(tx.connection, name)


def say(desk: Desk, name: str, back: Back) -> None:
    """Say what is put back by itself. Raises `Missing`, and `Refused`: `drift.rule` (nothing is sealed that could be put back)."""

    def work(tx: Transaction) -> None:
        tx.draft(name)
        if back != "nothing" and editions.newest(tx.connection, name) is None:
            raise refuse(
                "drift.rule",
                f"Nothing is sealed of {name} yet, so there is nothing to go back to. Seal an edition first.",
                "back",
            )
        tx.act(Act("drift rule said", name, note=f"put back by itself: {WORDS[back]}", topic="staging"))
        snapshots.keep_rule(tx.connection, name, back, tx.author.name)

    desk.writing(work)


def keep_all(house: House) -> None:
    """Put back what drifted, in every fabric whose rule says so, unless it is staged or somebody leaves it."""
    with house.reading() as tx:
        rules = snapshots.ruled(tx.connection)
        waiting = {
            name: snapshots.to_put_back(tx.connection, name)
            for name in rules
            if not staged.under_way(tx.connection, name)
        }
    for name, fresh in waiting.items():
        back, author = rules[name]
        # Whoever said the rule, it may do what an operator of this fabric may, and nothing else.
        desk = Desk(house, Actor(f"the rule of {author}", frozenset({Grant(Role.OPERATOR, name)})))
        with suppress(Missing, Refused):  # begun meanwhile by somebody, or not readable: looked at again in a while
            _keep(desk, name, back, fresh)


def _keep(desk: Desk, name: str, back: str, fresh: Set[int]) -> None:
    found = [
        one for one in (watching.drift(desk, name) if fresh else ())
        if one.snapshot.id in fresh and one.agent and not one.left
        and (back == "all" or one.texts.back.rank < Effect.GONE.rank)
    ]  # fmt: skip
    oldest = min((one.snapshot.edition for one in found), default=0)
    chosen = [one for one in found if one.snapshot.edition == oldest]
    if not chosen:
        return
    watching.put_back(desk, name, [one.switch for one in chosen])
    with desk.house.alone() as connection:
        snapshots.was_put_back(connection, [one.snapshot.id for one in chosen])
