"""Switches asked by hand: a command from the list, one or many at once, what each answered beside the others, on record."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any

from barrio.app import rollcall
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core.errors import refuse
from barrio.core.observe.commands import SHIPPED, Command, argv_of
from barrio.core.observe.texts import masked
from barrio.store import asks
from barrio.store import stagings as staged
from barrio.store.asks import Answer, Asked
from barrio.store.boxes import Knock
from barrio.store.entries import Act
from barrio.store.errors import Missing

SECONDS = 180
"""How long one waits for an answer: idle switches ask once a minute whether there is anything for them."""
MOST_ANSWER = 100_000


@dataclass(frozen=True, slots=True)
class Alike:
    """Switches that answered the same, and what; with no answer, those that have not."""

    switches: tuple[str, ...]
    answer: str | None
    code: int | None


def commands(desk: Desk) -> list[tuple[Command, bool]]:
    """What may be asked, and whether the office keeps it itself."""
    with desk.reading() as tx:
        own = asks.commands(tx.connection)
    return [(one, False) for one in SHIPPED] + [(Command(command, words), True) for command, words in own]


def keep_command(desk: Desk, command: str, words: str) -> None:
    """Keep a command for the office. Raises `Refused`: `ask.command`."""
    argv_of(command)

    def work(tx: Transaction) -> None:
        tx.act(Act("command kept", note=command, topic="office"))
        asks.keep_command(tx.connection, " ".join(command.split()), words.strip(), tx.author.name)

    desk.writing(work)


def drop_command(desk: Desk, command: str) -> None:
    """Take a command from the office's list. Raises `Missing`."""

    def work(tx: Transaction) -> None:
        tx.act(Act("command dropped", note=command, topic="office"))
        if not asks.drop_command(tx.connection, command):
            raise Missing("The office keeps no such command.")

    desk.writing(work)


def ask(desk: Desk, name: str, command: str, switches: Collection[str]) -> int:
    """Ask switches that were handed over, by name; all of them where none is named. Its number.

    Raises `Missing`, and `Refused`: `ask.list` for a command that is not on the list, `ask.nobody`.
    """
    said = " ".join(command.split())
    if said not in {one.command for one, _ in commands(desk)}:
        words = f"“{said[:80]}” is not on the list of what may be asked. Whoever keeps the office can put it there."
        raise refuse("ask.list", words, "command")

    def work(tx: Transaction) -> int:
        tx.draft(name)
        there = staged.handed_over(tx.connection, name)
        compiled = rollcall.newest(tx, name)
        names = {key: str(compiled.structure.by_key[key].name) for key in there if key in compiled.structure.by_key}
        unknown = sorted(set(switches) - set(names.values()))
        if unknown:
            raise refuse(
                "ask.nobody",
                f"{', '.join(unknown[:5])} cannot be asked: a switch can, once it was handed over.",
                "switches",
            )
        chosen = {key: one for key, one in names.items() if not switches or one in switches}
        if not chosen:
            raise refuse("ask.nobody", "No switch was handed over yet, so nobody can be asked.", "switches")
        tx.act(Act("switches asked", name, note=f"{said} ({len(chosen)} switches)", topic="staging"))
        return asks.begin(tx.connection, name, said, tx.author.name, chosen, SECONDS)

    return desk.writing(work)


def turn(tx: Transaction, knock: Knock, said: Mapping[str, Any]) -> dict[str, Any] | None:
    """Keep what a switch answered, and give it what it is asked next; nothing where it is asked nothing."""
    name = knock.fabric or ""
    told = said.get("report")
    report: Mapping[str, Any] = told if isinstance(told, Mapping) else {}
    task = str(report.get("task", ""))
    if task.startswith("ask/") and task[4:].isdigit():
        ran = report.get("ran")
        one = ran[0] if isinstance(ran, list) and ran and isinstance(ran[0], Mapping) else {}
        code = one.get("code")
        text = masked(str(one.get("output", "") or report.get("words", "")), {}).replace("\0", "")[:MOST_ANSWER]
        asks.answer(tx.connection, int(task[4:]), knock.switch, text, code if isinstance(code, int) else -1)
    waits = asks.waiting(tx.connection, name, knock.switch)
    if waits is None:
        return None
    return {"id": f"ask/{waits[0]}", "do": "look", "commands": [argv_of(waits[1])], "files": [], "meant": {}}


def every(desk: Desk, name: str) -> list[Asked]:
    """What was asked of a fabric's switches, the newest first. Raises `Missing`."""
    with desk.reading() as tx:
        tx.draft(name)
        return asks.of_fabric(tx.connection, name)


def found(desk: Desk, name: str, number: int) -> tuple[Asked, list[Alike]]:
    """What was answered, those alike together, most of them first. Raises `Missing`."""
    with desk.reading() as tx:
        asked = asks.find(tx.connection, name, number)
    if asked is None:
        raise Missing(f"Nothing was asked of {name} under {number}.")
    return asked[0], alike(asked[1])


def alike(answers: Collection[Answer]) -> list[Alike]:
    """Answers folded: the switches that said the very same, by what they said."""
    groups: dict[tuple[str | None, int | None], list[str]] = defaultdict(list)
    for one in answers:
        groups[one.answer if one.answer is None else one.answer.rstrip(), one.code].append(one.name)
    folded = [Alike(tuple(names), text, code) for (text, code), names in groups.items()]
    return sorted(folded, key=lambda one: (one.answer is None, -len(one.switches), one.switches))
