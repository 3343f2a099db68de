"""Software as a switch with the agent installs it: an archive (tar) with a script `install` in it, that brings on what else is there.

The script ends with 0 when it is through. Where it leaves `/run/reboot-required`, as Debian's packages do, the switch starts anew.
"""

from __future__ import annotations

import io
import re
import tarfile
from collections.abc import Mapping

from barrio.core.errors import refuse

MOST_VERSION = 60
_VERSION = re.compile(rf"[A-Za-z0-9][A-Za-z0-9._~+:-]{{0,{MOST_VERSION - 1}}}")
_INSTALL = """#!/bin/sh
set -eu
export DEBIAN_FRONTEND=noninteractive
dpkg --force-confold --install ./*.deb
"""


def version(text: str) -> str:
    """A version as somebody typed it. Raises `Refused` (`image.version`).

    >>> version(" 12.9+fabric1 ")
    '12.9+fabric1'
    """
    said = text.strip()
    if not _VERSION.fullmatch(said):
        words = f"“{said[:60]}” is no version: letters, digits and . _ ~ + : - , {MOST_VERSION} at most."
        raise refuse("image.version", words, "version")
    return said


def of_packages(packages: Mapping[str, bytes]) -> bytes:
    """Software of Debian packages, by the names of their files. The same packages are the same bytes. Raises `Refused` (`image.packages`)."""
    wrong = [name for name in packages if not name.endswith(".deb")]
    if wrong or not packages:
        words = f"{wrong[0]} is no Debian package." if wrong else "There is no package in it."
        raise refuse("image.packages", words, "packages")
    packed = io.BytesIO()
    with tarfile.open(fileobj=packed, mode="w", format=tarfile.USTAR_FORMAT) as archive:
        for name, content in sorted({**packages, "install": _INSTALL.encode()}.items()):
            entry = tarfile.TarInfo(name)
            entry.size, entry.mode = len(content), 0o755 if name == "install" else 0o644
            archive.addfile(entry, io.BytesIO(content))
    return packed.getvalue()


def size(count: int) -> str:
    """Bytes for a technician to read.

    >>> size(412_000_000), size(20_400), size(1_250_000_000)
    ('412 MB', '20 KB', '1.2 GB')
    """
    if count >= 1_000_000_000:
        return f"{count / 1e9:.1f} GB"
    return f"{round(count / 1e6)} MB" if count >= 1_000_000 else f"{max(1, round(count / 1e3))} KB"
