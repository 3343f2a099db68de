"""A line in the files of all switches at once: who carries it, and where it stands first."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from barrio.core.compiled import Compiled


@dataclass(frozen=True, slots=True)
class FoundLine:
    """A line as it is written, in a file of that path; `switches` have it, and on the first of them it is line `number`, counted from 1."""

    path: str
    text: str
    number: int
    switches: tuple[str, ...]


Matches = Callable[[str], bool]


def words_in(words: str) -> Matches:
    """Whether words stand in a text; capitals count where the words have any. Raises `ValueError` without words."""
    if not words.strip():
        raise ValueError("nothing to find")
    if words != words.lower():
        return lambda text: words in text
    return lambda text: words in text.lower()


def find_lines(compiled: Compiled, matches: Matches, most: int = 200) -> tuple[tuple[FoundLine, ...], int]:
    """The lines that match, alike lines of one path as one, those of the most switches first; and how many there are in all. A file is looked
    into only when its whole text matches."""
    found: dict[tuple[str, str], tuple[int, dict[str, None]]] = {}
    for name, path, number, text in _matching(compiled, matches):
        known = found.setdefault((path, text), (number, {}))
        known[1].setdefault(name)
    lines = [FoundLine(path, text, number, tuple(names)) for (path, text), (number, names) in found.items()]
    lines.sort(key=lambda one: (-len(one.switches), one.path, one.number))
    return tuple(lines[:most]), len(lines)


def _matching(compiled: Compiled, matches: Matches) -> Iterator[tuple[str, str, int, str]]:
    """Every line that matches, by switch, path and number."""
    known: dict[str, bool] = {}
    for switch in compiled.staged:
        if switch.key in compiled.without_files:
            continue
        for path, text in compiled.files(switch.key).items():
            if not matches(text):
                continue
            for number, line in enumerate(text.splitlines(), 1):
                if line not in known:
                    known[line] = matches(line)
                if known[line]:
                    yield switch.name, path, number, line.strip()
