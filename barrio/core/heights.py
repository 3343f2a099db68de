"""The Ladder of a compiled fabric as one looks at it: who is on each rung, what it says, who is left with it, and what a change would reach."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass
from difflib import unified_diff
from typing import Any

from barrio.core.brief.routing import Bfd, Timers
from barrio.core.compiled import Compiled
from barrio.core.settings.known import Setting
from barrio.core.settings.ladder import KINDS, Ladder

OWN = "barrio"
"""The widest rung: what Barrio says by itself."""
MOST_LINES, MOST_SAMPLES = 200, 16


@dataclass(frozen=True, slots=True)
class RungSaid:
    """One rung of one setting. `says` is its value in words, empty when it says nothing; `value` the same for programs.

    `on` is how many switches stand on it, `wins` for how many it has the last word, or adds to it; `beaten` who has it in its place, and
    for how many.
    """

    rung: str
    path: str
    says: str
    value: Any
    adds: bool
    why: str
    hold: str
    on: int
    wins: int
    beaten: Mapping[str, int]


@dataclass(frozen=True, slots=True)
class Outcome:
    """What holds in the end, in words, and for how many switches."""

    words: str
    on: int


@dataclass(frozen=True, slots=True)
class Climb:
    """One setting from its widest rung to its closest, and the values that switches have in the end, the commonest first."""

    rungs: tuple[RungSaid, ...]
    outcomes: tuple[Outcome, ...]


@dataclass(frozen=True, slots=True)
class Reach:
    """What a change of a setting does: how many switches have another value, which closer rungs keep theirs, for how many; and how many
    switches are rendered anew. `lines` are those that change on one of them, `sample`, as a unified diff; none where files say nothing of it."""

    changed: int
    kept: Mapping[str, int]
    rendered: int
    sample: str
    lines: tuple[str, ...]


def climb_of(compiled: Compiled, name: str) -> Climb:
    """The Ladder of one setting, with every rung wider than a rack, and every one that says something of any setting."""
    ladder = compiled.ladder
    setting = ladder.settings[name]
    on: dict[str, list[str]] = {}
    wins: Counter[str] = Counter()
    beaten: dict[str, Counter[str]] = {}
    outcomes: Counter[str] = Counter()
    for switch in compiled.structure.switches:
        standing = switch.standing.rungs
        for rung in standing:
            on.setdefault(rung, []).append(switch.name)
        rungs = ladder.speaking(switch.standing)
        outcomes[in_words(ladder.climb(rungs, name).value)] += 1
        said = [OWN]
        for rung, adds in ladder.speakers(rungs, name):
            if not adds:
                for loser in said:
                    beaten.setdefault(loser, Counter())[rung] += 1
                said = []
            said.append(rung)
        wins.update(said)
    rows = [_row(ladder, compiled, setting, rung, on, wins, beaten) for rung in [OWN, *_in_order(on, ladder)]]
    return Climb(tuple(rows), tuple(Outcome(*one) for one in outcomes.most_common()))


def _in_order(on: Mapping[str, list[str]], ladder: Ladder) -> list[str]:
    """Rungs from the widest to the closest; of racks and single switches only those that say something."""
    known = {rung for rung in on if not rung.startswith(("rack ", "switch "))} | {"office", "fabric", *ladder.said}
    return sorted(known, key=lambda rung: (KINDS.index(rung.partition(" ")[0]), rung))


def _row(
    ladder: Ladder,
    compiled: Compiled,
    setting: Setting,
    rung: str,
    on: Mapping[str, list[str]],
    wins: Mapping[str, int],
    beaten: Mapping[str, Mapping[str, int]],
) -> RungSaid:
    name, everyone = setting.name, [switch.name for switch in compiled.structure.switches]
    said = ladder.said.get(rung, {}).get(name)
    value = said.value if said else None
    path = said.path if said else ""
    if rung == OWN:
        value = setting.default
    elif rung == "fabric":
        of_all = ladder.of_fabric(name)
        value, path = (of_all, name) if of_all is not None else (value, path or name)
    there = everyone if rung in (OWN, "office", "fabric") else on.get(rung, [])
    return RungSaid(
        rung, path, "" if value is None else in_words(value), plain(value), bool(said and said.adds), said.why if said else "",
        said.hold if said else "", len(there), wins.get(rung, 0), dict(beaten.get(rung, {})),
    )  # fmt: skip


def reach_of(before: Compiled, after: Compiled, name: str, rung: str) -> Reach:
    """What a change that was made of a setting on a rung does. Both are of the same fabric."""
    old, new = before.ladder, after.ladder
    changed, kept = 0, Counter[str]()
    for switch in after.structure.switches:
        if switch.key not in before.structure.by_key:
            continue
        rungs = new.speaking(switch.standing)
        if old.climb(old.speaking(switch.standing), name).value != new.climb(rungs, name).value:
            changed += 1
        elif rung in switch.standing.rungs:
            closer = [
                one.rung
                for one in new.steps(rungs, name)
                if one.value is not None and not one.adds and one.rung != rung
            ]
            if closer:
                kept[closer[-1]] += 1
    others = [key for key, model in after.models.items() if key in before.models and before.models[key] != model]
    shown = [key for key in others if key not in after.without_files and key not in before.without_files][:MOST_SAMPLES]
    sample, lines = (after.models[shown[0]].name if shown else ""), tuple[str, ...]()
    for key in shown:
        lines = _differences(before, after, key)
        if lines:
            sample = after.models[key].name
            break
    return Reach(changed, dict(kept), len(others), sample, lines)


def _differences(before: Compiled, after: Compiled, key: str) -> tuple[str, ...]:
    old, new = before.files(key), after.files(key)
    lines: list[str] = []
    for path in dict.fromkeys([*old, *new]):
        one, two = (files.get(path, "").splitlines() for files in (old, new))
        if one != two:
            lines += unified_diff(one, two, path, path, lineterm="", n=1)
    return tuple(lines[:MOST_LINES])


def plain(value: Any) -> Any:
    """A value for programs: what JSON would say.

    >>> plain(["10.9.0.1"])
    ['10.9.0.1']
    """
    return json.loads(json.dumps(value, default=lambda one: one.model_dump(mode="json", exclude_defaults=True)))


def in_words(value: Any) -> str:
    """A value as it is read: lists by their items, tables by their names or first column, and nothing as “none”.

    >>> in_words(["10.9.0.1", "10.9.0.2"]), in_words(2000), in_words([]), in_words([{"to": "10.9.0.8", "level": 3}])
    ('10.9.0.1, 10.9.0.2', '2,000', 'none', '10.9.0.8')
    >>> in_words(False), in_words(Timers(keepalive=3, hold=9))
    ('no', 'keepalive 3, hold 9')
    """
    if isinstance(value, bool):
        return "yes" if value else "no"
    found = plain(value)
    if isinstance(value, Timers | Bfd):
        return ", ".join(f"{name} {one}" for name, one in value.model_dump().items())
    if isinstance(found, dict) and "users" in found:
        sources = found.get("sources")
        return in_words(found["users"]) + (f" from {in_words(sources)}" if sources else "")
    if isinstance(found, list) and found and isinstance(found[0], dict):
        return ", ".join(str(next(iter(row.values()), "")) for row in found)
    if isinstance(found, list | dict):
        return ", ".join(map(str, found)) or "none"
    if isinstance(found, int) and not isinstance(found, bool):
        return f"{found:,}"
    return str(found) if found not in (None, "") else "none"
