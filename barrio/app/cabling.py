"""Cables as they are: the plan with the lengths that were measured, what was done, and what switches heard."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta

from barrio.app.desk import Desk
from barrio.app.drafts import Opened, load
from barrio.app.numbering import move
from barrio.app.transaction import Transaction
from barrio.core import Compiled
from barrio.core.cabling.compared import Compared, compare, lying_of
from barrio.core.cabling.heard import Port, Table
from barrio.core.cabling.lay import Laid, with_measured
from barrio.core.cabling.replan import Replan, replan
from barrio.core.cabling.work import Deed, Worked, check_deed, come_to
from barrio.core.errors import refuse
from barrio.core.ledger.wanted import Taken
from barrio.store import cablework
from barrio.store.cablework import Kept
from barrio.store.entries import Act
from barrio.store.errors import Missing

MOST_DEEDS = 2000
AHEAD = timedelta(minutes=10)
"""How far a device's clock may be ahead of ours."""


@dataclass(frozen=True)
class Standing:
    """The cables of a fabric as they are: laid out with what was measured, and what was done to each, by the key of its link."""

    compiled: Compiled
    laid: Laid
    worked: dict[str, Worked]


@dataclass(frozen=True)
class Checked:
    """The newest neighbour table against the plan, and the change of the plan that would do instead of moves. `labels` are those of the cables
    that are planned at each port."""

    kept: Kept
    compared: Compared
    instead: Replan | None
    labels: Mapping[Port, str]


def standing(desk: Desk, name: str) -> Standing:
    """The cables of a fabric. Raises `Missing`, and `Refused` for a draft that cannot be read."""
    opened = load(desk, name)
    with desk.reading() as tx:
        worked = come_to(cablework.deeds_of(tx.connection, name))
    measured = {key: one.measured for key, one in worked.items() if one.measured is not None}
    return Standing(opened.compiled, with_measured(opened.compiled.laid, measured), worked)


def history(desk: Desk, name: str, cable: str) -> list[Deed]:
    """What was done to one cable, by the key of its link."""
    with desk.reading() as tx:
        return cablework.deeds_of(tx.connection, name, cable)


@dataclass(frozen=True, slots=True)
class Recorded:
    """How many deeds were new, and the cables among them that the plan does not have any more."""

    new: int
    not_planned: tuple[str, ...]


def record(desk: Desk, name: str, deeds: Sequence[Deed]) -> Recorded:
    """Keep what was done to cables, all of it or nothing; what was sent before is there once.

    Raises `Missing`, and `Refused` (`work.*`) for a deed that cannot be.
    """
    if len(deeds) > MOST_DEEDS:
        raise refuse("work.many", f"{len(deeds):,} deeds at once are more than {MOST_DEEDS:,}. Send them in parts.")
    latest = datetime.now(UTC) + AHEAD
    planned = {cable.link for cable in load(desk, name).compiled.cables}
    signed = [replace(check_deed(deed), author=desk.actor.name, done_at=min(deed.done_at, latest)) for deed in deeds]

    def work(tx: Transaction) -> int:
        tx.draft(name)
        tx.act(Act("worked on cables", fabric=name, note=_note(signed), topic="cables"))
        return cablework.add(tx.connection, name, signed)

    new = desk.writing(work) if signed else 0
    return Recorded(new, tuple(dict.fromkeys(deed.cable for deed in signed if deed.cable not in planned)))


def _note(deeds: Sequence[Deed]) -> str:
    kinds = sorted({deed.kind for deed in deeds})
    return f"{len(deeds)} {'deed' if len(deeds) == 1 else 'deeds'}: {', '.join(kinds)}"


def take_table(desk: Desk, name: str, table: Table) -> Checked:
    """Keep a neighbour table as the newest one, and hold it against the plan. Raises as `compare`, and then nothing is kept."""
    compiled = load(desk, name).compiled
    compare(compiled.cables, table)

    def work(tx: Transaction) -> None:
        tx.draft(name)
        tx.act(Act("neighbour table", fabric=name, note=f"{len(table.rows)} rows", topic="cables"))
        cablework.add_table(tx.connection, name, table, desk.actor.name)

    desk.writing(work)
    return checked(desk, name)


def checked(desk: Desk, name: str) -> Checked:
    """The newest neighbour table against the plan as it is now. Raises `Missing` while there is none."""
    compiled = load(desk, name).compiled
    with desk.reading() as tx:
        kept = cablework.newest_table(tx.connection, name)
    if kept is None:
        raise Missing(f"Nobody has said yet what the switches of {name} hear of each other.")
    compared = compare(compiled.cables, kept.table)
    instead = None
    if compared.moves:
        lying = lying_of(kept.table)
        instead = replan(compiled.brief, compiled.structure, compiled.allocation.numbers, compiled.ends, lying)
    labels = {Port(end.switch, end.port): cable.label for cable in compiled.cables for end in (cable.a, cable.b)}
    return Checked(kept, compared, instead, labels)


def follow(desk: Desk, name: str, seen: int) -> Opened:
    """Let the plan follow the cables as the newest neighbour table has them, in place of moves.

    Raises as a save, and `Refused` (`neighbours.instead`) where moving plugs is no more work.
    """
    instead = checked(desk, name).instead
    if instead is None:
        raise refuse("neighbours.instead", "No change of the plan would spare moves. Move the plugs that are told.")
    moves: dict[str, dict[str, Taken]] = {}
    for use, key, place in instead.pins:
        moves.setdefault(use, {})[key] = Taken(place, 1)
    return move(desk, name, seen, moves, f"the plan follows the cables: {len(instead.pins)} positions")
