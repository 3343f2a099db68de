"""The smallest set of moves, against a search over everything that could be done, and against the closed form of cycles."""

from __future__ import annotations

import random
from heapq import heappop, heappush

from hypothesis import given
from hypothesis import strategies as st

from barrio.core.cabling.moves import Mend, mends
from tests.conftest import tries

Matching = dict[int, int]


def both_ways(pairs: list[tuple[int, int]]) -> Matching:
    return {one: other for pair in pairs for one, other in (pair, pair[::-1])}


def pairs_of(matching: Matching) -> set[frozenset[int]]:
    return {frozenset(pair) for pair in matching.items()}


@st.composite
def matchings(draw: st.DrawFn, ports: int) -> Matching:
    order = draw(st.permutations(range(ports)))
    count = draw(st.integers(0, ports // 2))
    return both_ways([(order[2 * at], order[2 * at + 1]) for at in range(count)])


def followed(lying: Matching, found: list[Mend[int]]) -> tuple[set[frozenset[int]], int]:
    """What lies there once a person has followed the list, and how many plugs they pulled out. Fails where a hole is taken or empty."""
    cables = [set(pair) for pair in pairs_of(lying)]
    out = 0
    for mend in found:
        for one, other in mend.pull:
            cables.remove({one, other})
            out += 2
        loose: tuple[set[int], int] | None = None
        for move in mend.moves:
            cable = next(one for one in cables if one == {move.out, move.stays})
            cable.remove(move.out)
            out += 1
            if move.loose:
                assert loose is None, "one plug at most hangs loose"
                loose = (cable, move.into)
                continue
            assert not any(move.into in one for one in cables), "the hole is free"
            cable.add(move.into)
        if loose:
            assert not any(loose[1] in one for one in cables)
            loose[0].add(loose[1])
        for one, other in mend.lay:
            assert not any(one in cable or other in cable for cable in cables)
            cables.append({one, other})
    return {frozenset(cable) for cable in cables}, out


def fewest(lying: Matching, planned: Matching) -> int:
    """The fewest plugs pulled out after which nothing lies otherwise than planned, with as many planned cables as can be made of those there,
    by search over every state (a cable is its two ends, 0 for a loose one; Dijkstra 1959)."""
    goal = pairs_of(planned)
    cables = tuple(tuple(sorted(pair)) for pair in sorted(map(sorted, pairs_of(lying))))
    wanted = min(len(cables), len(goal))
    queue: list[tuple[int, tuple[tuple[int, ...], ...]]] = [(0, cables)]
    seen: set[tuple[tuple[int, ...], ...]] = set()
    while queue:
        cost, state = heappop(queue)
        if state in seen:
            continue
        seen.add(state)
        whole = [cable for cable in state if -1 not in cable]
        if (
            all(frozenset(cable) in goal for cable in whole)
            and len(whole) == wanted
            and all(cable in whole or cable == (-1, -1) for cable in state)
        ):
            return cost
        taken = {port for cable in state for port in cable}
        for at, cable in enumerate(state):
            for end in (0, 1):
                rest = state[:at] + state[at + 1 :]
                if cable[end] != -1:
                    heappush(queue, (cost + 1, tuple(sorted((*rest, tuple(sorted((cable[1 - end], -1))))))))
                else:
                    for port in planned:
                        if port not in taken:
                            heappush(queue, (cost, tuple(sorted((*rest, tuple(sorted((cable[1 - end], port))))))))
    raise AssertionError("no way")


@tries(60)
@given(planned=matchings(6), lying=matchings(6))
def test_no_search_finds_a_smaller_set_of_moves(planned: Matching, lying: Matching) -> None:
    found = mends(planned, lying)
    after, out = followed(lying, found)
    assert pairs_of(planned) == after, "whoever follows the list is done"
    assert out == fewest(lying, planned)


@tries(100)
@given(planned=matchings(40), lying=matchings(40))
def test_whoever_follows_the_list_is_done_and_touches_nothing_that_is_right(planned: Matching, lying: Matching) -> None:
    found = mends(planned, lying)
    after, _ = followed(lying, found)
    assert after == pairs_of(planned)
    right = {port for pair in pairs_of(planned) & pairs_of(lying) for port in pair}
    assert not right & {port for mend in found for move in mend.moves for port in (move.out, move.into)}


def test_crossed_cables_take_as_many_moves_as_there_are_cables_in_their_cycles() -> None:
    """Of a permutation of n far ends, each cycle of length k > 1 takes k moves: n less the fixed points."""
    for seed in range(6):
        order = list(range(2000))
        random.Random(seed).shuffle(order)
        planned = both_ways([(at, 10_000 + at) for at in range(2000)])
        lying = both_ways([(at, 10_000 + to) for at, to in enumerate(order)])
        found = mends(planned, lying)
        assert sum(len(mend.moves) for mend in found) == sum(at != to for at, to in enumerate(order))
        if seed == 0:
            assert followed(lying, found)[0] == pairs_of(planned)


def test_of_two_ways_round_the_one_that_costs_less_is_told() -> None:
    planned, lying = both_ways([(1, 11), (2, 12), (3, 13)]), both_ways([(1, 12), (2, 13), (3, 11)])
    (low,) = mends(planned, lying, lambda move: move.out)
    (high,) = mends(planned, lying, lambda move: -move.out)
    assert {move.out for move in low.moves} == {1, 2, 3} and {move.out for move in high.moves} == {11, 12, 13}
