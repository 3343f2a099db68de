"""Runs: taken integers as sorted, separate, closed intervals, so that a packed million is one interval.

Everything that asks "is this taken?" or "where is the next gap?" asks a `Runs`; each answer is a binary search. Bounds are
inclusive integers of any size, addresses of both families included.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Iterator, Sequence

from barrio.core.ledger.pool import Range


class Runs:
    """A set of integers, kept as intervals that neither touch nor overlap.

    >>> runs = Runs.of([(8, 9), (1, 4), (5, 5)])
    >>> list(runs), runs.hit(5, 7), runs.hit(6, 7)
    ([(1, 5), (8, 9)], (1, 5), None)
    """

    __slots__ = ("highs", "lows")

    def __init__(self) -> None:
        self.lows: list[int] = []
        self.highs: list[int] = []

    @classmethod
    def of(cls, intervals: Iterable[tuple[int, int]]) -> Runs:
        """The union of closed intervals in any order; they may overlap."""
        runs = cls()
        lows, highs = runs.lows, runs.highs
        last = -2
        for low, high in sorted(intervals):
            if low <= last + 1:
                if high > last:
                    highs[-1] = last = high
            else:
                lows.append(low)
                highs.append(high)
                last = high
        return runs

    def __iter__(self) -> Iterator[tuple[int, int]]:
        return zip(self.lows, self.highs, strict=True)

    def __len__(self) -> int:
        return len(self.lows)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Runs) and self.lows == other.lows and self.highs == other.highs

    __hash__ = None  # type: ignore[assignment]

    def hit(self, low: int, high: int) -> tuple[int, int] | None:
        """The last interval that shares an integer with `low..high`, or None."""
        place = bisect_right(self.lows, high) - 1
        if place >= 0 and self.highs[place] >= low:
            return self.lows[place], self.highs[place]
        return None

    def within(self, low: int, high: int) -> Iterator[tuple[int, int]]:
        """The intervals that share an integer with `low..high`, cut to it, lowest first."""
        place = bisect_left(self.highs, low)
        while place < len(self.lows) and self.lows[place] <= high:
            yield max(self.lows[place], low), min(self.highs[place], high)
            place += 1

    def add(self, low: int, high: int) -> None:
        """Take `low..high` as well."""
        first = bisect_left(self.highs, low - 1)
        last = bisect_right(self.lows, high + 1)
        if first < last:
            low, high = min(low, self.lows[first]), max(high, self.highs[last - 1])
            if last - first == 1:
                self.lows[first], self.highs[first] = low, high
                return
        self.lows[first:last] = [low]
        self.highs[first:last] = [high]

    def remove(self, low: int, high: int) -> None:
        """Give `low..high` back, as far as it is taken."""
        first = bisect_left(self.highs, low)
        last = bisect_right(self.lows, high)
        if first >= last:
            return
        left, right = self.lows[first], self.highs[last - 1]
        lows, highs = [], []
        if left < low:
            lows.append(left)
            highs.append(low - 1)
        if right > high:
            lows.append(high + 1)
            highs.append(right)
        self.lows[first:last] = lows
        self.highs[first:last] = highs

    def without(self, others: Runs) -> Runs:
        """A copy that leaves out what is in `others`."""
        left = Runs()
        left.lows, left.highs = self.lows.copy(), self.highs.copy()
        for low, high in others:
            left.remove(low, high)
        return left


def lowest_free(ranges: Sequence[Range], size: int, layers: Sequence[Runs], fresh: Runs | None = None) -> Iterator[int]:
    """Free starts of aligned blocks of `size` integers, lowest first.

    A block is free when no layer touches it. `fresh` may grow while one iterates (with what was just drawn, say); the layers
    may not.

    >>> from barrio.core.ledger.pool import parse_range
    >>> list(lowest_free([parse_range("1..9")], 2, [Runs.of([(4, 4)])]))
    [2, 6, 8]
    """
    fresh = Runs() if fresh is None else fresh
    for part in ranges:
        cursor = -(-part.low // size) * size
        while cursor + size - 1 <= part.high:
            end = _gap_end(cursor, cursor + size - 1, part.high, layers)
            if end < 0:
                cursor = -(end // size) * size
                continue
            while cursor + size - 1 <= end:
                taken = fresh.hit(cursor, cursor + size - 1)
                if taken is None:
                    yield cursor
                    cursor += size
                else:
                    cursor = -(-(taken[1] + 1) // size) * size


def _gap_end(low: int, high: int, most: int, layers: Sequence[Runs]) -> int:
    """How far it is free from `low`, when `low..high` is; otherwise minus the first integer past what is in the way."""
    end = most
    for layer in layers:
        place = bisect_left(layer.highs, low)
        if place < len(layer.lows):
            if layer.lows[place] <= high:
                return -(layer.highs[place] + 1)
            end = min(end, layer.lows[place] - 1)
    return end


class Holes:
    """Free space as the largest aligned blocks it falls into, for drawing the best fit.

    The smallest block that a wish fits into is split in halves until it is of the wished size, as a buddy allocator does
    (Knowlton 1965), so that large blocks stay whole as long as anything smaller serves.
    """

    def __init__(self, ranges: Sequence[Range], layers: Sequence[Runs]) -> None:
        self._by_size: dict[int, list[int]] = {}
        for part in ranges:
            cursor = part.low
            while cursor <= part.high:
                end = _gap_end(cursor, cursor, part.high, layers)
                if end < 0:
                    cursor = -end
                    continue
                for low, size in aligned(cursor, end):
                    self._by_size.setdefault(size, []).append(low)
                cursor = end + 1

    def take(self, size: int) -> int | None:
        """The start of the block that fits `size` best, which is taken out; None when no block is large enough."""
        best = min((have for have, lows in self._by_size.items() if lows and have >= size), default=None)
        if best is None:
            return None
        low = self._by_size[best].pop(0)
        while best > size:
            best //= 2
            lows = self._by_size.setdefault(best, [])
            lows.insert(bisect_left(lows, low + best), low + best)
        return low

    def largest(self) -> int:
        """The size of the largest free block; 0 when nothing is free."""
        return max((size for size, lows in self._by_size.items() if lows), default=0)

    def blocks(self, size: int) -> list[tuple[int, int]]:
        """Free blocks in which `size` would fit, as (low, size), the best fit first."""
        return [(low, have) for have in sorted(self._by_size) if have >= size for low in self._by_size[have]]


def aligned(low: int, high: int) -> Iterator[tuple[int, int]]:
    """The largest aligned blocks that make up `low..high`, as (low, size).

    >>> list(aligned(3, 12))
    [(3, 1), (4, 4), (8, 4), (12, 1)]
    """
    while low <= high:
        size = (low & -low) or 1 << 128
        while low + size - 1 > high:
            size //= 2
        yield low, size
        low += size
