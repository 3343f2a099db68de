"""Rehearsals of drafts and editions: asked for, looked at while they run, kept with the state that they are of."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any, cast

from barrio.app import kept
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.edition import digest_of, inputs_of
from barrio.core.errors import refuse
from barrio.core.rehearse import losses
from barrio.core.rehearse.parting import parts
from barrio.core.rehearse.slices import Slice, Wish, choose
from barrio.core.rehearse.stations import machines
from barrio.rehearsal.asking.every import QUESTIONS, chosen
from barrio.rehearsal.run import AS_SERVES, GroundWish, Lend, Rehearsal, Split, alone, beside, rehearse
from barrio.store import editions, rehearsals
from barrio.store.rehearsals import Rehearsed

MANY, OFTEN = 40, 0.5
"""Switches from which on not every step is told, and seconds between two tellings then."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be rehearsed: an edition (0 is the draft), how much of it, on which ground, which questions, which drills, and within how
    many minutes (0 for as long as it takes). With a `change`, the edition is booted, and the draft put on it at the end. It may be split over several `machines`."""

    edition: int
    wish: Wish
    ground: str
    questions: tuple[str, ...]
    drills: tuple[str, ...] = ()
    minutes: int = 0
    change: bool = False
    machines: int = 1


@dataclass(frozen=True, slots=True)
class Preview:
    """What a wish would boot: the slice, the names of its switches, how many hosts would play of how many, and the questions that there are; `parts` are how many switches each
    machine has."""

    slice: Slice
    switches: tuple[str, ...]
    hosts: int
    of_hosts: int
    losses: tuple[losses.Loss, ...]
    parts: tuple[int, ...] = ()


def preview(desk: Desk, name: str, wanted: Wanted) -> Preview:
    """What would be rehearsed. Raises `Missing` and `Refused` (`rehearse.*`, `edition.old`)."""
    with desk.reading() as tx:
        compiled, _ = _state(tx, name, wanted.edition)
    found = choose(compiled, wanted.wish)
    playing, of = machines(compiled, found.keys)
    names = tuple(str(compiled.structure.by_key[key].name) for key in found.keys)
    parted = parts(compiled, found.keys, wanted.machines)
    shares = tuple(list(parted.values()).count(at) for at in range(max(parted.values(), default=0) + 1))
    return Preview(found, names, len(playing), of, tuple(losses.every(compiled, found.keys).values()), shares)


def values(wanted: Wanted) -> dict[str, Any]:
    """A wish as it is kept with the job."""
    return {
        "edition": wanted.edition,
        "wish": asdict(wanted.wish),
        "ground": wanted.ground,
        "questions": list(wanted.questions),
        "drills": list(wanted.drills),
        "minutes": wanted.minutes,
        "change": wanted.change,
        "machines": wanted.machines,
    }


def wanted(said: Mapping[str, Any]) -> Wanted:
    """A wish as it was kept."""
    wish = said["wish"]
    return Wanted(
        said["edition"],
        Wish(wish["whole"], wish["spines"], tuple(wish["racks"]), wish["most"]),
        said["ground"],
        tuple(said["questions"]),
        tuple(said.get("drills", ())),
        said.get("minutes", 0),
        said.get("change", False),
        said.get("machines", 1),
    )


def begin(tx: Transaction, job: int, name: str, said: Mapping[str, Any]) -> None:
    """Note a rehearsal that a job is to do, with the state that it is of. Raises as `preview`, and `Refused` (`rehearse.question`)."""
    asked = wanted(said)
    chosen(asked.questions)
    compiled, inputs = _state(tx, name, asked.edition)
    if asked.change:
        inputs = _becomes(tx, name, asked.edition, compiled)[1]
    keys = choose(compiled, asked.wish).keys
    losses.chosen(compiled, keys, asked.drills)
    parts(compiled, keys, asked.machines)
    if asked.change:
        alone(asked.machines)
    rehearsals.add(tx.connection, job, name, tx.draft(name).version, asked.edition, inputs, said)


def _state(tx: Transaction, name: str, edition: int) -> tuple[Compiled, bytes]:
    """A draft or an edition compiled, with the digest of what it was compiled from; an edition with the very files that left."""
    draft = tx.draft(name)
    if not edition:
        compiled = tx.compiled(draft)
        text = tx.inputs_text(draft, compiled, lambda: inputs_of(draft.text, compiled, tx.office().files).text())
        return compiled, digest_of(text)
    found = editions.find(tx.connection, name, edition)
    compiled = kept.compiled(tx, found, tx.readable(draft))
    return kept.as_left(tx, found, compiled), found.inputs


def _becomes(tx: Transaction, name: str, number: int, before: Compiled) -> tuple[Compiled, bytes]:
    """The draft that is to be put on an edition, with the digest of its inputs. Raises `Refused` (`rehearse.change`) where there is nothing to change."""
    if not number:
        raise refuse(
            "rehearse.change",
            "A change drill begins with an edition that runs. Say which; the draft is put on it.",
            "edition",
        )
    after, inputs = _state(tx, name, 0)
    if inputs == editions.find(tx.connection, name, number).inputs:
        raise refuse(
            "rehearse.change", f"The draft is what edition {number} is, so there is nothing to put on it.", "change"
        )
    return after, inputs


def every(desk: Desk, name: str) -> tuple[list[Rehearsed], bytes]:
    """The rehearsals of a fabric, newest first and without their claims, and the digest of the draft as it is now."""
    with desk.reading() as tx:
        draft = tx.draft(name)
        compiled = tx.readable(draft)
        now = _state(tx, name, 0)[1] if compiled else b""
        return rehearsals.newest(tx.connection, name), now


def one(desk: Desk, name: str, job: int) -> tuple[Rehearsed, bytes]:
    """A rehearsal with all that was found, and the digest of the draft as it is now. Raises `Missing`."""
    with desk.reading() as tx:
        draft = tx.draft(name)
        now = _state(tx, name, 0)[1] if tx.readable(draft) else b""
        return rehearsals.find(tx.connection, name, job), now


def perform(desk: Desk, job: int, name: str, said: Mapping[str, Any], tell: Any, lend: Lend = beside) -> Rehearsal:
    """Do a rehearsal, and keep what is found while it goes on. `tell` is told done, of how many, and what is under way, and may end it;
    `lend` has the grounds of other machines.

    Raises as `rehearse`.
    """
    asked = wanted(said)
    with desk.reading() as tx:
        compiled, inputs = _state(tx, name, asked.edition)
        becomes, inputs = _becomes(tx, name, asked.edition, compiled) if asked.change else (None, inputs)
        of = rehearsals.find(tx.connection, name, job)
    if inputs != of.inputs:
        # The draft went on while the rehearsal waited; what is rehearsed is what there is now, and it says so.
        desk.house.writing(lambda tx: _moved(tx, job, name, inputs), False, desk.actor.author)
    last, known = 0.0, 0

    def told(found: Rehearsal) -> None:
        nonlocal last, known
        done, total = found.done
        tell(done, total, found.state)
        if len(found.switches) > MANY and len(found.answers) == known and time.monotonic() - last < OFTEN:
            return
        last, known = time.monotonic(), len(found.answers)
        with desk.house.alone() as connection:
            rehearsals.keep(connection, job, found.values())

    ground = cast(GroundWish, asked.ground)
    found = rehearse(
        compiled, asked.wish, chosen(asked.questions), ground, told, asked.drills, asked.minutes * 60, becomes, Split(asked.machines, lend) if asked.machines > 1 else AS_SERVES,
    )  # fmt: skip
    with desk.house.alone() as connection:
        rehearsals.keep(connection, job, found.values())
    return found


def _moved(tx: Transaction, job: int, name: str, inputs: bytes) -> None:
    tx.connection.execute(
        "update rehearsals set inputs = %s, version = %s where job = %s", [inputs, tx.draft(name).version, job]
    )


def questions() -> list[tuple[str, str]]:
    """Every question by its id and title."""
    return [(one.id, one.title) for one in QUESTIONS]
