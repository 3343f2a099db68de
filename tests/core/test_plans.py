"""Plans, pools in pools, pins, reservations, families, growth: what a pool gives to whom, and what it refuses."""

from __future__ import annotations

from dataclasses import replace
from ipaddress import ip_network
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, Stock, compile
from barrio.core.brief.document import read, set_value
from barrio.core.brief.model import Brief
from barrio.core.catalogue.made import MADE
from barrio.core.checks.pools import check_range
from barrio.core.ledger.allocate import allocate
from barrio.core.ledger.growth import forecast, grown_brief
from barrio.core.ledger.nest import check_pools
from barrio.core.ledger.numbers import parse_number
from barrio.core.ledger.pool import Family, Kind, Plan, Pool, Range, Reserved, parse_range, prefix_text
from barrio.core.ledger.position import Layout
from barrio.core.ledger.refusals import not_in_pool
from barrio.core.ledger.renumber import renumbering
from barrio.core.ledger.runs import Holes, Runs, aligned
from barrio.core.ledger.slots import at_slot, slot_of
from barrio.core.ledger.wanted import Demand, Holdings, Taken
from tests.conftest import EXAMPLES, tries

PELICAN, MARLIN = (next(path.read_text() for path in EXAMPLES if path.stem == name) for name in ("pelican", "marlin"))


def pool(name: str, *ranges: str, **more: Any) -> Pool:
    return Pool(name, tuple(map(parse_range, ranges)), **more)


def compiled_with(text: str, **plans: Plan) -> Compiled:
    """A brief compiled with other plans for some of its pools, which it makes its own by declaring them."""
    brief = read(text).brief
    first = compile(brief)
    pools = {name: replace(one, plan=plans.get(name.replace("-", "_"), one.plan)) for name, one in first.pools.items()}
    return compile(brief, Stock(pools))


def texts(compiled: Compiled, use: str) -> dict[str, str]:
    family = Family(use[-2:]) if use.endswith((".v4", ".v6")) else Family.NUMBER
    return {key: prefix_text(family, *taken) for key, taken in compiled.allocation.numbers[use].items()}


POSITION = """
fabric: marlin
spines: {count: 3, growth: 1, model: cantera-c64}
racks: [{racks: r01..r12, growth: 2, leaves: 2}, {racks: b01, role: border, leaves: 2}]
uplinks_per_spine: 2
underlay: {addressing: dual}
"""
BY_POSITION = dict.fromkeys(("loopbacks", "vteps", "links", "asns", "management"), Plan.POSITION)


def test_by_position_rack_leaf_and_spine_say_the_number() -> None:
    found = compiled_with(POSITION, **BY_POSITION)
    loopbacks, asns, links = (texts(found, use) for use in ("loopback.v4", "asn", "link.v4"))
    assert loopbacks["spine/3"] == "10.0.0.3"
    assert loopbacks["leaf/r07/b"] == "10.0.0.47" and texts(found, "loopback.v6")["leaf/r07/b"].endswith(":2f")
    assert asns["spines"] == "4200000010" and asns["leaf/r07/b"] == "4200001072" and asns["leaf/b01/a"] == "4200002011"
    assert texts(found, "management.v4")["spine/1"] == "10.255.0.17", "the first sixteen are left for gateways"
    steps = [links[f"leaf/r07/b~spine/{spine}~{lane}"] for spine in (1, 2, 3) for lane in (1, 2)]
    lows = [int(ip_network(text).network_address) for text in steps]
    assert [two - one for one, two in pairwise(lows)] == [2] * 5, "one spine after the other, lane by lane"


