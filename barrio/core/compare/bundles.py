"""Two bundles held against each other: words of the brief, numbers, switches, files and cables, as they stand in the files that leave.

Nothing is compiled for it, so that any two can be compared: editions, drafts, other fabrics, and bundles from elsewhere.
"""

from __future__ import annotations

import csv
import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from typing import Any, Literal

from barrio.core.brief.compare import changed_paths, words_at
from barrio.core.brief.document import read
from barrio.core.errors import Refused

Files = Mapping[str, bytes]
"""A bundle: its files by path."""


@dataclass(frozen=True, slots=True)
class Other:
    """Something that is other on the two sides: what it is called, and what each side says, of which one may be nothing."""

    name: str
    one: str
    other: str


@dataclass(frozen=True, slots=True)
class FileGroup:
    """A file of some switches that is changed in the very same way, by so many lines; `state` is what happened to it."""

    path: str
    state: Literal["changed", "only one", "only other"]
    switches: tuple[str, ...]
    gone: int
    come: int


@dataclass(frozen=True, slots=True)
class Apart:
    """What is other between two bundles. `unread` says why the words of the briefs could not be held against each other."""

    words: tuple[Other, ...]
    unread: str
    numbers: tuple[Other, ...]
    switches: tuple[Other, ...]
    files: tuple[FileGroup, ...]
    cables: tuple[Other, ...]


def apart(one: Files, other: Files) -> Apart:
    """Everything that is other."""
    words, unread = _words(one, other)
    return Apart(
        words, unread,
        tuple(_rows(one, other, "numbers.csv", ("use", "key"), ("number",))),
        tuple(_switches(one, other)),
        tuple(_files(one, other)),
        tuple(_rows(one, other, "cabling.csv", ("label",), ("a_switch", "a_port", "b_switch", "b_port"))),
    )  # fmt: skip


def _words(one: Files, other: Files) -> tuple[tuple[Other, ...], str]:
    try:
        before, after = (read(side.get("brief.yaml", b"").decode()).brief for side in (one, other))
    except Refused as refused:
        return (), f"A brief of the two cannot be read by this Barrio: {refused.faults[0].message}"
    except UnicodeDecodeError:
        return (), "A brief of the two is no text."
    return tuple(
        Other(path, words_at(before, path), words_at(after, path)) for path in changed_paths(before, after)
    ), ""


def _rows(one: Files, other: Files, path: str, names: Sequence[str], said: Sequence[str]) -> Iterator[Other]:
    ours, theirs = (side.get(path, b"").decode(errors="replace").splitlines() for side in (one, other))
    both = set(ours) & set(theirs)
    sides = [_table(lines, both, names, said) for lines in (ours, theirs)]
    for name in dict.fromkeys((*sides[0], *sides[1])):
        before, after = sides[0].get(name, ""), sides[1].get(name, "")
        if before != after:
            yield Other(name, before, after)


def _table(lines: Sequence[str], both: set[str], names: Sequence[str], said: Sequence[str]) -> dict[str, str]:
    """The rows of a sheet that only one side has; those of both say the same."""
    rows = csv.DictReader(line for at, line in enumerate(lines) if at == 0 or line not in both)
    return {" ".join(row.get(one) or "" for one in names): " ".join(row.get(one) or "" for one in said) for row in rows}


def _switches(one: Files, other: Files) -> Iterator[Other]:
    sides = [_inventory(side) for side in (one, other)]
    for name in dict.fromkeys((*sides[0], *sides[1])):
        before, after = sides[0].get(name, ""), sides[1].get(name, "")
        if before != after:
            yield Other(name, before, after)


def _inventory(side: Files) -> dict[str, str]:
    """Each switch in a few words: its role, model, rack and unit, AS and loopback."""
    try:
        said: Any = json.loads(side.get("inventory.json", b"{}"))
        return {
            name: " ".join(
                str(one.get(part, "")) for part in ("model", "rack", "unit", "asn", "loopback", "management")
            )
            for switches in said.get("roles", {}).values()
            for name, one in switches.items()
        }
    except (ValueError, AttributeError, TypeError):
        return {}


def _files(one: Files, other: Files) -> list[FileGroup]:
    groups: dict[tuple[str, str, tuple[str, ...], tuple[str, ...]], list[str]] = {}
    for path in dict.fromkeys((*one, *other)):
        if one.get(path) == other.get(path) or path == "manifest.json":
            continue
        top, _, rest = path.partition("/")
        switch, _, inside = rest.partition("/")
        if top != "switches":
            switch, inside = "", path
        state = "changed" if path in one and path in other else "only one" if path in one else "only other"
        gone, come = middle(_lines(one.get(path, b"")), _lines(other.get(path, b"")))
        key = (inside, state, tuple(gone), tuple(come)) if state == "changed" else (inside, state, (), ())
        groups.setdefault(key, []).append(switch)
    found = [
        FileGroup(path, state, tuple(switches), len(gone), len(come))  # type: ignore[arg-type]
        for (path, state, gone, come), switches in groups.items()
    ]
    return sorted(found, key=lambda group: (group.state, group.path, -len(group.switches)))


def _lines(content: bytes) -> list[str]:
    return content.decode(errors="replace").splitlines()


def middle(one: Sequence[str], other: Sequence[str]) -> tuple[Sequence[str], Sequence[str]]:
    """What is left of two texts without the lines that both begin and end with."""
    low = 0
    most = min(len(one), len(other))
    while low < most and one[low] == other[low]:
        low += 1
    high = 0
    while high < most - low and one[-1 - high] == other[-1 - high]:
        high += 1
    return one[low : len(one) - high], other[low : len(other) - high]


@dataclass(frozen=True, slots=True)
class TextRow:
    """A line of one side beside that of the other; numbers count from 1, 0 for none. Of many that are alike, `folded` counts those left out."""

    kind: Literal["same", "gone", "come", "changed", "folded"]
    one: int
    other: int
    text: str
    beside: str
    folded: int = 0


NEAR = 3
"""Lines that are alike and told around those that are not."""


def rows(one: bytes, other: bytes) -> Iterator[TextRow]:
    """A file of both sides, line by line, with little around what is other."""
    ours, theirs = _lines(one), _lines(other)
    work = SequenceMatcher(None, ours, theirs, autojunk=False).get_opcodes()
    for at, (kind, low, high, from_, to) in enumerate(work):
        if kind == "equal":
            yield from _same(ours, low, high, from_, at == 0, at == len(work) - 1)
            continue
        beside = min(high - low, to - from_)
        for place in range(beside):
            yield TextRow("changed", low + place + 1, from_ + place + 1, ours[low + place], theirs[from_ + place])
        for place in range(low + beside, high):
            yield TextRow("gone", place + 1, 0, ours[place], "")
        for place in range(from_ + beside, to):
            yield TextRow("come", 0, place + 1, "", theirs[place])


def _same(lines: Sequence[str], low: int, high: int, other: int, first: bool, last: bool) -> Iterator[TextRow]:
    before, after = (0 if first else NEAR), (0 if last else NEAR)
    shift = other - low
    told = [*range(low, min(high, low + before)), *range(max(low + before, high - after), high)]
    hidden = (high - low) - len(told)
    for place in told[: min(before, high - low)]:
        yield TextRow("same", place + 1, place + shift + 1, lines[place], lines[place])
    if hidden:
        yield TextRow("folded", low + before + 1, other + before + 1, "", "", hidden)
    for place in told[min(before, high - low) :]:
        yield TextRow("same", place + 1, place + shift + 1, lines[place], lines[place])
