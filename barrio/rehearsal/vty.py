"""Asks the routing daemons of many switches at once, each at its own socket, as vtysh does: one process for all, where vtysh would be one for each.

It stands alone (standard library only), since it runs on the lab's ground. Its word is a file with
`{"command": "show bgp summary json", "sockets": {"leaf/r01/a": "/run/lab/leaf-r01a/frr/bgpd.vty", ...}}`. It prints, by the same keys,
`{"said": "..."}`, or `{"fault": "..."}` where a daemon does not answer.
"""

from __future__ import annotations

import json
import socket
import sys
from typing import Any

PATIENCE = 60


def ask(path: str, command: str) -> dict[str, str]:
    """What a daemon says to a command. Each answer ends with three zero bytes and one that tells how it went (FRRouting, lib/vty.c)."""
    try:
        with socket.socket(socket.AF_UNIX) as line:
            line.settimeout(PATIENCE)
            line.connect(path)
            said = b""
            for words in ("enable", command):
                line.sendall(words.encode() + b"\0")
                said = _answer(line)
    except OSError as error:
        return {"fault": error.strerror or str(error)}
    return {"said": said.decode(errors="replace")}


def _answer(line: socket.socket) -> bytes:
    said = b""
    while True:
        part = line.recv(1 << 16)
        said += part
        if said[-4:-1] == b"\0\0\0":
            return said[:-4]
        if not part:
            raise OSError(0, "it broke off")


def main(path: str) -> None:
    with open(path) as file:  # noqa: PTH123  # stands alone and stays small
        asked: dict[str, Any] = json.load(file)
    print(json.dumps({key: ask(place, asked["command"]) for key, place in asked["sockets"].items()}))


if __name__ == "__main__":
    main(sys.argv[1])
