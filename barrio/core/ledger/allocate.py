"""Handing out numbers: a pure function of what is wanted and what is already taken.

What a key holds stays where it is. A key that comes back gets its resting number again. A pin takes exactly the number it
names, and a new key takes what its pool's plan gives: the lowest free number, the one of its position, or the best fit.
Nothing here knows a database; the store loads the holdings, calls `allocate` inside a transaction, and writes the outcome.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from itertools import chain, islice

from barrio.core.errors import Fault, Refused
from barrio.core.ledger import refusals
from barrio.core.ledger.pool import Plan, Range, prefix_text
from barrio.core.ledger.runs import Holes, Runs, lowest_free
from barrio.core.ledger.slots import at_slot, slot_of
from barrio.core.ledger.twins import Pair
from barrio.core.ledger.wanted import Allocation, Demand, Holdings, Taken


def allocate(demands: Sequence[Demand], holdings: Holdings) -> Allocation:
    """Numbers for every key of every demand.

    Raises `Refused` with `pool.exhausted`, `pin.taken`, `pin.reserved`, `pin.twice`, `position.taken` or `position.outside`
    faults; then nothing is handed out.
    """
    counter = _Counter(demands, holdings)
    missing = [counter.settle(demand) for demand in demands]
    for demand, keys in zip(demands, missing, strict=True):
        if keys:
            counter.draw(demand, keys)
    if counter.faults:
        raise Refused(counter.faults)
    return counter.outcome()


MOST_FAULTS = 5
"""How many numbers that a plan by position cannot give are named; the others are counted."""


class _Counter:
    """The state of one allocation: what is taken in each space, and what has been handed out so far."""

    def __init__(self, demands: Sequence[Demand], holdings: Holdings) -> None:
        self.holdings = holdings
        self.by_use = {demand.use: demand for demand in demands}
        self.partners = {demand.twin: demand for demand in demands if demand.twin}
        self.numbers: dict[str, dict[str, Taken]] = {demand.use: {} for demand in demands}
        self.added: list[tuple[str, str]] = []
        self.returned: list[tuple[str, str]] = []
        self.consumed: list[tuple[str, str]] = []
        self.claimed: list[tuple[str, str]] = []
        self.faults: list[Fault] = []
        self.fresh: dict[str, Runs] = {demand.space: Runs() for demand in demands}
        self._mine: dict[str, Runs] = {}

    def mine(self, space: str) -> Runs:
        """What we ourselves have taken in a space before this allocation; worked out once somebody draws there.

        A number that this very change gives back still counts, and so does one that rests, whether its use is wanted at
        the moment or not: it goes to rest, not to a neighbour. Only what a move asks for leaves its place at once; a
        live number does not, unless it is a position, which another plug may have on the day that this one leaves it.
        """
        if space not in self._mine:
            self._mine[space] = Runs.of(self._taken_in(space))
        return self._mine[space]

    def _taken_in(self, space: str) -> Iterator[tuple[int, int]]:
        for book in (self.holdings.held, self.holdings.resting, self.holdings.pinned):
            moves = self.holdings.moves if book is self.holdings.held else {}
            for use, entries in book.items():
                if self._space_of(use) == space:
                    stay = () if use in self.by_use and self.by_use[use].reuses_resting else self.holdings.live
                    gone = {key for key in moves.get(use, ()) if (use, key) not in stay}
                    yield from ((low, low + size - 1) for key, (low, size) in entries.items() if key not in gone)

    def _space_of(self, use: str) -> str:
        demand = self.by_use.get(use)
        return demand.space if demand else use

    def _layers(self, demand: Demand) -> list[Runs]:
        others = self.holdings.others.get(demand.space)
        kept = Runs.of([*demand.reserved, *((part.low, part.high) for part in demand.pool.kept(demand.family))])
        beside = [layer for space in demand.beside for layer in (self.mine(space), self.fresh[space])]
        return [layer for layer in (others, self.mine(demand.space), kept, *beside) if layer]

    def settle(self, demand: Demand) -> list[str]:
        """Put down what stays, comes back or is pinned; returns the keys that still need a number, in order."""
        use, settled = demand.use, self.numbers[demand.use]
        held, rest = self.holdings.held.get(use, {}), self.holdings.resting.get(use, {})
        pinned = self.holdings.pinned.get(use, {})
        wishes = {**self.holdings.moves.get(use, {}), **pinned, **demand.pins}
        alone = set(held.values()) if demand.reuses_resting and rest else set()
        missing: list[str] = []
        settled.update(self._as_held(demand, held, wishes))
        for key in demand.keys:
            if key in settled:
                continue
            now, before, wish = held.get(key), rest.get(key), wishes.get(key)
            if wish is not None and wish != now:
                if self._take_wish(demand, key, wish, before, pinned.get(key)):
                    settled[key] = wish
            elif now is not None and (wish is not None or demand.keeps(key, now)):
                settled[key] = now
            elif (
                before is not None
                and demand.keeps(key, before)
                and before not in alone
                and not self._beside(demand, before)
            ):
                settled[key] = before
                self.returned.append((use, key))
            else:
                missing.append(key)
        return missing

    def _as_held(self, demand: Demand, held: Mapping[str, Taken], wishes: Mapping[str, Taken]) -> Mapping[str, Taken]:
        """What plainly stays where it is, of tens of thousands of keys at once; nothing where it takes a closer look."""
        if demand.bounded or demand.any_size or demand.sizes:
            return {}
        if any(held.get(key, wish) != wish for key, wish in wishes.items()):
            return {}
        size = demand.size
        return {
            key: now
            for key in demand.keys
            if (now := held.get(key)) is not None and (now.size == size or key in wishes)
        }

    def _beside(self, demand: Demand, taken: Taken) -> str | None:
        """The space beside its own in which a number is taken, or nothing."""
        return next(
            (
                space
                for space in demand.beside
                if self.fresh[space].hit(taken.low, taken.high) or self.mine(space).hit(taken.low, taken.high)
            ),
            None,
        )

    def _take_wish(self, demand: Demand, key: str, wish: Taken, before: Taken | None, pinned: Taken | None) -> bool:
        if pinned is not None and wish != pinned:
            self.faults.append(refusals.pinned_twice(demand, key, wish, pinned))
            return False
        if wish == before:
            self.returned.append((demand.use, key))
            return True
        if wish == pinned:
            self.claimed.append((demand.use, key))
            return True
        fault = self._pin_fault(demand, key, wish)
        if fault:
            self.faults.append(fault)
            return False
        self.added.append((demand.use, key))
        self.fresh[demand.space].add(wish.low, wish.high)
        return True

    def _pin_fault(self, demand: Demand, key: str, pin: Taken) -> Fault | None:
        text = prefix_text(demand.family, pin.low, pin.size)
        if any(low <= pin.high and pin.low <= high for low, high in demand.reserved):
            words = f"{text} cannot be the {demand.noun} of {key}: it is reserved. Choose another."
            return Fault("pin.reserved", words, refusals.path_of(demand.use, key))
        for part in demand.pool.kept(demand.family):
            if part.low <= pin.high and pin.low <= part.high:
                words = (
                    f"{text} cannot be the {demand.noun} of {key}: it is reserved ({part.note or 'no note'}). "
                    "Choose another, or end the reservation in the Ledger."
                )
                return Fault("pin.reserved", words, refusals.path_of(demand.use, key))
        owner = self._owner(demand, pin.low, pin.high)
        if owner is None:
            return None
        words = (
            f"{text} cannot be the {demand.noun} of {key}: it is {owner}. "
            f"Choose another, or leave it out to take the next free one from {demand.pool.name}."
        )
        return Fault("pin.taken", words, refusals.path_of(demand.use, key))

    def _owner(self, demand: Demand, low: int, high: int) -> str | None:
        """Whose `low..high` is, in words; None when nobody's."""
        beside = self._beside(demand, Taken(low, high - low + 1))
        if beside is not None:
            return self._own(beside, low, high)
        fresh, mine = self.fresh[demand.space].hit(low, high), self.mine(demand.space).hit(low, high)
        if fresh or mine:
            return self._own(demand.space, low, high)
        others = self.holdings.others.get(demand.space)
        if others is None or not others.hit(low, high):
            return None
        said = self.holdings.whose(demand.space, low, high) if self.holdings.whose else ""
        return said or "taken in another fabric"

    def _own(self, space: str, low: int, high: int) -> str:
        books = ((self.numbers, ""), (self.holdings.held, ""), (self.holdings.resting, " before, which rests"),
                 (self.holdings.pinned, ", pinned for it"))  # fmt: skip
        for book, after in books:
            for use, entries in book.items():
                if self._space_of(use) == space:
                    for key, taken in entries.items():
                        if taken.low <= high and low <= taken.high:
                            noun = self.by_use[use].noun if use in self.by_use else use
                            return f"the {noun} of {key}{after}"
        return "taken in this fabric"

    def draw(self, demand: Demand, missing: list[str]) -> None:
        """Numbers for the keys that have none yet, by the plan of the pool."""
        missing = [key for key in missing if key not in self.numbers[demand.use]]
        if demand.follows is not None:
            use, base = demand.follows
            there = self.numbers.get(use, {})
            self._by_position(demand, missing, {key: there[key].low - base for key in missing if key in there})
        elif demand.positions is not None:
            self._by_position(demand, missing, demand.positions)
        elif demand.pool.plan is Plan.BEST_FIT:
            self._best_fit(demand, missing)
        else:
            self._lowest(demand, missing)

    def give(self, demand: Demand, key: str, low: int) -> None:
        taken = Taken(low, demand.size_of(key))
        self.numbers[demand.use][key] = taken
        self.added.append((demand.use, key))
        self.fresh[demand.space].add(low, taken.high)

    def _short(self, demand: Demand, wanted: int, left: list[str]) -> None:
        """Not enough for these keys: let them take what rests, when the demand may, or say so."""
        if demand.reuses_resting:
            left = self._reuse(demand, left)
        if left:
            resting = len(self.holdings.resting.get(demand.use, {}))
            self.faults.append(refusals.exhausted(demand, wanted, len(left), resting))

    def _lowest(self, demand: Demand, missing: list[str]) -> None:
        layers = self._layers(demand)
        if not (demand.twin or demand.blocks or demand.sizes or demand.use in self.partners):
            self._in_a_row(demand, missing, layers)
            return
        free: dict[tuple[int, tuple[int, int]], Iterator[int]] = {}
        paired = lowest_free(demand.ranges, demand.size, layers, self.fresh[demand.space])
        partner = self.partners.get(demand.use)
        pair = Pair(self, self._layers(partner), demand, partner) if partner else None
        twin = self.by_use.get(demand.twin)
        rest = self._as_twins(demand, layers, missing, twin or partner)
        for index, key in enumerate(rest):
            size, block = demand.size_of(key), demand.blocks.get(key, (0, -1))
            if (size, block) not in free:
                free[size, block] = self._free(demand, size, block, layers)
            if pair is not None and size == demand.size and pair.give_both(key, paired):
                continue
            low = next(free[size, block], None)
            if low is None:
                self._short(demand, len(missing), rest[index:])
                return
            self.give(demand, key, low)

    def _in_a_row(self, demand: Demand, missing: list[str], layers: Sequence[Runs]) -> None:
        """As `_lowest`, for numbers that depend on no other: many at once, put down as runs."""
        numbers, fresh, size = self.numbers[demand.use], self.fresh[demand.space], demand.size
        lows = list(islice(lowest_free(demand.ranges, size, [*layers, fresh]), len(missing)))
        numbers.update(zip(missing, (Taken(low, size) for low in lows), strict=False))
        self.added.extend((demand.use, key) for key in missing[: len(lows)])
        for low, high in Runs.of((low, low + size - 1) for low in lows):
            fresh.add(low, high)
        if len(lows) < len(missing):
            self._short(demand, len(missing), missing[len(lows) :])

    def _as_twins(self, demand: Demand, layers: Sequence[Runs], missing: list[str], twin: Demand | None) -> list[str]:
        """Give the slot of its twin to every key that can have it, before others choose; returns the others."""
        rest = []
        for key in missing:
            same = self._like_twin(demand, layers, key, twin)
            if same is None:
                rest.append(key)
            else:
                self.give(demand, key, same)
        return rest

    def _free(self, demand: Demand, size: int, block: tuple[int, int], layers: Sequence[Runs]) -> Iterator[int]:
        """Free starts, lowest first: in the block of a key, then outside all blocks, then anywhere."""
        fresh = self.fresh[demand.space]
        if not demand.blocks:
            return lowest_free(demand.ranges, size, layers, fresh)
        top = max((part.high for part in demand.ranges), default=0)
        inside = [Range(demand.family, block[0], min(block[1], top))] if block[0] <= min(block[1], top) else []
        kept = Runs.of(set(demand.blocks.values()))
        return chain(
            lowest_free(inside, size, layers, fresh),
            lowest_free(demand.ranges, size, [*layers, kept], fresh),
            lowest_free(demand.ranges, size, layers, fresh),
        )

    def _like_twin(self, demand: Demand, layers: Sequence[Runs], key: str, twin: Demand | None) -> int | None:
        """The number in the slot that the twin of a key has, when it is free."""
        has = self.numbers[twin.use].get(key) if twin else None
        if twin is None or has is None:
            return None
        slot = slot_of(twin.ranges, has.low, twin.size)
        low = None if slot is None else at_slot(demand.ranges, slot, demand.size)
        if low is None:
            return None
        low -= low % demand.size_of(key)
        return low if self.is_free(demand, layers, low, demand.size_of(key)) else None

    def is_free(self, demand: Demand, layers: Sequence[Runs], low: int, size: int) -> bool:
        high = low + size - 1
        part = demand.pool.range_of(demand.family, low)
        if part is None or high > part.high or self.fresh[demand.space].hit(low, high):
            return False
        return not any(layer.hit(low, high) for layer in layers)

    def _best_fit(self, demand: Demand, missing: list[str]) -> None:
        layers = [*self._layers(demand), self.fresh[demand.space]]
        twin = self.by_use.get(demand.twin) or self.partners.get(demand.use)
        rest = self._as_twins(demand, layers, missing, twin)
        holes = Holes(demand.ranges, layers)
        for index, key in enumerate(rest):
            low = holes.take(demand.size_of(key))
            if low is None:
                self._short(demand, len(missing), rest[index:])
                return
            self.give(demand, key, low)

    def _by_position(self, demand: Demand, missing: list[str], positions: Mapping[str, int]) -> None:
        layers = self._layers(demand)
        faults: list[Fault] = []
        for key in missing:
            slot = positions.get(key)
            low = None if slot is None else at_slot(demand.ranges, slot, demand.size)
            size = demand.size_of(key)
            if low is None:
                faults.append(refusals.outside(demand, key, slot))
            elif self.is_free(demand, layers, low, size):
                self.give(demand, key, low)
            else:
                faults.append(self._position_taken(demand, key, low, size))
        self.faults += faults[:MOST_FAULTS]
        if len(faults) > MOST_FAULTS:
            words = f"So it is with {len(faults) - MOST_FAULTS} more {refusals.plural(demand.noun)} of pool {demand.pool.name}."
            self.faults.append(Fault(faults[0].code, words, faults[0].path))

    def _position_taken(self, demand: Demand, key: str, low: int, size: int) -> Fault:
        kept = (part.note or "no note" for part in demand.pool.kept(demand.family) if part.low <= low <= part.high)
        owner = self._owner(demand, low, low + size - 1)
        said = owner or f"reserved ({next(kept, 'never handed out')})"
        words = (
            f"By position, {prefix_text(demand.family, low, size)} of pool {demand.pool.name} is the {demand.noun} of {key}, "
            f"but it is {said}. Pin another number for it, or give the fabric a pool of its own, or the pool another plan."
        )
        return Fault("position.taken", words, f"pools.{demand.pool.name}")

    def _reuse(self, demand: Demand, keys: list[str]) -> list[str]:
        """Give resting numbers to other keys, lowest first; returns the keys still without one."""
        numbers = self.numbers[demand.use]
        rested = sorted(
            (taken, owner)
            for owner, taken in self.holdings.resting.get(demand.use, {}).items()
            if owner not in numbers
            and taken.size == demand.size
            and demand.pool.range_of(demand.family, taken.low) is not None
        )
        if self.holdings.resting.get(demand.use):
            mine = set(numbers.values()) | set(self.holdings.held.get(demand.use, {}).values())
            rested = [pair for pair in rested if pair[0] not in mine]
        for key, (taken, owner) in zip(keys, rested, strict=False):
            numbers[key] = taken
            self.added.append((demand.use, key))
            self.consumed.append((demand.use, owner))
        return keys[len(rested) :]

    def outcome(self) -> Allocation:
        """What is held now, and what changed."""
        nothing: Mapping[str, Taken] = {}
        gone = [
            (use, key, taken)
            for use, entries in self.holdings.held.items()
            for key, taken in entries.items()
            if (now := self.numbers.get(use, nothing).get(key)) is not taken and now != taken
        ]
        passed: tuple[tuple[str, str], ...] = ()
        if gone and self.holdings.moves:
            passed = tuple(
                (use, key)
                for use, key, taken in gone
                if use in self.by_use and self.fresh[self._space_of(use)].hit(taken.low, taken.high)
            )
        given_back = tuple((use, key) for use, key, _ in gone)
        return Allocation(
            self.numbers, tuple(self.added), tuple(self.returned), given_back, tuple(self.consumed),
            tuple(self.claimed), passed,
        )  # fmt: skip
