"""The real server, as `barrio serve` starts it, on a free port with a data folder of its own."""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import httpx
import pytest


@dataclass
class Server:
    """One `barrio serve` over a folder; it can be killed and started again on the same data."""

    folder: Path
    process: subprocess.Popen[str] | None = None
    address: str = ""
    said: list[str] = field(default_factory=list)
    python: str = sys.executable

    def start(self, *options: str, port: int | None = 0) -> None:
        self.spawn(*options, port=port)
        self.wait_until_up()

    def spawn(self, *options: str, port: int | None = 0) -> subprocess.Popen[str]:
        named = [] if port is None else ["--port", str(port)]
        command = [self.python, "-m", "barrio.cli.main", "serve", *named, "--data", str(self.folder), *options]
        self.process = subprocess.Popen(
            command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, start_new_session=True
        )
        return self.process

    def wait_until_up(self) -> None:
        """Until it says its address. Raises what it said instead."""
        assert self.process is not None and self.process.stdout is not None
        for line in self.process.stdout:
            self.said.append(line)
            found = re.search(r"http://127\.0\.0\.1:\d+", line)
            if found:
                self.address = found[0]
                return
        raise AssertionError("".join(self.said))

    def end(self, number: int = signal.SIGINT) -> int:
        assert self.process is not None
        os.kill(self.process.pid, number)
        code = self.process.wait(30)
        if self.process.stdout:
            self.said.extend(self.process.stdout)
            self.process.stdout.close()
        return code

    def client(self) -> httpx.Client:
        return httpx.Client(base_url=self.address, timeout=30)

    def processes(self) -> list[int]:
        """The ids of the processes that still have this folder in their command line."""
        found = []
        for entry in Path("/proc").glob("[0-9]*/cmdline"):
            try:
                command = entry.read_bytes()
            except OSError:
                continue
            if str(self.folder).encode() in command and int(entry.parts[2]) != os.getpid():
                found.append(int(entry.parts[2]))
        return found

    def wait_until_gone(self, seconds: float = 20) -> list[int]:
        until = time.monotonic() + seconds
        while self.processes() and time.monotonic() < until:
            time.sleep(0.05)
        return self.processes()


def until(holds: Callable[[], bool], seconds: float = 30) -> None:
    """Wait for something to come true."""
    end = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < end, "it did not come true"
        time.sleep(0.05)


@pytest.fixture
def server() -> Iterator[Server]:
    """A server, not started yet; ended and cleaned up after the test."""
    folder = Path(tempfile.mkdtemp(prefix="barrio-serve-"))
    folder.chmod(0o755)
    one = Server(folder / "data")
    yield one
    if one.process is not None and one.process.poll() is None:
        one.end()
    one.wait_until_gone()
    shutil.rmtree(folder, ignore_errors=True)
