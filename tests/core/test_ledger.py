"""Numbers never collide and never move by themselves."""

from __future__ import annotations

import random
from dataclasses import replace
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, Stock, compile
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from barrio.core.ledger.allocate import allocate
from barrio.core.ledger.pool import Family, Pool, parse_range
from barrio.core.ledger.runs import Runs, lowest_free
from barrio.core.ledger.wanted import Demand, Holdings, Taken
from tests.conftest import EXAMPLES, briefs, tries


def brief_of(data: dict[str, Any]) -> Brief:
    return Brief.model_validate(data)


def kept(compiled: Compiled, resting: dict[str, dict[str, Taken]] | None = None) -> Stock:
    """The ledger after a compile, for the next one."""
    return Stock(compiled.pools, Holdings(compiled.allocation.numbers, resting or {}))


def marlin() -> dict[str, Any]:
    text = next(path for path in EXAMPLES if path.stem == "marlin").read_text()
    return read(text).brief.model_dump(mode="json", exclude={"hosts"})


def moved(before: Compiled, after: Compiled) -> dict[tuple[str, str], tuple[Taken, Taken]]:
    return {
        (use, key): (taken, after.allocation.numbers[use][key])
        for use, entries in before.allocation.numbers.items()
        for key, taken in entries.items()
        if key in after.allocation.numbers.get(use, {}) and after.allocation.numbers[use][key] != taken
    }


def test_adding_a_rack_in_the_middle_moves_no_number_and_no_cable() -> None:
    data = marlin()
    data["racks"][0]["racks"] = "r01..r05, r07..r12"
    before = compile(brief_of(data))
    data["racks"][0]["racks"] = "r01..r12"
    after = compile(brief_of(data), kept(before))
    assert moved(before, after) == {}
    ports = {end.link.key: (end.upper_port, end.lower_port, end.label) for end in before.ends}
    assert ports == {key: ends for key, ends in _ends(after).items() if key in ports}
    assert len(after.ends) == len(before.ends) + 2 * 4 * 2


def _ends(compiled: Compiled) -> dict[str, tuple[str, str, str]]:
    return {end.link.key: (end.upper_port, end.lower_port, end.label) for end in compiled.ends}


def test_adding_spines_and_parallel_links_moves_no_number_and_no_cable() -> None:
    data = marlin()
    data["uplinks_per_spine"], data["spines"]["count"] = 1, 2
    first = compile(brief_of(data))
    data["spines"]["count"] = 4
    second = compile(brief_of(data), kept(first))
    data["uplinks_per_spine"] = 2
    third = compile(brief_of(data), kept(second))
    for before, after in ((first, second), (second, third)):
        assert moved(before, after) == {}
        assert _ends(before).items() <= _ends(after).items()


def test_renaming_a_switch_changes_its_name_and_no_number() -> None:
    data = marlin()
    before = compile(brief_of(data))
    data["names"] = {"leaf/r07/b": "tide-07b"}
    after = compile(brief_of(data), kept(before))
    assert moved(before, after) == {}
    assert after.models["leaf/r07/b"].name == "tide-07b"
    assert "hostname tide-07b" in after.files("leaf/r07/b")["etc/frr/frr.conf"]
    touched = {key for key in after.models if after.models[key] != before.models[key]}
    assert touched == {"leaf/r07/b", "spine/1", "spine/2", "spine/3", "spine/4"}


@tries(40)
@given(data=briefs(), seed=st.integers())
def test_reordering_a_brief_moves_no_number(data: dict[str, Any], seed: int) -> None:
    before = compile(brief_of(data))
    shuffle = random.Random(seed)
    data["racks"] = [
        group | {"racks": ", ".join(shuffle.sample(group["racks"].split(", "), len(group["racks"].split(", "))))}
        for group in shuffle.sample(data["racks"], len(data["racks"]))
    ]
    for part in ("segments", "vrfs"):
        data[part] = dict(shuffle.sample(list(data[part].items()), len(data[part])))
    after = compile(brief_of(data), kept(before))
    assert after.allocation.numbers == before.allocation.numbers
    assert not after.allocation.added and not after.allocation.given_back
    for key in before.models:
        assert after.files(key) == before.files(key)


