"""A ledger in a JSON file, for builds without a database: what each fabric holds and rests, between runs.

Format: `{"format": "barrio-ledger/1", "pools": {name: [range, …]}, "fabrics": {fabric: {"held": {use: {key: [low,
size]}}, "resting": {…}}}}`. Written whole to a neighbour file and moved into place, so that a crash leaves the old one.
"""

from __future__ import annotations

import json
import os
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from barrio.core import Compiled, Ledger
from barrio.core.errors import Refused, refuse
from barrio.core.ledger.allocate import Foreign, Holdings, Taken
from barrio.core.ledger.demand import SITE_SPACES
from barrio.core.ledger.pool import Pool, parse_range

FORMAT = "barrio-ledger/1"


def load(path: Path) -> dict[str, Any]:
    """The content of a ledger file; an empty ledger when there is no file yet. Raises `Refused` (`ledger.file`)."""
    if not path.exists():
        return {"format": FORMAT, "pools": {}, "fabrics": {}}
    try:
        content = json.loads(path.read_text())
        known = (
            content["format"] == FORMAT and isinstance(content["pools"], dict) and isinstance(content["fabrics"], dict)
        )
    except (ValueError, KeyError, TypeError):
        known = False
    if not known:
        raise refuse(
            "ledger.file",
            f"{path} is not a Barrio ledger ({FORMAT}). Name another file; a new one is made when it does not exist.",
        )
    return content  # type: ignore[no-any-return]


def ledger_for(content: dict[str, Any], fabric: str, path: Path) -> Ledger:
    """The ledger as one fabric sees it."""
    try:
        pools = {name: Pool(name, tuple(map(parse_range, ranges))) for name, ranges in content["pools"].items()}
        mine = content["fabrics"].get(fabric, {})
        others: dict[str, list[Foreign]] = {}
        for name, book in content["fabrics"].items():
            if name != fabric:
                _foreign(name, book, others)
        return Ledger(pools, Holdings(_taken(mine.get("held", {})), _taken(mine.get("resting", {})), others))
    except (ValueError, KeyError, TypeError, AttributeError, Refused):
        raise refuse(
            "ledger.file", f"{path} is damaged: an entry in it cannot be read. Restore it from a copy."
        ) from None


def _foreign(fabric: str, book: Mapping[str, Any], others: dict[str, list[Foreign]]) -> None:
    for state in ("held", "resting"):
        for use, entries in book.get(state, {}).items():
            space = use.rsplit(".", 1)[-1]
            if space not in SITE_SPACES:
                continue
            others.setdefault(space, []).extend(
                Foreign(low, size, f"{state} by {fabric} as {use} of {key}") for key, (low, size) in entries.items()
            )


def _taken(book: Mapping[str, Any]) -> dict[str, dict[str, Taken]]:
    return {
        use: {key: Taken(int(low), int(size)) for key, (low, size) in entries.items()} for use, entries in book.items()
    }


def save(path: Path, content: dict[str, Any], compiled: Compiled) -> None:
    """Write the ledger with what a compile holds now; what it gave back rests."""
    allocation, fabric = compiled.allocation, compiled.brief.fabric
    before = content["fabrics"].get(fabric, {})
    resting = {use: dict(entries) for use, entries in before.get("resting", {}).items()}
    for use, key in allocation.given_back:
        resting.setdefault(use, {})[key] = before["held"][use][key]
    for use, key in (*allocation.returned, *allocation.consumed):
        resting.get(use, {}).pop(key, None)
    content["fabrics"][fabric] = {
        "held": {
            use: {key: list(taken) for key, taken in entries.items()}
            for use, entries in allocation.numbers.items()
            if entries
        },
        "resting": {use: entries for use, entries in resting.items() if entries},
    }
    for name, pool in compiled.pools.items():
        content["pools"][name] = [part.text for part in pool.ranges]
    beside = path.with_name(f".{path.name}.{os.getpid()}")
    beside.write_text(json.dumps(content, indent=1, sort_keys=True) + "\n")
    beside.replace(path)
