"""Faults: what is wrong, where, and the way out.

`core` never returns half an answer. A function that cannot do what it was asked raises `Refused`, which carries one
or more `Fault`s. Each names the thing that is wrong in words an architect would use, points at the field of the brief
that caused it, and says what to do instead. The CLI prints them with the line of the YAML; the API turns them into a
problem document (RFC 9457).
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from difflib import get_close_matches


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing that is wrong.

    `code` is stable and dotted (`ports.spine-full`); `path` is the field of the brief, dotted (`spines.count`), or
    empty when the fault belongs to no field; `line` counts from 1, and is 0 when unknown.
    """

    code: str
    message: str
    path: str = ""
    line: int = 0
    column: int = 0


class Refused(Exception):
    """The request cannot be met; nothing was changed. Carries at least one fault."""

    def __init__(self, faults: Iterable[Fault]) -> None:
        self.faults: tuple[Fault, ...] = tuple(faults)
        super().__init__("; ".join(fault.message for fault in self.faults))


def refuse(code: str, message: str, path: str = "", line: int = 0, column: int = 0) -> Refused:
    """A `Refused` with a single fault, ready to raise."""
    return Refused([Fault(code, message, path, line, column)])


def nearest(name: str, known: Iterable[str]) -> str:
    """A question after the name that was perhaps meant, to put behind a refusal; nothing when none is near.

    >>> nearest("tide-gird", ["tide-grid", "buoys"])
    ' Is tide-grid meant?'
    """
    found = get_close_matches(name, list(known), 1)
    return f" Is {found[0]} meant?" if found else ""
