"""What a line looks like, in words: `{words}` in braces are what it says, `{_}` is a word of no interest, `{...}` the rest of the line."""

from __future__ import annotations

import re
from collections.abc import Collection

_HOLE = re.compile(r"\\\{(\w+|\\\.\\\.\\\.)\\\}")


def shape_of(words: str, holes: Collection[str], held: str = r"\S+") -> re.Pattern[str]:
    """The pattern that words stand for, with these holes, each of which holds what `held` matches. Raises `ValueError` for a hole that is not known."""

    def group(found: re.Match[str]) -> str:
        name = found[1]
        if name == r"\.\.\.":
            return ".*"
        if name == "_":
            return r"\S+"
        if name not in holes:
            raise ValueError(f"{{{name}}} stands for nothing; there are {', '.join(holes)}, _ and ...")
        return f"(?P<{name}>{held})"

    return re.compile(_HOLE.sub(group, r"\ ".join(map(re.escape, words.split()))))
