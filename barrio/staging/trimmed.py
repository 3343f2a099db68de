#!/usr/bin/python3
"""What a simulated switch has in the place of `ifreload`, `nft` and `sysctl`: the same programs, on files without what this kernel lacks, which is named.

It stands alone (standard library only), beside `trimming.py` and a file that says what the kernel lacks; it goes by the name that it is called by.
"""

from __future__ import annotations

import json
import os
import socket
import sys
from pathlib import Path

HALL = Path(os.environ.get("BARRIO_HALL", "/"))
INTERFACES = "/etc/network/interfaces"
sys.path.insert(0, str(HALL))


def _trimmed(path: str, kind: str) -> str:
    """Where a file stands without what this kernel lacks."""
    trimming = __import__("trimming")
    missing = frozenset((HALL / "lacks").read_text().split("\n"))
    kept, left = getattr(trimming, kind)(Path(path).read_text(), missing)
    for one in left:
        print(f"left out here: {one.device}, {one.reason}")
    sys.stdout.flush()
    beside = Path("/run/network", f"{Path(path).name}.{kind}")
    beside.write_text(kept)
    return str(beside)


def ifreload(words: list[str]) -> None:
    """ifreload reads the one place only, so what was trimmed is put there for it alone."""
    script = f'mount --bind "$0" {INTERFACES} && exec "$@"'
    call = ["/usr/bin/python3", "-S", "-E", str(HALL / "trimmed.py"), "call", "ifreload", *words]
    os.execvp("unshare", ["unshare", "--mount", "sh", "-c", script, _trimmed(INTERFACES, "rehearsable"), *call])


def call(words: list[str]) -> int:
    """Have it run by ifupdown2's code, which was read once for all switches."""
    with socket.socket(socket.AF_UNIX) as line:
        line.connect(str(HALL / "starter"))
        line.sendall(json.dumps({"argv": words}).encode() + b"\n")
        said = json.loads(line.makefile().readline())
    print(said["out"], end="")
    print(said["err"], end="", file=sys.stderr)
    return int(said["rc"])


def nft(words: list[str]) -> None:
    *before, path = words
    if before and before[-1] in ("--file", "-f"):
        path = _trimmed(path, "loadable")
    os.execv("/usr/sbin/nft", ["nft", *before, path])


def sysctl(words: list[str]) -> None:
    """Settings that are the whole machine's are none of a switch that is a namespace."""
    if words[-1].startswith("--load="):
        path = Path(words[-1].removeprefix("--load="))
        lines = path.read_text().splitlines()
        here = [one for one in lines if Path("/proc/sys", one.split(" = ")[0].replace(".", "/")).exists()]
        for one in lines:
            if " = " in one and one not in here and not one.startswith("#"):
                print(f"left out here: {one.split(' = ')[0]}, which is the machine's")
        sys.stdout.flush()
        kept = Path("/run/network", path.name)
        kept.write_text("\n".join(here) + "\n")
        words = [*words[:-1], f"--load={kept}"]
    os.execv("/usr/sbin/sysctl", ["sysctl", *words])


if __name__ == "__main__":
    if sys.argv[1:2] == ["call"]:
        sys.exit(call(sys.argv[2:]))
    {"ifreload": ifreload, "nft": nft, "sysctl": sysctl}[Path(sys.argv[0]).name](sys.argv[1:])
