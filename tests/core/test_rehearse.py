"""What is rehearsed of a fabric, and what is foretold: slices that answer for it, hosts with addresses of their own, paths, and losses."""

from __future__ import annotations

import re
from collections import Counter
from ipaddress import ip_interface
from itertools import pairwise
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from barrio.core.paths import neighbours, widths
from barrio.core.rehearse import losses
from barrio.core.rehearse.parting import MOST, parts
from barrio.core.rehearse.slices import Wish, choose
from barrio.core.rehearse.stations import machines, reaches, stranger
from tests.conftest import briefs, tries

EXAMPLES = Path(__file__).parents[2] / "examples"


def example(name: str) -> Compiled:
    return compile(read((EXAMPLES / f"{name}.yaml").read_text()).brief)


def names(compiled: Compiled, keys: tuple[str, ...]) -> set[str]:
    return {str(compiled.structure.by_key[key].name) for key in keys}


def test_a_slice_shows_each_kind_of_leaf_every_segment_and_a_second_pod() -> None:
    marlin = example("marlin")
    found = choose(marlin, Wish())
    kinds = {(one.role, one.type.id) for one in marlin.structure.leaves}
    assert {(one.role, one.type.id) for key in found.keys if (one := marlin.structure.by_key[key]).is_leaf} == kinds
    on = Counter(str(segment.label) for key in found.keys for segment in marlin.models[key].segments)
    assert set(on) == {name for name, one in marlin.brief.segments.items() if one.state == "active"}
    assert not found.whole and "2 of 4 spines" in found.left_out and any("how wide" in words for words in found.cannot)
    pelican = example("pelican")
    tall = choose(pelican, Wish())
    assert len({pelican.structure.by_key[key].pod for key in tall.keys} - {""}) == 2
    assert any(pelican.structure.by_key[key].tier == "super-spine" for key in tall.keys) and tall.outside == (
        "harbour-router",
    )
    assert len(tall.keys) <= 12


@pytest.mark.parametrize("name", ["tern", "marlin", "pelican"])
def test_the_whole_leaves_nothing_out_and_the_same_wish_is_the_same_slice(name: str) -> None:
    compiled = example(name)
    found = choose(compiled, Wish(whole=True))
    assert found.whole and found.cannot == () and len(found.keys) == len(compiled.staged)
    assert choose(compiled, Wish(most=9)) == choose(example(name), Wish(most=9))


def test_a_slice_by_hand_is_what_was_named_and_wrong_names_are_refused() -> None:
    tern = example("tern")
    found = choose(tern, Wish(spines=1, racks=("t02", "t04")))
    assert names(tern, found.keys) == {"spine-1", "leaf-t02", "leaf-t04"}
    assert found.left_out == ("1 of 2 spines", "2 of 4 leaves, in t01, t03")
    for wish, code in ((Wish(racks=("t20",)), "rehearse.rack"), (Wish(spines=0), "rehearse.spines")):
        with pytest.raises(Refused) as refused:
            choose(tern, wish)
        assert refused.value.faults[0].code == code


@pytest.mark.parametrize("name", ["tern", "marlin"])
def test_hosts_stand_for_all_and_have_addresses_of_their_own_in_the_prefix_of_their_segment(name: str) -> None:
    compiled = example(name)
    keys = choose(compiled, Wish(whole=True)).keys
    found, of = machines(compiled, keys, most=60)
    assert of == len(compiled.attachments.hosts) and found == machines(compiled, keys, most=60)[0]
    stations = [station for one in found for station in one.stations]
    addresses = [address for one in stations for address in (one.v4, one.v6) if address]
    assert len(set(addresses)) == len(addresses) and len({one.mac for one in found}) == len(found)
    for one in stations:
        for address, gateway in ((one.v4, one.gateway4), (one.v6, one.gateway6)):
            if gateway:
                assert ip_interface(f"{gateway}/{address.split('/')[1]}").network == ip_interface(address).network
                assert address.split("/")[0] != gateway
    places = {(str(segment.label), key) for key in keys for segment in compiled.models[key].segments}
    held = {
        (str(seg), key)
        for one in compiled.attachments.hosts.values()
        for key, _ in one.ports
        for seg in one.way.carried
    }
    shown = {
        (one.segment, next(key for key in keys if compiled.models[key].name == leaf))
        for one in stations
        for leaf in one.leaves
    }
    assert places & held <= shown, "every segment has a host on every leaf where it has any"
    nobody = stranger(compiled, keys)
    assert nobody is not None and nobody.stations[0].silent


