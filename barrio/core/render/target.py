"""What a target is: which files a switch gets, the template of each, and what else is its own.

A file's path is relative to the root of the switch's file system. A file per user or DHCP relay is marked by
`{user}` or `{relay}` in its path; `needs` names what the switch must have (an attribute of its model or of `Common`) for the file to exist at all.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from fnmatch import fnmatchcase
from pathlib import PurePosixPath
from typing import TYPE_CHECKING, Protocol

from barrio.core.errors import Fault
from barrio.core.model.switch import SwitchModel
from barrio.core.render.effects import Effects
from barrio.core.render.facts import Facts
from barrio.core.render.traced import TracedLine

if TYPE_CHECKING:  # what renders templates apart from everything else has no need of these
    from barrio.core.attach.attachments import Attachments
    from barrio.core.brief.model import Brief
    from barrio.core.structure.parts import Structure


@dataclass(frozen=True, slots=True)
class FileKind:
    """One file. `roles` and `models` are the switches that get it; without any, all do. `software` are patterns of the
    versions that it is for. `first` says that it is for a switch's first boot alone. `format` is what its text must be read
    as, where it is `json` or `xml`."""

    path: str
    template: str
    section: str
    needs: str = ""
    mode: int = 0o644
    roles: tuple[str, ...] = ()
    models: tuple[str, ...] = ()
    first: bool = False
    software: tuple[str, ...] = ()
    format: str = ""

    @property
    def each(self) -> str:
        """What there is one such file for each of: `user`, `relay`, or nothing."""
        return next((thing for thing in ("user", "relay") if f"{{{thing}}}" in self.path), "")

    @property
    def name(self) -> str:
        return PurePosixPath(self.path).name

    def is_for(self, switch: SwitchModel) -> bool:
        """Whether this switch gets the file."""
        if (self.roles and switch.role not in self.roles) or (self.models and switch.model not in self.models):
            return False
        if self.software and not any(fnmatchcase(switch.common.software, one) for one in self.software):
            return False
        return not self.needs or bool(getattr(switch if hasattr(switch, self.needs) else switch.common, self.needs))


@dataclass(frozen=True, slots=True)
class Templates:
    """The templates of a target: those of a package that ships, or, by name, an office's own, which nobody vouches for. `digest` tells
    own ones of the same name apart."""

    package: str = ""
    own: Mapping[str, str] = field(default_factory=dict, compare=False)
    digest: str = ""


class Contained(Protocol):
    """Where templates that nobody vouches for run: apart from everything else, with limits. All raise `Refused` (`template.*`)."""

    def render(self, switch: SwitchModel, target: Target) -> dict[str, str]:
        """Every file of a switch, by path."""

    def trace(self, switch: SwitchModel, path: str, target: Target) -> tuple[TracedLine, ...]:
        """One file with where each line comes from. Raises `KeyError` when the switch has no such file."""


def nobody(*_: object) -> Mapping[str, Fault]:
    """What a target refuses that refuses no switch."""
    return {}


@dataclass(frozen=True, slots=True)
class Target:
    """One language that files are written in.

    `refused` names the switches that it cannot carry, by key, with the reason (`target.*`). `facts` reads the files of one switch, by its name
    and by path, as far as switches of all targets are compared; nothing when a target has no reader. `read_back` reads those of all its
    switches, where the target knows more of its own language, beside others that it does not read. `cut_off` tells by which lines
    nobody would reach a switch any more. `conditions` puts what its templates ask into words: a pattern of the question, and what
    it says when it holds and when not. `effects` are the rules of what a changed line does to traffic. `left_out` are patterns of the model's paths that its files do not carry, with the reason.
    """

    name: str
    templates: Templates
    files: tuple[FileKind, ...]
    refused: Callable[[Brief, Structure, Attachments], Mapping[str, Fault]] = field(default=nobody, compare=False)
    facts: Callable[[str, Mapping[str, str]], Facts] | None = field(default=None, compare=False)
    read_back: Callable[[Mapping[str, Mapping[str, str]], frozenset[str]], tuple[Fault, ...]] | None = field(
        default=None, compare=False
    )
    cut_off: Callable[[str, Mapping[str, str]], Iterator[str]] | None = field(default=None, compare=False)
    title: str = field(default="", compare=False)
    conditions: tuple[tuple[str, str, str], ...] = field(default=(), compare=False)
    left_out: Mapping[str, str] = field(default_factory=dict, compare=False)
    contained: Contained | None = field(default=None, compare=False)
    effects: Callable[[], Effects] = field(default=Effects, compare=False)
