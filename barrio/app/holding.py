"""What switches hold beside their files (devices, VLANs, routes, MACs, neighbours, sessions, VNIs, hardware, software): as it is, as it was, and what changed."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from typing import Any

from barrio.app import rollcall
from barrio.app.desk import Desk
from barrio.app.transaction import Transaction
from barrio.core.errors import refuse
from barrio.core.exchange.tiers import natural
from barrio.core.observe.rows import KINDS, Rows, changes, rows, undone
from barrio.store import tables
from barrio.store.errors import Missing
from barrio.store.tables import Changed, Table

MOST_FOUND, MOST_PAST = 500, 5000
"""Rows that a search tells, and changes that are searched for the words."""


def commands() -> list[list[str]]:
    """What has to be run on a switch so that it tells what it holds."""
    return [list(kind.argv) for kind in KINDS.values()]


def known(tx: Transaction, fabric: str, switch: str) -> dict[str, str]:
    """The digests (hex) of what a switch's commands printed last: what prints the same is not sent again."""
    return {KINDS[kind].command: told for kind, told in tables.known(tx.connection, fabric, switch).items() if kind in KINDS}  # fmt: skip


def keep(tx: Transaction, fabric: str, switch: str, said: Mapping[str, str]) -> list[str]:
    """Keep what a switch holds, by what its commands printed: texts by the kind of table. What told nothing counts as it was told last, and so do those kinds
    that come back, of which the text cannot be read."""
    unread = []
    for kind, text in said.items():
        found = rows(kind, text)
        if found is None:
            if text.strip():
                unread.append(kind)
            continue
        told = sha256(text.encode(errors="replace")).hexdigest() if KINDS[kind].steady else ""
        was = tables.held(tx.connection, fabric, switch, kind)
        if was is not None and was[1] == found:
            tables.same(tx.connection, fabric, switch, kind, told)
        else:
            changed = None if was is None else changes(was[1], found)
            tables.keep(tx.connection, fabric, switch, kind, found, changed, told)
    return unread


def told(ran: Iterable[Mapping[str, Any]]) -> dict[str, str]:
    """What commands printed that ran well, and that say something else than before: texts by the kind of table."""
    kinds = {kind.command: name for name, kind in KINDS.items()}
    return {
        kinds[str(one["command"])]: str(one.get("output", ""))
        for one in ran
        if one.get("command") in kinds and not (one.get("code") or one.get("cut") or one.get("same"))
    }


def is_held(one: Mapping[str, Any]) -> bool:
    """Whether a command was run for a table alone, and is nothing that checks ask."""
    return str(one.get("command", "")) in _ALONE


_ALONE = {KINDS[name].command for name in KINDS if name not in ("neighbours", "sessions")}


@dataclass(frozen=True, slots=True)
class Held:
    """A table of a switch at a moment: its rows, how many there are in all, and since when it is told."""

    rows: Rows
    count: int
    since: datetime


def every(desk: Desk, name: str, switch: str) -> list[Table]:
    """The tables of a switch, in the order in which they are shown. Raises `Missing`."""
    with desk.reading() as tx:
        found = tables.of_switch(tx.connection, name, _key(tx, name, switch))
    return [found[kind] for kind in KINDS if kind in found]


def at(desk: Desk, name: str, switch: str, kind: str, moment: datetime | None, words: str, most: int) -> Held:
    """A table as it was at a moment, and is without one; only rows in which the words stand. Raises `Missing`, also for a moment of which nothing is kept."""
    with desk.reading() as tx:
        key = _key(tx, name, switch)
        held = tables.held(tx.connection, name, key, kind)
        if held is None:
            raise Missing(f"{switch} has told nothing of that kind yet.")
        since, found = held
        if moment is not None and moment < since:
            raise Missing(f"{switch} told this first on {since:%Y-%m-%d at %H:%M} UTC.")
        if moment is not None and moment < datetime.now(UTC) - timedelta(days=tables.KEPT):
            raise Missing(f"What changed is kept for {tables.KEPT} days, and that is longer ago.")
        later = [] if moment is None else tables.changes(tx.connection, name, key, kind, since=moment)
    found = undone(found, (row for one in later for row in one.rows))
    looked = spellings(words)
    hits = {key: found[key] for key in sorted(found, key=natural) if _has(looked, key, found[key])}
    return Held(dict(list(hits.items())[:most]), len(hits), since)


def past(desk: Desk, name: str, switch: str, kind: str, most: int) -> list[Changed]:
    """What changed of a table, the newest first. Raises `Missing`."""
    with desk.reading() as tx:
        return tables.changes(tx.connection, name, _key(tx, name, switch), kind, limit=most)


@dataclass(frozen=True, slots=True)
class There:
    """A row in which the words stand that somebody looks for: on which switch, and since when it says so, by what was told."""

    switch: str
    kind: str
    key: str
    words: str
    since: datetime


@dataclass(frozen=True, slots=True)
class Was:
    """A change in which they stand: what was there and what came, of which one may be nothing."""

    switch: str
    kind: str
    at: datetime
    key: str
    was: str
    now: str


def find(desk: Desk, name: str, words: str) -> tuple[list[There], list[Was]]:
    """Where a MAC, an address, a serial number or any other words stand in what switches hold, and what changed of it, the newest first.

    Raises `Missing`, and `Refused`: `drift.words`.
    """
    looked = spellings(words)
    if len(looked[0]) < 2:
        raise refuse("drift.words", "Say at least two characters of what you look for.", "words")
    with desk.reading() as tx:
        names = {one.key: str(one.name) for one in rollcall.newest(tx, name).structure.switches}
        there = tables.naming(tx.connection, name, looked)
        changed = tables.changes_naming(tx.connection, name, looked, MOST_PAST)
    were = [
        Was(names[one.switch], one.kind, one.at, key, was, now)
        for one in changed
        if one.switch in names
        for key, was, now in one.rows
        if _has(looked, key, was, now)
    ]
    since: dict[tuple[str, str, str], datetime] = {}
    for each in reversed(were):
        since[each.switch, each.kind, each.key] = each.at
    found = [
        There(names[key], kind, row, said, since.get((names[key], kind, row), first))
        for key, kind, first, rows in there
        if key in names
        for row, said in rows.items()
        if _has(looked, row, said)
    ]
    # A MAC is where its port is; others only know the way there.
    found.sort(key=lambda one: not one.words.startswith("on "))
    return found[:MOST_FOUND], were[:MOST_FOUND]


def spellings(words: str) -> tuple[str, ...]:
    """What somebody looks for, as tables may write it: as it was typed, and with colons where it may be a MAC; in small letters.

    >>> spellings(" 0200.5E00.0101 ")
    ('0200.5e00.0101', '02:00:5e:00:01:01')
    """
    said = words.strip().lower()
    if re.fullmatch(r"[\da-f]{2}([:-]?[\da-f]{2}){5}|([\da-f]{4}\.){2}[\da-f]{4}", said):
        return said, ":".join(re.findall("..", re.sub("[.:-]", "", said)))
    return (said,)


def _has(looked: Iterable[str], *parts: str) -> bool:
    return any(one in part.lower() for one in looked for part in parts)


def _key(tx: Transaction, name: str, switch: str) -> str:
    return rollcall.named(rollcall.newest(tx, name), switch).key
