"""A rehearsal from beginning to end: the ground, the switches, the hosts, the questions; told as it goes on, and kept as plain values."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import asdict, dataclass, field, replace
from typing import Any, Literal

from barrio.core import Compiled
from barrio.core.compare.order import order
from barrio.core.compare.ripple import ripple
from barrio.core.errors import refuse
from barrio.core.rehearse.losses import chosen
from barrio.core.rehearse.parting import parts
from barrio.core.rehearse.slices import Slice, Wish, choose
from barrio.core.rehearse.stations import Machine, machines, stranger
from barrio.rehearsal import outside
from barrio.rehearsal.apart import Apart, memory_for
from barrio.rehearsal.asking.claims import Answer, Asking, Question, answer, begin
from barrio.rehearsal.asking.every import QUESTIONS
from barrio.rehearsal.changing import change
from barrio.rehearsal.drilling import Drilled, drill
from barrio.rehearsal.ground import Ground, NoLab
from barrio.rehearsal.hosts import Plugged
from barrio.rehearsal.kernel import DEVICES, whole_ground
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.room import Here

GroundWish = Literal["best", "here", "apart"]
"""Where: `best` is this kernel where it has all device kinds, else one of its own; `here` is this kernel whatever it lacks."""


AFTER = "-after"
"""What the names of questions end with that are asked once another fabric was put on."""


@dataclass
class Rehearsal:
    """How far a rehearsal is, and what came of it. `state` is a word for a person; `switches` tells each one's, `left_out` what the ground could not run;
    `hosts` are those that play, of `of_hosts` that hang on the slice; `joined` are the pairs of switches with cables between."""

    fabric: str
    slice: Slice
    ground: str = ""
    state: str = "waits"
    switches: dict[str, dict[str, Any]] = field(default_factory=dict)
    left_out: list[str] = field(default_factory=list)
    hosts: int = 0
    of_hosts: int = 0
    booted: float = 0.0
    joined: list[tuple[str, str]] = field(default_factory=list)
    answers: list[Answer] = field(default_factory=list)
    drills: list[Drilled] = field(default_factory=list)
    total: int = 0
    to_drill: int = 0
    seconds: float = 0.0

    @property
    def done(self) -> tuple[int, int]:
        """How many steps are done, of how many: a step a switch, a question and a drill."""
        up = sum(one["words"] == "runs" for one in self.switches.values())
        return up + len(self.answers) + len(self.drills), len(self.switches) + self.total + self.to_drill

    @property
    def failed(self) -> list[Answer]:
        return [one for one in self.answers if one.state == "no"]

    @property
    def other(self) -> list[Drilled]:
        """The drills in which something was other than foretold."""
        return [one for one in self.drills if one.faults]

    def summary(self) -> str:
        """What came of it in a sentence."""
        yes = sum(one.state == "yes" for one in self.answers)
        asked = sum(one.state != "not asked" for one in self.answers)
        claims = sum(len(one.claims) for one in self.answers)
        words = f"{yes} of {asked} questions say yes ({claims:,} claims)"
        if self.failed:
            words = f"{', '.join(one.question for one in self.failed)}: no; {words}"
        if self.drills:
            words += f"; {len(self.drills) - len(self.other)} of {len(self.drills)} drills as foretold"
        return words

    def values(self) -> dict[str, Any]:
        """All of it as plain values, to be kept or sent."""
        return {
            "fabric": self.fabric, "slice": asdict(self.slice), "ground": self.ground, "state": self.state,
            "switches": list(self.switches.values()), "left_out": self.left_out, "hosts": self.hosts,
            "of_hosts": self.of_hosts, "booted": round(self.booted, 1), "seconds": round(self.seconds, 1),
            "total": self.total, "to_drill": self.to_drill, "drills": [{**asdict(one), **one.brief()} for one in self.drills], "joined": self.joined,
            "answers": [
                {**asdict(one), "count": len(one.claims), "failed": sum(not claim.holds for claim in one.claims)} for one in self.answers
            ],
        }  # fmt: skip


Lend = Callable[[Ground, int, int], Sequence[Ground]]


def beside(base: Ground, wanted: int, memory: int) -> list[Ground]:
    """So many grounds more on this machine, of the kind of the first: kernels of their own, each with a processor of its own, or rooms."""
    made: list[Ground] = []
    try:
        for _ in range(wanted):
            made.append(Apart(memory, True) if isinstance(base, Apart) else Here(True))
    except BaseException:
        for one in made:
            one.close()
        raise
    return made


@dataclass(frozen=True, slots=True)
class Split:
    """Over how many grounds a rehearsal is split, and who lends those beside the first: told that, how many, and megabytes of memory for each. With 0 it is as
    many as serve it on this machine: a kernel of its own has one processor, so that two are up in half the time."""

    grounds: int = 1
    lend: Lend = beside


WHOLE, AS_SERVES = Split(), Split(0)
LEAST, MOST = 2, 4
"""Switches for each of the kernels of its own that a rehearsal takes by itself, and how many of those at most."""


def alone(grounds: int) -> None:
    """Raises `Refused` (`rehearse.machines`) where a change is to be drilled on several grounds."""
    if grounds > 1:
        words = "A change is drilled on one machine, since cables are moved with it. Take one machine, or leave the change away."
        raise refuse("rehearse.machines", words, "machines")


Tell = Callable[[Rehearsal], None]
"""Is told whenever something is other. What it raises ends the rehearsal, and everything that was started goes with it."""


def rehearse(
    compiled: Compiled, wish: Wish, questions: Sequence[Question] = QUESTIONS, ground: GroundWish = "best",
    tell: Tell = lambda one: None, drills: Sequence[str] = (), limit: float = 0, becomes: Compiled | None = None, split: Split = AS_SERVES,
) -> Rehearsal:  # fmt: skip
    """Boot a fabric, or the slice that answers for it, ask it, and take things away from it, as `losses.chosen` names them; within `limit` seconds, where
    one is given. Where it `becomes` another, that is put on it at the end in the order of its Ripple, and asked again. It may be `split` over several grounds.

    Raises `Refused` for a wish that cannot be had and as files do, `NoGround` where there is no ground, and `NoLab` where a switch does not boot or the
    time is up.
    """
    began = time.monotonic()
    found = Rehearsal(str(compiled.brief.fabric), choose(compiled, wish), total=len(questions))
    losses = chosen(compiled, found.slice.keys, drills)
    found.to_drill = len(losses) + (becomes is not None)
    found.total = len(questions) * (1 if becomes is None else 2)
    if becomes is not None:
        alone(split.grounds)
        split = WHOLE
    if losses and not split.grounds:
        # What is lost is counted on one kernel, where nothing but its own switching is between two hosts.
        split = WHOLE
    with booted(compiled, found, ground, tell, limit, split) as asking:
        found.booted = time.monotonic() - began
        _ask(asking, questions, found, tell)
        for loss in losses:
            found.state = loss.words
            tell(found)
            found.drills.append(drill(asking, loss))
            tell(found)
            if not found.drills[-1].stands:
                break
        if becomes is not None and all(one.stands for one in found.drills):
            _ask(_become(asking, becomes, found, tell), questions, found, tell, " after the change")
        # The worst comes first: what was other than foretold, then the longest silence.
        found.drills.sort(key=lambda one: (not one.faults, -max((flow.longest for flow in one.flows), default=0)))
        found.state = "ends"
        tell(found)
    found.seconds = time.monotonic() - began
    found.state = "done"
    return found


def _ask(asking: Asking, questions: Sequence[Question], found: Rehearsal, tell: Tell, when: str = "") -> None:
    """Ask all questions, one after the other."""
    begin(asking, questions)
    for question in questions:
        found.state = question.title + when
        tell(found)
        came = answer(asking, question)
        found.answers.append(replace(came, question=came.question + (AFTER if when else ""), title=came.title + when))
        tell(found)


def _become(asking: Asking, after: Compiled, found: Rehearsal, tell: Tell) -> Asking:
    """Put another fabric on the one that runs, in the order of its Ripple; what can be asked of it then."""
    what = ripple(asking.compiled, after)

    def told(words: str) -> None:
        found.state = words
        tell(found)

    found.drills.append(change(asking, after, what, order(asking.compiled, after, what), told))
    tell(found)
    asking.lab.became(after)
    systems = tuple(name for name in found.slice.outside if name in after.brief.outside)
    return Asking(asking.lab, replace(found.slice, keys=tuple(asking.lab.nodes), outside=systems), asking.leave)


@contextmanager
def booted(
    compiled: Compiled,
    found: Rehearsal,
    ground: GroundWish,
    tell: Tell = lambda one: None,
    limit: float = 0,
    split: Split = WHOLE,
) -> Iterator[Asking]:
    """The slice of a rehearsal running, with its hosts and the systems outside, for so many seconds (0 for as long as it takes)."""
    keys = found.slice.keys
    playing, found.of_hosts = machines(compiled, keys)
    for key in keys:
        compiled.files(key)
    found.joined = list(
        dict.fromkeys(
            (str(end.link.upper.name), str(end.link.lower.name))
            for end in compiled.ends
            if end.link.upper.key in keys and end.link.lower.key in keys and end.link.kind == "fabric"
        )
    )
    found.state = "makes its ground"
    tell(found)
    memory = memory_for(-(-len(keys) // max(1, split.grounds)))
    base = _ground(ground, memory, wired=split.grounds != 1)
    parted = parts(compiled, keys, split.grounds or _serving(base, len(keys)))
    grounds = max(parted.values(), default=0) + 1
    with _within(base, limit, found), _beside(base, split, grounds - 1, memory) as others:
        yield from _running(compiled, found, [base, *others], parted, playing, tell)


@contextmanager
def _beside(base: Ground, split: Split, wanted: int, memory: int) -> Iterator[Sequence[Ground]]:
    """The further grounds of a split; when they cannot be had, the first goes too."""
    if not wanted:
        yield []
        return
    try:
        others = split.lend(base, wanted, memory)
    except BaseException:
        base.close()
        raise
    try:
        yield others
    finally:
        for one in others:
            one.close()


@contextmanager
def _within(base: Ground, limit: float, found: Rehearsal) -> Iterator[None]:
    """Whatever is under way when the time is up ends with its ground."""
    late = threading.Event()

    def end() -> None:
        late.set()
        base.close()

    timer = threading.Timer(limit, end) if limit else None
    if timer is not None:
        timer.daemon = True
        timer.start()
    try:
        yield
    except NoLab as error:
        if not late.is_set():
            raise
        words = f"The time of this rehearsal ({limit:.0f} s) was up while “{found.state}” was under way, so it was ended. Allow it more, or rehearse less of the fabric."
        raise NoLab(words) from error
    finally:
        if timer is not None:
            timer.cancel()


def _running(
    compiled: Compiled,
    found: Rehearsal,
    grounds: Sequence[Ground],
    parted: Mapping[str, int],
    playing: Sequence[Machine],
    tell: Tell,
) -> Iterator[Asking]:
    keys = found.slice.keys
    found.ground = " and ".join(called(grounds))
    nobody = stranger(compiled, keys)
    systems = {name: plugged for name in found.slice.outside if (plugged := outside.plugs(compiled, name, keys)).ports}
    plays = [*playing, *([nobody] if nobody else [])]
    lab = Lab(compiled, grounds[0], list(systems.values()), keys, plays, grounds[1:], parted)
    whole = not lab.missing & DEVICES
    found.hosts = len(playing) if whole else 0

    def told() -> None:
        found.switches = {
            key: {"key": key, "name": one.name, "rack": one.rack, "words": one.words, "seconds": round(one.seconds, 1), "failed": one.failed}
            for key, one in lab.state.items()
        }  # fmt: skip
        found.state = "boots"
        tell(found)

    lab.tell = told
    told()
    with lab:
        if whole:
            _play(lab, systems)
        found.left_out = _not_run(lab)
        yield Asking(lab, found.slice, lambda: tell(found))


def _not_run(lab: Lab) -> list[str]:
    """What of the files this ground could not run, those alike in one sentence."""
    by_reason: dict[str, dict[str, None]] = {}
    for node in lab.nodes.values():
        for entry in node.left_out:
            by_reason.setdefault(entry.reason, {})[entry.device] = None
    return [
        f"{', '.join(list(devices)[:4])}{f' and {len(devices) - 4} more' if len(devices) > 4 else ''}: {reason}"
        for reason, devices in sorted(by_reason.items())
    ]


def _ground(wanted: GroundWish, memory: int, wired: bool) -> Ground:
    if wanted == "here":
        return Here(wired)
    return Apart(memory, wired) if wanted == "apart" else whole_ground(memory, wired)


def _serving(base: Ground, switches: int) -> int:
    """How many grounds like this one serve so many switches on this machine."""
    return max(1, min(MOST, os.cpu_count() or 1, switches // LEAST)) if isinstance(base, Apart) else 1


def called(grounds: Sequence[Ground]) -> Iterator[str]:
    """What grounds are called, alike ones once."""
    for words in dict.fromkeys(one.called for one in grounds):
        many = sum(one.called == words for one in grounds)
        yield words if many == 1 else f"{many} × {words}"


def _play(lab: Lab, systems: dict[str, Plugged]) -> None:
    """Begin the systems outside."""
    keys = set(lab.nodes)
    for host, name in zip(lab.hosts, systems, strict=True):
        outside.start(lab.compiled, host, name, outside.tells(lab.compiled, name, keys), keys)
