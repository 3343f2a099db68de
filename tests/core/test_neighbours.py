"""Neighbour tables against the plan: read in every form, each cable judged, and the moves that put all right."""

from __future__ import annotations

import json
import random
from collections.abc import Callable
from typing import Any

import pytest

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import read
from barrio.core.cabling.compared import Compared, compare
from barrio.core.cabling.heard import Heard, Port, read_heard, table_of
from barrio.core.cabling.replan import replan
from tests.conftest import EXAMPLES

MARLIN = compile(read(next(path for path in EXAMPLES if path.stem == "marlin").read_text()).brief)
Pairs = list[tuple[Port, Port]]


def planned(compiled: Compiled = MARLIN) -> Pairs:
    return [
        (Port(one.a.switch, one.a.port), Port(one.b.switch, one.b.port))
        for one in compiled.cables
        if one.use == "fabric"
    ]


def rows(pairs: Pairs, whose: Callable[[str], bool] = lambda _: True) -> list[Heard]:
    return [Heard(one, other) for pair in pairs for one, other in (pair, pair[::-1]) if whose(one.system)]


def compared(found: list[Heard]) -> Compared:
    return compare(MARLIN.cables, table_of(found))


def crossed(count: int, seed: int) -> Pairs:
    """Marlin's cables, the far ends of some of them passed round."""
    pairs, chosen = planned(), random.Random(seed).sample(range(208), count)
    far = [pairs[at][1] for at in chosen]
    for at, other in zip(chosen, far[1:] + far[:1], strict=True):
        pairs[at] = (pairs[at][0], other)
    return pairs


def states(found: Compared) -> dict[str, int]:
    return found.counts


LLDPCTL = {"lldp": {"interface": [
    {"u1": {"chassis": {"spine-1": {"id": {"type": "mac", "value": "02:00:00:00:00:01"}}},
            "port": {"id": {"type": "ifname", "value": "p1"}, "auto-negotiation": {"current": "100GbaseCR4 - 4-lane"}}}},
    {"u2": {"chassis": {"spine-1": {}}, "port": {"id": {"type": "ifname", "value": "p2"}}}},
]}}  # fmt: skip
JSON0 = {"lldp": [{"interface": [
    {"name": "u1", "chassis": [{"name": [{"value": "spine-1.marlin.azulejo.example"}]}], "port": [{"id": [{"type": "ifname", "value": "p1"}]}]},
]}]}  # fmt: skip


@pytest.mark.parametrize(
    ("text", "switch"),
    [
        (json.dumps(LLDPCTL), "leaf-r01a"),
        (json.dumps({"leaf-r01a": LLDPCTL}), ""),
        (json.dumps(JSON0), "leaf-r01a"),
        ("switch,port,neighbour,neighbour port,speed\nleaf-r01a,u1,spine-1,p1,100G\n", ""),
        ("Port;Remote;Remote Port\nu1;spine-1;p1\n", "leaf-r01a"),
        ("# pasted\nleaf-r01a u1 spine-1 p1\n", ""),
        ("leaf-r01a\tu1\tspine-1\tp1", ""),
    ],
)
def test_a_table_is_read_in_every_form(text: str, switch: str) -> None:
    found = read_heard(text.encode(), switch).rows
    assert (found[0].at, found[0].far) == (Port("leaf-r01a", "u1"), Port("spine-1", "p1"))
    if "100" in text:
        assert found[0].speed == 100


@pytest.mark.parametrize(
    ("data", "code", "words"),
    [
        (b"", "neighbours.empty", "names no neighbour"),
        (b"[]", "neighbours.whose", "leaf-r01a.json"),
        (b"{}", "neighbours.empty", "lldpcli -f json show neighbors"),
        (b'{"lldp": {', "neighbours.syntax", "line 1"),
        (json.dumps(LLDPCTL).encode(), "neighbours.whose", "leaf-r01a.json"),
        (b"\xff\xfe\x00", "neighbours.encoding", "UTF-8"),
        (b"leaf-r01a u1 spine-1 p1\nleaf-r01a u2", "neighbours.syntax", "Line 2 does not say"),
        (b"[" * 100_000, "neighbours.syntax", "not JSON"),
    ],
)
def test_what_cannot_be_read_is_refused_with_its_place(data: bytes, code: str, words: str) -> None:
    with pytest.raises(Refused) as refused:
        read_heard(data)
    assert refused.value.faults[0].code == code and words in refused.value.faults[0].message