def test_by_position_no_number_depends_on_what_else_is_there() -> None:
    """A rack more or less, in any order, and a spine that was declared: every number of what stays is the same."""
    whole = compiled_with(POSITION, **BY_POSITION)
    for path, value in (
        ("racks[0].racks", "r12, r03, r07"), ("racks[0].racks", "r01..r13"), ("spines", {"count": 4, "model": "cantera-c64"}),
        ("racks[0].leaves", 1),
    ):  # fmt: skip
        text = set_value(POSITION, path, value)
        if value == "r01..r13":
            text = set_value(text, "racks[0].growth", 1)
        other = compiled_with(text, **BY_POSITION)
        for use in ("loopback.v4", "loopback.v6", "vtep.v4", "management.v4", "link.v4", "link.v6"):
            mine, theirs = texts(whole, use), texts(other, use)
            shared = mine.keys() & theirs.keys()
            assert shared and {key: mine[key] for key in shared} == {key: theirs[key] for key in shared}, (path, use)


def test_by_position_three_tiers_have_a_block_for_each_pod() -> None:
    found = compiled_with(PELICAN, **{name.replace("-", "_"): Plan.POSITION for name in compile(read(PELICAN).brief).pools
                                      if "loopback" in name})  # fmt: skip
    numbers = found.allocation.numbers["loopback.v4"]
    assert len(set(numbers.values())) == len(numbers)
    with pytest.raises(Refused, match="has room for 5000") as refused:
        compiled_with(PELICAN, office_private=Plan.POSITION)
    assert "So it is with" in refused.value.faults[-1].message and len(refused.value.faults) == 6
    spines = {
        key: taken.low for key, taken in found.allocation.numbers["loopback.v4"].items() if key.startswith("spine/")
    }
    first = [spines[f"spine/p{pod:02d}/1"] for pod in (1, 2, 3)]
    assert first[2] - first[1] == first[1] - first[0] > 0, "pods are a stride apart"
    supers = [taken.low for key, taken in numbers.items() if key.startswith("super/")]
    low, stride = min(found.pools["halls-loopback"].of(Family.V4), key=lambda part: part.low).low, first[1] - first[0]
    assert max(supers) < first[0] < low + 2 * stride, (
        "the first pod's block begins at the first stride past the super-spines"
    )


def test_a_position_outside_the_pool_or_taken_is_refused_with_the_way_out() -> None:
    brief = read(POSITION).brief
    pools = dict(compile(brief).pools)
    small = pools | {"loopbacks": pool("loopbacks", "10.0.0.0/26", "fd00:0:0:1::/64", plan=Plan.POSITION)}
    with pytest.raises(Refused) as refused:
        compile(brief, Stock(small))
    outside = [fault for fault in refused.value.faults if fault.code == "position.outside"]
    assert "which has room for 64" in outside[0].message and "another plan" in outside[0].message
    shared = pools | {"loopbacks": replace(pools["loopbacks"], plan=Plan.POSITION)}
    taken = Runs.of([(int(ip_network("10.0.0.47").network_address),) * 2])
    with pytest.raises(Refused) as refused:
        compile(brief, Stock(shared, Holdings(others={"v4": taken})))
    assert [fault.code for fault in refused.value.faults] == ["position.taken"]
    assert "10.0.0.47" in str(refused.value) and "leaf/r07/b" in str(refused.value)


def test_a_vni_by_position_reads_as_its_vlan() -> None:
    found = compiled_with(MARLIN, office_vnis=Plan.POSITION)
    vlans, vnis = texts(found, "vlan"), texts(found, "vni")
    assert len(vnis) > 5 and all(int(vnis[key]) == 30000 + int(vlans[key]) for key in vnis)


