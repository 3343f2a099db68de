"""Drift taken over: the word of the brief, the setting on the Ladder, or the addition by which the files would say what runs.

A line remembers which values of the model it prints, and each value where the brief says it. What stands in the value's place in the running line is what the
brief would have to say. Every way is tried: the changed brief is compiled, and only those by which the drifted line is no drift any more are told.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from barrio.core.because.values import of_value
from barrio.core.brief.additions import PLACES
from barrio.core.brief.document import Document, apply
from barrio.core.brief.ranges import contract_names, expand_names
from barrio.core.brief.reader import quoted
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.compiled import Compiled
from barrio.core.edits.attaching import Cell, Mark, fill
from barrio.core.errors import Refused
from barrio.core.ledger.numbers import parse_number
from barrio.core.ledger.wanted import ByKey, Taken
from barrio.core.render.traced import TracedLine
from barrio.core.settings.known import SETTINGS

INTERFACES = "etc/network/interfaces"
_CARRIES = re.compile(r"bridge-(access|pvid|vids)((?: \d+)*)")
MOST = 6
"""Ways that are tried; each is a compile."""
Edits = tuple[tuple[str, Any], ...]
Pins = tuple[tuple[str, str, str], ...]
"""Numbers to pin, as (use, key, text)."""
Try = Callable[[str, ByKey], Compiled]
"""A fabric compiled from the text of a brief, with the numbers that it has but for some that move. Raises `Refused`."""
_Candidate = tuple[str, Edits, Pins]


@dataclass(frozen=True, slots=True)
class Way:
    """A way to say what runs: in words, as edits of the brief or numbers to pin, and how many other switches would have other files by it."""

    title: str
    edits: Edits
    pins: Pins
    others: int

    @property
    def key(self) -> str:
        """What names it among the ways of one line."""
        return json.dumps([self.edits, self.pins], sort_keys=True, default=str)


def ways(document: Document, compiled: Compiled, key: str, change: LineChange, running: str, attempt: Try) -> list[Way]:
    """The ways by which the brief would say what a drifted line of a switch says, those that touch the fewest others first.

    `running` is the text of the line's file as it is on the switch, `attempt` compiles a changed brief.
    """
    found: list[Way] = []
    for title, edits, pins in _once(_candidates(document, compiled, key, change, running)):
        if len(found) >= MOST:
            break
        try:
            other = attempt(apply(document.text, list(edits)) if edits else document.text, _moves(pins))
            files = other.files(key)
        except Refused:
            continue
        reader = Reader(other.targets[key].effects())
        was = _differs(reader, compiled.files(key).get(change.path, ""), running, change.path)
        now = _differs(reader, files.get(change.path, ""), running, change.path)
        # What a host carries comes to its leaf with all that belongs to it.
        brings = _CARRIES.fullmatch(change.after or change.before) is not None
        if _said(change) in now or (len(now) >= len(was) and not brings):
            continue
        others = sum(
            1
            for one in other.models
            if one != key and one in compiled.models and other.models[one] != compiled.models[one]
        )
        found.append(Way(title, edits, pins, others))
    return sorted(found, key=lambda way: (way.others, len(way.edits)))


def _said(change: LineChange) -> tuple[object, ...]:
    return change.within, change.before, change.after


def _differs(reader: Reader, meant: str, running: str, path: str) -> list[tuple[object, ...]]:
    return [_said(one) for one in reader.changes(path, meant, running)]


def _moves(pins: Pins) -> ByKey:
    """What is pinned, as numbers that move. Raises `Refused`."""
    moves: dict[str, dict[str, Taken]] = {}
    for use, key, text in pins:
        moves.setdefault(use, {})[key] = parse_number(use, text)
    return moves


def _once(candidates: Iterable[_Candidate]) -> Iterator[_Candidate]:
    seen: set[str] = set()
    for title, edits, pins in candidates:
        key = json.dumps([edits, pins], sort_keys=True, default=str)
        if key not in seen:
            seen.add(key)
            yield title, edits, pins


def _candidates(
    document: Document, compiled: Compiled, key: str, change: LineChange, running: str
) -> Iterator[_Candidate]:
    lines = compiled.traced(key, change.path) if change.path in compiled.files(key) else ()
    yield from _carried(document, compiled, key, change)
    if change.before:
        for line in lines:
            if line.text.strip() == change.before:
                yield from _other(document, compiled, key, line, change.after)
    if change.after and not change.before:
        there = {line.strip() for line in running.split("\n")}
        for line in lines:
            yield from _one_more(document, compiled, key, line, change.after)
            if line.spans and line.text.strip() not in there:
                # The line in whose place this one is.
                yield from _other(document, compiled, key, line, change.after)
    if change.after:
        yield from _added(compiled, key, change)


def _carried(document: Document, compiled: Compiled, key: str, change: LineChange) -> Iterator[_Candidate]:
    """A port of a host is in other VLANs: the host carries other segments."""
    device = re.fullmatch(r"iface (?:bond-)?(\S+)", change.within[-1]) if change.within else None
    said = [_CARRIES.fullmatch(line) for line in (change.before, change.after)]
    host = compiled.attachments.at.get(key, {}).get(device[1]) if device else None
    if host is None or not any(said) or change.path != INTERFACES:
        return
    # A VLAN that a rack chose for itself says nothing on others.
    names = {one.vlan: one.label for model in compiled.models.values() for one in model.segments if not one.local}
    names |= {one.vlan: one.label for one in compiled.models[key].segments}
    was, now = ({names.get(int(vlan)) for vlan in one[2].split()} if one else set() for one in said)
    mark: Mark = "tagged" if any(one and one[1] == "vids" for one in said) else "untagged"
    if None in was | now or not device:
        return
    cells = [Cell(key, device[1], str(name), "") for name in sorted(map(str, was - now))]
    cells += [Cell(key, device[1], str(name), mark) for name in sorted(map(str, now - was))]
    edits = tuple(fill(document.brief, compiled.attachments, cells))
    words = f"{', '.join(sorted(map(str, now))) or 'nothing'}{' with tags' if mark == 'tagged' else ' without a tag'}"
    reaches = tuple(_reaching(compiled, str(compiled.structure.by_key[key].rack), sorted(map(str, now - was))))
    words += f"; rack {compiled.structure.by_key[key].rack} is one of its racks" if reaches else ""
    if edits:
        yield f"{host.host} carries {words}", edits + reaches, ()


def _reaching(compiled: Compiled, rack: str, segments: Iterable[str]) -> Iterator[tuple[str, Any]]:
    """Have segments that are kept to racks be in one more."""
    for name in segments:
        racks = compiled.brief.segments[name].racks
        if racks and rack not in expand_names(racks):
            yield f"segments.{quoted(name)}.racks", contract_names((*expand_names(racks), rack))


def _other(document: Document, compiled: Compiled, key: str, line: TracedLine, after: str) -> Iterator[_Candidate]:
    """A line says other values, or, where nothing runs in its place, one of a list less."""
    if after:
        values = _aligned(line, after)
        together: list[tuple[str, Any]] = []
        for path, value in values:
            said = [*_of_value(document, compiled, key, line, path, value)]
            yield from said
            wide = next(
                (edits for _, edits, pins in said if edits and not pins and not edits[0][0].startswith("rungs.")), ()
            )
            together += wide
        if len(values) > 1 and len(dict(together)) > 1:
            words = ", ".join(f"{place}: {_shown(value)}" for place, value in dict(together).items())
            yield words, tuple(dict(together).items()), ()
        return
    for span in line.spans:
        yield from _of_value(document, compiled, key, line, span.path, None)
    for condition in line.conditions:
        for path in condition.paths:
            for place in _places(document, compiled, path):
                if isinstance(_value(compiled, place), bool):
                    yield from _say(compiled, key, place, not _value(compiled, place), "")


def _of_value(
    document: Document, compiled: Compiled, key: str, line: TracedLine, path: str, value: str | None
) -> Iterator[_Candidate]:
    """The ways to have one value of a line other: where the brief says it, or the Ledger."""
    for place in _places(document, compiled, path):
        yield from _say(compiled, key, place, value, _printed(line, path))
    for step in of_value(document, compiled, path) if value else ():
        if step.kind == "ledger" and step.refs.get("pool"):
            use, owner = str(step.refs["use"]), str(step.refs["key"])
            yield f"pin {value} for {owner}", (), ((use, owner, str(value)),)


def _one_more(document: Document, compiled: Compiled, key: str, line: TracedLine, after: str) -> Iterator[_Candidate]:
    """A line more of a kind that the template prints for each value of a list."""
    if not any(condition.kind == "for" for condition in line.conditions):
        return
    for path, value in _aligned(line, after):
        for place in _places(document, compiled, path):
            name = re.sub(r"\[\d+\]$", "", place)
            if name != place and name in SETTINGS and SETTINGS[name].many:
                yield from _on_rung(compiled, key, name, {"add": [value]}, f"{value} more among {_words(name)}")
                now = compiled.ladder.of_fabric(name)
                if isinstance(now, list):
                    yield f"{value} more among {_words(name)}, in the whole fabric", ((name, [*now, value]),), ()


def _aligned(line: TracedLine, after: str) -> list[tuple[str, str]]:
    """The values that another line has where this one prints its own, where both are else the same: (path, text)."""
    pattern, at = "", 0
    indent = len(line.text) - len(line.text.lstrip())
    spans = [span for span in line.spans if span.start >= indent]
    for span in spans:
        pattern += re.escape(line.text[max(at, indent) : span.start]) + r"(\S(?:.*\S)?)"
        at = span.end
    pattern += re.escape(line.text[max(at, indent) :].rstrip())
    found = re.fullmatch(pattern, after)
    if found is None:
        return []
    return [
        (span.path, said)
        for span, said in zip(spans, found.groups(), strict=True)
        if said != line.text[span.start : span.end]
    ]


def _printed(line: TracedLine, path: str) -> str:
    return next((line.text[span.start : span.end] for span in line.spans if span.path == path), "")


def _places(document: Document, compiled: Compiled, path: str) -> list[str]:
    """Where the brief says the value at a path of the model."""
    return [
        str(step.refs["path"])
        for step in of_value(document, compiled, path)
        if step.kind == "brief" and "path" in step.refs
    ]


def _say(compiled: Compiled, key: str, place: str, value: object, was: str) -> Iterator[_Candidate]:
    """Have the brief say another value at a place, or an item of a list no more (`None`)."""
    name = _setting(place)
    if name in SETTINGS:
        setting = SETTINGS[name]
        now = compiled.ladder.climb(compiled.structure.by_key[key].standing.rungs, name).value
        if setting.many and isinstance(now, list):
            items = [value if str(one) == was else one for one in now]
            items = [one for one in items if one is not None]
        else:
            items = _like(now, value)
        if items is not None and not setting.whole:
            yield from _on_rung(compiled, key, name, items, f"{_words(name)}: {_shown(items)}")
        if items is not None:
            yield f"{_words(name)} in the whole fabric: {_shown(items)}", ((name, items),), ()
    elif value is not None:
        said = _like(_value(compiled, place), value)
        if said is not None:
            yield f"{place}: {_shown(said)}", ((place, said),), ()


def _setting(place: str) -> str:
    """The setting that a place of the brief says, in the fabric or on a rung."""
    found = re.fullmatch(r'rungs\.(?:"[^"]+"|\w+)\."?([\w.]+?)"?(?:\.(?:value|add))?(?:\[\d+\])?', place)
    return found[1] if found else re.sub(r"\[\d+\]$", "", place)


def _on_rung(compiled: Compiled, key: str, name: str, value: Any, words: str) -> Iterator[_Candidate]:
    """A setting on the rung of one switch; what the rung adds already stays."""
    rung = compiled.brief.rungs.get(f"switch {key}", {}).get(name)
    if isinstance(value, dict) and isinstance(rung, dict) and isinstance(rung.get("add"), list):
        value = {**rung, "add": [*rung["add"], *value["add"]]}
    elif isinstance(value, dict) and rung is not None:
        return
    switch = compiled.structure.by_key[key].name
    yield f"on {switch}, {words}", ((f"rungs.{quoted(f'switch {key}')}.{quoted(name)}", value),), ()


def _added(compiled: Compiled, key: str, change: LineChange) -> Iterator[_Candidate]:
    """The line as an addition, where there is a place for it."""
    for place, (where, path) in PLACES.items():
        if path != change.path:
            continue
        inside = bool(change.within)
        bgp = (
            inside
            and len(change.within) == 1
            and change.within[0].startswith("router bgp ")
            and " vrf " not in change.within[0]
        )
        chain = inside and change.within[-1].startswith("chain input")
        if (place == "bgp" and bgp) or (place == "input" and chain) or (place not in ("bgp", "input") and not inside):
            line = f"    {change.after}" if place == "interfaces" and inside else change.after
            yield from _on_rung(
                compiled,
                key,
                f"additions.{place}",
                {"add": [line], "why": "taken over from the switch"},
                f"this line {where}",
            )


def _value(compiled: Compiled, place: str) -> Any:
    """What the brief says at a place, or nothing."""
    here: Any = compiled.brief
    for step in re.findall(r'"([^"]+)"|([^.\[\]"]+)|\[(\d+)\]', place):
        word, index = step[0] or step[1], step[2]
        try:
            here = here[int(index)] if index else here[word] if isinstance(here, Mapping) else getattr(here, word)
        except (AttributeError, KeyError, IndexError, TypeError):
            return None
    return here


def _like(now: object, value: object) -> Any:
    """A value in the type of the one that it takes the place of; nothing where it cannot be."""
    if value is None or isinstance(value, bool):
        return value
    if isinstance(now, bool):
        return None
    if isinstance(now, int):
        return int(str(value)) if re.fullmatch(r"\d+", str(value)) else None
    return None if isinstance(now, list | dict) else str(value)


def _words(name: str) -> str:
    words = SETTINGS[name].words
    return f"{words[:1].lower()}{words[1:]}"


def _shown(value: object) -> str:
    return ", ".join(map(str, value)) if isinstance(value, list) else str(value)
