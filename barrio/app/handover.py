"""The hand-over record of a switch: what it is, what is on it, who did what, and what was looked at before it was handed over."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from barrio.app import kept
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.errors import nearest
from barrio.store import boxes, editions, stagings
from barrio.store.boxes import Knock
from barrio.store.errors import Missing
from barrio.store.stagings import Line, Staged, Staging


@dataclass(frozen=True, slots=True)
class Step:
    """A step of the record: when its first and last line were written, and what was said last; `lines` are all of it."""

    step: str
    began: datetime
    ended: datetime
    words: str
    lines: tuple[Line, ...]


@dataclass(frozen=True, slots=True)
class Record:
    """A hand-over: the `files` with their SHA-256 by path, the `cables` as (own port, far switch, far port, number of the cable)."""

    fabric: str
    edition: int
    staging: Staging
    switch: Staged
    role: str
    model: str
    management: str
    serial: str
    mac: str
    software: str
    key: str
    admitted_by: str
    files: dict[str, str]
    cables: tuple[tuple[str, str, str, str], ...]
    steps: tuple[Step, ...]


def record(desk: Desk, name: str, switch: str) -> Record:
    """The record of a switch's newest hand-over. Raises `Missing` while it was not handed over."""
    with desk.reading() as tx:
        one, mine = _newest(tx, name, switch)
        edition = editions.find(tx.connection, name, one.edition)
        compiled = kept.compiled(tx, edition, tx.readable(tx.draft(name)))
        files = editions.files_of_switch(tx.connection, edition.id, mine.name)
        lines = stagings.lines(tx.connection, one.id, mine.switch)
        knock = next((each for each in boxes.knocks(tx.connection, name) if each.switch == mine.switch), None)
        bound = boxes.of_fabric(tx.connection, name).get(mine.switch)
    model = compiled.models[mine.switch]
    return Record(
        name, edition.number, one, mine, compiled.structure.by_key[mine.switch].role,
        compiled.structure.by_key[mine.switch].type.title, str(model.management.ip), bound.box.serial if bound else "",
        bound.box.mac if bound else "", _said(knock, "software"), knock.key.hex() if knock else "",
        knock.author if knock else "", {path: digest.hex() for path, digest in sorted(files.items())},
        tuple(_cables(compiled, mine.switch)), _steps(lines),
    )  # fmt: skip


def _newest(tx: Transaction, name: str, switch: str) -> tuple[Staging, Staged]:
    known: dict[str, None] = {}
    for one in stagings.newest(tx.connection, name, 1000):
        for mine in stagings.switches(tx.connection, one.id):
            known[mine.name] = None
            if mine.name == switch and mine.step == "handed over" and mine.state == "done":
                return one, mine
    if switch in known:
        raise Missing(f"{switch} was not handed over yet, so there is no record of it.")
    raise Missing(f"{switch} was never staged.{nearest(switch, known)}")


def _said(knock: Knock | None, word: str) -> str:
    return str(knock.said.get(word, "")) if knock else ""


def _cables(compiled: Compiled, key: str) -> list[tuple[str, str, str, str]]:
    return [
        (str(port.label), str(port.peer), str(port.peer_port), str(port.cable))
        for port in compiled.models[key].fabric_ports
    ]


def _steps(lines: Sequence[Line]) -> tuple[Step, ...]:
    """The lines by step, in the order of the steps' first ones."""
    found: dict[str, list[Line]] = {}
    for line in lines:
        found.setdefault(line.step, []).append(line)
    return tuple(
        Step(
            step,
            mine[0].at,
            mine[-1].at,
            next((one.words for one in reversed(mine) if not one.command), ""),
            tuple(mine),
        )
        for step, mine in found.items()
    )
