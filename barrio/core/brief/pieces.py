"""A long brief is edited piece by piece: only the top-level fields that edits touch are read and written in the slow form that keeps comments,
and of a field with many entries, such as `hosts`, only those entries. The rest stays byte for byte as it was.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from barrio.core.brief.reader import Places, quoted

Edit = tuple[str, object]
Small = Callable[[str, Sequence[Edit]], str]
"""Edits a short text as a whole."""
_BREAKS = ("\r", "\x85", "\u2028", "\u2029")
"""What YAML, or Python, takes for the end of a line beside the usual sign; places are counted otherwise where one of them is."""
MANY = 40
"""Lines of a field above which it is taken apart into its entries."""


def apply(
    text: str, places: Places, edits: Sequence[Edit], steps: Callable[[str], Sequence[str | int]], small: Small
) -> str | None:
    """The text with its fields changed, new ones at its end; nothing when it is not written so that it comes apart (in one line, say)."""
    if any(sign in text for sign in _BREAKS):
        return None
    lines = [f"{line}\n" for line in text.removesuffix("\n").split("\n")]
    tops = {path: line for path, (line, column) in places.items() if len(steps(path)) == 1 and column == 1}
    if not tops or any(len(steps(path)) == 1 and column != 1 for path, (_, column) in places.items()):
        return None
    by_field: dict[str, list[Edit]] = {}
    fresh: list[Edit] = []
    for path, value in edits:
        said = steps(path)
        if not said:
            return None
        field = quoted(str(said[0]))
        (by_field.setdefault(field, []) if field in tops else fresh).append((path, value))
    starts = [*tops.values(), len(lines) + 1]
    whole = ["".join(lines[: starts[0] - 1])]
    for at, field in enumerate(tops):
        piece = lines[starts[at] - 1 : starts[at + 1] - 1]
        mine = by_field.get(field)
        if not mine:
            whole += piece
            continue
        changed = _entries(field, piece, starts[at], places, mine, steps, small) if len(piece) > MANY else None
        whole.append(_emptied(small("".join(piece), mine)) if changed is None else changed)
    if fresh:
        # What is new is written after some field, as it would be after the last one.
        whole.append(small("fabric: x\n", fresh).removeprefix("fabric: x\n"))
    return "".join(whole)


def _emptied(text: str) -> str:
    """A piece from which its field was taken is nothing at all."""
    return "" if text.strip() == "{}" else text


def _entries(
    field: str, piece: Sequence[str], first: int, places: Places, edits: Sequence[Edit],
    steps: Callable[[str], Sequence[str | int]], small: Small,
) -> str | None:  # fmt: skip
    """A field with only those of its entries changed that edits touch; they stand together where the first of them stood."""
    found = {
        path: line
        for path, (line, column) in places.items()
        if path.startswith(f"{field}.") and len(steps(path)) == 2 and column == 3
    }
    known = sum(path.startswith(f"{field}.") and len(steps(path)) == 2 for path in places)
    begins = list(found.values())
    if not found or len(found) != known or len(set(begins)) != known:
        return None
    if any(len(steps(path)) < 2 or not isinstance(steps(path)[1], str) for path, _ in edits):
        return None
    touched = {f"{field}.{quoted(str(steps(path)[1]))}" for path, _ in edits}
    ends = [*begins[1:], first + len(piece)]
    pieces = {
        path: "".join(piece[begin - first : end - first])
        for (path, begin), end in zip(found.items(), ends, strict=True)
    }
    mine = [path for path in found if path in touched] or [next(reversed(found))]
    body = _emptied(small(f"{field}:\n{''.join(pieces[path] for path in mine)}", edits)).partition("\n")[2]
    if not body and len(mine) == len(found):
        return None
    head = "".join(piece[: begins[0] - first])
    return head + "".join(body if path == mine[0] else "" if path in mine else pieces[path] for path in found)
