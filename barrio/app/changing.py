"""What changed on switches between two moments, over a whole fabric, whether it was meant or not."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from barrio.app import kept
from barrio.app.desk import Desk
from barrio.core import Compiled
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.errors import refuse
from barrio.core.observe.rows import KINDS
from barrio.store import editions, snapshots, tables
from barrio.store.snapshots import Snapshot


@dataclass(frozen=True, slots=True)
class Changed:
    """A switch that ran otherwise at the later moment: lines from the one to the other, files that came or went, states in words that came or went, who
    was signed in between, and the rows of its tables that are other, by their kind: the key, what was there, and what is."""

    switch: str
    rack: str
    lines: tuple[LineChange, ...]
    came: tuple[str, ...]
    went: tuple[str, ...]
    people: tuple[dict[str, str], ...]
    tables: dict[str, tuple[tables.Change, ...]]


def between(desk: Desk, name: str, since: datetime, until: datetime) -> list[Changed]:
    """The switches that ran otherwise at `until` than at `since`, the worst first; those first looked at since then are held against their first look.

    Raises `Missing`, and `Refused`: `drift.moments`.
    """
    if since >= until:
        raise refuse("drift.moments", "The first moment has to come before the second.", "since")
    with desk.reading() as tx:
        draft = tx.readable(tx.draft(name))
        then, now = snapshots.at(tx.connection, name, since), snapshots.at(tx.connection, name, until)
        begun = snapshots.first_since(tx.connection, name, since)
        seen = snapshots.people(tx.connection, name, since, until)
        pairs = {key: (then.get(key) or begun.get(key), one) for key, one in now.items()}
        moved = _moved(tables.between(tx.connection, name, since, until))
        other = {
            key: (was, one)
            for key, (was, one) in pairs.items()
            if was is not None and (was.id != one.id or key in moved)
        }
        digests = {digest for pair in other.values() for one in pair for digest in one.files.values()}
        texts = snapshots.texts(tx.connection, digests)
        numbers = {one.edition for pair in other.values() for one in pair}
        known = {number: kept.compiled(tx, editions.find(tx.connection, name, number), draft) for number in numbers}
    readers: dict[int, Reader] = {}
    found: list[Changed] = []
    for key, (was, one) in other.items():
        compiled = known[one.edition]
        if key not in compiled.models or key in compiled.without_files:
            continue
        effects = compiled.targets[key].effects()
        reader = readers.setdefault(id(effects), Reader(effects))
        lines: list[LineChange] = []
        for path in sorted(
            {*was.files, *one.files}
            if was.edition == one.edition
            else {*_paths(known[was.edition], key), *_paths(compiled, key)}
        ):
            before, after = (_text(known[each.edition], key, each, path, texts) for each in (was, one))
            lines += reader.changes(path, before, after)
        lines.sort(key=lambda line: -line.effect.rank)
        came, went = (
            [each for each in one.state if each not in was.state],
            [each for each in was.state if each not in one.state],
        )
        if lines or came or went or key in moved:
            switch = compiled.structure.by_key[key]
            people = tuple(seen.get(key, ()))
            found.append(
                Changed(
                    str(switch.name),
                    str(switch.rack),
                    tuple(lines),
                    tuple(came),
                    tuple(went),
                    people,
                    moved.get(key, {}),
                )
            )
    return sorted(
        found,
        key=lambda each: (-max((line.effect.rank for line in each.lines), default=0), -len(each.came), each.switch),
    )


def _moved(every: Iterable[tables.Changed]) -> dict[str, dict[str, tuple[tables.Change, ...]]]:
    """What changes in their order come to, by switch (key) and kind of table: what came and went again is none."""
    rows: dict[tuple[str, str], dict[str, tables.Change]] = defaultdict(dict)
    for one in every:
        there = rows[one.switch, one.kind]
        for key, was, now in one.rows:
            there[key] = key, there[key][1] if key in there else was, now
    found: dict[str, dict[str, tuple[tables.Change, ...]]] = defaultdict(dict)
    for switch, kind in sorted(rows, key=lambda one: list(KINDS).index(one[1])):
        other = tuple(one for _, one in sorted(rows[switch, kind].items()) if one[1] != one[2])
        if other:
            found[switch][kind] = other
    return dict(found)


def _paths(compiled: Compiled, key: str) -> list[str]:
    return list(compiled.files(key)) if key in compiled.models and key not in compiled.without_files else []


def _text(compiled: Compiled, key: str, one: Snapshot, path: str, texts: dict[str, str]) -> str:
    """A file as it was: what was kept of it where it was other than its edition has it, else that."""
    digest = one.files.get(path)
    if digest is not None:
        return texts.get(digest, "")
    return compiled.files(key).get(path, "") if key in compiled.models and key not in compiled.without_files else ""
