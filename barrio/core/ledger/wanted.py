"""What is wanted of the ledger (numbers of one use), what is held of it, and what comes of handing out."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from barrio.core.ledger.pool import Family, Pool, Range
from barrio.core.ledger.runs import Runs


class Taken(NamedTuple):
    """A number in use: the lowest integer, and how many integers it spans (1 for an address, 2 for a /31)."""

    low: int
    size: int

    @property
    def high(self) -> int:
        return self.low + self.size - 1


ByKey = Mapping[str, Mapping[str, Taken]]
"""Numbers by use and key."""


@dataclass(frozen=True, slots=True)
class Demand:
    """Numbers of one use that a structure wants.

    `space` names the set within which numbers must differ (`v4`, `asn@tenants`, `vlan/marlin`); two uses may share a space.
    `reserved` are inclusive (low, high) bounds never handed out; `reuses_resting` lets resting numbers be taken when
    nothing else is free, for things such as ports of which there are no others; a `bounded` demand gives up what it
    holds outside its pool, since a port that is not there cannot be kept. `blocks` gives keys the inclusive bounds in
    which they are drawn while there is room; others stay out of them while there is room elsewhere.

    `beside` are spaces whose numbers this demand must not have either: of two demands that must keep clear of each other, each names
    the other's space.

    `sizes` are for keys that want another size than `size`. `positions` are the slots (counted from 0, in blocks of `size`) of
    keys under a plan by position. A demand with a `twin`, the use of the other family, draws the slot that its twin has.
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
    sizes: Mapping[str, int] = field(default_factory=dict)
    positions: Mapping[str, int] | None = None
    follows: tuple[str, int] | None = None
    twin: str = ""
    beside: tuple[str, ...] = ()

    def size_of(self, key: str) -> int:
        return self.sizes.get(key, self.size)

    def keeps(self, key: str, taken: Taken) -> bool:
        """Whether a number held or resting still serves: of the right size and, when bounded, in the pool."""
        any_size = self.any_size and key not in self.sizes
        return (any_size or taken.size == self.size_of(key)) and (
            not self.bounded or self.pool.range_of(self.family, taken.low) is not None
        )

    @property
    def ranges(self) -> tuple[Range, ...]:
        return self.pool.of(self.family)


@dataclass(frozen=True, slots=True)
class Holdings:
    """What this fabric holds and rests, by use and key, and what others have taken, by space.

    `pinned` are numbers that a person fixed for a key of this fabric, whether the key is there or not; they are taken, and
    only for it. `moves` are asked for this once: the key leaves what it holds, which another may have at once unless it is
    `live`, and takes the number named. `whose` says in words who has a taken number of a space; it is asked only for the text
    of a refusal.
    """

    held: ByKey = field(default_factory=dict)
    resting: ByKey = field(default_factory=dict)
    others: Mapping[str, Runs] = field(default_factory=dict)
    pinned: ByKey = field(default_factory=dict)
    moves: ByKey = field(default_factory=dict)
    live: frozenset[tuple[str, str]] = frozenset()
    whose: Callable[[str, int, int], str] | None = None

    def are(self, numbers: ByKey) -> bool:
        """Whether exactly these are held, and nothing is to move."""
        if self.moves or any(taken and use not in numbers for use, taken in self.held.items()):
            return False
        return all(self.held.get(use, {}) == taken for use, taken in numbers.items())


@dataclass(frozen=True, slots=True)
class Allocation:
    """`numbers` is all that is held now; the rest is what changed against the holdings, as (use, key) pairs.

    `added` are drawn anew, `returned` come back from their rest, `claimed` take up a number that was pinned for them and
    waited; `given_back` are held no more, of which `passed` went straight to another key of the fabric; `consumed` are
    resting numbers that another key took.
    """

    numbers: ByKey
    added: tuple[tuple[str, str], ...] = ()
    returned: tuple[tuple[str, str], ...] = ()
    given_back: tuple[tuple[str, str], ...] = ()
    consumed: tuple[tuple[str, str], ...] = ()
    claimed: tuple[tuple[str, str], ...] = ()
    passed: tuple[tuple[str, str], ...] = ()


def differing_numbers(was: ByKey, now: ByKey) -> Iterator[tuple[str, str]]:
    """The numbers that are others than before, new or gone, as (use, key).

    >>> list(differing_numbers({"asn": {"a": Taken(1, 1), "b": Taken(2, 1)}}, {"asn": {"a": Taken(1, 1), "c": Taken(2, 1)}}))
    [('asn', 'c'), ('asn', 'b')]
    """
    for use in sorted(was.keys() | now.keys()):
        before, after = was.get(use, {}), now.get(use, {})
        if before is not after:
            yield from ((use, key) for key, taken in after.items() if before.get(key) != taken)
            yield from ((use, key) for key in before.keys() - after.keys())
