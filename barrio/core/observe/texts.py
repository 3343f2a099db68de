"""What of a switch's files is not as the edition has it, by meaning, and how dangerous that is."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from barrio.core import Compiled
from barrio.core.brief.variables import SECRET
from barrio.core.compare.effects import Concerned, concern
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.render.effects import Effect, worst

MASKED = "<not kept>"
"""What stands in the place of a secret that Barrio does not know by name."""
_SECRET_LIKE = re.compile(
    r"((?:^|[\s;])(?:password|secret|passphrase|psk|authpass|privpass|md5|key-string|createUser\s+\S+\s+\S+)\s+(?:[0-9]\s+)?)(\S+)",
    re.IGNORECASE | re.MULTILINE,
)
_PRIVATE = re.compile(r"-----BEGIN ([A-Z ]*PRIVATE KEY)-----.*?-----END \1-----", re.DOTALL)


def masked(text: str, secrets: Mapping[str, str]) -> str:
    """A running text without secrets: those that Barrio knows (value by name) stand as they do in an edition, others are left out.

    >>> masked("neighbor a password 8 hunter2", {})
    'neighbor a password 8 <not kept>'
    >>> masked("snmp word tide-and-wind", {"snmp": "tide-and-wind"})
    'snmp word <secret:snmp>'
    """
    for name, value in sorted(secrets.items(), key=lambda one: -len(one[1])):
        if value:
            text = text.replace(value, f"<secret:{name}>")
    text = _PRIVATE.sub(lambda found: f"-----BEGIN {found[1]}----- {MASKED}", text)
    return _SECRET_LIKE.sub(lambda found: found[0] if SECRET.fullmatch(found[2]) else f"{found[1]}{MASKED}", text)


@dataclass(frozen=True, slots=True)
class TextDrift:
    """How the files of a switch differ from the edition: `lines` from what was meant to what runs, the worst first; files that are gone; what the worst of it
    does to traffic, and what putting it `back` does."""

    lines: tuple[LineChange, ...]
    gone: tuple[str, ...]
    effect: Effect
    back: Effect

    @property
    def none(self) -> bool:
        return not self.lines and not self.gone


def drifted(compiled: Compiled, key: str, running: Mapping[str, str | None], reader: Reader | None = None) -> TextDrift:
    """How a switch differs from an edition: `running` are the texts of files that are other than they were sent (None for one that is not there).

    The order of lines that say the same is no drift, nor is a line that stands twice. Raises `Refused` as `Compiled.files`.
    """
    meant = compiled.files(key)
    reader = reader or Reader(compiled.targets[key].effects())
    known = Concerned(compiled.models[key], compiled.models[key], meant)
    lines: list[LineChange] = []
    back: list[Effect] = []
    for path, text in running.items():
        if text is not None:
            lines += (concern(one, known) for one in reader.changes(path, meant.get(path, ""), text))
            back += (concern(one, known).effect for one in reader.changes(path, text, meant.get(path, "")))
    lines.sort(key=lambda one: -one.effect.rank)
    gone = tuple(path for path, text in running.items() if text is None)
    return TextDrift(tuple(lines), gone, worst([one.effect for one in lines]), worst(back))
