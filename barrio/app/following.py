"""The path of a flow, asked of the switches themselves: each tells what its tables say, until it is known where everything goes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from barrio.app import kept
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.errors import Refused, refuse
from barrio.core.observe.follow import Followed, follow
from barrio.core.observe.texts import masked
from barrio.store import editions, flows
from barrio.store import stagings as staged
from barrio.store.boxes import Knock
from barrio.store.entries import Act
from barrio.store.errors import Missing
from barrio.store.flows import Asked

SECONDS = 150
"""How long one waits for switches: idle ones ask once a minute whether there is anything for them, and then again at once."""
MOST_ANSWER = 300_000
"""Characters of one answer: the devices of a large switch, and no more than a report can carry."""
MOST_AT_ONCE = 60
"""Commands that one switch is asked at a time."""
MOST_ASKED = 20_000


@dataclass(frozen=True, slots=True)
class Path:
    """A path that was asked for: what came of it, or in words why it cannot be followed; whom one waits for, and who cannot be asked."""

    asked: Asked
    found: Followed | None
    words: str
    waits_for: tuple[str, ...]
    silent: tuple[str, ...]


def begin(desk: Desk, name: str, source: str, target: str) -> int:
    """Have a flow followed from a host to another, or to an address. Its number.

    Raises `Missing`, and `Refused`: as `follow`, and `ask.nobody` while no switch was handed over.
    """
    source, target = source.strip(), target.strip()

    def work(tx: Transaction) -> int:
        tx.draft(name)
        edition = editions.newest(tx.connection, name)
        if edition is None or not staged.handed_over(tx.connection, name):
            raise refuse("ask.nobody", "No switch was handed over yet, so nobody can be asked.", "source")
        compiled = kept.compiled(tx, edition)
        found = follow(compiled, {}, source, target)
        tx.act(Act("flow followed", name, note=f"{source} → {target}", topic="staging"))
        number = flows.begin(tx.connection, name, edition.number, source, target, tx.author.name, SECONDS)
        _want(tx, name, number, compiled, found)
        return number

    return desk.writing(work)


def turn(tx: Transaction, knock: Knock, said: Mapping[str, Any]) -> dict[str, Any] | None:
    """Keep what a switch answered, follow the flow on, and give the switch what it is asked next; nothing where it is asked nothing."""
    name = knock.fabric or ""
    told = said.get("report")
    report: Mapping[str, Any] = told if isinstance(told, Mapping) else {}
    task = str(report.get("task", ""))
    if task.startswith("flow/") and task[5:].isdigit():
        _answered(tx, name, int(task[5:]), knock.switch, report)
    waits = flows.waiting(tx.connection, name, knock.switch)
    if waits is None:
        return None
    number, commands = waits
    asked = [one.split() for one in commands[:MOST_AT_ONCE]]
    return {"id": f"flow/{number}", "do": "look", "commands": asked, "files": [], "meant": {}, "most": MOST_ANSWER}


def _answered(tx: Transaction, name: str, number: int, switch: str, report: Mapping[str, Any]) -> None:
    asked = flows.locked(tx.connection, name, number)
    if asked is None:
        return
    ran = report.get("ran")
    texts = {
        str(one.get("command", "")): masked(str(one.get("output", "")), {}).replace("\0", "")[:MOST_ANSWER]
        for one in (ran if isinstance(ran, list) else [])
        if isinstance(one, Mapping)
    }
    flows.answer(tx.connection, number, switch, texts)
    compiled = _compiled(tx, name, asked.edition)
    try:
        _want(tx, name, number, compiled, _follow(asked, compiled, flows.answers(tx.connection, number)))
    except Refused:
        return


def _want(tx: Transaction, name: str, number: int, compiled: Compiled, found: Followed) -> None:
    """Have the switches asked what is not known yet, those that can be."""
    there = staged.handed_over(tx.connection, name)
    keys = {str(one.name): one.key for one in compiled.models.values()}
    wanted = [(keys[switch], switch, command) for switch, command in found.wants if keys[switch] in there]
    if wanted and len(flows.answers(tx.connection, number)) < MOST_ASKED:
        flows.want(tx.connection, number, wanted)


def _follow(asked: Asked, compiled: Compiled, told: Mapping[tuple[str, str], str | None]) -> Followed:
    known = {key: text for key, text in told.items() if text is not None}
    return follow(compiled, known, asked.source, asked.target)


def _compiled(tx: Transaction, name: str, number: int) -> Compiled:
    return kept.compiled(tx, editions.find(tx.connection, name, number))


def every(desk: Desk, name: str) -> list[Asked]:
    """The paths that were asked for, the newest first. Raises `Missing`."""
    with desk.reading() as tx:
        tx.draft(name)
        return flows.of_fabric(tx.connection, name)


def found(desk: Desk, name: str, number: int) -> Path:
    """A path as far as it is known now. Raises `Missing`."""
    with desk.reading() as tx:
        asked = flows.find(tx.connection, name, number)
        if asked is None:
            raise Missing(f"No path was asked for in {name} under {number}.")
        compiled = _compiled(tx, name, asked.edition)
        there = staged.handed_over(tx.connection, name)
        keys = {str(one.name): one.key for one in compiled.models.values()}
        told = flows.answers(tx.connection, number)
        pending = sorted({switch for (switch, _), text in told.items() if text is None})
        try:
            came = _follow(asked, compiled, told)
        except Refused as error:
            return Path(asked, None, str(error), (), ())
        unasked = {switch for switch, _ in came.wants if keys[switch] not in there}
        silent = tuple(sorted(unasked | (set() if asked.waits else set(pending))))
        return Path(asked, came, "", tuple(pending) if asked.waits else (), silent)
