"""Flows between hosts of a lab, on every ground that it stands on, told as one."""

from __future__ import annotations

import json
import time
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from barrio.core.rehearse.stations import Station
from barrio.rehearsal.asking.claims import Asking
from barrio.rehearsal.ground import Ground, NoLab
from barrio.rehearsal.tally import told

Pair = tuple[Station, Station]
Act = Mapping[str, object]


@dataclass(frozen=True, slots=True)
class Flowed:
    """What became of flows, each as `flows.py` tells it: `began` in seconds since 1970, and how many packets were too `late` to be sent."""

    flows: tuple[dict[str, Any], ...]
    began: float
    late: int


@dataclass(frozen=True, slots=True)
class Flowing:
    """Flows that are to run: between these hosts, so many packets a second, for so many seconds, with what is done meanwhile on each ground."""

    asking: Asking
    pairs: Sequence[Pair]
    rate: int
    seconds: float
    acts: Mapping[Ground, Sequence[Act]] = field(default_factory=dict)

    def _words(self, ground: Ground) -> dict[str, object]:
        seats = self.asking.lab.seats
        flows = []
        for number, (one, other) in enumerate(self.pairs):
            sends = {"from": seats[one].namespace} if seats[one].ground is ground else {}
            hears = {"to": seats[other].namespace} if seats[other].ground is ground else {}
            flows += [{"number": number, "at": other.address(False), **sends, **hears}] if sends or hears else []
        stop = str(self._stop_file(ground))
        acts = list(self.acts.get(ground, ()))
        return {"flows": flows, "rate": self.rate, "seconds": self.seconds, "acts": acts, "stop": stop}

    def run(self) -> Flowed:
        """Run them all. Raises `NoLab` when they cannot be had."""
        grounds = self.asking.lab.laid.grounds
        with ThreadPoolExecutor(len(grounds)) as pool:
            said = dict(zip(grounds, pool.map(self._on, grounds), strict=True))
        seats, began = self.asking.lab.seats, float(said[grounds[0]]["began"])
        flows = tuple(
            told(
                said[seats[one].ground]["sent"][str(at)], said[seats[other].ground]["arrived"][str(at)], self.rate,
                float(said[seats[one].ground]["began"]) - began,
            )
            for at, (one, other) in enumerate(self.pairs)
        )  # fmt: skip
        return Flowed(flows, began, sum(int(one["late"]) for one in said.values()))

    def _on(self, ground: Ground) -> dict[str, Any]:
        word = ground.folder / f"flows-{time.monotonic_ns()}"
        ground.write(word, json.dumps(self._words(ground)))
        argv = ("python3", "-S", "-E", str(ground.folder / "flows.py"), str(word))
        done = ground.run(*argv, timeout=self.seconds + 120)
        if done.code:
            raise NoLab(f"Flows did not run: {done.err.strip()[-300:]}")
        said: dict[str, Any] = json.loads(done.out)
        return said

    def stop(self) -> None:
        """End them before their time."""
        for ground in self.asking.lab.laid.grounds:
            ground.run("touch", str(self._stop_file(ground)))

    def _stop_file(self, ground: Ground) -> Path:
        return ground.folder / f"stop-{id(self)}"
