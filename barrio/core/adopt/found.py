"""What an adoption finds: proposals with their evidence, and oddities that fit none."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from barrio.core.ledger.wanted import Taken

Sure = Literal["certain", "likely", "a guess"]
Part = Literal["shape", "models", "routing", "carried", "attached", "settings", "numbers", "additions"]
PARTS: tuple[Part, ...] = ("shape", "models", "routing", "carried", "attached", "settings", "numbers", "additions")
"""The parts of a fabric in the order in which one looks at them: each stands on those before it."""
Edits = tuple[tuple[str, Any], ...]


@dataclass(frozen=True, slots=True)
class Proposal:
    """Something that the brief would say. `key` names it the same in every discovery; `evidence` says from what it was told."""

    key: str
    part: Part
    title: str
    evidence: tuple[str, ...]
    sure: Sure
    edits: Edits


@dataclass(frozen=True, slots=True)
class Oddity:
    """Something that runs and fits no pattern, and that no word of the brief says: it can be kept on record with a reason, mended on the switch, or left out.
    What lines and settings can say as an exception is proposed as such."""

    key: str
    switch: str
    words: str


@dataclass(frozen=True, slots=True)
class Pin:
    """A number that was found, and whose it is."""

    use: str
    key: str
    number: Taken


@dataclass(slots=True)
class Findings:
    """What was found so far; parts add to it one after the other."""

    proposals: list[Proposal] = field(default_factory=list)
    oddities: list[Oddity] = field(default_factory=list)

    def propose(
        self, part: Part, key: str, title: str, edits: Mapping[str, Any], evidence: list[str], sure: Sure = "certain"
    ) -> None:
        if edits or part == "models":
            self.proposals.append(Proposal(key, part, title, tuple(evidence), sure, tuple(edits.items())))

    def odd(self, key: str, switch: str, words: str) -> None:
        self.oddities.append(Oddity(key, switch, words))
