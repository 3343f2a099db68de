"""Cables of a lab whose other end is on another ground: for each a TAP device on the switch, and its frames over one line.

It stands alone (standard library only), since it runs on the lab's ground. Its words are a file with
`{"cords": [{"id": 7, "namespace": "...", "port": "p1"}, ...]}` and the line: a file descriptor, or an interface. What goes over the line is a VXLAN
header (RFC 7348, 5) with the cord's id as its VNI, and the frame. As with a cable, a port whose far end is not up has no light: without the header's
flag, what follows is whether the port here is up, said when that changes and once a second.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import selectors
import socket
import struct
import sys
import time

sys.path.insert(0, os.path.dirname(os.path.abspath(__file__)))  # noqa: PTH100, PTH120  # stands alone, beside its neighbour

from probes import Namespaces  # type: ignore[import-not-found]

TUN = "/run/tun" if os.path.exists("/run/tun") else "/dev/net/tun"  # noqa: PTH110
"""A kernel of its own has made its device where it may."""
TAP, BARE = 0x0002, 0x1000
SET_DEVICE, SET_LIGHT = 0x400454CA, 0x400454E2
"""The requests TUNSETIFF and TUNSETCARRIER of tun(4)."""
HEADER = struct.Struct("!B3xI")
FRAME, UP = 0x08, 1
LINK, NEW_LINK = 1, 16
"""The group of messages about devices, and the kind of one, of rtnetlink(7)."""
EXPERIMENT = 0x88B5
"""The EtherType for experiments (IEEE 802), by which a line that is an Ethernet interface is told from what else is said there."""
MOST = 1 << 14
OFTEN = 1.0


class Cord:
    """One cable's end: the device on the switch, whether its port is up, and whether there is light."""

    def __init__(self, spaces: Namespaces, number: int, namespace: str, port: str) -> None:
        self.head = HEADER.pack(FRAME, number << 8)
        self.quiet = HEADER.pack(0, number << 8)
        self.namespace, self.up, self.light = namespace, False, True
        with spaces.within(namespace):
            self.device = os.open(TUN, os.O_RDWR | os.O_NONBLOCK)
            fcntl.ioctl(self.device, SET_DEVICE, struct.pack("16sH22x", port.encode(), TAP | BARE))
            self.index = socket.if_nametoindex(port)
        self.shine(False)

    def shine(self, light: bool) -> None:
        if light != self.light:
            self.light = light
            fcntl.ioctl(self.device, SET_LIGHT, struct.pack("i", light))

    def told(self) -> bytes:
        return self.quiet + bytes([self.up])


class Line:
    """What goes to the other grounds and comes from them, a message at a time."""

    def __init__(self, word: str) -> None:
        self._before = b""
        if word.isdigit():
            self.socket = socket.socket(fileno=int(word))
        else:
            self.socket = socket.socket(socket.AF_PACKET, socket.SOCK_RAW, socket.htons(EXPERIMENT))
            self.socket.bind((word, EXPERIMENT))
            self._before = b"\xff" * 6 + b"\x02\0\0\0\0\1" + struct.pack("!H", EXPERIMENT)
        self.socket.setblocking(False)

    def send(self, message: bytes) -> None:
        # A line that is full loses what comes, as any cable does.
        with contextlib.suppress(BlockingIOError, InterruptedError):
            self.socket.send(self._before + message)

    def hear(self) -> bytes:
        return self.socket.recv(MOST)[len(self._before) :]


class Relay:
    """All cords of a ground."""

    def __init__(self, cords: list[dict[str, object]], word: str) -> None:
        spaces = Namespaces()
        self.line = Line(word)
        self.cords = {
            int(str(one["id"])): Cord(spaces, int(str(one["id"])), str(one["namespace"]), str(one["port"]))
            for one in cords
        }
        self.by_device = {(one.namespace, one.index): one for one in self.cords.values()}
        self.ears = selectors.DefaultSelector()
        self.ears.register(self.line.socket, selectors.EVENT_READ, self._from_line)
        for one in self.cords.values():
            self.ears.register(one.device, selectors.EVENT_READ, lambda one=one: self._from_device(one))
        for namespace in {one.namespace for one in self.cords.values()}:
            news = spaces.socket(namespace, socket.AF_NETLINK, socket.SOCK_RAW, socket.NETLINK_ROUTE)
            news.bind((0, LINK))
            news.setblocking(False)
            self.ears.register(
                news, selectors.EVENT_READ, lambda news=news, namespace=namespace: self._news(news, namespace)
            )

    def go(self) -> None:
        """Carry frames as long as the ground stands."""
        said = 0.0
        while True:
            for key, _ in self.ears.select(OFTEN):
                key.data()
            if time.monotonic() - said >= OFTEN:
                said = time.monotonic()
                for one in self.cords.values():
                    self.line.send(one.told())

    def _from_device(self, cord: Cord) -> None:
        # A port that is down has nothing to say, and is an error to read.
        with contextlib.suppress(OSError):
            for _ in range(64):
                self.line.send(cord.head + os.read(cord.device, MOST))

    def _from_line(self) -> None:
        with contextlib.suppress(BlockingIOError):
            for _ in range(64):
                self._take(self.line.hear())

    def _take(self, message: bytes) -> None:
        if len(message) <= HEADER.size:
            return
        flags, number = HEADER.unpack_from(message)
        cord = self.cords.get(number >> 8)
        if cord is None:
            return
        if flags & FRAME:
            with contextlib.suppress(OSError):
                os.write(cord.device, message[HEADER.size :])
        else:
            cord.shine(message[HEADER.size] == UP)

    def _news(self, news: socket.socket, namespace: str) -> None:
        with contextlib.suppress(BlockingIOError):
            while True:
                for index, up in states(news.recv(1 << 16)):
                    cord = self.by_device.get((namespace, index))
                    if cord is not None and cord.up != up:
                        cord.up = up
                        self.line.send(cord.told())


def states(data: bytes) -> list[tuple[int, bool]]:
    """What messages of rtnetlink(7) say of devices: by index, whether somebody wants it up."""
    found: list[tuple[int, bool]] = []
    while len(data) >= 32:
        length, kind = struct.unpack_from("=IH", data)
        if kind == NEW_LINK:
            index, flags = struct.unpack_from("=iI", data, 20)
            found.append((index, bool(flags & UP)))
        data = data[max(16, length + 3 & ~3) :]
    return found


if __name__ == "__main__":
    with open(sys.argv[1]) as file:  # noqa: PTH123  # stands alone and stays small
        Relay(json.load(file)["cords"], sys.argv[2]).go()
