"""Flows between hosts of a lab while something happens: packets sent at a steady rate and counted where they arrive, by one process.

It stands alone (standard library only), since it runs on the lab's ground. Its word is a file with
`{"flows": [{"number": 0, "from": "namespace", "to": "namespace", "at": "10.72.1.11"}, ...], "rate": 1000, "seconds": 12.0,
"acts": [{"at": 2.0, "run": ["ip", ...], "name": "away"}, ...], "stop": "file"}`. A flow without `from` is sent on another ground, one without `to` is heard
there. Acts are commands that are begun at their time; where there is a `stop`, it ends when that file comes to be there. It prints
`{"sent": {"0": [[0.0, 5000], ...]}, "arrived": {"0": [[1, 4990], [0, 10], ...]}, "acts": [...], "began": ..., "late": ...}`. By flow: when its packets were
sent, as runs of so many from so many seconds since it began; and how often each arrived, as runs alike. `began` is in seconds since 1970, and `late` how
many packets could not be sent in time and were not sent at all. `barrio.rehearsal.tally` makes of it what became of a flow.
"""

from __future__ import annotations

import contextlib
import json
import os
import select
import socket
import struct
import subprocess
import sys
import time
from itertools import groupby
from typing import Any

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))  # noqa: PTH100, PTH120  # stands alone, beside its neighbour

from probes import Namespaces  # type: ignore[import-not-found]

PORT = 40000
TENTH = 0.1
MOST = 1 << 22
"""Packets of a flow."""
PACKET = struct.Struct("!II")


class Flow:
    """One flow: what was sent when."""

    def __init__(self, spaces: Any, said: dict[str, Any]) -> None:
        self.number = int(said["number"])
        six = ":" in said["at"]
        self.socket: socket.socket = spaces.socket(
            said["from"], socket.AF_INET6 if six else socket.AF_INET, socket.SOCK_DGRAM, 0
        )
        self.socket.setblocking(False)
        self.socket.bind(("::" if six else "0.0.0.0", PORT + 1 + self.number))
        self.to = (said["at"], PORT)
        self.sent: list[list[float]] = []
        self.serial = 0

    def send(self, now: float, goes_on: bool) -> None:
        if goes_on:
            self.sent[-1][1] += 1
        else:
            self.sent.append([round(now, 6), 1])
        # A host whose own link is away cannot send; that packet is lost like any other.
        with contextlib.suppress(OSError):
            self.socket.sendto(PACKET.pack(self.number, self.serial), self.to)
        self.serial += 1


def runs(values: bytearray) -> list[list[int]]:
    """Values as runs of alike ones."""
    return [[value, len(list(alike))] for value, alike in groupby(values)]


class Run:
    """All flows of a drill, and what is done meanwhile."""

    def __init__(self, said: dict[str, Any]) -> None:
        spaces = Namespaces()
        self.flows = [Flow(spaces, one) for one in said["flows"] if "from" in one]
        self.arrived = {int(one["number"]): bytearray() for one in said["flows"] if "to" in one}
        self.step, self.seconds = 1.0 / said["rate"], float(said["seconds"])
        self.acts = sorted(said.get("acts", []), key=lambda one: one["at"])
        self.done: list[dict[str, Any]] = []
        self.stop, self.looked = str(said.get("stop", "")), 0.0
        self.late = 0
        self.ears = select.epoll()
        self.sockets: dict[int, socket.socket] = {}
        for namespace, six in {(one["to"], ":" in one["at"]) for one in said["flows"] if "to" in one}:
            ear = spaces.socket(namespace, socket.AF_INET6 if six else socket.AF_INET, socket.SOCK_DGRAM, 0)
            ear.setblocking(False)
            if six:
                ear.setsockopt(socket.IPPROTO_IPV6, socket.IPV6_V6ONLY, 1)
            ear.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 1 << 22)
            ear.bind(("::" if six else "0.0.0.0", PORT))
            self.ears.register(ear.fileno(), select.EPOLLIN)
            self.sockets[ear.fileno()] = ear

    def go(self) -> dict[str, Any]:
        began, wall = time.monotonic(), time.time()
        due, last, goes_on = 0.0, self.seconds + 1.0, False
        running: list[subprocess.Popen[bytes]] = []
        while (now := time.monotonic() - began) < last:
            if self.stop and now - self.looked > TENTH and due < self.seconds:
                self.looked = now
                if os.path.exists(self.stop):  # noqa: PTH110
                    self.seconds, last = now, now + 1.0
            while self.acts and self.acts[0]["at"] <= now:
                act = self.acts.pop(0)
                running.append(subprocess.Popen(act["run"], stdin=subprocess.DEVNULL))
                self.done.append({"name": act["name"], "at": round(now, 4)})
            if now - due > 0.05:
                skipped = int((now - due) / self.step)
                self.late += skipped * len(self.flows) if due < self.seconds else 0
                due += skipped * self.step
                goes_on = goes_on and not skipped
            while due <= now and due < self.seconds:
                for flow in self.flows:
                    flow.send(due, goes_on)
                goes_on = True
                due += self.step
            self._hear(max(0.0, min(0.02, began + due - time.monotonic())) if due < self.seconds else 0.02)
        for process in running:
            process.wait()
        sent = {one.number: one.sent for one in self.flows}
        arrived = {number: runs(one) for number, one in self.arrived.items()}
        return {"sent": sent, "arrived": arrived, "acts": self.done, "began": wall, "late": self.late}

    def _hear(self, wait: float) -> None:
        for number, _ in self.ears.poll(wait):
            ear = self.sockets[number]
            with contextlib.suppress(BlockingIOError):
                while True:
                    flow, serial = PACKET.unpack(ear.recv(64)[:8])
                    arrived = self.arrived.get(flow)
                    if arrived is None or serial > MOST:
                        continue
                    if serial >= len(arrived):
                        arrived.extend(bytes(serial + 1 - len(arrived)))
                    if arrived[serial] < 255:
                        arrived[serial] += 1


if __name__ == "__main__":
    with open(sys.argv[1]) as file:  # noqa: PTH123
        print(json.dumps(Run(json.load(file)).go()))
