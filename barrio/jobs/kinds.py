"""The kinds of work that there are: what each does, whom it is for, and what it needs."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

from barrio.app import output
from barrio.app.desk import Desk
from barrio.app.drafts import load
from barrio.app.rights import Right
from barrio.core import bundle

Tell = Callable[[int, int, str], None]
"""Says how far work is: so many parts done, of so many, and which is under way. Raises `Left` when it is to stop."""


@dataclass(frozen=True, slots=True)
class Outcome:
    """What came of a job: in a sentence, and as a file."""

    words: str
    name: str
    media: str
    content: bytes


@dataclass(frozen=True, slots=True)
class Kind:
    """`needs` is how much memory it takes at most, in bytes, by how many switches there are."""

    title: str
    right: Right
    do: Callable[[Desk, str, dict[str, Any], Tell], Outcome]
    needs: Callable[[int], int]


def _bundle(desk: Desk, name: str, wishes: dict[str, Any], tell: Tell) -> Outcome:
    packed = str(wishes.get("as", "zip"))
    found = load(desk, name)
    staged = found.compiled.staged
    output.render(found, lambda done: tell(done, len(staged) + 1, "files are written"))
    files = bundle.bundle_files(found.draft.document, found.compiled)
    tell(len(staged), len(staged) + 1, "they are packed")
    whole = bundle.as_zip(files) if packed == "zip" else bundle.as_tar_gz(files)
    media = "application/zip" if packed == "zip" else "application/gzip"
    return Outcome(f"{len(files):,} files of version {found.draft.version}", f"{name}.{packed}", media, whole)


def _read_back(desk: Desk, name: str, wishes: dict[str, Any], tell: Tell) -> Outcome:
    found = load(desk, name)
    staged = found.compiled.staged
    output.render(found, lambda done: tell(done, 2 * len(staged), "files are written"))
    tell(len(staged), 2 * len(staged), "they are read back and held against each other")
    findings = [asdict(finding) for finding in found.compiled.read_back()]
    words = f"{len(findings)} findings" if findings else "the files agree with each other"
    report = {"fabric": name, "version": found.draft.version, "switches": len(staged), "findings": findings}
    return Outcome(words, f"{name}-readback.json", "application/json", json.dumps(report, indent=1).encode())


KINDS: dict[str, Kind] = {
    "bundle": Kind("Bundle", Right.READ, _bundle, lambda switches: 60_000_000 + 450_000 * switches),
    "read back": Kind("Read back", Right.READ, _read_back, lambda switches: 60_000_000 + 600_000 * switches),
}
