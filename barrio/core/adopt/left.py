"""What a brief does not say yet: the lines by which what it makes differs from what runs, as additions where there is a place for them, else as oddities."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from barrio.core.adopt.running import FRR, INTERFACES, Known, stanzas
from barrio.core.brief.additions import PLACES
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.compiled import Compiled
from barrio.core.observe.saved import GUARD, only_told
from barrio.core.render.effects import Effect


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
            change
            for path, text in meant.items()
            if path in runs
            for change in reader.changes(path, text, stanzas(runs[path]) if path == INTERFACES else runs[path])
            if not only_told(change, GUARD in runs) and not _is_default(change)
        ]
        left = Left(
            tuple(lines),
            tuple(path for path in meant if path not in runs),
            tuple(path for path in runs if path not in meant),
        )
        if not left.none:
            found[key] = left
    return found


_DEFAULTS = re.compile(
    r"no bgp (ebgp-requires-policy|suppress-duplicates)|bgp (log-neighbor-changes|deterministic-med|show-hostname)"
)
"""What holds without being said in the set of defaults that Barrio's files begin with (FRRouting manual, `frr defaults datacenter`)."""


def _is_default(change: LineChange) -> bool:
    return change.path == FRR and not change.before and _DEFAULTS.fullmatch(change.after) is not None


def additions(left: Mapping[str, Left], by_key: Mapping[str, Known]) -> dict[str, dict[str, list[str]]]:
    """The lines that only run and that an addition may say, by its place and by switch key: those that stand between the marks of additions, and of files
    without any those that no other word of a brief could mean."""
    found: dict[str, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    marked: set[tuple[str, str]] = set()
    for key, one in by_key.items():
        for place, lines in _marked(one):
            found[place][key] += lines
            marked.add((key, PLACES[place][1]))
    for key, differing in left.items():
        for change in differing.lines:
            place = _place(change) if (key, change.path) not in marked else ""
            if place:
                found[place][key].append(change.after)
    return found


_ADDED = re.compile(r"^( *)[#!] added:\n((?:.*\n)*?) *[#!] end of what was added\n", re.MULTILINE)


def _marked(one: Known) -> Iterator[tuple[str, list[str]]]:
    for place, (_, path) in PLACES.items():
        for indent, block in _ADDED.findall(one.file(path)):
            if (place == "bgp") == (path == FRR and indent == " ") and not (place == "frr" and indent):
                yield place, [line[len(indent) :] for line in block.split("\n") if line.strip()]


_OF_NO_WORD = {
    "frr": re.compile(
        r"(ip|ipv6) (route|nht|protocol|import-table|multicast) |log (?!syslog|facility)|debug |access-list "
    ),
    "bgp": re.compile(
        r"bgp (?!router-id|bestpath as-path multipath-relax|graceful-restart$)|timers |no bgp (?!default ipv4-unicast)"
    ),
    "sysctl": re.compile(r"[a-z0-9_./*-]+ ?= ?\S+"),
}
"""What a line of a place looks like that no setting and no other part of a brief makes."""


def _place(change: LineChange) -> str:
    """Where an addition would stand that says a line; nothing where none does."""
    if change.before or not change.after:
        return ""
    if change.path == FRR:
        place = (
            "frr"
            if not change.within
            else "bgp"
            if len(change.within) == 1 and re.fullmatch(r"router bgp \d+", change.within[0])
            else ""
        )
    else:
        place = "sysctl" if change.path == PLACES["sysctl"][1] else ""
    return place if place and _OF_NO_WORD[place].match(change.after) else ""


@dataclass(frozen=True)
class Difference:
    """A line that would be otherwise, in the same words on some switches; `before` is what Barrio would write, `after` what runs, and `effect`
    what a change of the one to the other does to traffic."""

    path: str
    within: tuple[str, ...]
    before: str
    after: str
    switches: tuple[str, ...]
    effect: Effect


_OWN = re.compile(r"[0-9a-f]{2}(?::[0-9a-f]{2}){5}|\d+(?:\.\d+){3}|[0-9a-f]*::?[0-9a-f:]+|\d+")
"""Words of a line that are a switch's own: MACs, addresses, numbers."""


def folded(left: Mapping[str, Left], names: Mapping[str, str]) -> list[Difference]:
    """What differs, each kind of difference once with the switches that have it (`names` by key), the most dangerous first. Lines that differ by a switch's own
    numbers alone are of one kind, which the first of them stands for."""
    found: dict[tuple[object, ...], Difference] = {}
    for key, one in left.items():
        whole = [LineChange(path, (), "the whole file", "", Effect.NEW, {}) for path in one.gone]
        for change in (*one.lines, *whole):
            kind = (
                change.path,
                *(_OWN.sub("·", words) for words in (*change.within, change.before, change.after)),
                change.effect,
            )
            known = found.get(kind)
            switches = (*known.switches, names[key]) if known else (names[key],)
            first = known or Difference(change.path, change.within, change.before, change.after, (), change.effect)
            found[kind] = replace(first, switches=tuple(dict.fromkeys(switches)))
    return sorted(
        found.values(), key=lambda one: (-one.effect.rank, -len(one.switches), one.path, one.before, one.after)
    )
