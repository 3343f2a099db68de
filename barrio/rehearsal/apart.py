"""A kernel of its own as the lab's ground: Debian's `user-mode-linux`, an ordinary process.

It sees this machine's files (outside /tmp and /run), brings every device kind, and has one processor. Its init starts the lab's other
half (`inside.py`); whatever runs there ends with it. The line between the two is a serial one there.
"""

from __future__ import annotations

import shutil
from collections.abc import Mapping, Sequence
from pathlib import Path

from barrio.rehearsal.ground import NoGround
from barrio.rehearsal.room import Room

KERNEL = Path("/usr/bin/linux.uml")
MODULES = Path("/usr/lib/uml/modules")


def memory_for(switches: int) -> int:
    """Megabytes that a kernel of its own is given for so many switches: twice what they took when it was measured, and some for itself."""
    return 512 + 120 * switches


class Apart(Room):
    """A kernel of its own, with so many megabytes of memory."""

    called = "a kernel of its own"
    rate = 500
    longest = 1000
    """The buffer of the serial line is a few thousand, and what is over is lost."""

    before = bytes(12) + b"\x88\xb5"
    """The wire is an Ethernet interface there."""

    def __init__(self, memory: int = 3072, wired: bool = False) -> None:
        if not KERNEL.exists():
            raise NoGround(f"{KERNEL} is not there. Install Debian's user-mode-linux.")
        self._memory = memory
        super().__init__(wired)

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
            *([f"vec0:transport=fd,fd={self._far},mtu=9600"] if self._far >= 0 else []),
        ]  # fmt: skip
        return ["sh", "-c", 'mount -t proc proc /proc; exec "$@"', "sh", *kernel]

    def _relayed(self) -> tuple[str, list[int]]:
        return "vec0", []

    def lay(self, cords: Sequence[Mapping[str, object]]) -> None:
        self.run("modprobe", "-d", str(self.folder), "tun")
        up = self.run("sh", "-ec", "ip link set vec0 mtu 9600 up; mknod /run/tun c 10 200")
        if up.code:
            raise NoGround(f"This kernel of its own has no wire to others: {up.err.strip()}")
        super().lay(cords)
