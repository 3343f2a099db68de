"""Where tests keep what nobody needs when the machine is off: in memory, where there is room, since a database there is copied in a tenth of the time."""

from __future__ import annotations

import shutil
import tempfile
from pathlib import Path

MEMORY = Path("/dev/shm")
ROOM = 3 << 30
"""Bytes that have to be free there."""


def roomy() -> bool:
    return MEMORY.is_dir() and shutil.disk_usage(MEMORY).free > ROOM


def folder(prefix: str) -> Path:
    """A new folder that others may look into."""
    made = Path(tempfile.mkdtemp(prefix=prefix, dir=MEMORY if roomy() else None))
    made.chmod(0o755)
    return made
