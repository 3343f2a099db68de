"""The steps of a switch that is staged, and which of them comes next: sums over what is known, without a clock or a database."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

Step = Literal[
    "expected", "knocked", "admitted", "software", "first boot", "all files", "checked", "saved", "handed over"
]
STEPS: tuple[Step, ...] = get_args(Step)
"""In their order. A reboot, where a step needs one, is part of that step."""
State = Literal["waits", "works", "done", "failed", "skipped"]

SECONDS: Mapping[str, int] = {"software": 1800, "first boot": 300, "all files": 300, "checked": 600, "saved": 120}
"""How long a step may take that a switch does, in seconds."""
SETTLES = 90
"""Seconds that a switch is given to find its neighbours and bring its sessions up, before what is not as planned counts."""
PREPARE, COMMIT, CONFIRM, HOLD, BACK = "prepare", "commit", "confirm", "hold", "back"
"""The parts of the step in which all files are put in place: each prepares, those of a wave commit together, each confirms from its new files and holds
until all of the wave have; when one fails to, all of them go back."""
INSTALLED = "installed"
"""The part of the step of software in which it was installed, and is to show."""
IN_PLACE = (CONFIRM, HOLD)
"""The parts in which a switch's new files are in place and its old ones are kept."""


@dataclass(frozen=True, slots=True)
class Standing:
    """A switch of a staging as it stands. `task` is the part of its step that it is at."""

    key: str
    wave: int
    step: str
    state: State
    task: str = ""


@dataclass(frozen=True, slots=True)
class Rules:
    """How a staging goes on: so many switches at once, stopped after so many failures."""

    at_once: int
    stop_after: int


def under_way(all: Sequence[Standing]) -> int | None:
    """The number of the wave that is under way: the first in which somebody is not through. None when all are."""
    open_ = [one.wave for one in all if not through(one)]
    return min(open_) if open_ else None


def through(one: Standing) -> bool:
    """Whether a switch needs no more of its wave's time: handed over, or skipped."""
    return one.state == "skipped" or (one.step == STEPS[-1] and one.state == "done")


def failures(all: Sequence[Standing]) -> int:
    return sum(one.state == "failed" for one in all)


def may_begin(all: Sequence[Standing], rules: Rules, there: Collection[str]) -> list[str]:
    """The switches that may begin now, of those that were admitted (`there`): of the wave that is under way, as many as there is place for."""
    wave = under_way(all)
    if wave is None or failures(all) >= rules.stop_after:
        return []
    busy = sum(one.state == "works" for one in all)
    waiting = [
        one.key
        for one in all
        if one.wave == wave and one.step == "admitted" and one.state == "waits" and one.key in there
    ]
    return waiting[: max(0, rules.at_once - busy)]


def after(step: str) -> str:
    """The step after one."""
    return STEPS[STEPS.index(step) + 1]