@tries(40)
@given(one=briefs(), two=briefs(), three=briefs())
def test_no_history_of_edits_makes_an_overlap_or_moves_what_stays(
    one: dict[str, Any], two: dict[str, Any], three: dict[str, Any]
) -> None:
    before = compile(brief_of(one))
    resting: dict[str, dict[str, Taken]] = {}
    for data in (two, three):
        after = compile(brief_of({**data, "fabric": one["fabric"]}), kept(before, resting))
        assert moved(before, after) == {} or all(use.startswith("port.") for use, _ in moved(before, after)), (
            "only a port that is no longer there may move"
        )
        for use, key in after.allocation.given_back:
            resting.setdefault(use, {})[key] = before.allocation.numbers[use][key]
        for use, key in (*after.allocation.returned, *after.allocation.consumed):
            resting[use].pop(key)
        _claim_no_overlap(after, resting)
        before = after


def _claim_no_overlap(compiled: Compiled, resting: dict[str, dict[str, Taken]]) -> None:
    spaces: dict[str, list[Taken]] = {}
    for book in (compiled.allocation.numbers, resting):
        for use, entries in book.items():
            space = use.rsplit(".", 1)[-1] if use.endswith((".v4", ".v6")) else use
            spaces.setdefault(space, []).extend(entries.values())
    for space, taken in spaces.items():
        taken.sort()
        for lower, upper in pairwise(taken):
            assert lower.low + lower.size <= upper.low, space
    for model in compiled.models.values():
        assert len(set(model.vlans)) == len(model.vlans), "one bridge, one segment for each VLAN"


def test_a_number_given_back_rests_and_returns_to_its_own_key_only() -> None:
    data = marlin()
    full = compile(brief_of(data))
    data["racks"][0]["racks"] = "r01..r11"
    smaller = compile(brief_of(data), kept(full))
    gone = {(use, key) for use, key in smaller.allocation.given_back}
    assert ("loopback.v4", "leaf/r12/a") in gone
    resting = {use: {k: full.allocation.numbers[use][k] for u, k in gone if u == use} for use, _ in gone}
    data["racks"][0]["racks"] = "r01..r11, r20"
    other = compile(brief_of(data), kept(smaller, resting))
    for use in ("loopback.v4", "asn", "link.v4", "vtep.v4"):
        assert not set(other.allocation.numbers[use].values()) & set(resting[use].values())
    data["racks"][0]["racks"] = "r01..r12"
    again = compile(brief_of(data), kept(smaller, resting))
    assert again.allocation.numbers == full.allocation.numbers


def test_a_pool_that_runs_out_says_how_many_are_missing_and_the_way_out() -> None:
    data = marlin()
    data["pools"]["halls-p2p"] = ["10.61.0.0/25", "fd61:0:2::/64"]
    with pytest.raises(Refused) as refused:
        compile(brief_of(data))
    (fault,) = refused.value.faults
    assert fault.code == "pool.exhausted" and fault.path == "pools.halls-p2p"
    assert "144 short of the 208 new /31s" in fault.message and "Add a range" in fault.message


def test_a_pin_that_another_holds_is_refused_and_names_the_holder() -> None:
    data = marlin()
    data["segments"]["tide-grid"]["vlan"] = 110
    with pytest.raises(Refused) as refused:
        compile(brief_of(data))
    assert refused.value.faults[0].code == "pin.taken"
    assert "VLAN of segment/forecast-web" in str(refused.value) or "VLAN of segment/tide-grid" in str(refused.value)


def test_numbers_of_a_use_that_is_not_wanted_now_are_still_nobody_elses() -> None:
    """One pool for all addresses: links lose their numbers, and new loopbacks keep clear of them while they rest."""
    data: dict[str, Any] = {
        "fabric": "one",
        "racks": [{"racks": "r01..r02"}],
        "pools": {"all": ["10.9.0.0/24"]},
        "numbers": {"loopback": "all", "links": "all", "vtep": "all", "management": "all"},
    }
    numbered = compile(brief_of(data))
    data["underlay"] = {"addressing": "unnumbered"}
    data["racks"][0]["racks"] = "r01..r06"
    bare = compile(brief_of(data), kept(numbered))
    gone = {
        use: {k: numbered.allocation.numbers[use][k] for u, k in bare.allocation.given_back if u == use}
        for use in ("link.v4",)
    }
    assert len(gone["link.v4"]) == 8
    _claim_no_overlap(bare, gone)
    data["racks"][0]["racks"] = "r01..r09"
    later = compile(brief_of(data), kept(bare, gone))
    _claim_no_overlap(later, gone)


