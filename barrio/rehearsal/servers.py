"""The servers of an out-of-band network, played by one process: time (RFC 5905), names (RFC 1035), and logs (RFC 5426, RFC 6587).

It stands alone (standard library only), since it runs on the lab's ground, in the out-of-band namespace. Its word is a file with
`{"time": ["10.90.0.21"], "names": [...], "logs": [...], "port": 514, "over": "udp"}`. What it hears it prints, a JSON line each:
`{"what": "time", "at": "10.90.0.21", "from": "10.90.2.4", "words": ""}`; it says `{"what": "ready"}` first.
"""

from __future__ import annotations

import json
import selectors
import socket
import struct
import sys
import time
from collections.abc import Callable
from typing import Any

SINCE_1900 = 2208988800
NAMED = bytes([192, 0, 2, 53])


def told_time(asked: bytes, now: float) -> bytes:
    """An answer to a question for the time: a server of the first stratum (RFC 5905, 7.3)."""
    stamp = struct.pack("!II", int(now) + SINCE_1900, int(now % 1 * 2**32))
    head = struct.pack("!BBbb", 0x24, 1, asked[2] if len(asked) > 2 else 6, -20)
    return head + bytes(8) + b"LOCL" + stamp + asked[40:48].ljust(8, b"\0") + stamp + stamp


def told_name(asked: bytes) -> bytes:
    """An answer to any question for an address (RFC 1035, 4.1)."""
    end = asked.index(b"\0", 12) + 5
    return (
        asked[:2] + b"\x84\x00\x00\x01\x00\x01\x00\x00\x00\x00" + asked[12:end]
        + b"\xc0\x0c\x00\x01\x00\x01\x00\x00\x00\x3c\x00\x04" + NAMED
    )  # fmt: skip


def name_asked(asked: bytes) -> str:
    """The name that a question is about."""
    at, parts = 12, []
    while at < len(asked) and asked[at]:
        parts.append(asked[at + 1 : at + 1 + asked[at]].decode(errors="replace"))
        at += 1 + asked[at]
    return ".".join(parts)


class Servers:
    """All of them, and what they hear."""

    def __init__(self, said: dict[str, Any], tell: Callable[[dict[str, str]], None]) -> None:
        self.tell = tell
        self.waiting = selectors.DefaultSelector()
        for what, port in (("time", 123), ("names", 53), ("logs", said["port"])):
            for address in said[what]:
                kind = socket.SOCK_STREAM if what == "logs" and said["over"] == "tcp" else socket.SOCK_DGRAM
                self._listen(what, address, port, kind)

    def _listen(self, what: str, address: str, port: int, kind: int) -> None:
        made = socket.socket(socket.AF_INET6 if ":" in address else socket.AF_INET, kind)
        made.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        made.bind((address, port))
        made.setblocking(False)
        if kind == socket.SOCK_STREAM:
            made.listen()
        self.waiting.register(made, selectors.EVENT_READ, (what, address, kind == socket.SOCK_STREAM))

    def once(self, wait: float | None = None) -> None:
        """Hear what there is to be heard, and answer it."""
        for key, _ in self.waiting.select(wait):
            one: Any = key.fileobj
            what, address, stream = key.data
            if stream:
                joined, source = one.accept()
                self.waiting.register(joined, selectors.EVENT_READ, (what, f"{address} {source[0]}", False))
                continue
            data, source = one.recvfrom(4096)
            address, _, far = address.partition(" ")
            if far and not data:
                self.waiting.unregister(one)
                continue
            self._answer(one, what, address, data, (far or source[0], *(source or ())[1:]))

    def _answer(self, one: socket.socket, what: str, address: str, data: bytes, source: Any) -> None:
        words = ""
        if what == "time":
            one.sendto(told_time(data, time.time()), source)
        elif what == "names" and len(data) > 16:
            words = name_asked(data)
            one.sendto(told_name(data), source)
        else:
            words = data.decode(errors="replace").strip()
        self.tell({"what": what, "at": address, "from": str(source[0]), "words": words})


def main(path: str) -> None:
    with open(path) as file:  # noqa: PTH123  # stands alone and stays small
        servers = Servers(json.load(file), lambda heard: print(json.dumps(heard), flush=True))
    print(json.dumps({"what": "ready"}), flush=True)
    while True:
        servers.once()


if __name__ == "__main__":
    main(sys.argv[1])
