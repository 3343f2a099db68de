"""Switches that are none: the agent itself, with a folder for a root and nothing that runs. What they ask and are told is real.

Faults can be ordered of each (`FAULTS`): what it says of itself is wrong, its power goes at a moment of a task, a file comes otherwise, it is slow, or it
never says another word.
"""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey

from barrio.staging.agent import Agent, Hands, Ran, Server, Wrong, put
from barrio.staging.faults import SLOW, answers, somebody_else


class PowerLost(BaseException):
    """Ends what a simulated switch does, at once and without a word."""


class LightKey:
    """An Ed25519 key in a file, as the agent's own, made by a library since there are many of them."""

    def __init__(self, place: Path) -> None:
        path = place / "key"
        if not path.exists():
            made = Ed25519PrivateKey.generate()
            raw = made.private_bytes(
                serialization.Encoding.Raw, serialization.PrivateFormat.Raw, serialization.NoEncryption()
            )
            put(path, raw, 0o600)
        self._key = Ed25519PrivateKey.from_private_bytes(path.read_bytes())
        self.public = self._key.public_key().public_bytes(serialization.Encoding.Raw, serialization.PublicFormat.Raw)

    def sign(self, message: bytes) -> bytes:
        return self._key.sign(message)


class LightHands(Hands):
    """Runs nothing, and answers as if: a parser that was ordered to refuses; neighbours are those that the order says."""

    def __init__(self, faults: set[str], hears: tuple[str, str], told: Mapping[str, str], ran: list[str]) -> None:
        super().__init__(light=True)
        self.faults, self._hears, self._told, self._ran = faults, hears, told, ran

    def hears(self) -> list[dict[str, str]]:
        switch, port = self._hears
        return [{"switch": switch, "port": port}] if switch else []

    def run(self, argv: Iterable[str], seconds: float = 300, most: int = 0) -> Ran:
        words = list(argv)
        if "slow" in self.faults:
            time.sleep(SLOW)
        found = answers(self.faults, words)
        said = " ".join(words)
        self._ran.append(said)
        crossed = "crossed" in self.faults and words[0] == "lldpcli"
        output = somebody_else() if crossed else self._told.get(said, "")
        return found or {"command": said, "code": 0, "output": output}


@dataclass
class Light:
    """A light switch: what it says of itself, where its folder is, and the faults that were ordered of it. `moments` are those at which its power goes, each
    once, for `away` seconds; `times` says how often it went. It `hears` one neighbour: a switch and a port; `answers` are what commands print, and `ran` those that ran."""

    server: str
    folder: Path
    about: Mapping[str, Any]
    faults: set[str] = field(default_factory=set)
    moments: list[str] = field(default_factory=list)
    trust: str = ""
    times: int = 0
    away: float = 0
    hears: tuple[str, str] = ("", "")
    answers: dict[str, str] = field(default_factory=dict)
    ran: list[str] = field(default_factory=list)

    def start(self) -> Agent:
        """Switch it on: everything that it knows is what it kept."""
        self.folder.mkdir(parents=True, exist_ok=True)
        about = dict(self.about)
        if "wrong serial" in self.faults:
            about["serial"] = f"{about.get('serial', '')}-X"
        if "wrong model" in self.faults:
            about["model"] = "a model that nobody planned"
        if "wrong airflow" in self.faults:
            about["airflow"] = "sideways"
        hands = LightHands(self.faults, self.hears, self.answers, self.ran)
        server = _Line(self, LightKey(self.folder))
        return Agent(server, self.folder, self.folder / "root", about, hands, self._cut)

    def _cut(self, where: str) -> None:
        if where in self.moments:
            self.moments.remove(where)
            raise PowerLost(where)

    def run(self, stop: threading.Event, patience: float = 0.05) -> None:
        """Do what it is told until `stop`; after its power was cut it is switched on again."""
        if "no DHCP" in self.faults:
            return
        if "silent" in self.faults:
            self.start().turn()
            return
        agent = self.start()
        while not stop.is_set():
            try:
                wait = agent.turn()
            except PowerLost:
                self.times += 1
                stop.wait(self.away)
                agent, wait = self.start(), 0.0
            stop.wait(min(wait, patience) if wait else 0)

    def file(self, path: str) -> bytes | None:
        """What it has at a place; nothing where it has nothing."""
        place = self.folder / "root" / path
        return place.read_bytes() if place.is_file() else None


class _Line(Server):
    """The way of a light switch to Barrio, with the faults that were ordered of it."""

    def __init__(self, light: Light, key: LightKey) -> None:
        super().__init__(light.server, key, light.folder, light.trust)
        self._light = light

    def files(self, digests: Iterable[str]) -> dict[str, bytes]:
        if "cut off" in self._light.faults:
            self._light.faults.remove("cut off")
            raise ConnectionError("the line broke on the way")
        came = super().files(digests)
        if "download" in self._light.faults:
            raise Wrong(f"a file came otherwise than it was sent: its digest is not {min(came)[:12]}…")
        return came

    def ask(self, said: Mapping[str, Any]) -> dict[str, Any]:
        """Locked out, Barrio is not reached from what was put in place, until the old files are back."""
        kept = self._light.folder / "journal.json"
        if "lock-out" in self._light.faults and kept.exists() and json.loads(kept.read_text()).get("deadline"):
            raise OSError("no way to Barrio from these files")
        return super().ask(said)


def run_all(switches: Iterable[Light], stop: threading.Event, side_by_side: int = 64, patience: float = 0.05) -> None:
    """Run light switches until `stop`."""
    every = list(switches)
    with ThreadPoolExecutor(min(side_by_side, max(1, len(every)))) as pool:
        for job in [pool.submit(one.run, stop, patience) for one in every]:
            job.result()
