"""The part of a lab that runs on its ground: it reads what to do, a JSON line each, and answers the same way.

It stands alone (standard library only), since it is started by the system's own Python as the first process of a room or after a kernel's `init`.
A request is `{"id": 1, "do": "run", "argv": [...]}`, an answer `{"id": 1, "rc": 0, "out": "...", "err": "..."}`; requests run side by side. Verbs:
`run` waits for a command, `start` begins one that stays and answers with its process id, `stop` ends such a one, `running` tells those that
stay, `exists` waits for a file, `network` is a call of ifupdown2, `off` ends it all, as does the end of the line.
"""

from __future__ import annotations

import base64
import contextlib
import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import termios
import threading
import time
import tty
from typing import Any

_speaking = threading.Lock()
_started: dict[int, subprocess.Popen[bytes]] = {}


def _run(asked: dict[str, Any]) -> dict[str, Any]:
    given = asked.get("input")
    try:
        done = subprocess.run(
            asked["argv"], input=given.encode() if given is not None else None, capture_output=True,
            stdin=None if given is not None else subprocess.DEVNULL, timeout=asked.get("timeout", 120), check=False,
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        return {"rc": 124, "out": "", "err": "it took too long"}
    return {
        "rc": done.returncode,
        "out": done.stdout.decode(errors="replace"),
        "err": done.stderr.decode(errors="replace"),
    }


def _start(asked: dict[str, Any]) -> dict[str, Any]:
    with open(asked["log"], "ab") as log:  # noqa: PTH123  # stands alone and stays small
        process = subprocess.Popen(
            asked["argv"], stdin=subprocess.DEVNULL, stdout=log, stderr=log, start_new_session=True,
            pass_fds=asked.get("pass", ()),
        )  # fmt: skip
    _started[process.pid] = process
    return {"rc": 0, "out": str(process.pid), "err": ""}


def _stop(asked: dict[str, Any]) -> dict[str, Any]:
    process = _started.pop(asked["pid"])
    for number in (asked.get("signal", signal.SIGTERM), signal.SIGKILL):
        with contextlib.suppress(ProcessLookupError):
            os.killpg(process.pid, number)
        with contextlib.suppress(subprocess.TimeoutExpired):
            process.wait(5)
            break
    return {"rc": 0, "out": "", "err": ""}


def _running(asked: dict[str, Any]) -> dict[str, Any]:
    return {"rc": 0, "out": " ".join(str(pid) for pid, one in list(_started.items()) if one.poll() is None), "err": ""}


def _exists(asked: dict[str, Any]) -> dict[str, Any]:
    until = time.monotonic() + asked["timeout"]
    while not os.path.exists(asked["path"]):  # noqa: PTH110
        if time.monotonic() > until:
            return {"rc": 1, "out": "", "err": ""}
        time.sleep(0.01)
    return {"rc": 0, "out": "", "err": ""}


_STARTER = "/run/starter"
_starting = threading.Lock()


def _network(asked: dict[str, Any]) -> dict[str, Any]:
    """ifup or ifreload in the namespaces of a process, by a starter that has read ifupdown2 once."""
    with _starting:
        if not os.path.exists(_STARTER):  # noqa: PTH110
            _start({"argv": ["python3", asked["starter"], _STARTER], "log": "/run/starter.log"})
            if _exists({"path": _STARTER, "timeout": 20})["rc"]:
                with open("/run/starter.log") as log:  # noqa: PTH123
                    return {"rc": 127, "out": "", "err": f"ifupdown2 could not be read: {log.read()[-300:]}"}
    with socket.socket(socket.AF_UNIX) as line:
        line.settimeout(asked["timeout"])
        line.connect(_STARTER)
        line.sendall(json.dumps({"pid": asked["pid"], "argv": asked["argv"]}).encode() + b"\n")
        with line.makefile("r") as words:
            said: dict[str, Any] = json.loads(words.readline())
    return said


def _off(asked: dict[str, Any]) -> dict[str, Any]:
    if "BARRIO_LAB" in os.environ:
        # A kernel of its own is switched off; a room ends with this process.
        with open("/proc/sysrq-trigger", "w") as trigger:  # noqa: PTH123
            trigger.write("o")
    os._exit(0)


_VERBS = {
    "run": _run,
    "start": _start,
    "stop": _stop,
    "running": _running,
    "exists": _exists,
    "network": _network,
    "off": _off,
}


def _answer(line: bytes, out: int) -> None:
    asked = json.loads(base64.b64decode(line))
    if "file" in asked:
        with open(asked["file"]) as letter:  # noqa: PTH123  # stands alone and stays small
            asked = json.load(letter)
        os.unlink(letter.name)  # noqa: PTH108
    try:
        said = _VERBS[asked["do"]](asked)
    except Exception as error:
        said = {"rc": 127, "out": "", "err": f"{type(error).__name__}: {error}"}
    # Base64, since a terminal stands in between and has ideas of its own about some characters.
    text = base64.b64encode(json.dumps({"id": asked["id"], **said}).encode()) + b"\n"
    with _speaking:
        while text:
            text = text[os.write(out, text) :]


def serve(line: int) -> None:
    """Answer requests on a line until it ends."""
    os.write(line, b"ready\n")
    pending = b""
    while True:
        try:
            data = os.read(line, 65536)
        except OSError:
            data = b""
        if not data:
            break
        pending += data
        *whole, pending = pending.split(b"\n")
        for one in whole:
            threading.Thread(target=_answer, args=(one, line), daemon=True).start()
    # Whoever asked is gone, and takes nothing away any more.
    shutil.rmtree(os.path.dirname(os.path.abspath(__file__)), ignore_errors=True)  # noqa: PTH100, PTH120
    _off({})


def terminal(path: str) -> int:
    """A terminal as a line that changes nothing of what goes over it."""
    line = os.open(path, os.O_RDWR | os.O_NOCTTY)
    tty.setraw(line, termios.TCSANOW)
    return line


if __name__ == "__main__":
    serve(int(sys.argv[1]) if sys.argv[1].isdigit() else terminal(sys.argv[1]))
