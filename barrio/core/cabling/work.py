"""What was done to cables: deeds as people record them, and what they come to.

A deed is never changed; another one goes over it. What they come to depends on the deeds alone and not on the order in which they arrive, so
that a technician may be without a network for a day and lose nothing: deeds count by the time at which they were done.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Literal
from uuid import UUID

from barrio.core.errors import refuse

Kind = Literal["laid", "taken out", "scanned a", "scanned b", "measured", "light a", "light b", "fault", "mended"]
LIGHT = (-60.0, 20.0)
"""Received power that an optic may report, in dBm."""
MOST_METRES = 2000.0
MOST_WORDS = 400


@dataclass(frozen=True, slots=True)
class Deed:
    """One thing done to one cable (by the key of its link). `text` is a scanned label or the words of a fault, `number` metres or dBm."""

    id: UUID
    cable: str
    kind: Kind
    done_at: datetime
    author: str = ""
    text: str = ""
    number: float | None = None


@dataclass(frozen=True, slots=True)
class Worked:
    """What the deeds on one cable come to. `scanned` are the labels read at its ends and `light` the dBm received there, by `a` and `b`."""

    laid_by: str = ""
    laid_at: datetime | None = None
    measured: float | None = None
    measured_by: str = ""
    scanned: Mapping[str, str] = field(default_factory=dict)
    light: Mapping[str, float] = field(default_factory=dict)
    fault: str = ""
    fault_by: str = ""

    @property
    def is_laid(self) -> bool:
        return self.laid_at is not None


def check_deed(deed: Deed) -> Deed:
    """A deed that can be taken. Raises `Refused` (`work.number`, `work.text`)."""
    number = deed.number
    if deed.kind == "measured" and (number is None or not 0 < number <= MOST_METRES):
        raise refuse("work.number", f"A measured length is over 0 and up to {MOST_METRES:g} metres, not {number}.")
    if deed.kind.startswith("light") and (number is None or not LIGHT[0] <= number <= LIGHT[1]):
        raise refuse("work.number", f"Light received is between {LIGHT[0]:g} and {LIGHT[1]:g} dBm, not {number}.")
    if deed.kind in ("fault", "scanned a", "scanned b") and not deed.text.strip():
        raise refuse(
            "work.text",
            "Say what is wrong with the cable." if deed.kind == "fault" else "The label that was read is empty.",
        )
    if len(deed.text) > MOST_WORDS:
        raise refuse("work.text", f"This is {len(deed.text)} characters; {MOST_WORDS} are the most.")
    return deed


def come_to(deeds: Iterable[Deed]) -> dict[str, Worked]:
    """What deeds come to, by the key of each cable; in whatever order they are given."""
    found: dict[str, Worked] = {}
    for deed in sorted(deeds, key=lambda deed: (deed.done_at, deed.id)):
        found[deed.cable] = _after(found.get(deed.cable, Worked()), deed)
    return found


def _after(was: Worked, deed: Deed) -> Worked:
    match deed.kind:
        case "laid":
            return replace(was, laid_by=deed.author, laid_at=deed.done_at)
        case "taken out":
            return replace(was, laid_by="", laid_at=None, scanned={}, light={})
        case "scanned a" | "scanned b":
            return replace(was, scanned={**was.scanned, deed.kind[-1]: deed.text.strip()})
        case "measured":
            return replace(was, measured=deed.number, measured_by=deed.author)
        case "light a" | "light b":
            return replace(was, light={**was.light, deed.kind[-1]: deed.number or 0.0})
        case "fault":
            return replace(was, fault=deed.text.strip(), fault_by=deed.author)
        case "mended":
            return replace(was, fault="", fault_by="")


def other_label(label: str, worked: Worked) -> str | None:
    """The end whose label was read as another cable's, as words; nothing when what was read fits. A label is read by its first word.

    >>> other_label("M-0109", Worked(scanned={"b": "M-0110 | s01.U39"}))
    'end B bears M-0110'
    """
    for end, text in sorted(worked.scanned.items()):
        read = text.split()[0].rstrip("|") if text.split() else ""
        if read != label:
            return f"end {end.upper()} bears {read[:20]}"
    return None