def test_changing_a_plan_moves_nothing_and_a_renumbering_says_what_it_would_move() -> None:
    brief = read(POSITION).brief
    before = compile(brief)
    pools = {name: replace(one, plan=BY_POSITION.get(name, one.plan)) for name, one in before.pools.items()}
    holdings = Holdings(before.allocation.numbers)
    after = compile(brief, Stock(pools, holdings))
    assert after.allocation.numbers == before.allocation.numbers
    moves = renumbering(after.demands, holdings, ["asn"])
    assert moves["asn"]["leaf/r07/b"].low == 4200001072
    moved = compile(brief, Stock(pools, replace(holdings, moves=moves)))
    assert moved.allocation.numbers["asn"] == before.allocation.numbers["asn"] | moves["asn"]
    assert moved.allocation.numbers["loopback.v4"] == before.allocation.numbers["loopback.v4"]
    assert set(moved.allocation.given_back) == {("asn", key) for key in moves["asn"]}
    again = Holdings(moved.allocation.numbers)
    assert renumbering(moved.demands, again, ["asn"]) == {"asn": {}}, "what is renumbered stays so"


def test_a_renumbering_leaves_pinned_live_and_resting_numbers_alone() -> None:
    pool_ = pool("p", "1..9")
    demand = Demand("asn", "asn", Family.NUMBER, pool_, 1, list("abc"))
    held = {"asn": {"a": Taken(7, 1), "b": Taken(2, 1), "c": Taken(9, 1)}}
    holdings = Holdings(
        held, {"asn": {"old": Taken(1, 1)}}, pinned={"asn": {"c": Taken(9, 1)}}, live=frozenset({("asn", "b")})
    )
    moves = renumbering([demand], holdings, ["asn"])
    assert moves == {"asn": {"a": Taken(3, 1), "b": Taken(4, 1)}}, "1 rests, 2 is live, 9 is pinned"
    after = allocate([demand], replace(holdings, moves=moves))
    assert after.numbers["asn"] == {"a": Taken(3, 1), "b": Taken(4, 1), "c": Taken(9, 1)} and not after.passed


def test_a_renumbering_may_hand_a_number_straight_on() -> None:
    demand = Demand("asn", "asn", Family.NUMBER, pool("p", "1..3"), 1, list("ab"))
    holdings = Holdings({"asn": {"a": Taken(2, 1), "b": Taken(3, 1)}})
    moves = renumbering([demand], holdings, ["asn"])
    after = allocate([demand], replace(holdings, moves=moves))
    assert after.numbers["asn"] == {"a": Taken(1, 1), "b": Taken(2, 1)}
    assert after.passed == (("asn", "a"),) and set(after.given_back) == {("asn", "a"), ("asn", "b")}


def test_dual_stack_has_the_same_position_in_both_families() -> None:
    found = compile(read(MARLIN).brief)
    for thing, size in (("loopback", 1), ("link", 2)):
        one, two = (next(d for d in found.demands if d.use == f"{thing}.{family}") for family in ("v4", "v6"))
        for key, taken in found.allocation.numbers[one.use].items():
            low = found.allocation.numbers[two.use][key].low
            assert slot_of(one.ranges, taken.low, size) == slot_of(two.ranges, low, size), (thing, key)


@tries(60)
@given(
    mine=st.sets(st.integers(0, 40), max_size=12), four=st.sets(st.integers(0, 40), max_size=12),
    six=st.sets(st.integers(0, 40), max_size=12), count=st.integers(1, 12),
)  # fmt: skip
def test_a_new_key_takes_the_lowest_slot_that_is_free_in_both(
    mine: set[int], four: set[int], six: set[int], count: int
) -> None:
    """Keys that have IPv4 already get its slot in IPv6 where it is free; new ones the lowest that both have."""
    both = pool("p", "10.0.0.0/24", "fd00::/64")
    base = int(ip_network("fd00::/64").network_address)
    start = int(ip_network("10.0.0.0").network_address)
    held = {f"old{slot}": Taken(start + slot, 1) for slot in sorted(mine - four)}
    keys = [*held, *(f"new{number}" for number in range(count))]
    demands = [
        Demand("loopback.v4", "v4", Family.V4, both, 1, keys),
        Demand("loopback.v6", "v6", Family.V6, both, 1, keys, twin="loopback.v4"),
    ]
    others = {
        "v4": Runs.of((start + at, start + at) for at in four),
        "v6": Runs.of((base + at, base + at) for at in six),
    }
    found = allocate(demands, Holdings({"loopback.v4": held}, others=others)).numbers
    slots = [(found["loopback.v4"][key].low - start, found["loopback.v6"][key].low - base) for key in keys]
    assert len({one for one, _ in slots}) == len({two for _, two in slots}) == len(keys)
    assert all(one not in four and two not in six for one, two in slots)
    new = slots[len(held) :]
    assert all(one == two for one, two in new)
    free = [at for at in range(256) if at not in four | six | {taken.low - start for taken in held.values()}]
    assert [one for one, _ in new] == free[:count]
    for (one, two), key in zip(slots, held, strict=False):
        assert one == two or one in six or one in {at for at, _ in new}, key


