"""What a target is: which files a switch gets, the template of each, and what else is its own.

A file's path is relative to the root of the switch's file system. A file per user or DHCP relay is marked by
`{user}` or `{relay}` in its path; `needs` names what the switch must have (an attribute of its model or of `Common`) for the file to exist at all.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from pathlib import PurePosixPath

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.errors import Fault
from barrio.core.model.devices import Devices
from barrio.core.structure.parts import Structure


@dataclass(frozen=True, slots=True)
class FileKind:
    path: str
    template: str
    section: str
    needs: str = ""
    mode: int = 0o644

    @property
    def each(self) -> str:
        """What there is one such file for each of: `user`, `relay`, or nothing."""
        return next((thing for thing in ("user", "relay") if f"{{{thing}}}" in self.path), "")

    @property
    def name(self) -> str:
        return PurePosixPath(self.path).name


@dataclass(frozen=True, slots=True)
class Target:
    """`package` holds the templates. `refused` names the switches that it cannot carry, by key, with the reason (`target.*`);
    `read_back` reads all files, by switch and path, and tells what they contradict. `conditions` puts what its templates ask
    into words: a pattern of the question, and what it says when it holds and when not.
    """

    name: str
    package: str
    devices: Devices
    files: tuple[FileKind, ...]
    refused: Callable[[Brief, Structure, Attachments], Mapping[str, Fault]] = field(compare=False)
    read_back: Callable[[Mapping[str, Mapping[str, str]]], tuple[Fault, ...]] = field(compare=False)
    conditions: tuple[tuple[str, str, str], ...] = field(default=(), compare=False)

    def mode_of(self, path: str) -> int:
        """The mode that a file of a bundle has on the switch, by its path within the bundle."""
        return next((kind.mode for kind in self.files if kind.mode != 0o644 and path.endswith(f"/{kind.path}")), 0o644)
