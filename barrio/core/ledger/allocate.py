"""Handing out numbers: a pure function of what is wanted and what is already taken.

What a key holds stays where it is. A key that comes back gets its resting number again. A new key takes the lowest free
number of its pool, and a pin takes exactly the number it names. Nothing here knows a database; the store loads the
holdings, calls `allocate` inside a transaction, and writes the outcome.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import chain
from typing import NamedTuple

from barrio.core.errors import Fault, Refused
from barrio.core.ledger.pool import Family, Pool, Range, prefix_text


class Taken(NamedTuple):
    """A number in use: the lowest integer, and how many integers it spans (1 for an address, 2 for a /31)."""

    low: int
    size: int


class Foreign(NamedTuple):
    """A number that another fabric holds in the same space, and whose it is, in words."""

    low: int
    size: int
    owner: str


@dataclass(frozen=True, slots=True)
class Demand:
    """Numbers of one use that a structure wants.

    `space` names the set within which numbers must differ (`v4`, `asn`, `vlan/marlin`); two uses may share a space.
    `reserved` are inclusive (low, high) bounds never handed out; `reuses_resting` lets resting numbers be taken when
    nothing else is free, for things such as ports of which there are no others; a `bounded` demand gives up what it
    holds outside its pool, since a port that is not there cannot be kept. `blocks` gives keys the inclusive bounds in
    which they are drawn while there is room; others stay out of them while there is room elsewhere.
    """

    use: str
    space: str
    family: Family
    pool: Pool
    size: int
    keys: Sequence[str]
    pins: Mapping[str, Taken] = field(default_factory=dict)
    reserved: tuple[tuple[int, int], ...] = ()
    reuses_resting: bool = False
    bounded: bool = False
    any_size: bool = False
    noun: str = "number"
    blocks: Mapping[str, tuple[int, int]] = field(default_factory=dict)

    def keeps(self, taken: Taken) -> bool:
        """Whether a number held or resting still serves: of the right size and, when bounded, in the pool."""
        return (self.any_size or taken.size == self.size) and (
            not self.bounded or self.pool.range_of(self.family, taken.low) is not None
        )


@dataclass(frozen=True, slots=True)
class Holdings:
    """What this fabric holds and rests, by use and key, and what others hold, by space."""

    held: Mapping[str, Mapping[str, Taken]] = field(default_factory=dict)
    resting: Mapping[str, Mapping[str, Taken]] = field(default_factory=dict)
    others: Mapping[str, Sequence[Foreign]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Allocation:
    """`numbers` is all that is held now; the rest is what changed against the holdings, as (use, key) pairs."""

    numbers: Mapping[str, Mapping[str, Taken]]
    added: tuple[tuple[str, str], ...]
    returned: tuple[tuple[str, str], ...]
    given_back: tuple[tuple[str, str], ...]
    consumed: tuple[tuple[str, str], ...]


def allocate(demands: Sequence[Demand], holdings: Holdings) -> Allocation:
    """Numbers for every key of every demand.

    Raises `Refused` with `pool.exhausted`, `pin.taken` or `pin.reserved` faults; then nothing is handed out.
    """
    spaces = _spaces(demands, holdings)
    numbers: dict[str, dict[str, Taken]] = {}
    waiting: list[tuple[Demand, list[str]]] = []
    added: list[tuple[str, str]] = []
    returned: list[tuple[str, str]] = []
    faults: list[Fault] = []
    for demand in demands:
        numbers[demand.use], missing = _settle(demand, holdings, spaces[demand.space], returned, added, faults)
        waiting.append((demand, missing))
    consumed: list[tuple[str, str]] = []
    for demand, missing in waiting:
        if missing:
            _draw(demand, missing, numbers[demand.use], spaces[demand.space], holdings, consumed, faults)
            added.extend((demand.use, key) for key in missing)
    if faults:
        raise Refused(faults)
    given_back = tuple(
        (use, key)
        for use, mine in holdings.held.items()
        for key, taken in mine.items()
        if numbers.get(use, {}).get(key) != taken
    )
    return Allocation(numbers, tuple(added), tuple(returned), given_back, tuple(consumed))


class _Space:
    """The taken intervals of one space, sorted, with an owner each."""

    def __init__(self, entries: list[Foreign]) -> None:
        self.entries: list[Foreign] = []
        self.lows: list[int] = []
        self.add(entries)

    def owner(self, low: int, size: int) -> Foreign | None:
        place = bisect_right(self.lows, low + size - 1) - 1
        if place >= 0 and self.entries[place].low + self.entries[place].size > low:
            return self.entries[place]
        return None

    def add(self, entries: list[Foreign]) -> None:
        self.entries = sorted(self.entries + entries)
        self.lows = [entry.low for entry in self.entries]


def _spaces(demands: Sequence[Demand], holdings: Holdings) -> dict[str, _Space]:
    """What is taken in each space before this allocation, by others and by ourselves.

    A number that this very change gives back still counts, and so does one that rests, whether its use is wanted at
    the moment or not: it goes to rest, not to a neighbour.
    """
    demanded = {demand.use: demand for demand in demands}
    entries: dict[str, list[Foreign]] = {
        demand.space: list(holdings.others.get(demand.space, ())) for demand in demands
    }
    for book, after in ((holdings.held, ""), (holdings.resting, " before, which rests")):
        for use, mine in book.items():
            demand = demanded.get(use)
            # Uses that come and go with the addressing are addresses, named after their family: `link.v4`.
            space = demand.space if demand else use.rsplit(".", 1)[-1]
            stem = f"the {demand.noun if demand else use} of "
            if space in entries:
                entries[space] += [Foreign(low, size, f"{stem}{key}{after}") for key, (low, size) in mine.items()]
    return {space: _Space(found) for space, found in entries.items()}


def _settle(
    demand: Demand,
    holdings: Holdings,
    space: _Space,
    returned: list[tuple[str, str]],
    added: list[tuple[str, str]],
    faults: list[Fault],
) -> tuple[dict[str, Taken], list[str]]:
    """What stays, comes back or is pinned; and the keys that still need a number, in order."""
    mine, rest = holdings.held.get(demand.use, {}), holdings.resting.get(demand.use, {})
    settled: dict[str, Taken] = {}
    missing: list[str] = []
    for key in demand.keys:
        pin, now, before = demand.pins.get(key), mine.get(key), rest.get(key)
        if pin is not None and pin != now:
            settled[key] = pin
            if pin == before:
                returned.append((demand.use, key))
                continue
            fault = _pin_fault(demand, key, pin, space)
            if fault:
                faults.append(fault)
                continue
            added.append((demand.use, key))
            space.add([Foreign(pin.low, pin.size, f"the {demand.noun} of {key}")])
        elif now is not None and (pin is not None or demand.keeps(now)):
            settled[key] = now
        elif before is not None and demand.keeps(before):
            settled[key] = before
            returned.append((demand.use, key))
        else:
            missing.append(key)
    return settled, missing


def _pin_fault(demand: Demand, key: str, pin: Taken, space: _Space) -> Fault | None:
    text = prefix_text(demand.family, pin.low, pin.size)
    if any(low <= pin.low + pin.size - 1 and pin.low <= high for low, high in demand.reserved):
        return Fault(
            "pin.reserved",
            f"{text} cannot be the {demand.noun} of {key}: it is reserved. Choose another.",
            key,
        )
    owner = space.owner(pin.low, pin.size)
    if owner is not None:
        return Fault(
            "pin.taken",
            f"{text} cannot be the {demand.noun} of {key}: it is {owner.owner}. "
            f"Choose another, or leave it out to take the next free one from {demand.pool.name}.",
            key,
        )
    return None


def _draw(
    demand: Demand,
    missing: list[str],
    numbers: dict[str, Taken],
    space: _Space,
    holdings: Holdings,
    consumed: list[tuple[str, str]],
    faults: list[Fault],
) -> None:
    drawn: list[Foreign] = []
    free = _free(demand, missing, space)
    for index, key in enumerate(missing):
        low = next(free[key], None) if demand.blocks else next(free[""], None)
        if low is None:
            left = missing[index:]
            if demand.reuses_resting:
                left = _reuse(demand, left, numbers, holdings, consumed)
            if left:
                faults.append(_exhausted(demand, len(missing), len(left), holdings))
            break
        numbers[key] = Taken(low, demand.size)
        drawn.append(Foreign(low, demand.size, f"the {demand.noun} of {key}"))
    space.add(drawn)


def _free(demand: Demand, missing: list[str], space: _Space) -> dict[str, Iterator[int]]:
    """Free starts for each key (for all under "" without blocks): in its block, outside all blocks, then anywhere."""
    ranges = demand.pool.of(demand.family)
    if not demand.blocks:
        return {"": lowest_free(ranges, demand.size, space.entries, demand.reserved)}
    given: set[int] = set()
    kept = tuple(sorted(set(demand.blocks.values())))

    def once(source: Iterator[int]) -> Iterator[int]:
        for low in source:
            if low not in given:
                given.add(low)
                yield low

    top = max((part.high for part in ranges), default=0)
    inside = {
        block: once(
            lowest_free(
                [Range(demand.family, block[0], min(block[1], top))] if block[0] <= top else [], demand.size,
                space.entries, demand.reserved,
            )
        )
        for block in kept
    }  # fmt: skip
    outside = once(lowest_free(ranges, demand.size, space.entries, demand.reserved + kept))
    anywhere = once(lowest_free(ranges, demand.size, space.entries, demand.reserved))
    return {key: chain(inside.get(demand.blocks.get(key, (0, -1)), iter(())), outside, anywhere) for key in missing}


def _reuse(
    demand: Demand,
    keys: list[str],
    numbers: dict[str, Taken],
    holdings: Holdings,
    consumed: list[tuple[str, str]],
) -> list[str]:
    """Give resting numbers to other keys, lowest first; returns the keys still without one."""
    rested = sorted(
        (taken, owner)
        for owner, taken in holdings.resting.get(demand.use, {}).items()
        if owner not in numbers
        and taken.size == demand.size
        and demand.pool.range_of(demand.family, taken.low) is not None
    )
    for key, (taken, owner) in zip(keys, rested, strict=False):
        numbers[key] = taken
        consumed.append((demand.use, owner))
    return keys[len(rested) :]


def _exhausted(demand: Demand, wanted: int, short: int, holdings: Holdings) -> Fault:
    ranges = demand.pool.of(demand.family)
    resting = len(holdings.resting.get(demand.use, {}))
    has = ", ".join(part.text for part in ranges) or f"no {_FAMILY_WORD[demand.family]} range"
    rest = f" {resting} more are resting; end their rest in the Ledger to use them now." if resting else ""
    return Fault(
        "pool.exhausted",
        f"Pool {demand.pool.name} ({has}) is {short} short of the {wanted} new {demand.noun}s that are needed. "
        f"Add a range to it under “pools”.{rest}",
        f"pools.{demand.pool.name}",
    )


_FAMILY_WORD = {Family.V4: "IPv4", Family.V6: "IPv6", Family.NUMBER: "number"}


def lowest_free(
    ranges: Sequence[Range],
    size: int,
    taken: Sequence[Foreign],
    reserved: Sequence[tuple[int, int]] = (),
) -> Iterator[int]:
    """Free starts of aligned blocks of `size` integers, lowest first.

    `taken` is sorted by `low` and does not overlap itself; it is not consulted again after iteration has begun.

    >>> from barrio.core.ledger.pool import parse_range
    >>> free = lowest_free([parse_range("1..9")], 2, [Foreign(4, 1, "x")])
    >>> list(free)
    [2, 6, 8]
    """
    blocks = sorted([(entry.low, entry.low + entry.size - 1) for entry in taken] + list(reserved))
    merged: list[tuple[int, int]] = []
    for low, high in blocks:
        if merged and low <= merged[-1][1] + 1:
            merged[-1] = (merged[-1][0], max(high, merged[-1][1]))
        else:
            merged.append((low, high))
    highs = [high for _, high in merged]
    for part in ranges:
        cursor = -(-part.low // size) * size
        place = bisect_left(highs, cursor)
        while cursor + size - 1 <= part.high:
            if place < len(merged) and merged[place][0] <= cursor + size - 1:
                cursor = max(cursor, -(-(merged[place][1] + 1) // size) * size)
                while place < len(merged) and merged[place][1] < cursor:
                    place += 1
                continue
            yield cursor
            cursor += size
