"""A bundle from elsewhere: its files out of an archive that nobody vouches for."""

from __future__ import annotations

import gzip
import io
import re
import tarfile
import zipfile
import zlib
from collections.abc import Iterator

from barrio.core.errors import refuse

MOST_FILES, MOST_BYTES = 60_000, 400_000_000
_MEMBER = re.compile(r"[A-Za-z0-9_][A-Za-z0-9_.-]*(/[A-Za-z0-9_][A-Za-z0-9_.-]*)*")


def read_archive(content: bytes) -> dict[str, bytes]:
    """The files of a bundle as a ZIP or tar.gz, by path. Raises `Refused` as `unpacked`, and `archive.kind` for one that is no bundle."""
    files = unpacked(content)
    if "manifest.json" not in files and "brief.yaml" not in files:
        raise refuse(
            "archive.kind", "There is no bundle in this archive: neither brief.yaml nor manifest.json is at its top."
        )
    return files


def unpacked(content: bytes) -> dict[str, bytes]:
    """The files of a ZIP or tar.gz, by path.

    Raises `Refused`: `archive.kind` for what is neither, `archive.path` for a member that would lie outside of the folder it is unpacked into or is
    no plain file, `archive.large` for more than is taken.
    """
    files: dict[str, bytes] = {}
    total = 0
    try:
        for path, part in _members(content):
            if not _MEMBER.fullmatch(path) or ".." in path:
                raise refuse(
                    "archive.path",
                    f"The archive has a member {path[:80]!r}, which is no place inside a bundle. Nothing was taken.",
                )
            total += len(part)
            if len(files) >= MOST_FILES or total > MOST_BYTES:
                raise refuse(
                    "archive.large",
                    f"The archive holds more than {MOST_FILES:,} files or {MOST_BYTES // 1_000_000} MB. Nothing was taken.",
                )
            files[path] = part
    except (
        zipfile.BadZipFile,
        tarfile.TarError,
        EOFError,
        OSError,
        zlib.error,
        NotImplementedError,
        RuntimeError,
    ) as error:
        raise refuse(
            "archive.kind", "This is no ZIP and no tar.gz that can be read whole. Take a bundle as Barrio writes it."
        ) from error
    return files


def _members(content: bytes) -> Iterator[tuple[str, bytes]]:
    if content.startswith(b"PK"):
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            for entry in archive.infolist():
                if not entry.is_dir():
                    with archive.open(entry) as part:
                        yield entry.filename, part.read(MOST_BYTES + 1)
        return
    with gzip.GzipFile(fileobj=io.BytesIO(content)) as packed, tarfile.open(fileobj=packed, mode="r|") as tar:
        for member in tar:
            if member.isdir():
                continue
            found = tar.extractfile(member) if member.isfile() else None
            if found is None:
                raise refuse(
                    "archive.path",
                    f"The archive has a member {member.name[:80]!r} that is no plain file. Nothing was taken.",
                )
            yield member.name, found.read(MOST_BYTES + 1)
