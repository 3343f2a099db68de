"""Runs ifupdown2 for many switches: its own code, read once, and forked for each call into that switch's namespaces.

It stands alone, beside `inside.py` on the lab's ground; what it runs is what `ifup` and `ifreload` run, without starting Python and reading thirty modules each
time. Its words: the path of a socket, on which a call is a line `{"pid": 123, "argv": ["ifup", "--all"]}` and its answer `{"rc": 0, "out": "...", "err": "..."}`.
Without a `pid` it runs in all namespaces of whoever calls.
"""

from __future__ import annotations

import ctypes
import json
import os
import runpy
import signal
import socket
import struct
import sys
import traceback
from typing import Any

PLACE = "/usr/share/ifupdown2"
NAMESPACES = ("uts", "net", "mnt")
_C = ctypes.CDLL(None, use_errno=True)


def main(path: str) -> None:
    # It looks for its modules in a package first, anew each time, which Debian's has not.
    sys.modules["ifupdown2"] = None  # type: ignore[assignment]
    # As ifupdown2 itself finds its modules and, by their bare names, its addons.
    sys.path[:0] = [PLACE, f"{PLACE}/addons"]
    sys.argv = ["ifup"]
    __import__("ifupdown.main")
    __import__("lib.nlcache")
    for name in sorted(os.listdir(f"{PLACE}/addons")):  # noqa: PTH208  # stands alone and stays small
        if name.endswith(".py") and name != "__init__.py":
            __import__(name[:-3])
    program = runpy.run_path(f"{PLACE}/__main__.py", run_name="ifupdown2")
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    listening = socket.socket(socket.AF_UNIX)
    listening.bind(f"{path}.new")
    listening.listen(64)
    os.rename(f"{path}.new", path)  # noqa: PTH104
    while True:
        line, _ = listening.accept()
        if os.fork() == 0:
            listening.close()
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            _serve(line, program)
            os._exit(0)
        line.close()


def _serve(line: socket.socket, program: dict[str, Any]) -> None:
    """One call, in the child that is there for it."""
    with line, line.makefile("r") as words:
        asked = json.loads(words.readline())
        if "pid" not in asked:
            asked["pid"] = struct.unpack("3i", line.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, 12))[0]
            _join(asked["pid"], "pid")
            # Only children are in it, and whoever stays outside may start no thread.
            if child := os.fork():
                os.waitpid(child, 0)
                return
        out, err = os.memfd_create("out"), os.memfd_create("err")
        try:
            said = {"rc": _run(asked, program, out, err)}
        except SystemExit as leaving:
            said = {"rc": leaving.code if isinstance(leaving.code, int) else 1}
        except BaseException:
            os.write(err, traceback.format_exc().encode())
            said = {"rc": 1}
        sys.stdout.flush()
        sys.stderr.flush()
        line.sendall(json.dumps({**said, "out": _text(out), "err": _text(err)}).encode() + b"\n")


def _join(process: int, name: str) -> None:
    there = os.open(f"/proc/{process}/ns/{name}", os.O_RDONLY)
    if _C.setns(there, 0):
        raise OSError(ctypes.get_errno(), f"no way into the {name} namespace of {process}")
    os.close(there)


def _run(asked: dict[str, Any], program: dict[str, Any], out: int, err: int) -> int:
    for name in NAMESPACES:
        _join(asked["pid"], name)
    os.chdir("/")
    nothing = os.open("/dev/null", os.O_RDONLY)
    for number, file in ((0, nothing), (1, out), (2, err)):
        os.dup2(file, number)
    sys.argv = list(asked["argv"])
    return int(program["stand_alone"]() or 0)


def _text(file: int) -> str:
    os.lseek(file, 0, os.SEEK_SET)
    found = b""
    while part := os.read(file, 1 << 16):
        found += part
    return found.decode(errors="replace")


if __name__ == "__main__":
    main(sys.argv[1])
