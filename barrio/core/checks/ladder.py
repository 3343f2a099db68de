"""Checks of the Ladder: rungs that are there, nothing said against what a wider rung holds, and no exception that is none."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Set

from barrio.core.brief.model import Brief
from barrio.core.brief.reader import quoted
from barrio.core.catalogue.model import Catalogue
from barrio.core.errors import Fault, Refused, nearest
from barrio.core.settings.known import VARIABLE
from barrio.core.settings.ladder import Ladder
from barrio.core.structure.parts import Structure


def check_ladder(ladder: Ladder, structure: Structure, catalogue: Catalogue) -> tuple[Fault, ...]:
    """Findings about rungs and variables (`rung.nobody`, `setting.same`, `variable.missing`).

    Raises `Refused` for what no rung may say (`setting.*`, `brief.*`), a rung that is nowhere (`rung.unknown`), and what a wider one holds
    (`setting.held`).
    """
    brief = ladder.brief
    if not ladder.said and not ladder.variables:
        return ()
    reached: dict[tuple[str, ...], int] = {}
    for switch in structure.switches:
        rungs = ladder.speaking(switch.standing)
        reached[rungs] = reached.get(rungs, 0) + 1
    faults = [*_unknown(brief, catalogue), *_held(ladder, reached)]
    if faults:
        raise Refused(faults)
    return (*_nobody(brief, structure, reached), *_same(ladder, reached), *_missing(ladder, reached))


def _missing(ladder: Ladder, reached: Mapping[tuple[str, ...], int]) -> Iterator[Fault]:
    """Variables that have to have a value, and have none."""
    for name in ladder.variables:
        if not (ladder.brief.variables | dict(ladder.given.variables))[name].required:
            continue
        without = sum(
            count for rungs, count in reached.items() if ladder.climb(rungs, f"{VARIABLE}{name}").value is None
        )
        if without:
            words = f"{name} has to have a value, and {without} {'switch has' if without == 1 else 'switches have'} none. Say vars.{name}, or say it on their rungs."
            yield Fault("variable.missing", words, f"variables.{name}" if name in ladder.brief.variables else "vars")


def _unknown(brief: Brief, catalogue: Catalogue) -> Iterator[Fault]:
    """Rungs of roles and models that can never be: neither comes and goes with the shape of a fabric."""
    known: dict[str, Set[str]] = {
        "role": {"leaf", "border", "spine", "super-spine"},
        "model": {one.id for one in catalogue.models},
    }
    for rung in brief.rungs:
        kind, _, name = rung.partition(" ")
        if kind in known and name not in known[kind]:
            words = f"There is no {kind} {name}.{nearest(name, known[kind])}"
            yield Fault("rung.unknown", words, f"rungs.{quoted(rung)}")


def _held(ladder: Ladder, reached: Mapping[tuple[str, ...], int]) -> Iterator[Fault]:
    told: set[str] = set()
    for name, holding in ladder.said.get("office", {}).items():
        if holding.hold and ladder.of_fabric(name) not in (None, holding.value):
            words = f"{name} is held for every fabric ({holding.hold}), and this one says something else. Take it out, or end the hold in the Office."
            yield Fault("setting.held", words, name)
    for rungs in reached:
        for name, said, holding in ladder.held(rungs):
            if said.path not in told:
                told.add(said.path)
                words = (
                    f"{name} is held for {_called(holding.rung)} ({holding.hold}), and {said.rung} says something else. Take it out there, or "
                    "end the hold."
                )
                yield Fault("setting.held", words, said.path)


def _nobody(brief: Brief, structure: Structure, reached: Mapping[tuple[str, ...], int]) -> Iterator[Fault]:
    speaking = {rung for rungs in reached for rung in rungs}
    idle = [rung for rung in brief.rungs if rung not in speaking and brief.rungs[rung]]
    if not idle:
        return
    there = {rung for switch in structure.switches for rung in switch.standing.rungs}
    names: dict[str, str] = {f"switch {switch.name}": f"switch {switch.key}" for switch in structure.switches}
    for rung in idle:
        meant = f" Write {names[rung]}." if rung in names else "" if rung in there else nearest(rung, there)
        words = f"No switch is on the rung {rung}: what it says reaches nobody.{meant or ' Take it out, or keep it for switches to come.'}"
        yield Fault("rung.nobody", words, f"rungs.{quoted(rung)}")


def _same(ladder: Ladder, reached: Mapping[tuple[str, ...], int]) -> Iterator[Fault]:
    """Exceptions that say what would hold without them, for every switch that they reach."""
    for rung, entries in ladder.said.items():
        mine = [rungs for rungs in reached if rung in rungs]
        for name, said in entries.items():
            if said.value is None or not mine:
                continue
            upto = [rungs[: rungs.index(rung) + 1] for rungs in mine]
            # What is said for the whole fabric stands between the office and the closer rungs.
            if rung != "office" and all(
                ladder.climb(one, name).value == ladder.climb(one[:-1], name).value for one in upto
            ):
                words = f"{name} for {_called(rung)} is what it would be anyway. Take it out, so that it follows when the wider value changes."
                yield Fault("setting.same", words, said.path)


def _called(rung: str) -> str:
    return {"office": "every fabric", "fabric": "the whole fabric"}.get(rung, rung)
