"""What drifted is put back by itself, where a fabric's rule says so: what takes nothing away and touches nobody, or all; each finding once."""

from __future__ import annotations

from typing import Literal

from barrio.app import watching
from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core.errors import Refused, refuse
from barrio.core.render.effects import Effect
from barrio.store import editions, snapshots
from barrio.store import stagings as staged
from barrio.store.entries import Act
from barrio.store.errors import Missing

Back = Literal["nothing", "harmless", "all"]


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
        words = {"nothing": "nothing", "harmless": "what takes nothing away and touches nobody", "all": "all files"}[
            back
        ]
        tx.act(Act("drift rule said", name, note=f"put back by itself: {words}", topic="staging"))
        snapshots.keep_rule(tx.connection, name, back, tx.author.name)

    desk.writing(work)


def keep_all(house: House) -> None:
    """Put back what drifted, in every fabric whose rule says so, unless it is staged or somebody leaves it."""
    with house.reading() as tx:
        rules = snapshots.ruled(tx.connection)
        free = {name: back for name, (back, _) in rules.items() if not staged.under_way(tx.connection, name)}
    for name, back in free.items():
        desk = Desk(house, Actor(f"the rule of {rules[name][1]}"))
        try:
            _keep(desk, name, back)
        except (Missing, Refused):
            continue  # begun meanwhile by somebody, or not readable; looked at again in a while


def _keep(desk: Desk, name: str, back: str) -> None:
    false = [
        one for one in watching.drift(desk, name)
        if one.snapshot.files and not one.left and (back == "all" or one.texts.back.rank < Effect.GONE.rank)
    ]  # fmt: skip
    with desk.reading() as tx:
        fresh = snapshots.not_put_back(tx.connection, [one.snapshot.id for one in false])
    new = [one for one in false if one.snapshot.id in fresh]
    oldest = min((one.snapshot.edition for one in new), default=0)
    chosen = [one for one in new if one.snapshot.edition == oldest]
    if not chosen:
        return
    watching.put_back(desk, name, [one.switch for one in chosen])
    with desk.house.alone() as connection:
        snapshots.was_put_back(connection, [one.snapshot.id for one in chosen])