REACH = """
fabric: reach
spines: {count: 1, racks: x0}
racks: [{racks: x1..x2, leaves: 1}]
vrfs: {a: {imports: {b: [two]}}, b: {imports: {a: [10.72.1.0/24]}}, c: {imports: {a: [one]}}}
segments:
  one: {vrf: a, v4: 10.72.1.0/24}
  other: {vrf: a, v4: 10.72.5.0/24}
  two: {vrf: b, v4: 10.72.2.0/24}
  three: {vrf: c, v4: 10.72.3.0/24}
  bare: {}
  still: {vrf: a, v4: 10.72.9.0/24, state: paused}
hosts:
  h-one: {at: x1 h1, untagged: one}
  h-other: {at: x1 h2, untagged: other}
  h-two: {at: x2 h1, untagged: two}
  h-three: {at: x2 h2, untagged: three}
  h-bare: {at: x1 h3, untagged: bare}
  h-bare-2: {at: x2 h3, untagged: bare}
  h-still: {at: x2 h4, untagged: still}
"""


def test_who_reaches_whom_is_what_vrfs_and_imports_say_both_ways() -> None:
    compiled = compile(read(REACH).brief)
    found, _ = machines(compiled, choose(compiled, Wish(whole=True)).keys)
    at = {one.host: one.stations[0] for one in found}
    pairs = {(one, other) for one in at for other in at if one < other and reaches(compiled, at[one], at[other])}
    assert pairs == {("h-one", "h-other"), ("h-one", "h-two"), ("h-bare", "h-bare-2")}, (
        "b takes one and not other; c takes of a, which takes nothing of c; who has no gateway reaches its own segment; who is paused nobody"
    )


@tries(30)
@given(said=briefs(), data=st.data())
def test_paths_are_the_shortest_ways_over_what_is_left(said: dict[str, Any], data: st.DataObject) -> None:
    """Counted anew from each switch by walking every way of the least length."""
    compiled = compile(Brief.model_validate(said))
    keys = [one.key for one in compiled.staged][:24]
    ends = [end.link.key for end in compiled.ends]
    gone = set(data.draw(st.sets(st.sampled_from([*keys[:-1], *ends]), max_size=3))) if len(keys) > 1 else set()
    joined = neighbours(compiled, keys, gone)
    links: Counter[tuple[str, str]] = Counter()
    for end in compiled.ends:
        pair = (end.link.upper.key, end.link.lower.key)
        serving = all(key in joined and compiled.structure.by_key[key].state != "out of service" for key in pair)
        if end.link.kind == "fabric" and serving and not {end.link.key, *pair} & gone:
            links[pair] += 1
            links[pair[::-1]] += 1
    target = keys[-1]
    found = widths(joined, target, dict.fromkeys(keys, 10_000))
    frontier, ways, seen = {target}, {target: 0}, {target}
    while frontier:
        following: dict[str, int] = {}
        for key in keys:
            if key not in seen:
                count = sum(links[key, other] for other in frontier)
                if count:
                    following[key] = count
        ways |= following
        seen |= following.keys()
        frontier = set(following)
    assert found == {key: count for key, count in ways.items() if key != target}


def test_losses_are_every_switch_and_link_of_a_slice_and_take_what_they_say() -> None:
    tern = example("tern")
    keys = choose(tern, Wish(whole=True)).keys
    known = losses.every(tern, keys)
    singles = {one.id for one in losses.chosen(tern, keys, ["singles"])}
    assert singles == {name for name in known if re.fullmatch(r"[a-z0-9-]+(:p\d+)?", name)}
    assert len(losses.chosen(tern, keys, ["singles"])) == 6 + 8
    [spine] = losses.chosen(tern, keys, ["spine"])
    told = losses.foretold(tern, keys, spine)
    assert len(told) == 12 and all((one.paths, one.of_paths) == (1, 2) for one in told)
    assert all(one.bandwidth * 2 == one.of_bandwidth > 0 for one in told)
    [link] = losses.chosen(tern, keys, ["spine-1:p1"])
    less = {(one.one, one.other) for one in losses.foretold(tern, keys, link) if one.paths < one.of_paths}
    assert less == {
        (one, other)
        for one in keys
        for other in keys
        if "leaf/t01/a" in (one, other) and one != other and "spine" not in one + other
    }
    [lossy] = losses.chosen(tern, keys, ["spine-1:p1:lossy"])
    assert (
        all(one.paths == one.of_paths for one in losses.foretold(tern, keys, lossy))
        and losses.detection(tern, lossy) == 0
    )
    [both] = losses.chosen(tern, keys, ["spine-1+spine-2"])
    assert both.words == "spine-1 and spine-2 are away" and all(
        one.paths == 0 for one in losses.foretold(tern, keys, both)
    )
    assert losses.detection(tern, spine) == pytest.approx(0.9), "three times 300 ms"
    with pytest.raises(Refused, match="Is spine-1 meant"):
        losses.chosen(tern, keys, ["spine-11"])
    assert [one.id for one in losses.chosen(example("marlin"), choose(example("marlin"), Wish()).keys, ["leaf"])] == [
        "leaf-r01a"
    ]
    ordered = [one.id for one in known.values() if one.how == "gone"]
    assert ordered[:6] == sorted(ordered[:6], key=lambda name: ("spine" not in name, name)) and all(
        one != other for one, other in pairwise(ordered)
    )


