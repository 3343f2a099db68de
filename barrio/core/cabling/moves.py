"""The smallest set of moves that makes cables lie as planned.

Ports are the vertices of a graph; what is planned and what lies there are two matchings on them. Their difference falls apart into cycles
and paths in which the two alternate (Berge 1957). In a component with `p` planned and `h` lying cables, min(p, h) cables become right by
moving one plug each, and no fewer plugs will do: each planned cable that is not there needs one that is plugged anew at one end at least.
What is left over is to be laid (p > h) or pulled (h > p). On a path the first target is free; on a cycle one plug hangs loose meanwhile.

Moves are told in an order in which each goes into a hole that is free by then. Cables that are right are never touched, and a component is
finished before the next is begun, so that at any moment one plug at most is out of a hole because of us.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

P = TypeVar("P", bound=Hashable)


@dataclass(frozen=True, slots=True)
class Move(Generic[P]):
    """Take the plug out of `out` and put it into `into`; the other end of its cable stays at `stays`. A `loose` one hangs until its hole is
    free: it is taken out first of its component, and put in last."""

    out: P
    into: P
    stays: P
    loose: bool = False


@dataclass(frozen=True, slots=True)
class Mend(Generic[P]):
    """What puts one component right, in the order in which it is done: cables to pull (both ends), plugs to move, cables to lay."""

    pull: tuple[tuple[P, P], ...]
    moves: tuple[Move[P], ...]
    lay: tuple[tuple[P, P], ...]


def mends(
    planned: Mapping[P, P], lying: Mapping[P, P], cost: Callable[[Move[P]], float] = lambda move: 0.0
) -> list[Mend[P]]:
    """What puts right all that lies otherwise than planned, a component at a time. Both mappings go both ways (`a: b` and `b: a`).

    Of equally small sets, the one of which the moves cost less by `cost` is told; which end of a cable is moved is free.

    >>> [mend.moves for mend in mends({1: 2, 2: 1, 3: 4, 4: 3}, {1: 4, 4: 1, 3: 2, 2: 3})]
    [(Move(out=1, into=3, stays=4, loose=True), Move(out=3, into=1, stays=2, loose=False))]
    """
    return [_mend(walk, closed, planned, lying, cost) for walk, closed in _components(planned, lying)]


def _components(planned: Mapping[P, P], lying: Mapping[P, P]) -> Iterator[tuple[list[P], bool]]:
    """Paths from one end to the other, then cycles beginning with a cable that lies there, each as its ports in turn."""
    wrong = [port for port in dict.fromkeys([*planned, *lying]) if planned.get(port) != lying.get(port)]
    seen: set[P] = set()
    ends = [port for port in wrong if port not in planned or port not in lying]
    for port in ends:
        if port not in seen:
            yield _walk(port, planned, lying, port in lying, seen), False
    for port in wrong:
        if port not in seen:
            yield _walk(port, planned, lying, True, seen), True


def _walk(start: P, planned: Mapping[P, P], lying: Mapping[P, P], along_cable: bool, seen: set[P]) -> list[P]:
    walk, port = [start], start
    seen.add(start)
    while True:
        following = (lying if along_cable else planned).get(port)
        if following is None or following in seen:
            return walk
        walk.append(following)
        seen.add(following)
        port, along_cable = following, not along_cable


def _mend(
    walk: list[P], closed: bool, planned: Mapping[P, P], lying: Mapping[P, P], cost: Callable[[Move[P]], float]
) -> Mend[P]:
    return min(_ways(walk, closed, planned, lying), key=lambda mend: sum(map(cost, mend.moves)))


def _ways(walk: list[P], closed: bool, planned: Mapping[P, P], lying: Mapping[P, P]) -> Iterator[Mend[P]]:
    """The two ways to mend a component: with the plugs moved towards its one end, or towards its other."""
    if closed:
        for turn in (walk, [walk[1], walk[0], *walk[:1:-1]]):
            # Every cable (turn[2i], turn[2i + 1]) keeps its second end and goes on to the port that is planned for that.
            size = len(turn)
            moves = [Move(turn[at], turn[(at + 2) % size], turn[at + 1]) for at in range(size - 2, 0, -2)]
            yield Mend((), (Move(turn[0], turn[2 % size], turn[1], True), *moves), ())
        return
    for line in (walk, walk[::-1]):
        yield _towards_its_end(line, planned, lying)


def _towards_its_end(line: Sequence[P], planned: Mapping[P, P], lying: Mapping[P, P]) -> Mend[P]:
    """A path mended with every plug going towards its end; a first cable that is one too many is pulled, a first link without one laid."""
    first_lies = line[0] in lying and (len(line) > 1 and lying[line[0]] == line[1])
    cables = [(line[at], line[at + 1]) for at in range(0 if first_lies else 1, len(line) - 1, 2)]
    last_lies = bool(cables) and cables[-1][1] == line[-1]
    lay = [] if first_lies else [(line[0], line[1])]
    pull: list[tuple[P, P]] = []
    if last_lies and first_lies:
        # One cable more than links: the last one goes, and leaves its hole to the one before it.
        pull, cables = [cables[-1]], cables[:-1]
    elif last_lies and not first_lies:
        # As many cables as links, with the free hole at the beginning: from this side they go the other way.
        return _towards_its_end(line[::-1], planned, lying)
    moves = tuple(Move(one, planned[other], other) for one, other in reversed(cables))
    return Mend(tuple(pull), moves, tuple(lay))