def test_segments_of_several_sizes_fit_best_and_large_holes_stay_whole() -> None:
    text = MARLIN + "\n"
    for name, wish in (("small", "auto/28"), ("mid", "auto/25"), ("wide", "auto/22")):
        text = set_value(text, f"segments.{name}", {"vrf": "tides", "v4": wish})
    found = texts(compiled_with(text, office_segments=Plan.BEST_FIT), "segment.v4")
    lengths = {name: int(found[f"segment/{name}"].split("/")[1]) for name in ("small", "mid", "wide")}
    assert lengths == {"small": 28, "mid": 25, "wide": 22}
    spans = sorted((int(ip_network(one).network_address), ip_network(one).num_addresses) for one in found.values())
    assert all(low + size <= other for (low, size), (other, _) in pairwise(spans))


@given(
    taken=st.lists(st.tuples(st.integers(0, 255), st.sampled_from([1, 2, 4, 8, 32])), max_size=12),
    wishes=st.lists(st.sampled_from([1, 2, 4, 8, 16, 32]), max_size=10),
)
def test_the_best_fit_is_the_smallest_hole_that_holds_the_wish(taken: list[tuple[int, int]], wishes: list[int]) -> None:
    whole, runs = parse_range("0..255"), Runs.of((low, min(255, low + size - 1)) for low, size in taken)
    holes = Holes([whole], [runs])
    for size in wishes:
        cells = [at for at in range(256) if not runs.hit(at, at)]
        blocks = _maximal(set(cells))
        fitting = sorted((have, low) for low, have in blocks if have >= size)
        found = holes.take(size)
        assert (found is None) == (not fitting)
        if found is None:
            continue
        assert found % size == 0 and not runs.hit(found, found + size - 1)
        best = fitting[0][0]
        home = next(have for low, have in blocks if low <= found < low + have)
        assert home == best, "it was cut from a hole of the smallest size that serves"
        runs.add(found, found + size - 1)


def _maximal(cells: set[int]) -> list[tuple[int, int]]:
    """The largest aligned blocks of free cells, found cell by cell."""
    blocks, left = [], set(cells)
    for size in (256, 128, 64, 32, 16, 8, 4, 2, 1):
        for low in range(0, 256, size):
            if all(at in left for at in range(low, low + size)):
                blocks.append((low, size))
                left -= set(range(low, low + size))
    return blocks


@given(st.lists(st.tuples(st.sampled_from(["add", "remove"]), st.integers(0, 60), st.integers(0, 20)), max_size=30))
def test_runs_are_the_set_of_integers_they_stand_for(acts: list[tuple[str, int, int]]) -> None:
    runs, cells = Runs(), set()
    for act, low, more in acts:
        part = set(range(low, low + more + 1))
        getattr(runs, act)(low, low + more)
        cells = cells | part if act == "add" else cells - part
    assert {at for low, high in runs for at in range(low, high + 1)} == cells
    assert all(one[1] + 1 < two[0] for one, two in pairwise(runs)), "runs neither touch nor overlap"
    assert runs == Runs.of((at, at) for at in cells)
    for at in range(82):
        assert (runs.hit(at, at) is not None) == (at in cells)
    half = Runs.of((at, at) for at in cells if at % 2)
    assert {at for low, high in runs.without(half) for at in range(low, high + 1)} == {
        at for at in cells if at % 2 == 0
    }


