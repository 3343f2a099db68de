"""Grounds on this machine: rooms of processes of their own (a PID namespace, ended as a whole), with the lab's other half (`inside.py`) as what runs
commands in them.

`Here` is such a room on this machine's own kernel; `barrio.rehearsal.apart.Apart` is a kernel of its own. Requests and answers are lines of
base64 over a socket pair. When the process that made a room is gone, whatever becomes of it, the other half hears the line end, and everything
in the room ends with it.
"""

from __future__ import annotations

import base64
import contextlib
import fcntl
import json
import os
import select
import shutil
import socket
import subprocess
import tempfile
import threading
import time
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import IO, Any

from barrio.rehearsal.ground import Answers, Ground, NoGround

BARE = {"PATH": "/usr/sbin:/usr/bin:/sbin:/bin", "LANG": "C.UTF-8", "HOME": "/root", "PYTHONDONTWRITEBYTECODE": "1"}
"""Programs of the system only: ifupdown2 and FRRouting's scripts must not meet the Python of a virtual environment."""
STEM = "barrio-lab-"
PLACE = Path("/var/tmp")
PROGRAM = "unshare"
"""What makes a room of processes (util-linux)."""
KEEPER = Path(__file__).with_name("keeper.py")


MOST = 1 << 14
"""Bytes of a message on the wire."""


SO_SNDBUFFORCE = 32
"""Of socket(7), which Python does not name."""


class Room(Ground):
    """A room on this machine. Raises `NoGround` when it does not come up. Its `folder` is seen from both sides under the same path."""

    longest = 1 << 24
    """Characters of a request that go over the line; a longer one waits in a file that both sides see."""

    def __init__(self, wired: bool = False) -> None:
        sweep()
        self.folder = Path(tempfile.mkdtemp(prefix=STEM, dir=PLACE))
        self.folder.chmod(0o755)
        self._held = _hold(self.folder)
        self.run_folder = Path("/run/lab")
        for name in (
            "inside.py",
            "own.sh",
            "probes.py",
            "flows.py",
            "servers.py",
            "services.sh",
            "starter.py",
            "vty.py",
            "relay.py",
        ):
            shutil.copy(Path(__file__).with_name(name), self.folder / name)
        self._line, theirs = socket.socketpair()
        self._wire: socket.socket | None = None
        far: socket.socket | None = None
        if wired:
            self._wire, far = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
            for end in (self._wire, far):
                # Whoever may not have so much has less.
                with contextlib.suppress(OSError):
                    end.setsockopt(socket.SOL_SOCKET, SO_SNDBUFFORCE, 1 << 22)
        self._far = far.fileno() if far is not None else -1
        # It ends when this process does, however it comes to that.
        gone, self._alive = os.pipe()
        self._answers = Answers()
        self._sending = threading.Lock()
        self._ending, self._ended = threading.Lock(), False
        try:
            with (self.folder / "ground.log").open("wb") as log:
                self._process = subprocess.Popen(
                    [
                        *_room(), "python3", "-S", "-E", str(KEEPER), str(self.folder), str(gone), f"{theirs.fileno()},{self._far}" if wired else str(theirs.fileno()),
                        *self._command(theirs.fileno()),
                    ],
                    stdin=subprocess.DEVNULL, stdout=log, stderr=log, pass_fds=[theirs.fileno(), gone, *([self._far] if wired else [])], env=BARE,
                    start_new_session=True,
                )  # fmt: skip
        except OSError as error:
            self._forget()
            raise NoGround(f"The lab needs {error.filename}, which is not installed here.") from None
        finally:
            theirs.close()
            os.close(gone)
            if far is not None:
                far.close()
        threading.Thread(target=self._listen, daemon=True).start()
        if self._wire is not None:
            threading.Thread(target=self._hear, args=(self._wire,), daemon=True).start()
        try:
            self._await(0, 60)
            self.run("mkdir", "-p", str(self.run_folder))
        except BaseException:
            self.close()
            raise

    def write(self, path: Path, text: str) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text)

    def _command(self, line: int) -> Sequence[str]:
        """What is started in the room: it ends up as `inside.py` at the other end of the line, a file descriptor."""
        raise NotImplementedError

    before = b""
    """What is before each message on the wire."""

    def _relayed(self) -> tuple[str, list[int]]:
        """What the relay has for its line in the room, and the file descriptors that it is given."""
        return str(self._far), [self._far]

    def lay(self, cords: Sequence[Mapping[str, object]]) -> None:
        if self._wire is None:
            raise NoGround("This ground has no wire to others.")
        word = self.folder / "cords.json"
        self.write(word, json.dumps({"cords": list(cords)}))
        line, given = self._relayed()
        argv = ["python3", "-S", "-E", str(self.folder / "relay.py"), str(word), line]
        said = self._ask("start", 30, argv=argv, log=str(self.folder / "relay.log"), **{"pass": given})
        if said["rc"]:
            raise NoGround(f"What carries frames between machines did not start: {said['err']}")

    def carry(self, frame: bytes) -> None:
        # A wire that is full, or gone with its room, loses what comes.
        with contextlib.suppress(OSError):
            if self._wire is not None:
                self._wire.send(self.before + frame, socket.MSG_DONTWAIT)

    def _hear(self, wire: socket.socket) -> None:
        with contextlib.suppress(OSError):
            while message := wire.recv(MOST):
                if message.startswith(self.before[12:], 12 if self.before else 0):
                    self.hears(message[len(self.before) :])

    def close(self) -> None:
        """End everything in the room, and the room; once, whoever asks."""
        with self._ending:
            if self._ended:
                return
            self._ended = True
        # Asked to end, a kernel of its own takes the processes that hold its memory with it.
        with contextlib.suppress(OSError):
            self._line.sendall(base64.b64encode(b'{"do": "off", "id": -1}') + b"\n")
        try:
            self._process.wait(10)
        except subprocess.TimeoutExpired:
            # The room's first process ends with the one that made it, and all others with that.
            self._process.kill()
            self._process.wait()
        self._line.close()
        if self._wire is not None:
            self._wire.close()
        self._forget()

    def _forget(self) -> None:
        with contextlib.suppress(OSError):
            os.close(self._alive)
        shutil.rmtree(self.folder, ignore_errors=True)
        self._held.close()

    def _listen(self) -> None:
        pending = b""
        while True:
            try:
                select.select([self._line], [], [])
                data = self._line.recv(65536)
            except (OSError, ValueError):
                data = b""
            if not data:
                self._answers.end()
                return
            pending += data
            *whole, pending = pending.split(b"\n")
            for line in whole:
                self._take(line)

    def _take(self, line: bytes) -> None:
        if line.strip() == b"ready":
            self._answers.put(0, {})
            return
        with contextlib.suppress(ValueError):
            said = json.loads(base64.b64decode(line, validate=False))
            self._answers.put(said["id"], said)

    def _await(self, number: int, seconds: float) -> Any:
        return self._answers.wait(number, seconds, self._lacking)

    def _lacking(self, why: str) -> NoGround:
        said = ""
        with contextlib.suppress(OSError):
            said = (self.folder / "ground.log").read_text(errors="replace")[-400:].strip()
        return NoGround(f"The lab's ground {why}." + (f" It last said: {said}" if said else ""))

    def _ask(self, do: str, seconds: float, **words: Any) -> Any:
        number = self._answers.number()
        text = json.dumps({"id": number, "do": do, **words})
        if len(text) > self.longest:
            letter = self.folder / f"asked-{number}.json"
            letter.write_text(text)
            text = json.dumps({"file": str(letter)})
        try:
            with self._sending:
                self._line.sendall(base64.b64encode(text.encode()) + b"\n")
        except OSError:
            pass  # The listener has heard so too, and says it better.
        return self._await(number, seconds)


