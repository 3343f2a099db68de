"""Flows between hosts of a lab while something happens: packets sent at a steady rate and counted where they arrive, by one process.

It stands alone (standard library only), since it runs on the lab's ground. Its word is a file with
`{"flows": [{"from": "namespace", "to": "namespace", "at": "10.72.1.11", "source": 40001}, ...], "rate": 1000, "seconds": 12.0,
"acts": [{"at": 2.0, "run": ["ip", ...], "name": "away"}, ...], "stop": "file"}`. Acts are commands that are begun at their time; where there is a `stop`, it ends
when that file comes to be there. It prints
`{"flows": [{"sent", "received", "doubled", "silences": [[from, to, lost], ...], "heard": [...]}, ...], "acts": [...], "began": ..., "late": ...}`: seconds
since it began, `heard` the share that arrived of what was sent in each tenth of a second, `began` as seconds since 1970, and `late` how many packets
could not be sent in time and were not sent at all.
"""

from __future__ import annotations

import array
import contextlib
import json
import os
import select
import socket
import struct
import subprocess
import sys
import time
from typing import Any

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))  # noqa: PTH100, PTH120  # stands alone, beside its neighbour

from probes import Namespaces  # type: ignore[import-not-found]

PORT = 40000
MOST_SILENCES = 60
TENTH = 0.1
PACKET = struct.Struct("!II")


class Flow:
    """One flow: what was sent when, and what arrived."""

    def __init__(self, spaces: Any, number: int, said: dict[str, Any]) -> None:
        self.number = number
        six = ":" in said["at"]
        self.socket: socket.socket = spaces.socket(
            said["from"], socket.AF_INET6 if six else socket.AF_INET, socket.SOCK_DGRAM, 0
        )
        self.socket.setblocking(False)
        self.socket.bind(("::" if six else "0.0.0.0", said["source"]))
        self.to = (said["at"], PORT)
        self.sent = array.array("d")
        self.arrived = bytearray()

    def send(self, now: float) -> None:
        serial = len(self.sent)
        self.sent.append(now)
        self.arrived.append(0)
        # A host whose own link is away cannot send; that packet is lost like any other.
        with contextlib.suppress(OSError):
            self.socket.sendto(PACKET.pack(self.number, serial), self.to)

    def told(self) -> dict[str, Any]:
        silences: list[list[float]] = []
        since = 0
        for serial in range(len(self.sent) + 1):
            there = serial == len(self.sent) or self.arrived[serial]
            if not there:
                since += 1
            elif since:
                ends = self.sent[serial] if serial < len(self.sent) else self.sent[-1]
                silences.append([round(self.sent[serial - since], 4), round(ends, 4), since])
                since = 0
        longest = sorted(silences, key=lambda one: -one[2])[:MOST_SILENCES]
        return {
            "sent": len(self.sent), "received": sum(1 for one in self.arrived if one), "doubled": sum(one - 1 for one in self.arrived if one > 1),
            "silences": sorted(longest), "heard": self._heard(),
        }  # fmt: skip

    def _heard(self) -> list[float]:
        sent: dict[int, int] = {}
        came: dict[int, int] = {}
        for at, there in zip(self.sent, self.arrived, strict=True):
            sent[int(at / TENTH)] = sent.get(int(at / TENTH), 0) + 1
            came[int(at / TENTH)] = came.get(int(at / TENTH), 0) + bool(there)
        return [round(came[at] / sent[at], 3) if at in sent else -1 for at in range(max(sent, default=-1) + 1)]


class Run:
    """All flows of a drill, and what is done meanwhile."""

    def __init__(self, said: dict[str, Any]) -> None:
        spaces = Namespaces()
        self.flows = [Flow(spaces, at, one) for at, one in enumerate(said["flows"])]
        self.step, self.seconds = 1.0 / said["rate"], float(said["seconds"])
        self.acts = sorted(said.get("acts", []), key=lambda one: one["at"])
        self.done: list[dict[str, Any]] = []
        self.stop, self.looked = str(said.get("stop", "")), 0.0
        self.late = 0
        self.ears = select.epoll()
        self.sockets: dict[int, socket.socket] = {}
        for namespace, six in {(one["to"], ":" in one["at"]) for one in said["flows"]}:
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
        due, last = 0.0, self.seconds + 1.0
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
            while due <= now and due < self.seconds:
                for flow in self.flows:
                    flow.send(due)
                due += self.step
            self._hear(max(0.0, min(0.02, began + due - time.monotonic())) if due < self.seconds else 0.02)
        for process in running:
            process.wait()
        return {"flows": [one.told() for one in self.flows], "acts": self.done, "began": wall, "late": self.late}

    def _hear(self, wait: float) -> None:
        for number, _ in self.ears.poll(wait):
            ear = self.sockets[number]
            with contextlib.suppress(BlockingIOError):
                while True:
                    flow, serial = PACKET.unpack(ear.recv(64)[:8])
                    arrived = self.flows[flow].arrived
                    if serial < len(arrived) and arrived[serial] < 255:
                        arrived[serial] += 1


if __name__ == "__main__":
    with open(sys.argv[1]) as file:  # noqa: PTH123
        print(json.dumps(Run(json.load(file)).go()))
