"""The office: what holds for every fabric there is. Its targets stand beside the one that ships.

The office is a folder of files: `office.yaml`, which says settings and declares variables, and `targets/<name>/target.yaml` with the templates
of that target beside it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from pydantic import ValidationError

from barrio.core.brief import reader
from barrio.core.brief.document import faults_of
from barrio.core.brief.model import Brief
from barrio.core.errors import Fault, Refused, nearest, refuse
from barrio.core.render.target import Contained, Target
from barrio.core.settings.given import NOTHING, Given
from barrio.core.settings.ladder import Ladder
from barrio.core.targets.ietf_json import IETF_JSON
from barrio.core.targets.linux_frr import LINUX_FRR
from barrio.core.targets.own.manifest import read_target

TARGETS, SAID = "targets", "office.yaml"
MOST_FILES = 600
SHIPPED = {one.name: one for one in (LINUX_FRR, IETF_JSON)}


@dataclass(frozen=True)
class Office:
    """What an office's files say. `files` are the texts themselves, by path."""

    files: Mapping[str, str] = field(default_factory=dict)
    given: Given = NOTHING
    targets: Mapping[str, Target] = field(default_factory=lambda: dict(SHIPPED))

    def target(self, name: str, path: str) -> Target:
        """The target of this name. Raises `Refused` (`target.unknown`) with the nearest; `path` is where the name stands."""
        found = self.targets.get(name)
        if found is None:
            meant = nearest(name, self.targets) or f" There are {', '.join(self.targets)}."
            raise refuse("target.unknown", f"There is no target {name}.{meant}", path)
        return found


BARE = Office()
"""An office that has nothing of its own."""


def read_office(files: Mapping[str, str], contained: Contained | None = None, patient: bool = False) -> Office:
    """An office from its files, by path.

    Raises `Refused` with everything that is wrong; the `path` of a fault begins with the file's. One that is `patient` leaves out what it cannot
    read: files that an earlier Barrio took.
    """
    faults: list[Fault] = []
    if len(files) > MOST_FILES:
        raise refuse("office.files", f"The office has {len(files):,} files; {MOST_FILES} are the most.")
    folders: dict[str, dict[str, str]] = {}
    given = NOTHING
    for path, text in sorted(files.items()):
        if path == SAID:
            try:
                given = _given(text)
            except Refused as error:
                faults += [replace(one, path=f"{SAID}:{one.path}") for one in error.faults]
            continue
        top, _, rest = path.partition("/")
        name, _, file = rest.partition("/")
        if top != TARGETS or not file or "/" in file:
            faults.append(
                Fault(
                    "office.file",
                    f"{path[:120]} is no file of an office; those are {SAID}, and templates in {TARGETS}/<name>/<file>.",
                    path,
                )
            )
            continue
        folders.setdefault(name, {})[file] = text
    targets = dict(SHIPPED)
    for name, own in folders.items():
        try:
            targets[name] = read_target(name, own, contained)
        except Refused as error:
            faults += [replace(one, path=f"{TARGETS}/{name}/{one.path}") for one in error.faults]
    if faults and not patient:
        raise Refused(faults)
    return Office(files, given, targets)


def _given(text: str) -> Given:
    """What `office.yaml` says. Raises `Refused` with lines; settings are read once by themselves, so that what no fabric could take is refused."""
    plain, places = reader.load(text)
    try:
        given = Given.model_validate(plain)
    except ValidationError as error:
        raise Refused(faults_of(error, places)) from None
    try:
        Ladder(Brief.model_validate({"fabric": "x"}), given)
    except Refused as error:
        found = []
        for one in error.faults:
            path = one.path.replace("office.", "settings.", 1)
            line, column = next(
                (places[at] for at in (path, path.replace('"', ""), "settings") if at in places), (0, 0)
            )
            found.append(replace(one, path=path, line=line, column=column))
        raise Refused(found) from None
    return given
