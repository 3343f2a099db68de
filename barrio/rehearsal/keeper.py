"""The first process of a room: it starts what runs there, and ends all of it when that ends, or when whoever asked for the room is gone.

It stands alone (standard library only). Its words: the room's folder, a pipe that ends with whoever asked, the lines to them, and a command.
"""

from __future__ import annotations

import contextlib
import os
import select
import shutil
import signal
import subprocess
import sys


def keep(folder: str, alive: int, lines: list[int], command: list[str]) -> None:
    """Keep the room as long as it is wanted."""
    first = subprocess.Popen(command, stdin=subprocess.DEVNULL, pass_fds=lines)
    for line in lines:
        os.close(line)
    wanted = True
    while wanted and not _ended(first.pid):
        wanted = not select.select([alive], [], [], 0.2)[0]
    # Before the folder goes, so that nobody writes into it any more.
    with contextlib.suppress(ProcessLookupError):
        os.kill(-1, signal.SIGKILL)
    if not wanted:
        shutil.rmtree(folder, ignore_errors=True)
    os._exit(0)


def _ended(first: int) -> bool:
    """Whether the room's work has ended; whoever else ended is taken leave of, as the first process must."""
    ended = False
    with contextlib.suppress(ChildProcessError):
        while (process := os.waitpid(-1, os.WNOHANG)[0]) != 0:
            ended = ended or process == first
    return ended


if __name__ == "__main__":
    keep(sys.argv[1], int(sys.argv[2]), [int(one) for one in sys.argv[3].split(",")], sys.argv[4:])