def test_a_fabric_that_lies_as_planned_needs_no_move() -> None:
    found = compared(rows(planned()))
    assert states(found) == {"right": 208} and not found.mends and not found.unknown


@pytest.mark.parametrize("seed", range(5))
def test_crossed_cables_are_found_and_no_other_and_take_a_move_each(seed: int) -> None:
    lying = crossed(5, seed)
    wrong = {MARLIN.cables[at].label for at, pair in enumerate(lying) if pair != planned()[at]}
    found = compared(rows(lying))
    assert {one.label for one in found.cables if one.state == "swapped"} == wrong and len(wrong) == 5
    assert states(found) == {"right": 203, "swapped": 5} and found.moves == 5


def test_leaves_alone_tell_as_much_as_both_ends() -> None:
    found = compared(rows(crossed(5, 1), lambda name: name.startswith(("leaf", "border"))))
    assert states(found) == {"right": 203, "swapped": 5} and found.moves == 5


def test_what_was_not_asked_is_not_concluded_from() -> None:
    found = compared(rows(planned(), lambda name: name == "leaf-r01a"))
    assert states(found) == {"right": 8, "not heard of": 200} and not found.mends


def test_a_switch_that_was_asked_and_hears_nobody_lacks_all_its_cables() -> None:
    silent = compare(MARLIN.cables, read_heard(b'{"leaf-r01a": {"lldp": {}}}'))
    assert states(silent) == {"missing": 8, "not heard of": 200}


def test_missing_unknown_and_slow_cables_are_told() -> None:
    pairs = [*planned()[1:], (Port("leaf-r01a", "h40"), Port("coffee-machine", "eth0"))]
    table = rows(pairs)
    table[0] = Heard(table[0].at, table[0].far, 40)
    found = compared(table)
    assert states(found) == {"missing": 1, "wrong speed": 1, "right": 206}
    assert found.unknown == ((Port("leaf-r01a", "h40"), Port("coffee-machine", "eth0")),)
    assert [mend.lay for mend in found.mends] == [((Port("leaf-r01a", "u1"), Port("spine-1", "p1")),)]
    contradicting = compared([*rows(planned()[1:]), Heard(Port("leaf-r01a", "u1"), Port("spine-1", "p5"))])
    assert [one.code for one in contradicting.faults] == ["neighbours.contradict"]


def test_another_fabrics_table_is_refused() -> None:
    with pytest.raises(Refused) as refused:
        compared([Heard(Port("leaf-t01a", "u1"), Port("spine-t1", "p1"))])
    assert refused.value.faults[0].code == "neighbours.stranger"


def lying(pairs: Pairs) -> dict[Port, Port]:
    return {one: other for pair in pairs for one, other in (pair, pair[::-1])}


def test_two_leaves_in_each_others_place_are_rather_planned_anew_than_moved() -> None:
    """All sixteen plugs of a pair on the spines, against four positions in the Ledger."""
    swap = {"leaf-r03a": "leaf-r03b", "leaf-r03b": "leaf-r03a"}
    at = {one: other for one, other in planned() if one.system in swap}
    pairs = [(one, at[Port(swap[one.system], one.name)] if one in at else other) for one, other in planned()]
    assert compared(rows(pairs)).moves == 16
    numbers: Any = MARLIN.allocation.numbers
    found = replan(MARLIN.brief, MARLIN.structure, numbers, MARLIN.ends, lying(pairs))
    assert found and (found.moves, found.left) == (16, 0)
    assert {key for _, key, _ in found.pins} == {f"leaf/r03/{side}~{lane}" for side in "ab" for lane in (1, 2)}


def test_a_cable_or_two_that_are_crossed_are_moved_and_not_planned_anew() -> None:
    numbers: Any = MARLIN.allocation.numbers
    assert replan(MARLIN.brief, MARLIN.structure, numbers, MARLIN.ends, lying(crossed(5, 3))) is None
