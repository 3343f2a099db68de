"""What a changed line does when it is put on a switch that runs: rules by target, in one readable table each.

A rule says what a line looks like and in which blocks it stands, as reading rules do: `{words}` name the thing that the line is about, `{_}` is a
word and `{...}` the rest of the line that says what it is like. A line that no rule knows counts as the worst. `barrio.core.compare` holds
two texts against each other by these rules.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from fnmatch import fnmatchcase
from functools import cache, cached_property
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from barrio.core.render.shapes import shape_of


class Effect(StrEnum):
    """What a change does to traffic, from nothing to the worst."""

    NONE = "none"
    NEW = "new"
    SERVICE = "service"
    GONE = "gone"
    SESSION = "session"
    LINK = "link"
    PORT = "port"
    BRIDGE = "bridge"
    DAEMON = "daemon"
    REBOOT = "reboot"
    UNKNOWN = "unknown"

    @property
    def rank(self) -> int:
        """How bad it is; 0 is nothing."""
        return _RANKS[self]

    @property
    def touches(self) -> bool:
        """Whether traffic that was there before notices."""
        return self.rank >= Effect.SESSION.rank


_RANKS = {effect: rank for rank, effect in enumerate(Effect)}

WORDS: dict[Effect, str] = {
    Effect.NONE: "touches nobody",
    Effect.NEW: "only adds",
    Effect.SERVICE: "a service restarts that carries no traffic",
    Effect.GONE: "takes away what the brief no longer asks for",
    Effect.SESSION: "sessions restart",
    Effect.LINK: "a link goes down for a moment",
    Effect.PORT: "a port stops carrying for a moment",
    Effect.BRIDGE: "a bridge or tunnel is made anew",
    Effect.DAEMON: "a routing daemon restarts",
    Effect.REBOOT: "the switch reboots",
    Effect.UNKNOWN: "nobody has said what it does, so it counts as the worst",
}
"""Each effect in words that follow the name of a switch."""

Words = Annotated[str, Field(min_length=1, max_length=200)]


class EffectRule(BaseModel):
    """What a line does. `effect` holds however it changes; a `thing` is new when its line comes, and gone when it goes, and only a line that says
    otherwise of the same thing has the effect. `touches` says on whom, where the line itself does not name it: all sessions of its block, or
    the sessions at its device. With `agree` both ends must say the same, so that they change together. A `listed` line holds a list, of which
    parts may come and go. `why` says it in words, `source` where that stands."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    line: Words
    within: list[Words] = Field([], max_length=6)
    effect: Effect = Effect.NONE
    thing: bool = False
    listed: bool = False
    touches: Literal["", "block", "device", "switch"] = ""
    agree: bool = False
    why: Annotated[str, Field(max_length=300)] = ""
    source: Annotated[str, Field(max_length=120)] = ""

    @field_validator("line", "within")
    @classmethod
    def _known_words(cls, said: str | list[str]) -> str | list[str]:
        for words in [said] if isinstance(said, str) else said:
            shape(words)
        return said

    @cached_property
    def shapes(self) -> tuple[re.Pattern[str], ...]:
        """One for each block, and the last for the line itself."""
        return tuple(map(shape, (*self.within, self.line)))


class FileEffects(BaseModel):
    """The rules of one file, or of all whose path a pattern matches; `comment` begins lines that say nothing, and `ends` are lines that only end a block.
    `otherwise` is for lines that no rule knows: the worst, where nobody says better."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    file: Words
    comment: Annotated[str, Field(max_length=4)] = "#"
    ends: list[Words] = []
    otherwise: Effect = Effect.UNKNOWN
    why: Annotated[str, Field(max_length=300)] = ""
    source: Annotated[str, Field(max_length=120)] = ""
    rules: list[EffectRule] = Field([], max_length=400)

    def rules_for(self, depth: int, word: str) -> Sequence[EffectRule]:
        """The rules that may know a line within so many blocks that begins with a word, in their order."""
        found = self._by_word.get((depth, word))
        return self._by_word.get((depth, ""), ()) if found is None else found

    @cached_property
    def _by_word(self) -> Mapping[tuple[int, str], Sequence[EffectRule]]:
        """The rules by how many blocks they stand in and the word that they begin with; under no word those that begin with any."""
        first = {id(rule): rule.line.split()[0] for rule in self.rules}
        any_word = {key for key, word in first.items() if "{" in word}
        found: dict[tuple[int, str], Sequence[EffectRule]] = {}
        for depth in {len(rule.within) for rule in self.rules}:
            here = [rule for rule in self.rules if len(rule.within) == depth]
            found[depth, ""] = [rule for rule in here if id(rule) in any_word]
            for word in {first[id(rule)] for rule in here if id(rule) not in any_word}:
                found[depth, word] = [rule for rule in here if id(rule) in any_word or first[id(rule)] == word]
        return found


HOLES = ("session", "group", "joins", "device", "vrf", "vlan", "vni", "thing", "user")
"""What a line may be about. `session` is how a switch names the other end, `group` a name that sessions share, and `joins` the group of a session,
which it is not known by."""


@cache
def shape(words: str) -> re.Pattern[str]:
    """The pattern that a rule's words stand for. Raises `ValueError` for a word in braces that is not known.

    >>> shape("neighbor {session} timers {...}").fullmatch("neighbor fabric timers 3 9").groupdict()
    {'session': 'fabric'}
    """
    return shape_of(words, HOLES)


@dataclass(frozen=True)
class Effects:
    """The rules of a target, the first file that matches a path counts."""

    files: tuple[FileEffects, ...] = ()
    _known: dict[str, FileEffects] = field(default_factory=dict, repr=False, compare=False)

    def of(self, path: str) -> FileEffects:
        """The rules of a file; without any, every line of it counts as the worst."""
        found = self._known.get(path)
        if found is None:
            found = next((one for one in self.files if fnmatchcase(path, one.file)), UNKNOWN)
            self._known[path] = found
        return found


UNKNOWN = FileEffects(file="*", why="no rule says what lines of this file do")


def effects_of(tables: Iterable[Mapping[str, object]]) -> Effects:
    """The rules that a table holds, as a YAML document says it. Raises pydantic's `ValidationError`."""
    return Effects(tuple(FileEffects.model_validate(table) for table in tables))


def worst(effects: Iterable[Effect]) -> Effect:
    """The worst of them; none of none."""
    return max(effects, key=lambda one: one.rank, default=Effect.NONE)
