"""The ground a lab stands on: the kernel whose namespaces, devices and daemons it uses.

Two grounds answer to the same calls: `Here` is this machine's own kernel; `barrio.rehearsal.apart.Apart` is a kernel of its own.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import subprocess
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

BARE = {"PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "LANG": "C.UTF-8", "HOME": "/root"}
"""Programs of the system only: ifupdown2 and FRRouting's scripts must not meet the Python of a virtual environment."""


@dataclass(frozen=True, slots=True)
class Done:
    """A command that ended: its exit code and what it printed."""

    code: int
    out: str
    err: str


class Ground(Protocol):
    """What a lab asks of a kernel.

    `folder` is seen from both sides under the same path, `run_folder` is for sockets, inside only; `at_once` is how many switches
    boot side by side.
    """

    folder: Path
    run_folder: Path
    at_once: int

    def run(self, *argv: str, given: str | None = None, timeout: float = 120) -> Done: ...
    def start(self, *argv: str, log: Path) -> int: ...
    def stop(self, process: int, number: int = signal.SIGTERM) -> None: ...
    def exists(self, path: Path, seconds: float) -> bool: ...
    def close(self) -> None: ...


class Here:
    """This machine's own kernel."""

    at_once = 4

    def __init__(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="barrio-lab-", dir="/var/tmp"))
        self.folder.chmod(0o755)
        self.run_folder = self.folder / "run"
        self.run_folder.mkdir()
        self._started: dict[int, subprocess.Popen[bytes]] = {}

    def run(self, *argv: str, given: str | None = None, timeout: float = 120) -> Done:
        try:
            done = subprocess.run(
                argv, input=given, stdin=None if given is not None else subprocess.DEVNULL, capture_output=True, text=True,
                env=BARE, timeout=timeout, check=False,
            )  # fmt: skip
        except subprocess.TimeoutExpired:
            return Done(124, "", "it took too long")
        return Done(done.returncode, done.stdout, done.stderr)

    def start(self, *argv: str, log: Path) -> int:
        with log.open("ab") as out:
            process = subprocess.Popen(
                argv, stdin=subprocess.DEVNULL, stdout=out, stderr=out, env=BARE, start_new_session=True
            )
        self._started[process.pid] = process
        return process.pid

    def stop(self, process: int, number: int = signal.SIGTERM) -> None:
        began = self._started.pop(process)
        signal_group(began, number)
        try:
            began.wait(5)
        except subprocess.TimeoutExpired:
            signal_group(began, signal.SIGKILL)
            began.wait()

    def exists(self, path: Path, seconds: float) -> bool:
        until = time.monotonic() + seconds
        while not path.exists():
            if time.monotonic() > until:
                return False
            time.sleep(0.02)
        return True

    def running(self) -> list[int]:
        """The processes that were started and have not ended."""
        return [number for number, process in self._started.items() if process.poll() is None]

    def close(self) -> None:
        for process in self._started.values():
            signal_group(process, signal.SIGTERM)
        for number in list(self._started):
            self.stop(number)
        shutil.rmtree(self.folder, ignore_errors=True)


def signal_group(process: subprocess.Popen[bytes], number: int) -> None:
    """Signal a process we started with all of its own group."""
    with contextlib.suppress(ProcessLookupError):
        os.killpg(process.pid, number)
