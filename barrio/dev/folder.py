"""The data folder belongs to one Barrio at a time."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path


class ClusterError(Exception):
    """PostgreSQL cannot be started here; the message says why and what to do."""


class FolderLock:
    """A lock on a folder, held for as long as the process lives, however it ends."""

    def __init__(self, folder: Path) -> None:
        self._path = folder / "lock"
        self._held: int | None = None

    def take(self) -> None:
        """Take the folder. Raises `ClusterError` when another process has it."""
        try:
            held = os.open(self._path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        except PermissionError:
            raise ClusterError(
                f"{self._path.parent} belongs to somebody else. Start Barrio as they do, or name another folder with --data."
            ) from None
        try:
            fcntl.flock(held, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            who = os.read(held, 20).decode().strip()
            os.close(held)
            raise ClusterError(
                f"Another Barrio{f' (process {who})' if who else ''} works in {self._path.parent}. Stop it, or name another "
                "folder with --data."
            ) from None
        os.ftruncate(held, 0)
        os.write(held, f"{os.getpid()}\n".encode())
        self._held = held

    def release(self) -> None:
        if self._held is not None:
            os.close(self._held)
            self._held = None
