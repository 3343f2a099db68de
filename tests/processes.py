"""The real server, as `barrio serve` starts it, on a free port with a data folder of its own."""

from __future__ import annotations

import os
import re
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import httpx2
import pytest

from tests.folders import folder
from tests.signed import BEARER


@dataclass
class Server:
    """One `barrio serve` over a folder; it can be killed and started again on the same data."""

    folder: Path
    process: subprocess.Popen[str] | None = None
    address: str = ""
    said: list[str] = field(default_factory=list)
    python: str = sys.executable
    way_in: str = ""
    cookies: dict[str, str] = field(default_factory=dict)

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
            way_in = re.search(r"/enter#(\S+)", line)
            if way_in and not self.way_in:
                self.way_in = way_in[1]
            found = re.search(r"Barrio is at (http://127\.0\.0\.1:\d+)", line)
            if found:
                self.address = found[1]
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

    def client(self) -> httpx2.Client:
        """A client that is signed in: as the first person, by the first link that the start of a demo printed, or by the token of tests."""
        if not self.cookies and not self.way_in:
            return httpx2.Client(base_url=self.address, timeout=30, headers=BEARER)
        origin = {"Origin": self.address}
        if not self.cookies:
            first = {"secret": self.way_in, "name": "olmo", "called": "Olmo", "password": "four words for a harbour"}
            with httpx2.Client(base_url=self.address, timeout=30, headers=origin) as client:
                made = client.post("/api/v1/links/first", json=first)
                if made.status_code == 401:
                    made = client.post("/api/v1/links/enter", json={"secret": self.way_in})
                assert made.status_code == 204, made.text
                self.cookies = dict(client.cookies)
        return httpx2.Client(base_url=self.address, timeout=30, headers=origin, cookies=self.cookies)

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


def until(holds: Callable[[], bool], seconds: float = 30, rests: float = 0.05) -> None:
    """Wait for something to come true; between two looks at it one `rests`."""
    end = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < end, "it did not come true"
        time.sleep(rests)


@pytest.fixture
def server() -> Iterator[Server]:
    """A server, not started yet; ended and cleaned up after the test."""
    place = folder("barrio-serve-")
    one = Server(place / "data")
    yield one
    if one.process is not None and one.process.poll() is None:
        one.end()
    one.wait_until_gone()
    shutil.rmtree(place, ignore_errors=True)
