"""Many pings at once, from many namespaces, by one process: what hosts of a lab are asked by.

It stands alone (standard library only), since it runs on the lab's ground. Its word is a file with
`{"pings": [{"in": "namespace", "to": "10.72.1.1", "size": 56, "device": ""}, ...], "rounds": 3, "wait": 1.0}`; it prints, in the same order, how many
answers each one had: those that had one are not asked again. Packets are never fragmented on the way; -1 stands for one that its own sender
refused as too large.
"""

from __future__ import annotations

import contextlib
import ctypes
import errno
import json
import os
import select
import socket
import struct
import sys
import time
from collections.abc import Iterator

NEWNET = 0x40000000
IP_MTU_DISCOVER, IPV6_MTU_DISCOVER, IPV6_DONTFRAG, ALWAYS = 10, 23, 62, 3
_C = ctypes.CDLL(None, use_errno=True)


class Namespaces:
    """Sockets of other namespaces: each is made there, and used from here."""

    def __init__(self) -> None:
        self._home = os.open("/proc/self/ns/net", os.O_RDONLY)

    def socket(self, namespace: str, family: int, kind: int, protocol: int) -> socket.socket:
        with self.within(namespace):
            return socket.socket(family, kind, protocol)

    @contextlib.contextmanager
    def within(self, namespace: str) -> Iterator[None]:
        """In another namespace, and back."""
        there = os.open(f"/run/netns/{namespace}", os.O_RDONLY)
        try:
            self._enter(there)
            yield
        finally:
            self._enter(self._home)
            os.close(there)

    @staticmethod
    def _enter(namespace: int) -> None:
        if _C.setns(namespace, NEWNET):
            raise OSError(ctypes.get_errno(), "no way into a namespace")


def checksum(data: bytes) -> int:
    """The checksum of the Internet protocols (RFC 1071)."""
    total = sum(struct.unpack(f"!{len(data) // 2}H", data[: len(data) & ~1]))
    total += data[-1] << 8 if len(data) % 2 else 0
    while total >> 16:
        total = (total & 0xFFFF) + (total >> 16)
    return int(~total & 0xFFFF)


def request(number: int, turn: int, size: int, six: bool) -> bytes:
    """An echo request (RFC 792, RFC 4443) with so many bytes after its header."""
    kind, body = 128 if six else 8, bytes(at & 0xFF for at in range(size))
    head = struct.pack("!BBHHH", kind, 0, 0, number, turn)
    # The kernel sums IPv6's itself, since addresses are in it.
    total = 0 if six else checksum(head + body)
    return struct.pack("!BBHHH", kind, 0, total, number, turn) + body


class Pings:
    """All that is asked, and what was heard."""

    def __init__(self, pings: list[dict[str, object]]) -> None:
        self.pings = pings
        self.heard = [0] * len(pings)
        spaces = Namespaces()
        self.sockets: dict[tuple[str, bool, str], socket.socket] = {}
        for one in pings:
            key = self._key(one)
            if key not in self.sockets:
                self.sockets[key] = self._socket(spaces, *key)

    @staticmethod
    def _key(one: dict[str, object]) -> tuple[str, bool, str]:
        return str(one["in"]), ":" in str(one["to"]), str(one.get("device", ""))

    @staticmethod
    def _socket(spaces: Namespaces, namespace: str, six: bool, device: str) -> socket.socket:
        family, protocol = (socket.AF_INET6, socket.IPPROTO_ICMPV6) if six else (socket.AF_INET, socket.IPPROTO_ICMP)
        made = spaces.socket(namespace, family, socket.SOCK_RAW, protocol)
        made.setblocking(False)
        made.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 1 << 20)
        if device:
            made.setsockopt(socket.SOL_SOCKET, socket.SO_BINDTODEVICE, device.encode())
        if six:
            made.setsockopt(socket.IPPROTO_IPV6, IPV6_MTU_DISCOVER, ALWAYS)
            made.setsockopt(socket.IPPROTO_IPV6, IPV6_DONTFRAG, 1)
        else:
            made.setsockopt(socket.IPPROTO_IP, IP_MTU_DISCOVER, ALWAYS)
        return made

    def ask(self, turn: int, wait: float) -> None:
        """Ask all that have not answered, and hear what comes back for so many seconds."""
        left = [at for at, heard in enumerate(self.heard) if heard == 0]
        for place in range(0, len(left), 40):
            for at in left[place : place + 40]:
                self._send(at, turn)
            self._listen(0.01)
        until = time.monotonic() + wait
        while time.monotonic() < until and any(self.heard[at] == 0 for at in left):
            self._listen(min(0.1, wait))

    def _send(self, at: int, turn: int) -> None:
        one = self.pings[at]
        key = self._key(one)
        try:
            self.sockets[key].sendto(request(at + 1, turn, int(str(one.get("size", 56))), key[1]), (str(one["to"]), 0))
        except OSError as error:
            if error.errno == errno.EMSGSIZE:
                self.heard[at] = -1

    def _listen(self, wait: float) -> None:
        by_socket = {one: key for key, one in self.sockets.items()}
        ready, _, _ = select.select(list(by_socket), [], [], wait)
        for one in ready:
            with contextlib.suppress(BlockingIOError):
                while True:
                    data, source = one.recvfrom(65536)
                    self._take(data, str(source[0]).partition("%")[0], by_socket[one])

    def _take(self, data: bytes, source: str, key: tuple[str, bool, str]) -> None:
        six = key[1]
        body = data if six else data[(data[0] & 15) * 4 :]
        if len(body) < 8 or body[0] != (129 if six else 0):
            return
        at = struct.unpack("!H", body[4:6])[0] - 1
        # Every socket of a namespace hears every answer; each counts its own.
        if at < len(self.pings) and self._key(self.pings[at]) == key and same(str(self.pings[at]["to"]), source):
            self.heard[at] += 1


def same(one: str, other: str) -> bool:
    """Whether two texts are one address."""
    if one == other or ":" not in one:
        return one == other
    return socket.inet_pton(socket.AF_INET6, one) == socket.inet_pton(socket.AF_INET6, other)


def main(path: str) -> None:
    with open(path) as file:  # noqa: PTH123  # stands alone and stays small
        asked = json.load(file)
    pings = Pings(asked["pings"])
    for turn in range(asked["rounds"]):
        pings.ask(turn, asked["wait"])
    print(json.dumps(pings.heard))


if __name__ == "__main__":
    main(sys.argv[1])
