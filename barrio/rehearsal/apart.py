"""A kernel of its own as the lab's ground: Debian's `user-mode-linux`, an ordinary process.

It sees this machine's files (outside /tmp and /run), brings every device kind, and has one processor. Its init starts the lab's other
half (`inside.py`), which runs commands for us; whatever runs there ends with it. Requests and answers are lines of base64 on
a serial line that is one end of a socket pair.
"""

from __future__ import annotations

import base64
import contextlib
import json
import select
import shutil
import signal
import socket
import subprocess
import tempfile
import threading
from itertools import count
from pathlib import Path
from typing import Any

from barrio.rehearsal.ground import BARE, Done, signal_group

KERNEL = Path("/usr/bin/linux.uml")
MODULES = Path("/usr/lib/uml/modules")
_LINE = 1000
"""Characters of a request that go over the line between the two; its buffer is a few thousand, and what is over is lost."""


class Apart:
    """A kernel of its own. Raises `RuntimeError` when it does not come up."""

    at_once = 1

    def __init__(self, memory: str = "3G") -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="barrio-lab-", dir="/var/tmp"))
        self.folder.chmod(0o755)
        self.run_folder = Path("/run/lab")
        (self.folder / "lib").mkdir()
        (self.folder / "lib/modules").symlink_to(MODULES)
        for name in ("init.sh", "inside.py"):
            shutil.copy(Path(__file__).with_name(name), self.folder / name)
        (self.folder / "init.sh").chmod(0o755)
        self._line, theirs = socket.socketpair()
        self._serial = count(1)
        self._answers: dict[int, Any] = {}
        self._arrived = threading.Condition()
        self._sending = threading.Lock()
        self._gone = False
        with (self.folder / "kernel.log").open("wb") as log:
            self._kernel = subprocess.Popen(
                [
                    str(KERNEL), "rootfstype=hostfs", "rw", f"mem={memory}", f"init={self.folder / 'init.sh'}",
                    f"BARRIO_LAB={self.folder}", "con=null", "con0=null,fd:1", f"ssl0=fd:{theirs.fileno()}", "quiet",
                    f"uml_dir={self.folder}/uml",
                ],
                stdin=subprocess.DEVNULL, stdout=log, stderr=log, pass_fds=[theirs.fileno()], env=BARE,
                start_new_session=True,
            )  # fmt: skip
        theirs.close()
        self._listener = threading.Thread(target=self._listen, daemon=True)
        self._listener.start()
        try:
            self._await(0, 60)
            self.run("mkdir", "-p", str(self.run_folder))
        except BaseException:
            self.close()
            raise

    def _listen(self) -> None:
        pending = b""
        while True:
            try:
                select.select([self._line], [], [])
                data = self._line.recv(65536)
            except OSError:
                data = b""
            if not data:
                with self._arrived:
                    self._gone = True
                    self._arrived.notify_all()
                return
            pending += data
            *whole, pending = pending.split(b"\n")
            with self._arrived:
                for line in whole:
                    self._take(line)
                self._arrived.notify_all()

    def _take(self, line: bytes) -> None:
        if line.strip() == b"ready":
            self._answers[0] = {}
            return
        with contextlib.suppress(ValueError):
            said = json.loads(base64.b64decode(line, validate=False))
            self._answers[said["id"]] = said

    def _await(self, number: int, seconds: float) -> Any:
        with self._arrived:
            there = self._arrived.wait_for(lambda: number in self._answers or self._gone, seconds)
            if number in self._answers:
                return self._answers.pop(number)
        said = (self.folder / "kernel.log").read_text(errors="replace")[-400:]
        why = "ended" if there else f"did not answer within {seconds:.0f} s"
        raise RuntimeError(f"The lab's own kernel {why}. It last said: {said}")

    def _ask(self, do: str, seconds: float, **words: Any) -> Any:
        number = next(self._serial)
        text = json.dumps({"id": number, "do": do, **words})
        if len(text) > _LINE:
            # The line takes short requests only; a long one waits in a file that both sides see.
            letter = self.folder / f"asked-{number}.json"
            letter.write_text(text)
            text = json.dumps({"file": str(letter)})
        with self._sending:
            self._line.sendall(base64.b64encode(text.encode()) + b"\n")
        return self._await(number, seconds)

    def run(self, *argv: str, given: str | None = None, timeout: float = 120) -> Done:
        said = self._ask("run", timeout + 30, argv=argv, input=given, timeout=timeout)
        return Done(said["rc"], said["out"], said["err"])

    def start(self, *argv: str, log: Path) -> int:
        return int(self._ask("start", 30, argv=argv, log=str(log))["out"])

    def stop(self, process: int, number: int = signal.SIGTERM) -> None:
        self._ask("stop", 30, pid=process, signal=int(number))

    def exists(self, path: Path, seconds: float) -> bool:
        return bool(self._ask("exists", seconds + 30, path=str(path), timeout=seconds)["rc"] == 0)

    def close(self) -> None:
        # Asked to switch off, it takes the processes that hold its memory with it; killed, it would leave them behind.
        with contextlib.suppress(OSError):
            self._line.sendall(base64.b64encode(b'{"do": "off", "id": -1}') + b"\n")
        try:
            self._kernel.wait(10)
        except subprocess.TimeoutExpired:
            signal_group(self._kernel, signal.SIGTERM)
            with contextlib.suppress(subprocess.TimeoutExpired):
                self._kernel.wait(5)
            signal_group(self._kernel, signal.SIGKILL)
            self._kernel.wait()
        self._line.close()
        shutil.rmtree(self.folder, ignore_errors=True)
