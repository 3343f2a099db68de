"""Drift that is right: the draft is made to say what runs, by the word, the setting or the addition that means it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from barrio.app import drafts as drafting
from barrio.app import numbering, watching
from barrio.app.desk import Desk
from barrio.core import Compiled
from barrio.core.brief.document import apply, read
from barrio.core.compare.lines import LineChange, Reader
from barrio.core.compile import ask, complete
from barrio.core.errors import refuse
from barrio.core.ledger.numbers import parse_number
from barrio.core.ledger.wanted import ByKey
from barrio.core.observe.takeover import Way, ways
from barrio.store import entries, snapshots
from barrio.store.errors import Missing
from barrio.store.pins import Pin


@dataclass(frozen=True, slots=True)
class Ways:
    """The ways to take a drifted line over, and the version of the draft that they are for; `said` is whether the draft says it already."""

    version: int
    ways: list[Way]
    said: bool


def ways_of(desk: Desk, name: str, switch: str, path: str, line: str) -> Ways:
    """The ways by which the draft would say what a drifted line says. Raises `Missing`, and `Refused` while the draft cannot be read."""
    change, running = _drifted(desk, name, switch, path, line)
    with desk.reading() as tx:
        draft = tx.draft(name)
        compiled = tx.compiled(draft)
        pools = entries.load_pools(tx.connection)
        catalogue, office = tx.catalogue().catalogue, tx.office()
        stock = tx.ledger(name, compiled, pools, True).stock
        key = next((one.key for one in compiled.structure.switches if one.name == switch), "")
        if key not in compiled.models or key in compiled.without_files:
            raise Missing(f"The draft has no {switch}, or no files for it.")
        reader = Reader(compiled.targets[key].effects())
        mine = reader.changes(path, compiled.files(key).get(path, ""), running)
        now = next((one for one in mine if (one.path, one.words) == (change.path, change.words)), None)
        if now is None:
            return Ways(draft.version, [], True)

        def attempt(text: str, moves: ByKey) -> Compiled:
            asked = ask(read(text).brief, pools, catalogue, compiled, office)
            return complete(asked, replace(stock.holdings, moves=moves))

        return Ways(draft.version, ways(draft.document, compiled, key, now, running, attempt), False)


def _drifted(desk: Desk, name: str, switch: str, path: str, line: str) -> tuple[LineChange, str]:
    """A drifted line as it reads, and the text that it is in. Raises `Missing`."""
    found = next((one for one in watching.drift(desk, name) if one.switch == switch), None)
    every = [*found.texts.lines, *(one for one, _ in found.left)] if found else []
    change = next((one for one in every if (one.path, one.words) == (path, line)), None)
    if found is None or change is None:
        raise Missing(f"{switch} has no such drift.")
    with desk.reading() as tx:
        digest = found.snapshot.files[path]
        return change, snapshots.texts(tx.connection, [digest]).get(digest, "")


def take_over(desk: Desk, name: str, switch: str, path: str, line: str, key: str) -> int:
    """Have the draft say what a drifted line says, by the way that is chosen. The draft's version.

    Raises `Missing`, `Stale`, and `Refused`: `drift.said` when it says so already, and as a save.
    """
    found = ways_of(desk, name, switch, path, line)
    if found.said:
        raise refuse("drift.said", "The draft says so already. It is drift until the edition says it too.", "line")
    way = next((one for one in found.ways if one.key == key), None)
    if way is None:
        raise Missing("There is no such way to take it over any more. Look at the ways again.")
    note = f"taken over from {switch}: {way.title}"
    if way.pins:
        wished: dict[str, dict[str, Pin | None]] = {}
        for use, owner, text in way.pins:
            wished.setdefault(use, {})[owner] = Pin(*parse_number(use, text), f"as {switch} runs")
        return numbering.pin(desk, name, found.version, wished, note).draft.version
    return drafting.save(desk, name, found.version, lambda text: apply(text, list(way.edits)), note).draft.version
