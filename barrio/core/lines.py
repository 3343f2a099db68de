"""A line in the files of all switches at once: who carries it, and where it stands first."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from barrio.core.compile import Compiled


@dataclass(frozen=True, slots=True)
class FoundLine:
    """A line as it is written, in a file of that path; `switches` have it, and on the first of them it is line `number`, counted from 1."""

    path: str
    text: str
    number: int
    switches: tuple[str, ...]


def find_lines(compiled: Compiled, words: str, most: int = 200) -> tuple[tuple[FoundLine, ...], int]:
    """The lines in which words stand, alike lines of one path as one, those of the most switches first; and how many there are in all.

    Capitals count where the words have any. Raises `ValueError` without words.
    """
    if not words.strip():
        raise ValueError("nothing to find")
    found: dict[tuple[str, str], tuple[int, dict[str, None]]] = {}
    for name, path, number, text in _matching(compiled, words):
        known = found.setdefault((path, text), (number, {}))
        known[1].setdefault(name)
    lines = [FoundLine(path, text, number, tuple(names)) for (path, text), (number, names) in found.items()]
    lines.sort(key=lambda one: (-len(one.switches), one.path, one.number))
    return tuple(lines[:most]), len(lines)


def _matching(compiled: Compiled, words: str) -> Iterator[tuple[str, str, int, str]]:
    """Every line with these words, by switch, path and number. A file is looked into only when the words are somewhere in it."""
    fold = words == words.lower()
    for switch in compiled.staged:
        if switch.key in compiled.without_files:
            continue
        for path, text in compiled.files(switch.key).items():
            if words in (text.lower() if fold else text):
                for number, line in enumerate(text.splitlines(), 1):
                    if words in (line.lower() if fold else line):
                        yield switch.name, path, number, line.strip()
