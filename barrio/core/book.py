"""A whole ledger in memory: all fabrics, all states, the same rules as the database keeps.

For builds without a database, and as the model that the database is tested against, number for number. Time comes from the
caller.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime

from barrio.core.compiled import Compiled, Stock
from barrio.core.ledger import states
from barrio.core.ledger.demand import is_shared
from barrio.core.ledger.pool import Pool
from barrio.core.ledger.runs import Runs
from barrio.core.ledger.states import Life, State
from barrio.core.ledger.wanted import ByKey, Holdings, Taken


@dataclass(frozen=True, slots=True)
class Entry:
    """One number that is taken: whose, where, and in which state since when."""

    fabric: str
    use: str
    key: str
    pool: str
    space: str
    taken: Taken
    life: Life
    since: datetime
    note: str = ""


@dataclass
class Book:
    """Pools and entries. Entries of one fabric keep the order in which they were made."""

    pools: dict[str, Pool] = field(default_factory=dict)
    entries: dict[str, list[Entry]] = field(default_factory=dict)

    def all(self) -> Iterator[Entry]:
        for mine in self.entries.values():
            yield from mine

    def stock(self, fabric: str, moves: ByKey | None = None) -> Stock:
        """What the book holds, as one fabric sees it."""
        held: dict[str, dict[str, Taken]] = {}
        resting: dict[str, dict[str, Taken]] = {}
        pinned: dict[str, dict[str, Taken]] = {}
        live: set[tuple[str, str]] = set()
        others: dict[str, list[tuple[int, int]]] = {}
        mine = sorted(self.entries.get(fabric, ()), key=lambda entry: entry.life.leaving)
        for entry in mine:
            if entry.life.pinned:
                pinned.setdefault(entry.use, {})[entry.key] = entry.taken
            if entry.life.state is State.RESTING or entry.life.leaving:
                older = resting.setdefault(entry.use, {}).pop(entry.key, None)
                if older is not None:
                    others.setdefault(entry.space, []).append((older.low, older.high))
                resting[entry.use][entry.key] = entry.taken
            elif entry.life.current:
                held.setdefault(entry.use, {})[entry.key] = entry.taken
            if entry.life.state is State.LIVE:
                live.add((entry.use, entry.key))
        for entry in self.all():
            if entry.fabric != fabric and is_shared(entry.space):
                others.setdefault(entry.space, []).append((entry.taken.low, entry.taken.high))
        runs = {space: Runs.of(found) for space, found in others.items()}
        holdings = Holdings(held, resting, runs, pinned, moves or {}, frozenset(live), self._whose)
        return Stock(self.pools, holdings)

    def _whose(self, space: str, low: int, high: int) -> str:
        for entry in self.all():
            if entry.space == space and entry.taken.low <= high and low <= entry.taken.high:
                return f"{entry.life.state} in {entry.fabric} as {entry.use} of {entry.key}"
        return ""

    def take(self, compiled: Compiled, now: datetime) -> None:
        """Write down what a compile with this stock changed."""
        allocation, fabric = compiled.allocation, compiled.brief.fabric
        gone, passed = set(allocation.given_back), set(allocation.passed)
        back, consumed = set(allocation.returned), set(allocation.consumed)
        claimed = set(allocation.claimed)
        numbers = allocation.numbers
        kept: list[Entry] = []
        for entry in self.entries.get(fabric, ()):
            at = (entry.use, entry.key)
            apart = entry.life.state is State.RESTING or entry.life.leaving
            if entry.life.current and at in gone:
                if at not in passed or entry.life.state is State.LIVE:
                    kept.append(replace(entry, life=states.release(entry.life), since=now))
            elif (apart and at in back and numbers[entry.use][entry.key] == entry.taken) or (
                entry.life.state is State.RESERVED and at in claimed
            ):
                kept.append(replace(entry, life=states.take_up(entry.life), since=now))
            elif entry.life.state is not State.RESTING or at not in consumed or not self._reused(compiled, entry):
                kept.append(entry)
        demands = {demand.use: demand for demand in compiled.demands}
        kept += [
            Entry(
                fabric, use, key, demands[use].pool.name, demands[use].space, numbers[use][key], Life(State.HELD), now,
            )
            for use, key in allocation.added
        ]  # fmt: skip
        self.entries[fabric] = kept
        for name, pool in compiled.pools.items():
            known = self.pools.get(name, pool)
            # What is cut from a pool stands in the children; only ranges and the kind come from a brief.
            reserved = known.reserved if name in self.pools else ()
            self.pools[name] = replace(known, ranges=pool.ranges, kind=pool.kind, reserved=reserved)

    @staticmethod
    def _reused(compiled: Compiled, entry: Entry) -> bool:
        return entry.taken in compiled.allocation.numbers[entry.use].values()

    def pin(self, fabric: str, use: str, key: str, pinned: bool, note: str = "") -> None:
        """Fix what a key holds, or let it go; what waited for its key is then free."""
        mine: list[Entry] = []
        for entry in self.entries.get(fabric, ()):
            life: Life | None = entry.life
            if (entry.use, entry.key) == (use, key):
                if not pinned and entry.life.pinned:
                    life = states.unpin(entry.life)
                elif pinned and entry.life.current:
                    life = entry.life._replace(pinned=True)
            if life is not None:
                mine.append(replace(entry, life=life, note=note if life.pinned else entry.note))
        self.entries[fabric] = mine

    def seal(self, fabric: str, now: datetime) -> None:
        """Make what the draft holds live; what it left rests."""
        self.entries[fabric] = [
            replace(entry, life=states.seal(entry.life), since=now) if entry.life != states.seal(entry.life) else entry
            for entry in self.entries.get(fabric, ())
        ]

    def end_rests(self, now: datetime, scopes: Iterable[str] | None = None) -> None:
        """Let go of what has rested as long as its pool says."""
        wanted = None if scopes is None else set(scopes)
        for fabric, mine in self.entries.items():
            self.entries[fabric] = [entry for entry in mine if not self._over(entry, now, wanted)]

    def _over(self, entry: Entry, now: datetime, scopes: set[str] | None) -> bool:
        if entry.life.state is not State.RESTING or (scopes and scope_of(entry.space) not in scopes):
            return False
        pool = self.pools.get(entry.pool)
        return pool is not None and entry.since + pool.rest <= now


def scope_of(space: str) -> str:
    return space.partition("@")[2] or "site"


def held_by(book: Book, fabric: str) -> Mapping[tuple[str, str], Taken]:
    """What the keys of a fabric have now."""
    return {(entry.use, entry.key): entry.taken for entry in book.entries.get(fabric, ()) if entry.life.current}
