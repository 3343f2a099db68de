"""What is made of all switches of a fabric: its bundle, and what an independent reader finds in its files."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from barrio.app import officesecrets
from barrio.app.desk import Desk
from barrio.app.drafts import Opened, load
from barrio.app.leaving import while_wanted
from barrio.core import Fault
from barrio.core.bundle import bundle_files, with_manifest
from barrio.store.entries import Act


@dataclass(frozen=True, slots=True)
class ReadBack:
    """What an independent reader finds in the files of so many switches; `refused` have no files to read."""

    switches: int
    refused: int
    findings: list[Fault]


def bundle(desk: Desk, name: str) -> dict[str, bytes]:
    """Every file of the bundle, by path. Raises `Missing`, `Refused`, and `Busy` while much of this is under way."""
    found = load(desk, name)
    with desk.house.gate.room_for(len(found.compiled.staged)):
        render(found)
        return bundle_files(found.draft.document, found.compiled)


def for_switches(desk: Desk, name: str, beside: Mapping[str, bytes]) -> dict[str, bytes]:
    """The bundle as it goes to switches: secrets stand in the files, with what goes `beside` them, and the record says who took it. Raises as `bundle`, and `Refused`
    (`secret.*`)."""
    files = {**officesecrets.filled(desk, bundle(desk, name)), **beside}
    desk.writing(lambda tx: tx.act(Act("files taken with secrets", name, topic="draft")))
    return with_manifest(load(desk, name).compiled, files)


def read_back(desk: Desk, name: str) -> ReadBack:
    """All files, read back and held against each other. Raises as `bundle`."""
    found = load(desk, name)
    staged, without = found.compiled.staged, found.compiled.without_files
    with desk.house.gate.room_for(len(staged)):
        render(found)
        findings = list(found.compiled.read_back())
    refused = sum(one.key in without for one in staged)
    return ReadBack(len(staged) - refused, refused, findings)


def render(found: Opened, tell: Callable[[int], None] = lambda done: None) -> None:
    """The files of every switch, as long as somebody waits for them; says after each how many are done."""
    for done, switch in enumerate(while_wanted(found.compiled.staged), 1):
        if switch.key not in found.compiled.without_files:
            found.compiled.files(switch.key)
        tell(done)
