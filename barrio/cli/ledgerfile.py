"""A ledger in a JSON file, for builds without a database: pools and every entry, between runs.

Format: `{"format": "barrio-ledger/2", "pools": {name: {"ranges": [range, …], …}}, "entries": {fabric: [[use, key, pool,
space, low, size, state, since, note], …]}}`; a pool's other settings are left out where they are at their default, and may
be written by hand. Written whole to a neighbour file and moved into place, so that a crash leaves the old one.
"""

from __future__ import annotations

import json
import os
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from barrio.core import Compiled
from barrio.core.book import Book, Entry
from barrio.core.errors import Refused, refuse
from barrio.core.ledger.pool import Kind, Plan, Pool, Range, Reserved, parse_range
from barrio.core.ledger.states import Life, State
from barrio.core.ledger.wanted import Taken

FORMAT = "barrio-ledger/2"
_DAY = 86400


def load(path: Path) -> Book:
    """The ledger of a file; an empty one when there is no file yet. Raises `Refused` (`ledger.file`)."""
    if not path.exists():
        return Book()
    try:
        content = json.loads(path.read_text())
        known = content["format"] == FORMAT
    except (ValueError, KeyError, TypeError):
        known = False
    if not known:
        raise refuse(
            "ledger.file",
            f"{path} is not a Barrio ledger ({FORMAT}). Name another file; a new one is made when it does not exist.",
        )
    try:
        pools = {name: _pool(name, said) for name, said in content["pools"].items()}
        entries = {fabric: [_entry(fabric, row) for row in rows] for fabric, rows in content["entries"].items()}
    except (ValueError, KeyError, TypeError, AttributeError, Refused) as error:
        why = f" ({error})" if isinstance(error, Refused) else ""
        raise refuse(
            "ledger.file", f"{path} is damaged: an entry in it cannot be read{why}. Restore it from a copy."
        ) from None
    book = Book(pools, entries)
    book.end_rests(datetime.now(UTC))
    return book


def save(path: Path, book: Book, compiled: Compiled) -> None:
    """Write the ledger with what a compile holds now; what it gave back rests."""
    book.take(compiled, datetime.now(UTC))
    content = {
        "format": FORMAT,
        "pools": {name: _said(pool) for name, pool in book.pools.items()},
        "entries": {fabric: [_row(entry) for entry in entries] for fabric, entries in book.entries.items()},
    }
    beside = path.with_name(f".{path.name}.{os.getpid()}")
    beside.write_text(json.dumps(content, indent=1, sort_keys=True) + "\n")
    beside.replace(path)


def _pool(name: str, said: dict[str, Any]) -> Pool:
    kept = []
    for text, note in said.get("reserved", {}).items():
        part = parse_range(text)
        kept.append(Reserved(part.family, part.low, part.high, str(note)))
    return Pool(
        name, tuple(map(parse_range, said["ranges"])), Kind(said.get("kind", "")), Plan(said.get("plan", "lowest")),
        said.get("scope", "site"), said.get("parent"), said.get("private_to"), tuple(kept),
        timedelta(seconds=float(said.get("rest_days", 1)) * _DAY), float(said.get("warn", 0.85)),
    )  # fmt: skip


def _said(pool: Pool) -> dict[str, Any]:
    said: dict[str, Any] = {
        "kind": pool.kind.value, "plan": pool.plan.value, "scope": pool.scope, "parent": pool.parent,
        "private_to": pool.private_to, "rest_days": pool.rest.total_seconds() / _DAY, "warn": pool.warn,
        "reserved": {Range(one.family, one.low, one.high).text: one.note for one in pool.reserved},
    }  # fmt: skip
    default: dict[str, Any] = {
        "kind": "", "plan": "lowest", "scope": "site", "parent": None, "private_to": None, "rest_days": 1.0,
        "warn": 0.85, "reserved": {},
    }  # fmt: skip
    changed = {name: value for name, value in said.items() if value != default[name]}
    return {"ranges": [part.text for part in pool.ranges], **changed}


def _entry(fabric: str, row: list[Any]) -> Entry:
    use, key, pool, space, low, size, state, since, note = row
    words = str(state).split()
    life = Life(State(words[0]), "leaving" in words, "pinned" in words)
    return Entry(fabric, use, key, pool, space, Taken(int(low), int(size)), life, datetime.fromisoformat(since), note)


def _row(entry: Entry) -> list[Any]:
    life = entry.life
    words = [life.state.value, *(["leaving"] if life.leaving else []), *(["pinned"] if life.pinned else [])]
    return [
        entry.use, entry.key, entry.pool, entry.space, entry.taken.low, entry.taken.size, " ".join(words),
        entry.since.isoformat(), entry.note,
    ]  # fmt: skip
