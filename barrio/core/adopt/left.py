"""What a brief does not say yet: the lines by which what it makes differs from what runs, as additions where there is a place for them, else as oddities."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from barrio.core.adopt.running import Known
from barrio.core.brief.additions import PLACES
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.compile import Compiled

_PLACE_OF = {path: place for place, (_, path) in PLACES.items() if place not in ("bgp", "interfaces", "input")}
_OPENS = re.compile(r"(router|interface|vrf|route-map|bfd|line|key|segment-routing|address-family|access-list)\b")


@dataclass(frozen=True)
class Left:
    """What differs on one switch: lines, and files that only one of the two has."""

    lines: tuple[LineChange, ...]
    gone: tuple[str, ...]
    more: tuple[str, ...]

    @property
    def none(self) -> bool:
        return not self.lines and not self.gone and not self.more


def left_of(compiled: Compiled, by_key: Mapping[str, Known]) -> dict[str, Left]:
    """What differs between the files that a fabric makes and those that run, by switch key; switches that are as they run are left out."""
    readers: dict[int, Reader] = {}
    found: dict[str, Left] = {}
    for key, one in by_key.items():
        if key not in compiled.models or key in compiled.without_files:
            continue
        effects = compiled.targets[key].effects()
        reader = readers.setdefault(id(effects), Reader(effects))
        meant, runs = compiled.files(key), one.running.files
        lines = [
            change for path, text in meant.items() if path in runs for change in reader.changes(path, text, runs[path])
        ]
        left = Left(
            tuple(lines),
            tuple(path for path in meant if path not in runs),
            tuple(path for path in runs if path not in meant),
        )
        if not left.none:
            found[key] = left
    return found


def additions(left: Mapping[str, Left]) -> dict[str, dict[str, list[str]]]:
    """The lines that only run and that an addition may say, by its place and by switch key."""
    found: dict[str, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    for key, one in left.items():
        for change in one.lines:
            place = _place(change)
            if place:
                found[place][key].append(change.after)
    return found


def _place(change: LineChange) -> str:
    """Where an addition would stand that says a line; nothing where none does."""
    if change.before or not change.after or change.after.startswith(("!", "#")):
        return ""
    if change.path == "etc/frr/frr.conf":
        if not change.within:
            return (
                ""
                if _OPENS.match(change.after) or change.after.split()[0] in ("end", "exit", "hostname", "frr")
                else "frr"
            )
        return (
            "bgp"
            if len(change.within) == 1
            and re.fullmatch(r"router bgp \d+", change.within[0])
            and not change.after.startswith("address-family")
            else ""
        )
    if change.path == "etc/nftables.conf":
        return "input" if change.within and change.within[-1].startswith("chain input") else ""
    return _PLACE_OF.get(change.path, "") if not change.within else ""


def words_of(change: LineChange) -> str:
    """A difference as one reads it."""
    within = f" (in {change.within[-1]})" if change.within else ""
    if change.before and change.after:
        return f"{change.path}{within}: “{change.after}” runs, and it would be “{change.before}”"
    return (
        f"{change.path}{within}: “{change.after}” runs, and nothing says it"
        if change.after
        else f"{change.path}{within}: “{change.before}” would be there, and does not run"
    )


def said(additions: Mapping[str, list[str]]) -> dict[str, Any]:
    """Additions by switch as values of a setting."""
    return {key: list(dict.fromkeys(lines)) for key, lines in additions.items()}
