"""Numbers of both families in the same slot, drawn together: 10.61.0.6 and fd61::6 for one link."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Protocol

from barrio.core.ledger.runs import Runs
from barrio.core.ledger.slots import at_slot, slot_of
from barrio.core.ledger.wanted import Demand, Taken


class Giver(Protocol):
    """Whoever hands out numbers, and knows by use and key what it has."""

    @property
    def numbers(self) -> Mapping[str, Mapping[str, Taken]]: ...

    def is_free(self, demand: Demand, layers: Sequence[Runs], low: int, size: int) -> bool: ...

    def give(self, demand: Demand, key: str, low: int) -> None: ...


class Pair:
    """Draws the same slot in both families for keys that have a number in neither. `layers` are what is taken in the second."""

    def __init__(self, giver: Giver, layers: Sequence[Runs], one: Demand, two: Demand) -> None:
        self._giver, self._one, self._two = giver, one, two
        self._layers = layers
        self._wanted = set(two.keys)

    def give_both(self, key: str, free: Iterator[int]) -> bool:
        """Give the lowest slot that is free in both; False when the key wants only one, or no slot is free in both."""
        one, two = self._one, self._two
        if key not in self._wanted or key in self._giver.numbers[two.use]:
            return False
        for low in free:
            slot = slot_of(one.ranges, low, one.size)
            other = None if slot is None else at_slot(two.ranges, slot, two.size)
            if other is None:
                break
            if self._giver.is_free(two, self._layers, other, two.size_of(key)):
                self._giver.give(one, key, low)
                self._giver.give(two, key, other)
                return True
        return False