_ROOM = """
mount -t tmpfs -o mode=755 run /run && mkdir -p /run/netns /run/network /run/sshd /run/chrony /run/lock
mount -t tmpfs log /var/log && mkdir -p /var/log/frr
mount -t proc proc /proc && mount -t sysfs sys /sys
. "$1/own.sh"
ip link set lo up
exec python3 -S -E "$1/inside.py" "$2"
"""
"""What a room on this machine's own kernel begins with: places of its own for what programs keep while they run."""


class Here(Room):
    """A room on this machine's own kernel."""

    at_once = 4

    def _command(self, line: int) -> Sequence[str]:
        return ["unshare", "--mount", "sh", "-e", "-c", _ROOM, "sh", str(self.folder), str(line)]


def _room() -> list[str]:
    """The words before a command that make it the first of a room of processes.

    Whoever is not root has the room's rights within a range of user numbers of their own (subuid(5), newuidmap(1)), and none outside.
    """
    mapped = [] if os.geteuid() == 0 else ["--user", "--map-root-user", "--map-auto"]
    return [PROGRAM, *mapped, "--mount", "--net", "--uts", "--ipc", "--pid", "--fork", "--kill-child=KILL"]


def _hold(folder: Path) -> IO[bytes]:
    """Hold a lab's folder as long as this process lives."""
    held = (folder / "held").open("wb")
    fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
    return held


YOUNG = 5.0
"""Seconds within which a folder is held by whoever made it."""


def sweep() -> None:
    """Take away the folders of labs whose process is gone; not those that are just being made."""
    for folder in PLACE.glob(f"{STEM}*"):
        with contextlib.suppress(OSError), (folder / "held").open("rb") as held:
            if time.time() - os.fstat(held.fileno()).st_mtime < YOUNG:
                continue
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
            shutil.rmtree(folder, ignore_errors=True)
