"""Two files line by line: what they share, where they differ in values that are each switch's own, and where they really differ."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Literal

from barrio.core.compiled import Compiled
from barrio.core.render.traced import TracedLine

Kind = Literal["same", "own", "other", "here", "there"]


@dataclass(frozen=True, slots=True)
class ComparedLine:
    """A line of both files, or of one. `same` is alike; `own` differs in values that belong to each switch by itself; `other` in what is said for
    some switches and not for all; `here` and `there` stand in the first or the second file only. Numbers count from 1, 0 for none."""

    kind: Kind
    here: int
    there: int
    text: str
    beside: str


def compare(one: Sequence[TracedLine], other: Sequence[TracedLine]) -> Iterator[ComparedLine]:
    """The lines of two files in their order, those of the same template line and the same fixed words beside each other."""
    matched = SequenceMatcher(None, [_shape(line) for line in one], [_shape(line) for line in other], autojunk=False)
    for work, low, high, from_, to in matched.get_opcodes():
        if work == "equal":
            for at in range(high - low):
                mine, theirs = one[low + at], other[from_ + at]
                yield ComparedLine(_kind(mine, theirs), low + at + 1, from_ + at + 1, mine.text, theirs.text)
            continue
        if high - low == to - from_ and all(_alike(one[low + at], other[from_ + at]) for at in range(high - low)):
            # Two lines of a template that stand for each other, by which leaf of a pair it is.
            for at in range(high - low):
                yield ComparedLine("own", low + at + 1, from_ + at + 1, one[low + at].text, other[from_ + at].text)
            continue
        yield from (ComparedLine("here", at + 1, 0, one[at].text, "") for at in range(low, high))
        yield from (ComparedLine("there", 0, at + 1, "", other[at].text) for at in range(from_, to))


def _alike(one: TracedLine, other: TracedLine) -> bool:
    """Whether two lines have the same words, and other numbers."""
    return not one.spans and not other.spans and re.sub(r"\d+", "0", one.text) == re.sub(r"\d+", "0", other.text)


def _shape(line: TracedLine) -> tuple[str, int, str]:
    """What stays of a line without the values that it prints: its fixed words, and which part of a switch each value is of."""
    fixed, at = [], 0
    for span in sorted(line.spans, key=lambda one: one.start):
        fixed += [line.text[at : span.start], span.path.partition("/")[2].partition("/")[2]]
        at = span.end
    return line.template, line.template_line, "\0".join([*fixed, line.text[at:]])


def _kind(one: TracedLine, other: TracedLine) -> Kind:
    if one.text == other.text:
        return "same"
    for mine, theirs in zip(one.spans, other.spans, strict=False):
        differ = one.text[mine.start : mine.end] != other.text[theirs.start : theirs.end]
        # What all switches share differs only where somebody said so.
        if differ and "/common/" in f"{mine.path} {theirs.path}":
            return "other"
    return "own"


@dataclass(frozen=True, slots=True)
class Alike:
    """Switches whose file of one path is the same text, of so many lines."""

    path: str
    lines: int
    switches: tuple[str, ...]


def alike(compiled: Compiled, path: str = "") -> list[Alike]:
    """Which switches have the same text, file by file, those of the most switches first; of one path, or of all."""
    groups: dict[tuple[str, str], list[str]] = {}
    for switch in compiled.staged:
        if switch.key in compiled.without_files:
            continue
        files: Mapping[str, str] = compiled.files(switch.key)
        for at, text in files.items():
            if path in ("", at):
                groups.setdefault((at, text), []).append(switch.name)
    found = [Alike(at, text.count("\n"), tuple(names)) for (at, text), names in groups.items()]
    return sorted(found, key=lambda one: (one.path, -len(one.switches), one.switches))
