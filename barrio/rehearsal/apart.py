"""A kernel of its own as the lab's ground: Debian's `user-mode-linux`, an ordinary process.

It sees this machine's files (outside /tmp and /run), brings every device kind, and has one processor. Its init starts the lab's other
half (`inside.py`); whatever runs there ends with it. The line between the two is a serial one there.
"""

from __future__ import annotations

import shutil
from collections.abc import Sequence
from pathlib import Path

from barrio.rehearsal.ground import Ground, NoGround

KERNEL = Path("/usr/bin/linux.uml")
MODULES = Path("/usr/lib/uml/modules")


def memory_for(switches: int) -> int:
    """Megabytes that a kernel of its own is given for so many switches: twice what they took when it was measured, and some for itself."""
    return 512 + 120 * switches


class Apart(Ground):
    """A kernel of its own, with so many megabytes of memory."""

    called = "a kernel of its own"
    rate = 500
    longest = 1000
    """The buffer of the serial line is a few thousand, and what is over is lost."""

    def __init__(self, memory: int = 3072) -> None:
        if not KERNEL.exists():
            raise NoGround(f"{KERNEL} is not there. Install Debian's user-mode-linux.")
        self._memory = memory
        super().__init__()

    def _command(self, line: int) -> Sequence[str]:
        (self.folder / "lib").mkdir()
        (self.folder / "lib/modules").symlink_to(MODULES)
        init = self.folder / "init.sh"
        shutil.copy(Path(__file__).with_name("init.sh"), init)
        shutil.copyfile("/usr/bin/mount", self.folder / "mount")
        for program in (init, self.folder / "mount"):
            program.chmod(0o755)
        kernel = [
            str(KERNEL), "rootfstype=hostfs", "rw", f"mem={self._memory}M", f"init={init}", f"BARRIO_LAB={self.folder}",
            "con=null", "con0=null,fd:1", f"ssl0=fd:{line}", "quiet", f"uml_dir={self.folder}/uml",
        ]  # fmt: skip
        return ["sh", "-c", 'mount -t proc proc /proc; exec "$@"', "sh", *kernel]
