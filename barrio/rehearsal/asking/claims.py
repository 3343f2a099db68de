"""What a question is, and what comes of it."""

from __future__ import annotations

import contextlib
import json
import time
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from barrio.core import Compiled
from barrio.core.model.switch import SwitchModel
from barrio.core.rehearse.slices import Slice
from barrio.core.rehearse.stations import Station
from barrio.rehearsal.ground import Ground, NoLab
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.node import Node


@dataclass(frozen=True, slots=True)
class Claim:
    """One thing that the plan says must be so, and whether it was. `about` is the switch or host where to look, `expected` and `found` are what the plan
    says and what was there, in words; `command` is what was asked, and `said` what was answered, in the daemons' own words. `because` is the path of
    the value that was expected, `other` who is at the far end of what it is about."""

    words: str
    holds: bool
    about: str = ""
    expected: str = ""
    found: str = ""
    command: str = ""
    said: str = ""
    because: str = ""
    other: str = ""


@dataclass(frozen=True, slots=True)
class Question:
    """A question by its id. `title` is what it claims; `needs` are the kinds of device without which it cannot be asked; `ask` makes its claims from
    what the fabric says at that moment, and is repeated for so many seconds until all hold; `nothing` says why there may be none. `begin` starts what
    takes its time, before the first question is asked."""

    id: str
    title: str
    ask: Callable[[Asking], list[Claim]]
    needs: frozenset[str] = frozenset()
    seconds: float = 60
    nothing: str = "nothing in this slice is there to be asked"
    begin: Callable[[Asking], None] | None = None


class Unaskable(NoLab):
    """A question cannot be asked here; the words say why."""


@dataclass(frozen=True, slots=True)
class Answer:
    """What came of a question. `state` is `yes`, `no` or `not asked`, for which `why` says the reason; claims that failed come first."""

    question: str
    title: str
    state: str
    claims: tuple[Claim, ...] = ()
    why: str = ""
    seconds: float = 0.0


@dataclass
class Asking:
    """A lab that is asked, with what it stands for. `begun` is what questions have begun before they are asked, by their id; `of` are the switches that
    claims are made about, where not about all."""

    lab: Lab
    slice: Slice
    leave: Callable[[], None] = field(default=lambda: None)
    begun: dict[str, Any] = field(default_factory=dict)
    of: frozenset[str] = frozenset()

    @property
    def compiled(self) -> Compiled:
        return self.lab.compiled

    @cached_property
    def names(self) -> dict[str, str]:
        """The names of the switches that are here, by key."""
        return {key: str(node.switch.name) for key, node in self.lab.nodes.items()}

    @property
    def stations(self) -> list[Station]:
        return list(self.lab.seats)

    def about(self, models: Mapping[str, SwitchModel]) -> dict[str, SwitchModel]:
        """Those of some switches that claims are made about."""
        return {key: model for key, model in models.items() if not self.of or key in self.of}

    def every(self, ask: Callable[[Node], Any], keys: Iterable[str] | None = None) -> dict[str, Any]:
        """What switches answer, by key; several are asked at once."""
        wanted = [*(self.lab.nodes if keys is None else keys)]
        with ThreadPoolExecutor(self.lab.at_once) as pool:
            return dict(zip(wanted, pool.map(lambda key: ask(self.lab.nodes[key]), wanted), strict=True))

    def told(self, daemon: str, command: str, keys: Iterable[str] | None = None) -> dict[str, Any]:
        """What a routing daemon of each switch answers to a command, in JSON: by key, nothing where it has none to give. All are asked by one process."""
        lab = self.lab
        sockets = {
            key: str(lab.nodes[key].run_folder / "frr" / f"{daemon}.vty")
            for key in (lab.nodes if keys is None else keys)
        }

        def ask(ground: Ground) -> dict[str, Any]:
            mine = {key: path for key, path in sockets.items() if lab.nodes[key].ground is ground}
            return (
                dict(self._program(ground, "vty.py", {"command": command, "sockets": mine}, "switches", 600))
                if mine
                else {}
            )

        with ThreadPoolExecutor(len(lab.laid.grounds)) as pool:
            said: dict[str, Any] = {}
            for one in pool.map(ask, lab.laid.grounds):
                said |= one
        for key, one in said.items():
            if "fault" in one:
                raise NoLab(f"{self.names[key]}: {daemon} does not answer: {one['fault']}")
        return {key: in_json(one["said"]) for key, one in said.items()}

    def pings(self, asked: Sequence[Mapping[str, object]], rounds: int = 3, wait: float = 1.0) -> list[int]:
        """How many answers each had, as `probes.py` counts."""
        if not asked:
            return []
        found = [0] * len(asked)

        def ask(ground: Ground, places: Sequence[int]) -> None:
            words = {"pings": [asked[at] for at in places], "rounds": rounds, "wait": wait}
            for at, heard in zip(places, self._program(ground, "probes.py", words, "hosts", 300), strict=True):
                found[at] = heard

        with ThreadPoolExecutor(len(self.lab.laid.grounds)) as pool:
            for job in [pool.submit(ask, *one) for one in self.lab.laid.by_ground([str(one["in"]) for one in asked])]:
                job.result()
        return found

    @staticmethod
    def _program(ground: Ground, name: str, words: Mapping[str, object], who: str, seconds: float) -> Any:
        """What one of the lab's own programs prints on a ground, told a file of words."""
        place = ground.folder / f"{name}-{time.monotonic_ns()}"
        ground.write(place, json.dumps(words))
        done = ground.run("python3", "-S", "-E", str(ground.folder / name), str(place), timeout=seconds)
        if done.code:
            raise NoLab(f"the {who} could not be asked: {done.err.strip()[-300:]}")
        return json.loads(done.out)


