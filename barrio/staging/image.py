"""An ISO 9660 image of a boot medium, by xorriso: the same files give the same bytes."""

from __future__ import annotations

import os
import subprocess
import tempfile
from collections.abc import Mapping
from pathlib import Path

_EPOCH = "315532800"
"""1980, as archives of Barrio have it: a medium carries no clock."""


class NoImage(RuntimeError):
    """There is no program to make an image with, or it failed; the words say which."""


def iso(files: Mapping[str, bytes], label: str) -> bytes:
    """An image with Rock Ridge and Joliet names. Raises `NoImage`."""
    with tempfile.TemporaryDirectory(prefix="barrio-medium-") as folder:
        root, out = Path(folder) / "root", Path(folder) / "out.iso"
        for path, data in files.items():
            place = root / path
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_bytes(data)
            place.chmod(0o755 if path.endswith(("install.sh", "barrio-agent")) else 0o644)
        for place in (root, *root.rglob("*")):
            os.utime(place, (int(_EPOCH), int(_EPOCH)))
        words = ["xorriso", "-as", "mkisofs", "-quiet", "-V", label, "-r", "-J", "-joliet-long", "-o", str(out), "--set_all_file_dates", "set_to_mtime", str(root)]  # fmt: skip
        try:
            done = subprocess.run(
                words, capture_output=True, text=True, check=False,
                env={"PATH": "/usr/bin:/usr/sbin", "SOURCE_DATE_EPOCH": _EPOCH, "LANG": "C.UTF-8"},
            )  # fmt: skip
        except OSError:
            raise NoImage(
                "xorriso is not installed here. Install Debian's xorriso, or take the medium as an archive."
            ) from None
        if done.returncode:
            raise NoImage(f"xorriso failed: {done.stderr.strip()[-300:]}")
        return out.read_bytes()
