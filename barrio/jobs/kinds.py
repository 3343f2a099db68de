"""The kinds of work that there are: what each does, whom it is for, and what it needs."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass
from functools import partial
from typing import Any

from barrio.app import output, paper, rehearsals
from barrio.app.cabling import standing
from barrio.app.desk import Desk
from barrio.app.drafts import load
from barrio.app.rights import Right
from barrio.core import bundle
from barrio.core.exchange import names
from barrio.core.exchange.write import FORMATS
from barrio.jobs import halls
from barrio.jobs.lending import borrowed
from barrio.rehearsal.apart import memory_for
from barrio.rehearsal.ground import Ground
from barrio.rehearsal.parsers import parsers

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
    """`needs` is how much memory it takes at most, in bytes, by how many switches there are and what is wished."""

    title: str
    right: Right
    do: Callable[[Desk, str, dict[str, Any], Tell], Outcome]
    needs: Callable[[int, Mapping[str, Any]], int]


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


def _deep_check(desk: Desk, name: str, wishes: dict[str, Any], tell: Tell) -> Outcome:
    """Every file, held by the program that it is for. What no program here can read is said."""
    found = load(desk, name)
    staged, without = found.compiled.staged, found.compiled.without_files
    complaints: list[dict[str, object]] = []
    with parsers() as programs:
        for done, switch in enumerate(staged):
            tell(done, len(staged), f"the programs read {switch.name}")
            if switch.key not in without:
                said = programs.complaints(found.compiled.files(switch.key))
                complaints += [{"switch": switch.name, **asdict(one)} for one in said]
        missing = programs.missing
    words = f"{len(complaints)} complaints" if complaints else "the programs take every file"
    if missing:
        words += f"; not installed here, so not asked: {', '.join(missing)}"
    report = {
        "fabric": name, "version": found.draft.version, "switches": len(staged), "complaints": complaints, "not asked": missing,
    }  # fmt: skip
    return Outcome(words, f"{name}-deep-check.json", "application/json", json.dumps(report, indent=1).encode())


def _sheets(desk: Desk, name: str, wishes: dict[str, Any], tell: Tell) -> Outcome:
    """Everything that can be taken away of a fabric but its switches' files: sheets, records, the structure in each format."""
    found = load(desk, name)
    compiled = found.compiled
    makers: dict[str, Callable[[], str]] = {
        f"{name}.yaml": lambda: found.draft.text,
        f"{name}-cabling.csv": lambda: bundle.cabling_csv(standing(desk, name).laid),
        f"{name}-numbers.csv": lambda: bundle.numbers_csv(compiled),
        f"{name}.hosts": lambda: names.hosts_file(compiled),
        **{f"{name}.{kind}": partial(write, compiled) for kind, (write, _) in FORMATS.items()},
    }
    files: dict[str, bytes] = {}
    for done, (path, make) in enumerate(makers.items()):
        tell(done, len(makers) + 1, f"{path} is written")
        files[path] = make().encode()
    files |= {f"zones/db.{zone}": text.encode() for zone, text in names.zones(compiled, found.draft.version).items()}
    words = f"{len(files):,} files of version {found.draft.version}"
    return Outcome(words, f"{name}-sheets.zip", "application/zip", bundle.as_zip(files))


def _pages(desk: Desk, name: str, wishes: dict[str, Any], tell: Tell) -> Outcome:
    """Pages for the hall: of all racks or bundles, labels of all cables, or the cover with what to order."""
    what, size = str(wishes.get("what", "racks")), str(wishes.get("size", "a4-70x37"))
    words = {"racks": "racks are drawn", "bundles": "bundles are drawn"}.get(what, "it is drawn")
    tell(0, 1, words)
    whole = paper.printed(
        desk, name, what, str(wishes.get("base", "")), size=size, progress=lambda done, of: tell(done, of, words)
    )
    return Outcome(f"{what}, {len(whole) / 1e6:.1f} MB", f"{name}-{what}.pdf", "application/pdf", whole)


def _rehearsal(desk: Desk, name: str, wishes: dict[str, Any], tell: Tell) -> Outcome:
    """A fabric, or the slice that answers for it, on real daemons."""
    job = int(wishes["job"])

    def lend(base: Ground, wanted: int, memory: int) -> list[Ground]:
        return borrowed(desk.house, job, base, wanted, memory, lambda: tell(0, 1, f"waits for {wanted} machines more"))

    found = rehearsals.perform(desk, job, name, wishes, tell, lend)
    content = json.dumps(found.values(), indent=1).encode()
    return Outcome(found.summary(), f"{name}-rehearsal.json", "application/json", content)


def _hall(desk: Desk, name: str, wishes: dict[str, Any], tell: Tell) -> Outcome:
    """Simulated switches, from nothing on them to handed over."""
    words = halls.perform(desk, name, str(wishes["address"]), tell)
    return Outcome(words, f"{name}-hall.txt", "text/plain", f"{words}\n".encode())


def _rehearsal_needs(switches: int, wishes: Mapping[str, Any]) -> int:
    wish = wishes.get("wish", {})
    booted = switches if wish.get("whole") else min(switches, int(wish.get("most", 12)))
    return 120_000_000 + 100_000 * switches + memory_for(-(-booted // int(wishes.get("machines", 1)))) * 1_000_000


KINDS: dict[str, Kind] = {
    "bundle": Kind("Bundle", Right.READ, _bundle, lambda switches, wishes: 60_000_000 + 450_000 * switches),
    "read back": Kind("Read back", Right.READ, _read_back, lambda switches, wishes: 60_000_000 + 600_000 * switches),
    "deep check": Kind(
        "Deep check", Right.READ, _deep_check, lambda switches, wishes: 120_000_000 + 450_000 * switches
    ),
    "pages": Kind("Pages", Right.READ, _pages, lambda switches, wishes: 120_000_000 + 400_000 * switches),
    "sheets": Kind("Sheets", Right.READ, _sheets, lambda switches, wishes: 60_000_000 + 150_000 * switches),
    "simulated hall": Kind("Simulated hall", Right.STAGE, _hall, halls.needs),
    "rehearsal": Kind("Rehearsal", Right.REHEARSE, _rehearsal, _rehearsal_needs),
}
