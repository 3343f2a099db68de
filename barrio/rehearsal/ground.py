"""The ground a lab stands on: a kernel whose namespaces, devices and daemons it uses, wherever that is.

What a lab asks of it are a few verbs. `barrio.rehearsal.room` has those grounds that are on this machine, `barrio.rehearsal.afar` those that
another machine lends.
"""

from __future__ import annotations

import signal
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import count
from pathlib import Path
from typing import Any


@dataclass(frozen=True, slots=True)
class Done:
    """A command that ended: its exit code and what it printed."""

    code: int
    out: str
    err: str


class NoLab(RuntimeError):
    """A lab cannot be had or went wrong; the words name what, and the way out where there is one."""


class NoGround(NoLab):
    """There is no ground to stand on here, or it gave way."""


class Answers:
    """Answers that are waited for, by the numbers of their questions, until whoever gives them is gone."""

    def __init__(self) -> None:
        self._numbers = count(1)
        self._arrived = threading.Condition()
        self._there: dict[int, Any] = {}
        self._gone = False

    def number(self) -> int:
        """One for the next question."""
        return next(self._numbers)

    def put(self, number: int, said: Any) -> None:
        with self._arrived:
            self._there[number] = said
            self._arrived.notify_all()

    def end(self) -> None:
        """No more will come."""
        with self._arrived:
            self._gone = True
            self._arrived.notify_all()

    def wait(self, number: int, seconds: float, lacking: Callable[[str], NoGround]) -> Any:
        """The answer of a number. Raises what is made of the words for why it does not come."""
        with self._arrived:
            there = self._arrived.wait_for(lambda: number in self._there or self._gone, seconds)
            if number in self._there:
                return self._there.pop(number)
        raise lacking("is gone" if there else f"did not answer within {seconds:.0f} s")


class Ground:
    """What a lab asks of a kernel. Raises `NoGround` when it has ended.

    `folder` is for files, `run_folder` for sockets, inside only; `at_once` is how many switches boot side by side, `rate` how many packets a second each
    flow of a drill has. A ground that is `wired` carries frames to others: `carry` gives it one, and `hears` is told each that it has for them.
    """

    called = "this machine's kernel"
    at_once = 1
    rate = 1000
    folder: Path
    run_folder: Path
    hears: Callable[[bytes], None] = staticmethod(lambda frame: None)

    def run(self, *argv: str, given: str | None = None, timeout: float = 120) -> Done:
        """A command, whatever comes of it; one that takes too long ends with 124."""
        said = self._ask("run", timeout + 30, argv=argv, input=given, timeout=timeout)
        return Done(said["rc"], said["out"], said["err"])

    def network(self, process: int, *argv: str, timeout: float = 300) -> Done:
        """A call of ifupdown2 (`ifup`, `ifreload`) in the namespaces of a process, whatever comes of it."""
        starter = str(self.folder / "starter.py")
        said = self._ask("network", timeout + 30, pid=process, argv=argv, starter=starter, timeout=timeout)
        return Done(said["rc"], said["out"], said["err"])

    def start(self, *argv: str, log: Path) -> int:
        """Begin a process that stays; its number."""
        said = self._ask("start", 30, argv=argv, log=str(log))
        if said["rc"]:
            raise NoGround(f"{argv[0]} could not be started: {said['err']}")
        return int(said["out"])

    def stop(self, process: int, number: int = signal.SIGTERM) -> None:
        """End a process that was started, with all of its own group."""
        self._ask("stop", 30, pid=process, signal=int(number))

    def exists(self, path: Path, seconds: float) -> bool:
        """Whether a file comes to be there within so many seconds."""
        return bool(self._ask("exists", seconds + 30, path=str(path), timeout=seconds)["rc"] == 0)

    def running(self) -> list[int]:
        """The processes that were started and have not ended."""
        return [int(one) for one in self._ask("running", 30)["out"].split()]

    def write(self, path: Path, text: str) -> None:
        """Put a file of the ground's folder in place, with the folders that it is in."""
        raise NotImplementedError

    def read(self, path: Path) -> str | None:
        """What stands in a file of the ground; nothing while it is not there."""
        done = self.run("cat", str(path))
        return None if done.code else done.out

    def lay(self, cords: Sequence[Mapping[str, object]]) -> None:
        """Lay the ends of cords to other grounds, as `relay.py` wants them told; once."""
        raise NotImplementedError

    def carry(self, frame: bytes) -> None:
        """Give a frame from another ground to this one's cords."""
        raise NotImplementedError

    def close(self) -> None:
        """End everything on the ground, and the ground; once, whoever asks."""
        raise NotImplementedError

    def _ask(self, do: str, seconds: float, **words: Any) -> Any:
        """Have a verb done (`inside.py` tells which there are), and its answer within so many seconds."""
        raise NotImplementedError


def wait_until(holds: Callable[[], bool], seconds: float) -> bool:
    """Whether something comes to hold within so many seconds."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        if holds():
            return True
        time.sleep(0.3)
    return holds()
