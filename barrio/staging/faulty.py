#!/usr/bin/python3
"""The agent of a simulated switch: the real one, with the faults that were ordered of it (`/etc/barrio-faults`, one a line).

It stands alone (standard library only), beside `agent.py` and `faults.py`. Where its power is to go, everything that runs ends at once, as it is.
"""

from __future__ import annotations

import os
import signal
import sys
import time
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

HALL = Path(os.environ.get("BARRIO_HALL", "/"))
sys.path.insert(0, str(HALL))
agent = __import__("agent")
faults = __import__("faults")
LOCKED = ["ip", "route", "flush", "vrf", "mgmt"]
"""Leaves no way to Barrio by the management table, until old files take the port out of that table again. Rules of nftables would do it too, on a kernel that
has its tables for IPv4."""


class Hands(agent.Hands):  # type: ignore[name-defined, misc]
    """Runs what it is told, but for what was ordered."""

    def __init__(self, ordered: set[str]) -> None:
        super().__init__()
        self.ordered = ordered

    def run(self, argv: Iterable[str], seconds: float = 300, most: int = agent.MOST_OUTPUT) -> dict[str, Any]:
        words = list(argv)
        if "slow" in self.ordered:
            time.sleep(faults.SLOW * 10)
        said: dict[str, Any] = faults.answers(self.ordered, words) or super().run(words, seconds, most)
        if "lock-out" in self.ordered and words[:2] == ["nft", "--file"] and said["code"] == 0:
            marker = Path("/run/locked")
            if not marker.exists():
                super().run(LOCKED)
            marker.touch()
        return said


class Server(agent.Server):  # type: ignore[name-defined, misc]
    """Barrio, as one reaches it who receives other files than were sent."""

    ordered: frozenset[str] = frozenset()

    def files(self, digests: Iterable[str]) -> dict[str, bytes]:
        came: dict[str, bytes] = super().files(digests)
        if "download" in self.ordered:
            raise agent.Wrong(f"a file came otherwise than it was sent: its digest is not {min(came)[:12]}…")
        return came


def power(where: str) -> None:
    """Its power goes at a moment, once for each."""
    gone = Path("/var/lib/barrio-agent/gone")
    said = gone.read_text().split("\n") if gone.exists() else []
    if where not in said:
        agent.put(gone, "\n".join([*said, where]).encode())
        os.kill(1, signal.SIGUSR1)
        time.sleep(60)


def main(words: Mapping[str, Any]) -> None:
    """As `agent.main`, with faults."""
    ordered = set(Path("/etc/barrio-faults").read_text().split("\n"))
    place = Path("/var/lib/barrio-agent")
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    about = {name: words[name] for name in ("serial", "model", "airflow", "ports")}
    server = Server(agent.awaited(words, agent.Hands()), agent.Key(place), place, words["trust"])
    server.ordered = frozenset(ordered)
    cut = power if "power" in ordered else lambda where: None
    one = agent.Agent(server, place, Path("/"), about, Hands(ordered), cut)
    while True:
        time.sleep(one.turn())
        if "silent" in ordered and one.journal.get("known"):
            time.sleep(1 << 20)


if __name__ == "__main__":
    import json

    main(json.loads(Path("/etc/barrio-agent.json").read_text()))