def in_json(text: str) -> Any:
    """What FRRouting answers in JSON; nothing where it has none to give."""
    begins = min((at for at in map(text.find, "{[") if at >= 0), default=-1)
    return json.JSONDecoder().raw_decode(text, begins)[0] if begins >= 0 else {}


def excerpt(value: object, most: int = 600) -> str:
    """What was answered, short enough to be kept."""
    text = value if isinstance(value, str) else json.dumps(value, indent=1)
    return text if len(text) <= most else f"{text[:most]}…"


def answer(asking: Asking, question: Question) -> Answer:
    """Ask until every claim holds, or until its time is up."""
    lacking = question.needs & asking.lab.missing
    if lacking:
        return Answer(question.id, question.title, "not asked", why=f"this kernel has no {', '.join(sorted(lacking))}")
    began = time.monotonic()
    while True:
        asking.leave()
        try:
            claims = question.ask(asking)
        except Unaskable as error:
            return Answer(question.id, question.title, "not asked", why=str(error), seconds=time.monotonic() - began)
        except NoLab as error:
            # A daemon that does not answer is an answer; that the lab itself is gone is none.
            asking.lab.ground.run("true")
            claims = [Claim("every switch answers", False, found=str(error), about=_named(asking, str(error)))]
        if all(one.holds for one in claims) or time.monotonic() - began > question.seconds:
            break
        time.sleep(1)
    seconds = time.monotonic() - began
    if not claims:
        return Answer(question.id, question.title, "not asked", why=question.nothing, seconds=seconds)
    first = sorted(claims, key=lambda one: one.holds)
    return Answer(question.id, question.title, "yes" if first[0].holds else "no", tuple(first), "", seconds)


def begin(asking: Asking, questions: Iterable[Question]) -> None:
    """Begin what takes its time, of questions that will be asked."""
    for one in questions:
        if one.begin is not None and not one.needs & asking.lab.missing:
            with contextlib.suppress(Unaskable):
                one.begin(asking)


def _named(asking: Asking, words: str) -> str:
    return next((name for name in asking.names.values() if words.startswith(f"{name}:")), "")
