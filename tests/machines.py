"""Machines that are none: network namespaces with one wire between them, from which the tests' PostgreSQL is reached."""

from __future__ import annotations

import ctypes
import os
import socket
import subprocess
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress

_C = ctypes.CDLL(None, use_errno=True)
NEWNET = 0x40000000


@contextmanager
def machines(port: int, count: int = 2) -> Iterator[dict[str, str]]:
    """So many namespaces by name with their addresses; in each of them this machine's port on loopback is reached as if it were there."""
    stem = f"far{os.getpid()}"
    names = {f"{stem}-{at}": f"10.98.0.{at}" for at in range(1, count + 1)}
    listeners: list[socket.socket] = []
    try:
        _ip(f"netns add {stem}-wire", *(f"netns add {name}" for name in names))
        _ip("link add wire type bridge", "link set wire up", space=f"{stem}-wire")
        for at, (name, address) in enumerate(names.items()):
            _ip(f"link add e0 netns {name} type veth peer name p{at} netns {stem}-wire")
            _ip(f"link set p{at} master wire up", space=f"{stem}-wire")
            _ip("link set lo up", f"address add {address}/24 dev e0", "link set e0 up", space=name)
            listeners.append(_listener(name, port))
            threading.Thread(target=_forward, args=(listeners[-1], port), daemon=True).start()
        yield names
    finally:
        for one in listeners:
            one.close()
        for name in (*names, f"{stem}-wire"):
            subprocess.run(["ip", "netns", "del", name], check=False)


def _ip(*lines: str, space: str = "") -> None:
    words = ["ip", *(["-n", space] if space else []), "-batch", "-"]
    subprocess.run(words, input="\n".join(lines) + "\n", text=True, check=True)


def _listener(name: str, port: int) -> socket.socket:
    """A socket of another namespace, made by a thread that goes there and ends."""
    made: list[socket.socket] = []

    def go() -> None:
        with open(f"/run/netns/{name}") as there:  # noqa: PTH123
            if _C.setns(there.fileno(), NEWNET):
                raise OSError(ctypes.get_errno(), name)
        made.append(socket.create_server(("127.0.0.1", port)))

    thread = threading.Thread(target=go)
    thread.start()
    thread.join()
    return made[0]


def _forward(listener: socket.socket, port: int) -> None:
    with suppress(OSError):
        while True:
            near, _ = listener.accept()
            far = socket.create_connection(("127.0.0.1", port))
            for one, other in ((near, far), (far, near)):
                threading.Thread(target=_pump, args=(one, other), daemon=True).start()


def _pump(one: socket.socket, other: socket.socket) -> None:
    with suppress(OSError):
        while data := one.recv(65536):
            other.sendall(data)
    with suppress(OSError):
        other.shutdown(socket.SHUT_WR)