def test_two_fabrics_that_share_pools_hold_different_numbers() -> None:
    first = compile(read(EXAMPLES[0].read_text()).brief)
    others: dict[str, Runs] = {}
    for use, entries in first.allocation.numbers.items():
        runs = others.setdefault(use.rsplit(".", 1)[-1], Runs())
        for taken in entries.values():
            runs.add(taken.low, taken.high)
    second = compile(read(EXAMPLES[1].read_text()).brief, Stock(first.pools, Holdings(others=others)))
    for use in ("loopback.v4", "vtep.v4", "asn", "vni"):
        assert not set(first.allocation.numbers[use].values()) & set(second.allocation.numbers[use].values())


def test_addresses_that_must_not_be_used_are_never_handed_out() -> None:
    compiled = compile(brief_of(marlin()))
    management = {taken.low & 0xFF for taken in compiled.allocation.numbers["management.v4"].values()}
    assert not management & {0, 1, 255}, "network, gateway, broadcast"
    assert min(compiled.allocation.numbers["link.v6"].values()).low & 0xFFFF == 2, "RFC 6164: not the all-zeros /127"


def test_what_rests_is_nobodys_even_when_nothing_else_is_free_but_for_a_port() -> None:
    pool = Pool("p", (parse_range("1..2"),))
    rested = Holdings(resting={"asn": {"gone": Taken(2, 1)}})
    wish = Demand("asn", "asn", Family.NUMBER, pool, 1, ["a", "b"])
    with pytest.raises(Refused, match="resting"):
        allocate([wish], rested)
    assert len(allocate([replace(wish, reuses_resting=True)], rested).numbers["asn"]) == 2


def test_a_fabric_is_given_no_asn_that_the_rfcs_keep() -> None:
    """RFC 6793, 7300 and 5398: the two that stand for nothing, AS_TRANS, and those for documents."""
    compiled = compile(read("fabric: x\nracks: [{racks: r1..r3, leaves: 1}]\npools: {asns: ['65533..65553']}\n").brief)
    assert {taken.low for taken in compiled.allocation.numbers["asn"].values()} == {65533, 65534, 65552, 65553}


def test_asns_leave_out_the_reserved_ones() -> None:
    pool = Pool("p", (parse_range("23455..23457"), parse_range("65534..65552")))
    demand = Demand("asn", "asn", Family.NUMBER, pool, 1, list("abcd"), reserved=((23456, 23456), (65535, 65551)))
    assert [taken.low for taken in allocate([demand], Holdings()).numbers["asn"].values()] == [
        23455,
        23457,
        65534,
        65552,
    ]


@given(
    taken=st.lists(st.tuples(st.integers(0, 300), st.sampled_from([1, 2, 4, 8])), max_size=30),
    size=st.sampled_from([1, 2, 4, 16]),
)
def test_the_lowest_free_are_exactly_the_aligned_blocks_that_touch_nothing(
    taken: list[tuple[int, int]], size: int
) -> None:
    used = {place for low, width in taken for place in range(low, low + width)}
    expected = [low for low in range(0, 257 - size, size) if not used & set(range(low, low + size))]
    runs = Runs.of((low, low + width - 1) for low, width in taken)
    assert list(lowest_free([parse_range("0..255")], size, [runs])) == expected


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("10.0.0.0/33", "range.syntax"),
        ("20..10", "range.reversed"),
        ("10.0.0.1/24", "range.host-bits"),
        ("x", "range.syntax"),
    ],
)
def test_a_range_that_makes_no_sense_is_refused_in_words(text: str, code: str) -> None:
    with pytest.raises(Refused) as refused:
        parse_range(text)
    assert refused.value.faults[0].code == code


def test_pools_that_overlap_are_refused() -> None:
    data = marlin()
    data["pools"]["halls-vtep"] = ["10.60.2.0/24"]
    with pytest.raises(Refused) as refused:
        compile(brief_of(data))
    assert refused.value.faults[0].code == "pool.overlap"