@given(st.integers(0, 2**40), st.integers(0, 2**20))
def test_a_span_falls_into_aligned_blocks_that_add_up(low: int, more: int) -> None:
    blocks = list(aligned(low, low + more))
    assert blocks[0][0] == low and sum(size for _, size in blocks) == more + 1
    assert all(start % size == 0 and size & (size - 1) == 0 for start, size in blocks)


@given(slot=st.integers(0, 700), size=st.sampled_from([1, 2, 4]))
def test_slots_count_over_all_ranges_of_a_pool(slot: int, size: int) -> None:
    ranges = [parse_range("10.0.0.0/24"), parse_range("10.9.0.0/25"), parse_range("10.3.0.0/24")]
    low = at_slot(ranges, slot, size)
    room = sum(part.size // size for part in ranges)
    assert (low is None) == (slot >= room)
    if low is not None:
        assert slot_of(ranges, low, size) == slot


def test_what_is_reserved_or_cut_is_never_drawn_and_a_pin_into_it_names_the_note() -> None:
    brief = read(MARLIN).brief
    pools = dict(compile(brief).pools)
    base = int(ip_network("10.60.0.0").network_address)
    kept = Reserved(Family.V4, base + 1, base + 63, "old routers")
    pools["halls-loopback"] = replace(pools["halls-loopback"], reserved=(kept,))
    pools["radar"] = pool("radar", "10.60.0.64/26", kind=Kind.ADDRESSES, parent="halls-loopback")
    found = compile(brief, Stock(pools))
    lows = {taken.low - base for taken in found.allocation.numbers["loopback.v4"].values()}
    assert min(lows) == 128
    wish = {"loopback.v4": {"spine/1": Taken(base + 5, 1)}}
    with pytest.raises(Refused, match="old routers"):
        compile(brief, Stock(pools, Holdings(moves=wish)))


def test_a_pinned_number_stays_its_keys_whether_the_key_is_there_or_not() -> None:
    brief = read(MARLIN).brief
    base = int(ip_network("10.60.0.0").network_address)
    pinned = {"loopback.v4": {"spine/1": Taken(base + 200, 1), "leaf/r40/a": Taken(base + 1, 1)}}
    found = compile(brief, Stock(holdings=Holdings(pinned=pinned)))
    assert found.allocation.numbers["loopback.v4"]["spine/1"] == Taken(base + 200, 1)
    assert ("loopback.v4", "spine/1") in found.allocation.claimed
    assert Taken(base + 1, 1) not in found.allocation.numbers["loopback.v4"].values()
    with_rack = read(set_value(MARLIN, "racks[0].racks", "r01..r12, r40")).brief
    later = compile(with_rack, Stock(found.pools, Holdings(found.allocation.numbers, pinned=pinned)))
    assert later.allocation.numbers["loopback.v4"]["leaf/r40/a"] == Taken(base + 1, 1)
    with pytest.raises(Refused) as refused:
        compile(read(set_value(MARLIN, "segments.tide-grid.vlan", 300)).brief,
                Stock(holdings=Holdings(pinned={"vlan": {"segment/tide-grid": Taken(301, 1)}})))  # fmt: skip
    assert refused.value.faults[0].code == "pin.twice"


@pytest.mark.parametrize(
    ("pools", "code"),
    [
        ([pool("a", "10.0.0.0/24"), pool("b", "10.0.0.128/25")], "pool.overlap"),
        ([pool("a", "10.0.0.0/24"), pool("b", "10.0.0.128/25", scope="tenants")], None),
        ([pool("a", "10.0.0.0/24"), pool("b", "10.0.0.128/25", parent="a")], None),
        ([pool("a", "10.0.0.0/24"), pool("b", "10.0.1.0/25", parent="a")], "range.outside"),
        ([pool("a", "10.0.0.0/24"), pool("b", "10.0.0.0/25", parent="a"), pool("c", "10.0.0.64/26", parent="a")], "pool.overlap"),
        ([pool("a", "10.0.0.0/24"), pool("b", "10.0.0.0/25", parent="a", scope="t")], "pool.parent"),
        ([pool("b", "10.0.0.0/25", parent="gone")], "pool.parent"),
        ([pool("a", "64512..64600", kind=Kind.ASN), pool("b", "64600..64700", kind=Kind.ASN)], None),
        ([pool("a", "64512..64600", "64590..64700", kind=Kind.ASN)], "pool.overlap"),
        ([pool("a", "1..99", kind=Kind.VNI), pool("b", "1..50", kind=Kind.VNI, parent="a"),
          pool("c", "50..60", kind=Kind.VNI, parent="a")], "pool.overlap"),
        ([pool("a", "64512..64600", kind=Kind.ASN), pool("b", "64512..64600", kind=Kind.VNI)], None),
        ([pool("a", "100..200", kind=Kind.VLAN), pool("b", "150..300", kind=Kind.VLAN)], None),
        ([pool("a", "0..200", kind=Kind.VLAN)], "range.beyond"), ([pool("a", "4000..4095", kind=Kind.VLAN)], "range.beyond"),
        ([pool("a", "1..16777216", kind=Kind.VNI)], "range.beyond"), ([pool("a", "1..4294967295", kind=Kind.ASN)], "range.beyond"),
        ([pool("a", "10.0.0.0/24", kind=Kind.ASN)], "range.kind"), ([pool("a", "1..9", kind=Kind.ADDRESSES)], "range.kind"),
    ],
)  # fmt: skip
def test_how_pools_may_lie(pools: list[Pool], code: str | None) -> None:
    found = check_pools({one.name: one for one in pools})
    assert [fault.code for fault in found] == ([code] if code else [])


def test_a_pool_serves_one_kind_and_a_private_one_its_fabric_alone() -> None:
    with pytest.raises(Refused) as refused:
        compile(Brief.model_validate({"fabric": "x", "numbers": {"asn": "vnis"}}))
    assert refused.value.faults[0].code == "pool.kind"
    private = {"loopbacks": pool("loopbacks", "10.0.0.0/19", private_to="tern")}
    with pytest.raises(Refused, match="private to tern"):
        compile(Brief.model_validate({"fabric": "x"}), Stock(private))
    assert compile(Brief.model_validate({"fabric": "tern"}), Stock(private)).allocation.numbers["loopback.v4"]


def test_scopes_let_two_tenants_have_the_same_numbers() -> None:
    brief = Brief.model_validate({"fabric": "x", "racks": [{"racks": "r01"}]})
    pools = {name: replace(one, scope="tenants") for name, one in compile(brief).pools.items()}
    taken = Runs.of([(0, 2**32 - 1)])
    there = compile(brief, Stock(pools, Holdings(others={"v4": taken, "asn": taken})))
    assert {demand.space for demand in there.demands if demand.use == "loopback.v4"} == {"v4@tenants"}
    with pytest.raises(Refused, match="short"):
        compile(brief, Stock(pools, Holdings(others={"v4@tenants": taken})))


@pytest.mark.parametrize(
    ("kind", "text", "code"),
    [
        (Kind.ADDRESSES, "10.0.0.0/8", None), (Kind.ADDRESSES, "100.64.0.0/12", None), (Kind.ADDRESSES, "fd12::/48", None),
        (Kind.ADDRESSES, "192.0.2.0/25", "pool.documentation"), (Kind.ADDRESSES, "2001:db8:1::/48", "pool.documentation"),
        (Kind.ADDRESSES, "198.18.0.0/15", "pool.public"), (Kind.ADDRESSES, "2a00::/32", "pool.public"),
        (Kind.ADDRESSES, "10.0.0.0/7", "pool.public"), (Kind.ADDRESSES, "127.0.0.0/16", "pool.unusable"),
        (Kind.ADDRESSES, "224.0.0.0/24", "pool.unusable"), (Kind.ADDRESSES, "fe80::/64", "pool.unusable"),
        (Kind.ASN, "64512..65534", None), (Kind.ASN, "4200000000..4294967294", None), (Kind.ASN, "64496..64500", "asn.documentation"),
        (Kind.ASN, "1..100", "asn.public"), (Kind.ASN, "64000..64600", "asn.documentation"), (Kind.VNI, "1..100", None),
    ],
)  # fmt: skip
def test_ranges_are_checked_against_the_rfcs(kind: Kind, text: str, code: str | None) -> None:
    found = list(check_range(pool("p", text, kind=kind), parse_range(text)))
    assert [fault.code for fault in found] == ([code] if code else [])


def test_findings_tell_a_public_range_and_two_things_of_one_system_mac() -> None:
    text = "fabric: x\nracks: [{racks: r01..r02, pairing: peer-link}]\npools: {mine: [198.18.0.0/20]}\nnumbers: {loopback: mine}\n"
    assert {fault.code for fault in compile(read(text).brief).findings} >= {"pool.public"}
    same = set_value(text, "overlay", {"gateway_mac": "02:00:5e:10:00:01"})
    found = [fault for fault in compile(read(same).brief).findings if fault.code == "derived.twice"]
    assert len(found) == 1 and "02:00:5e:10:00:01" in found[0].message and "leaf-r01a" in found[0].message


def test_growth_says_what_each_pool_will_need_and_which_ends_first() -> None:
    brief = read(POSITION).brief
    found = forecast(brief, MADE, compile(brief).pools)
    bigger = grown_brief(brief)
    assert bigger is not None and bigger.spines.count == 4 and len(bigger.racks[0].rack_names) == 14
    assert found.now["loopbacks", Family.V4] == 3 + 26 and found.grown["loopbacks", Family.V4] == 4 + 30
    assert found.per_leaf["links", Family.V4] == 3 * 2 * 2 and found.per_leaf["asns", Family.NUMBER] == 1
    assert found.refusal is None and found.grown["links", Family.V4] == 30 * 4 * 2 * 2
    sizes = {"a": "auto/23", "b": "auto/25", "c": "auto"}
    sized = read(
        set_value(
            set_value(POSITION, "vrfs", {"a": {}}),
            "segments",
            {name: {"v4": size, "vrf": "a"} for name, size in sizes.items()},
        )
    ).brief
    now = forecast(sized, MADE, compile(sized).pools).now
    assert now[sized.numbers.segments, Family.V4] == 512 + 128 + 256, "segments of a size of their own"
    real = compile(bigger)
    for (name, family), count in found.grown.items():
        demanded = [d for d in real.demands if d.pool.name == name and d.family is family]
        assert count == sum(taken.size for d in demanded for taken in real.allocation.numbers[d.use].values()), name
    assert forecast(read(MARLIN).brief, MADE, compile(read(MARLIN).brief).pools).refusal is None


def test_a_growth_that_cannot_be_built_is_said_and_the_pools_are_counted_as_they_are() -> None:
    brief = read(set_value(POSITION, "racks[0].growth", 200)).brief
    found = forecast(brief, MADE, compile(read(POSITION).brief).pools)
    assert found.refusal is not None and "port" in found.refusal and found.grown == found.now


@pytest.mark.parametrize(
    ("use", "text", "found"),
    [
        ("loopback.v4", "10.60.0.7", Taken(0x0A3C0007, 1)), ("loopback.v4", " 10.60.0.7/32 ", Taken(0x0A3C0007, 1)),
        ("link.v4", "10.61.0.4/31", Taken(0x0A3D0004, 2)), ("asn", "4200065007", Taken(4200065007, 1)),
        ("segment.v4", "10.72.4.0/22", Taken(0x0A480400, 1024)), ("loopback.v4", "10.60.0.300", "number.syntax"),
        ("loopback.v4", "fd60::7", "number.family"), ("loopback.v6", "fd60::7", Taken(0xFD60 << 112 | 7, 1)), ("loopback.v6", "10.60.0.7", "number.family"), ("loopback.v4", "10.60.0.0/24", "number.size"),
        ("link.v4", "10.61.0.4", "number.size"), ("link.v4", "10.61.0.5/31", "range.host-bits"), ("asn", "-5", "number.syntax"),
        ("asn", "10.0.0.1", "number.syntax"), ("cable", "5", "number.use"), ("asn", "٣", "number.syntax"), ("", "5", "number.use"),
    ],
)  # fmt: skip
def test_a_number_is_read_as_its_use_asks_or_refused(use: str, text: str, found: Taken | str) -> None:
    if isinstance(found, Taken):
        assert parse_number(use, text) == found
        return
    with pytest.raises(Refused) as refused:
        parse_number(use, text)
    assert refused.value.faults[0].code == found
    if found == "number.size":
        assert f"a {use[:-3]} is a /{31 if use == 'link.v4' else 32}" in str(refused.value)


def test_a_range_reads_as_it_was_written() -> None:
    for text in ("10.60.0.0/22", "fd60::/64", "64512..65534", "7"):
        assert parse_range(text).text == text
    assert Range(Family.NUMBER, 5, 5).text == "5"


@pytest.mark.parametrize(
    ("low", "size", "code"), [(3, 1, ""), (4, 1, "r"), (7, 1, "r"), (8, 1, ""), (0, 8, "r"), (6, 4, "r"), (254, 4, "o")]
)
def test_a_pin_meets_a_reservation_from_its_first_number_to_its_last(low: int, size: int, code: str) -> None:
    start = parse_range("10.60.0.0/24").low
    halls = pool("halls", "10.60.0.0/24", reserved=(Reserved(Family.V4, start + 4, start + 7, "a crane"),))
    fault = not_in_pool(halls, "loopback.v4", "leaf/r1/a", Taken(start + low, size))
    assert (fault.code if fault else "") == {"": "", "r": "pin.reserved", "o": "pin.outside"}[code]


@pytest.mark.parametrize("asked", [{"spines": {"count": 2}}, {"spines": {"count": 3}}])
def test_super_spines_that_were_said_to_come_find_the_positions_of_their_links_free(asked: dict[str, Any]) -> None:
    """Positions of links stand as far apart as super-spines will ever need, so that growing moves none."""
    keys = [f"spine/p2/1~super/1/{upper}~1" for upper in (1, 2)] + ["spine/p1/2~super/2/1~1"]

    def positions(per_plane: int, growth: int) -> dict[str, int]:
        said = {"per_plane": per_plane, "growth": growth, "links": 1}
        brief = Brief.model_validate({"fabric": "x", "pods": "p1..p2", "super_spines": said, **asked})
        return Layout(brief).positions("link", keys)

    assert positions(2, 6) == positions(5, 3) == positions(8, 0) != positions(2, 0)


@pytest.mark.parametrize(
    ("kind", "low", "high"),
    [(Kind.ASN, 1, 4294967294), (Kind.VLAN, 1, 4094), (Kind.VNI, 1, 16777215), (Kind.PAIR, 1, 65535)],
)
def test_a_pool_of_numbers_ends_where_its_protocol_does(kind: Kind, low: int, high: int) -> None:
    """AS 0 and the last one mean nobody (RFC 7607, RFC 7300); a VLAN has 12 bits without two, a VNI 24, a pair's domain 16."""

    def codes(first: int, last: int) -> list[str]:
        return [fault.code for fault in check_pools({"p": pool("p", f"{first}..{last}", kind=kind)})]

    assert codes(low, high) == []
    assert codes(low - 1, high) == codes(low, high + 1) == ["range.beyond"]
