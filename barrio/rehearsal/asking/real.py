"""The questions of a rehearsal, asked of a real switch: by what it answered to commands that somebody ran on it.

A question is asked twice: once of nobody, to hear which commands it needs, and once of what these answered.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from types import SimpleNamespace
from typing import Any, cast

from barrio.core import Compiled
from barrio.core.staging import tasks
from barrio.core.structure.parts import Switch
from barrio.rehearsal.asking.claims import Asking, Claim, in_json
from barrio.rehearsal.asking.control import adjacencies, bfd, routes, sessions
from barrio.rehearsal.asking.overlay import flooding, prefixes

QUESTIONS: tuple[Callable[[Asking], list[Claim]], ...] = (sessions, adjacencies, bfd, routes, flooding, prefixes)
MOST = 8
"""Leaves to which a switch's routes are looked at."""


@dataclass
class _Said:
    """What a switch answered, by the command; `asked` are those that somebody wanted to know."""

    said: Mapping[tuple[str, ...], str]
    asked: dict[tuple[str, ...], None] = field(default_factory=dict)

    def of(self, *argv: str) -> str:
        self.asked[argv] = None
        return self.said.get(argv, "")


@dataclass
class _Node:
    """A switch as questions know it; one that is not asked answers nothing."""

    switch: Switch
    said: _Said | None

    def run(self, *argv: str, check: bool = True) -> str:
        return self.said.of(*argv) if self.said else ""

    def vtysh(self, command: str) -> str:
        return self.run("vtysh", "-c", command)


class _Real(Asking):
    """Switches of which one is asked. `routed` are the leaves to which its routes are looked at."""

    def told(self, daemon: str, command: str, keys: Iterable[str] | None = None) -> dict[str, Any]:
        wanted = self.lab.nodes if keys is None else keys
        return {key: in_json(self.lab.nodes[key].vtysh(command)) for key in wanted}

    def every(self, ask: Callable[[Any], Any], keys: Iterable[str] | None = None) -> dict[str, Any]:
        return {key: ask(self.lab.nodes[key]) for key in (self.lab.nodes if keys is None else keys)}


def _asking(compiled: Compiled, key: str, there: Collection[str], said: _Said, few: bool) -> _Real:
    by_key = compiled.structure.by_key
    keys = [one.key for one in compiled.staged if one.key in there or one.key == key]
    if few:
        leaves = [one for one in keys if compiled.models[one].is_leaf and one != key]
        far = {*leaves[:: max(1, len(leaves) // MOST)][:MOST], key}
        keys = [one for one in keys if one in far or not compiled.models[one].is_leaf]
    lab = SimpleNamespace(
        compiled=compiled, models={one: compiled.models[one] for one in keys}, missing=frozenset(), seats={},
        nodes={one: _Node(by_key[one], said if one == key else None) for one in keys},
    )  # fmt: skip
    return _Real(cast(Any, lab), cast(Any, SimpleNamespace(outside=())), of=frozenset((key,)))


def commands(compiled: Compiled, key: str, there: Collection[str]) -> list[list[str]]:
    """What has to be run on a switch so that it can be asked, while these (by their keys) are there."""
    said = _Said({})
    for question in QUESTIONS:
        question(_asking(compiled, key, there, said, question is routes))
    return [list(argv) for argv in said.asked]


def claims(compiled: Compiled, key: str, there: Collection[str], answers: Mapping[tuple[str, ...], str]) -> list[Claim]:
    """The claims about a switch, by what it answered. A question to whose commands it answered nothing at all is not asked."""
    found: list[Claim] = []
    for question in QUESTIONS:
        said = _Said(answers)
        made = question(_asking(compiled, key, there, said, question is routes))
        if any(answers.get(argv) for argv in said.asked):
            found += made
    return found


def wrong(compiled: Compiled, key: str, there: Collection[str], ran: Sequence[Mapping[str, Any]]) -> list[str]:
    """What of a switch is not as planned, in words, by the commands that ran on it and what they answered."""
    names = {str(switch.name) for switch in compiled.staged if switch.key in there}
    found = list(tasks.faults(compiled.models[key], ran, names))
    answers = {
        str(each.get("command", "")): str(each.get("output", ""))
        for each in ran
        if not each.get("code") and not each.get("cut")
    }
    asked = commands(compiled, key, there)
    made = claims(compiled, key, there, {tuple(argv): answers.get(" ".join(argv), "") for argv in asked})
    return found + [f"{claim.words}: {claim.found}" for claim in made if not claim.holds]
