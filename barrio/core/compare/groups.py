"""Changes that are alike, told once: “these 4 lines on 24 leaves”."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from barrio.core.compare.lines import LineChange
from barrio.core.compare.ripple import Ripple, SwitchRipple
from barrio.core.render.effects import Effect, worst


@dataclass(frozen=True, slots=True)
class Alike:
    """Lines of one file that are changed in the same way on these switches. `same` says that they are the same lines, letter by letter;
    otherwise each switch has its own values, and `lines` are those of the first."""

    path: str
    switches: tuple[str, ...]
    lines: tuple[LineChange, ...]
    same: bool
    effect: Effect


def alike(what: Ripple) -> list[Alike]:
    """The changed lines of switches that stay, those that touch most first; lines on one switch each are told as they are."""
    kinds: dict[tuple[object, ...], list[tuple[SwitchRipple, tuple[LineChange, ...]]]] = {}
    for one in what.switches:
        by_path: dict[str, list[LineChange]] = {}
        for line in one.changes:
            by_path.setdefault(line.path, []).append(line)
        for path, lines in by_path.items():
            kinds.setdefault((path, *_kind(lines)), []).append((one, tuple(lines)))
    found = []
    for members in kinds.values():
        for names, changed, same in _by_text(members):
            found.append(Alike(changed[0].path, names, changed, same, worst(line.effect for line in changed)))
    return sorted(found, key=lambda one: (-one.effect.rank, -len(one.switches), one.path, one.switches[0]))


def _kind(lines: Iterable[LineChange]) -> tuple[object, ...]:
    """What is alike about changes whose values differ: the rules of their lines, and what they do."""
    return tuple(
        sorted(
            {(line.rule.line if line.rule else "", line.effect, bool(line.before), bool(line.after)) for line in lines}
        )
    )


def _by_text(
    members: list[tuple[SwitchRipple, tuple[LineChange, ...]]],
) -> Iterable[tuple[tuple[str, ...], tuple[LineChange, ...], bool]]:
    """Members of a kind that have the very same lines together; the others as one, with the lines of the first."""
    texts: dict[tuple[tuple[str, str], ...], list[tuple[SwitchRipple, tuple[LineChange, ...]]]] = {}
    for one, lines in members:
        texts.setdefault(tuple((line.before, line.after) for line in lines), []).append((one, lines))
    if len(texts) <= max(1, len(members) // 4):
        for same in texts.values():
            yield tuple(one.name for one, _ in same), same[0][1], True
    else:
        yield tuple(one.name for one, _ in members), members[0][1], len(members) == 1