@pytest.mark.parametrize("name", ["tern", "marlin", "pelican"])
def test_the_daemons_that_can_be_killed_are_those_that_a_switch_runs(name: str) -> None:
    compiled = example(name)
    for key in choose(compiled, Wish()).keys:
        said = compiled.files(key)["etc/frr/daemons"]
        runs = {line.removesuffix("=yes") for line in said.splitlines() if line.endswith("=yes")} - {
            "staticd",
            "watchfrr_enable",
        }
        assert set(losses.daemons(compiled, key)) == runs - {"vtysh_enable"}, key


def test_without_a_daemon_that_routes_a_switch_is_no_way_and_without_another_it_is() -> None:
    tern = example("tern")
    keys = choose(tern, Wish(whole=True)).keys
    bgpd, bfdd, restart = losses.chosen(tern, keys, ["spine-1:bgpd", "spine-1:bfdd", "spine-1:restart"])
    for loss, paths in ((bgpd, 1), (bfdd, 2), (restart, 1)):
        assert {one.paths for one in losses.foretold(tern, keys, loss)} == {paths}
    assert [one.id for one in losses.chosen(tern, keys, ["daemon"])] == [
        "leaf-t01:bgpd",
        "leaf-t01:bfdd",
        "leaf-t01:zebra",
    ]
    assert [one.id for one in losses.chosen(tern, keys, ["restart"])] == ["leaf-t01:restart"]
    with pytest.raises(Refused, match="There is nothing called"):
        losses.chosen(tern, keys, ["spine-1:bgpd+spine-2"])


def test_switches_in_a_language_that_no_daemon_reads_are_left_out_and_named() -> None:
    text = (EXAMPLES / "tern.yaml").read_text()
    mixed = compile(read(text + "\nrungs: {switch leaf/t02/a: {target: ietf-json}}\n").brief)
    found = choose(mixed, Wish(whole=True))
    assert "leaf/t02/a" not in found.keys and "leaf-t02, in ietf-json, which no daemon here reads" in found.left_out
    assert not found.whole
    with pytest.raises(Refused, match="ietf-json is read by no daemon here"):
        choose(compile(read(text + "\ntarget: ietf-json\n").brief), Wish())


def cut(compiled: Compiled, parted: dict[str, int]) -> int:
    """How many cables go from one ground to another."""
    ends = ((end.link.upper.key, end.link.lower.key) for end in compiled.ends)
    return sum(parted[one] != parted[other] for one, other in ends if one in parted and other in parted)


@given(briefs(), st.integers(1, 6))
@tries(40)
def test_a_slice_is_split_so_that_racks_stay_together_and_no_ground_is_idle(said: dict[str, Any], grounds: int) -> None:
    compiled = compile(Brief.model_validate(said))
    keys = [one.key for one in compiled.staged]
    found = parts(compiled, keys, grounds)
    assert found.keys() == set(keys)
    used = sorted(set(found.values()))
    assert used == list(range(len(used))) and len(used) <= grounds
    by_rack: dict[str, set[int]] = {}
    for one in (one for one in compiled.staged if one.is_leaf):
        by_rack.setdefault(str(one.rack), set()).add(found[one.key])
    assert all(len(grounds) == 1 for grounds in by_rack.values()), "hosts hang on several leaves of a rack"
    assert parts(compiled, keys, 1) == dict.fromkeys(keys, 0) and cut(compiled, dict.fromkeys(keys, 0)) == 0


def test_a_large_fabric_is_shared_out_evenly_and_pods_are_cut_as_little_as_can_be() -> None:
    pelican = example("pelican")
    keys = [one.key for one in pelican.staged]
    found = parts(pelican, keys, 2)
    shares = Counter(found.values())
    assert abs(shares[0] - shares[1]) <= 4
    here = [pelican.structure.by_key[key] for key, at in found.items() if at == 0]
    scattered = {key: at % 2 for at, key in enumerate(keys)}
    assert cut(pelican, found) < cut(pelican, scattered)
    assert {one.pod for one in here if one.is_leaf} != {one.pod for one in pelican.structure.leaves}, (
        "whole pods are here"
    )
    for wrong in (0, MOST + 1):
        with pytest.raises(Refused, match="1 to 16 machines"):
            parts(pelican, keys, wrong)
