"""Structures against what is published of them, against closed forms, and against searches that know nothing of ours."""

from __future__ import annotations

from collections import Counter
from itertools import combinations
from math import comb
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.sparse import csr_array
from scipy.sparse.csgraph import maximum_flow

from barrio.core import Compiled, Refused, Stock, compile
from barrio.core.brief.document import read
from barrio.core.brief.hardware import PortPlan
from barrio.core.brief.model import Brief
from barrio.core.catalogue.made import MADE
from barrio.core.catalogue.model import Breakout, PortGroup, SwitchType
from barrio.core.ledger.wanted import Holdings
from barrio.core.proposals import fat_tree
from barrio.core.structure.expand import expand
from barrio.core.structure.extent import extent
from barrio.core.structure.parts import Structure
from barrio.core.structure.ports import names_of, plan_ports
from barrio.core.sums import add_up
from tests.conftest import briefs, tries


@pytest.mark.parametrize("k", [4, 6, 16, 48])
def test_a_fat_tree_is_the_one_of_the_2008_paper(k: int) -> None:
    """Al-Fares, Loukissas, Vahdat, SIGCOMM 2008, section 3: k = 48 gives 27,648 hosts out of 2,880 switches."""
    brief = read(fat_tree(k, "cantera-c48", MADE)).brief
    structure = expand(brief, MADE)
    sums = add_up(brief, structure)
    assert len(structure.leaves) == len(structure.spines) == k * k // 2 and len(structure.supers) == (k // 2) ** 2
    assert sums.switches == 5 * k * k // 4 and sums.host_ports == k**3 // 4
    by_tier = Counter(link.upper.role for link in structure.links)
    assert by_tier == {"spine": k**3 // 4, "super-spine": k**3 // 4}
    assert (
        sums.cables == k**3 // 2
        and sums.oversubscription == 1
        and all(pod.oversubscription == 1 for pod in sums.by_pod)
    )
    assert sums.bisection == k**3 // 8 * 100, "full bisection: half of the hosts at full speed"
    if k == 48:
        assert (sums.host_ports, sums.switches, by_tier["spine"], by_tier["super-spine"]) == (27648, 2880, 27648, 27648)
    for core in structure.supers:
        pods = [link.lower.pod for link in structure.links if link.upper is core] if k < 20 else []
        assert sorted(pods) == sorted(set(pods)), "each core meets each pod once"
    assert all(use.used == use.there for use in sums.ports), "every port of every switch is used"


def test_a_fat_tree_needs_an_even_k_and_a_model_with_the_ports() -> None:
    for k, model, code in ((5, "cantera-c48", "fat-tree.k"), (50, "cantera-c48", "fat-tree.k"), (48, "cantera-c32", "fat-tree.ports"), (4, "cantera-l48", "fat-tree.model")):  # fmt: skip
        with pytest.raises(Refused) as refused:
            fat_tree(k, model, MADE)
        assert refused.value.faults[0].code == code


def test_a_folded_clos_of_32_port_spines_and_48_and_8_leaves_is_known_by_heart() -> None:
    """48 × 25G down; 8, 4 or 2 × 100G up give 1.5, 3 and 6 to 1; 32 leaves and 1,536 hosts are the most."""
    for spines, ratio in ((8, 1.5), (4, 3.0), (2, 6.0)):
        text = f"fabric: x\nspines: {{count: {spines}}}\nracks: [{{racks: r01..r12, leaves: 2}}]\n"
        brief = read(text).brief
        sums = add_up(brief, expand(brief, MADE))
        assert sums.oversubscription == ratio
        assert (sums.largest.leaves, sums.largest.hosts) == (32, 1536) and "32 ports" in sums.largest.stopped_by
        assert sums.bandwidth_left == pytest.approx(((spines - 1) / spines, (spines - 2) / spines))
    full = read("fabric: x\nspines: {count: 8}\nracks: [{racks: r01..r16, leaves: 2}]\n").brief
    assert add_up(full, expand(full, MADE)).grows_by_leaves == 0
    with pytest.raises(Refused, match=r"needs? 34 ports"):
        expand(read("fabric: x\nracks: [{racks: r01..r17, leaves: 2}]\n").brief, MADE)


def test_asns_follow_the_scheme_of_rfc_7938() -> None:
    """Section 5.2.1: one ASN for the top tier, one for the middle tier of each cluster, one for each ToR."""
    text = "fabric: x\npods: p1..p3\nsuper_spines: {}\nspines: {count: 2}\nracks: [{racks: r1..r2, leaves: 1}]\n"
    compiled = compile(read(text).brief)
    asns: dict[str, set[int]] = {}
    for switch in compiled.structure.switches:
        asns.setdefault(f"{switch.role} {switch.pod if switch.role == 'spine' else ''}", set()).add(
            compiled.models[switch.key].asn
        )
    assert {place: len(found) for place, found in asns.items()} == {
        "super-spine ": 1, "spine p1": 1, "spine p2": 1, "spine p3": 1, "leaf ": 6,
    }  # fmt: skip
    assert len(set().union(*asns.values())) == 10


MIXED = """
fabric: x
{top}
spines: {{count: 3, model: cantera-c64}}
models: {{{key}: lonja-s64}}
racks:
  - {{racks: r1, leaves: 1, model: lonja-e32}}
  - {{racks: r2, leaves: 1, model: lonja-e32, kind: wide, uplinks_per_spine: 2}}
"""


@pytest.mark.parametrize(
    ("top", "key"),
    [
        ("", "spine/2"),
        ("pods: p1..p2\nsuper_spines: {per_plane: 2, links: 1}", "spine/p1/2"),
        ("pods: p1..p2\nsuper_spines: {per_plane: 3, links: 2}", "spine/p1/2"),
    ],
)
def test_what_losses_leave_is_what_a_search_for_flows_finds(top: str, key: str) -> None:
    """Every choice of one and of two lost switches, every pair of leaves, by maximum flow over the links."""
    brief = read(MIXED.format(top=top, key=key)).brief
    structure = expand(brief, MADE)
    sums = add_up(brief, structure)
    above = [*structure.spines, *structure.supers]
    for loss in sums.lost:
        worst, worst_paths = 2.0, 2.0
        for one, two in combinations(structure.leaves, 2):
            whole, ways = flow(structure, one.key, two.key, ()), paths(structure, one.key, two.key, ())
            for gone in combinations([switch.key for switch in above], loss.lost):
                # A spine of either pod is lost; the sums take choices within one pod and its planes.
                worst = min(worst, flow(structure, one.key, two.key, gone) / whole)
                worst_paths = min(worst_paths, paths(structure, one.key, two.key, gone) / ways)
        assert loss.worst_bandwidth == pytest.approx(worst) and loss.worst_paths == pytest.approx(worst_paths)
        assert all(
            structure.by_key.get(name) or any(s.name == name for s in above) for name in loss.names.split(" and ")
        )
        # Pairs of kinds of leaves: within a pod by its spines, and across pods by those and the super-spines.
        supers = len(structure.supers)
        within, across = (6, 4) if supers else (3, 0)
        assert loss.choices == within * comb(3, loss.lost) + across * comb(3 + supers, loss.lost)


def flow(structure: Structure, source: str, target: str, gone: tuple[str, ...]) -> int:
    """The most that flows between two leaves, in Gbit/s, over the links that do not end at a lost switch."""
    keys = [switch.key for switch in structure.switches]
    place = {key: index for index, key in enumerate(keys)}
    capacity = np.zeros((len(keys), len(keys)), dtype=np.int32)
    for link in structure.links:
        other_leaf = link.lower.is_leaf and link.lower.key not in (source, target)
        if link.upper.key in gone or link.lower.key in gone or other_leaf:
            continue
        for a, b in ((link.upper.key, link.lower.key), (link.lower.key, link.upper.key)):
            capacity[place[a], place[b]] += link.speed
    return int(maximum_flow(csr_array(capacity), place[source], place[target]).flow_value)


def paths(structure: Structure, source: str, target: str, gone: tuple[str, ...]) -> int:
    """Shortest paths between two leaves, counted link by link."""
    links: dict[str, Counter[str]] = {}
    for link in structure.links:
        if link.upper.key not in gone and link.lower.key not in gone:
            links.setdefault(link.lower.key, Counter())[link.upper.key] += 1
            links.setdefault(link.upper.key, Counter())[link.lower.key] += 1
    reached = Counter({source: 1})
    for _ in range(2 if structure.by_key[source].pod == structure.by_key[target].pod else 4):
        onward: Counter[str] = Counter()
        for here, ways in reached.items():
            for there, count in links.get(here, Counter()).items():
                onward[there] += ways * count
        reached = onward
    return reached[target]


def kept(before: Compiled) -> Stock:
    return Stock(before.pools, Holdings(before.allocation.numbers))


@tries(40)
@given(data=briefs(), which=st.sampled_from(["racks", "spines", "pods", "supers"]))
def test_growing_moves_no_number_no_port_and_no_cable(data: dict[str, Any], which: str) -> None:
    before = compile(Brief.model_validate(data))
    if which == "racks":
        data["racks"].insert(0, {"racks": "z1, z2", "leaves": 2, "model": "cantera-l48"})
    elif which == "spines":
        data["spines"]["count"] = min(4, data["spines"]["count"] + 1)
    elif "pods" in data and which == "pods":
        data["pods"] += ", p9"
    elif "super_spines" in data:
        data["super_spines"]["per_plane"] += 1
    after = compile(Brief.model_validate(data), kept(before))
    assert not after.allocation.given_back
    ends = {end.link.key: (end.upper_port, end.lower_port, end.label) for end in after.ends}
    for end in before.ends:
        assert ends[end.link.key] == (end.upper_port, end.lower_port, end.label)


def test_ports_are_kept_for_the_growth_that_is_declared() -> None:
    text = "fabric: x\nracks:\n  - {{racks: r01..r0{now}, leaves: 1, growth: {growth}}}\n  - {{racks: a01..a02, leaves: 1}}\n"
    before = compile(read(text.format(now=4, growth=3)).brief)
    ports = {end.link.lower.rack: end.upper_port for end in before.ends if end.link.upper.key == "spine/1"}
    assert list(ports.values()) == ["p1", "p2", "p3", "p4", "p8", "p9"]
    after = compile(read(text.format(now=8, growth=0)).brief, kept(before))
    grown = {end.link.lower.rack: end.upper_port for end in after.ends if end.link.upper.key == "spine/1"}
    assert [grown[f"r0{number}"] for number in range(5, 9)] == ["p5", "p6", "p7", "p10"], "then wherever there is room"
    too_much = compile(read(text.format(now=4, growth=40)).brief)
    assert "growth.spine-ports" in {finding.code for finding in too_much.findings}


def test_the_rule_of_a_front_and_what_a_plan_changes_in_it() -> None:
    leaf, spine = MADE.find("cantera-l48"), MADE.find("cantera-c32")
    assert leaf and spine
    plain = plan_ports(leaf, "leaf", PortPlan(), peer_links=2)
    assert names_of(plain.up) == tuple(f"u{n}" for n in range(1, 7)) and names_of(plain.peer) == ("u7", "u8")
    assert len(plain.hosts) == 48
    halved = plan_ports(spine, "spine", PortPlan())
    assert names_of(halved.down)[-1] == "p16" and names_of(halved.up)[0] == "p17"
    assert len(plan_ports(spine, "spine", PortPlan(), has_upper=False).down) == 32
    said = PortPlan(uplinks="u1..u4", reserved="u8", breakouts={"u1..u2": "4x25"})
    with pytest.raises(Refused, match="is broken out; name its lanes"):
        plan_ports(leaf, "leaf", said)
    split = plan_ports(leaf, "leaf", PortPlan(uplinks="u3..u6", reserved="u8", breakouts={"u1": "4x25"}))
    assert names_of(split.up) == ("u3", "u4", "u5", "u6") and split.by_name["u8"]
    alike = SwitchType(
        id="alike", maker="Lonja", name="Alike", tiers=["leaf"], tables=leaf.tables,
        groups=[PortGroup(prefix="p", first=1, count=12, speeds=[100], use="any", connector="QSFP28")], power=100,
    )  # fmt: skip
    half = plan_ports(alike, "leaf", PortPlan())
    assert names_of(half.hosts) == names_of(half.up[:0]) + tuple(f"p{n}" for n in range(1, 7)) and len(half.up) == 6
    lanes = plan_ports(leaf, "leaf", PortPlan(breakouts={"u1": "4x25"}))
    assert names_of(lanes.hosts[-4:]) == ("u1s0", "u1s1", "u1s2", "u1s3") and lanes.hosts[-1].speeds == (25,)
    assert names_of(lanes.up)[0] == "u2" and lanes.host_bandwidth(None) == 52 * 25


def test_switches_fill_their_rack_from_the_top_unit_down() -> None:
    structure = expand(read("fabric: x\nspines: {count: 2, model: cantera-c64}\nracks: [{racks: r1}]\n").brief, MADE)
    assert [(one.rack, one.unit) for one in structure.switches] == [("s01", 41), ("s01", 39), ("r1", 42), ("r1", 41)]


def test_a_position_is_drawn_for_each_end_of_a_link_and_for_no_other() -> None:
    compiled = compile(
        read(MIXED.format(top="pods: p1..p2\nsuper_spines: {per_plane: 2, links: 2}", key="spine/p1/2")).brief
    )
    ports = compiled.allocation.numbers
    assert set(ports["port.up"]) == {f"super/{n}~{lane}" for n in (1, 2) for lane in (1, 2)}
    assert set(ports["port.super"]) == {f"pod/{pod}~{lane}" for pod in ("p1", "p2") for lane in (1, 2)}
    leaves = {link.lower.key for link in compiled.structure.links if link.lower.is_leaf}
    assert {key.rsplit("~", 1)[0] for key in (*ports["port.spine.p1"], *ports["port.spine.p2"])} == leaves


@pytest.mark.parametrize(
    ("plan", "code"),
    [
        (PortPlan(uplinks="u1..u9"), "ports.unknown"),
        (PortPlan(uplinks="u1..u4", hosts="u4"), "ports.claimed-twice"),
        (PortPlan(breakouts={"h1": "4x25"}), "ports.breakout"),
        (PortPlan(breakouts={"u1..u2": "8x10"}), "ports.breakout"),
        (PortPlan(breakouts={"z1": "4x25"}), "ports.unknown"),
    ],
)
def test_a_plan_that_cannot_be_is_refused(plan: PortPlan, code: str) -> None:
    leaf = MADE.find("cantera-l48")
    assert leaf
    with pytest.raises(Refused) as refused:
        plan_ports(leaf, "leaf", plan)
    assert refused.value.faults[0].code == code
    if plan.breakouts == {"u1..u2": "8x10"}:
        assert "4x25" in str(refused.value), "what it can be broken out into"


def test_a_breakout_uses_up_its_neighbour() -> None:
    group = PortGroup(
        prefix="p", count=4, speeds=[400], use="any", connector="QSFP-DD", pattern="eth1/{n}",
        breakouts=[Breakout(lanes=8, speed=50, uses_up=1)], lane_pattern="{port}/{lane}", first_lane=1,
    )  # fmt: skip
    kind = SwitchType(id="x", maker="X", name="X", tiers=["spine"], groups=[group], power=1)
    plan = plan_ports(kind, "spine", PortPlan(breakouts={"eth1/1": "8x50"}), has_upper=False)
    assert plan.dark == ("eth1/2",)
    assert names_of(plan.down)[0] == "eth1/1/1" and names_of(plan.down)[-1] == "eth1/4" and len(plan.down) == 10
    with pytest.raises(Refused, match="uses it up"):
        plan_ports(kind, "spine", PortPlan(breakouts={"eth1/1..eth1/2": "8x50"}), has_upper=False)


def test_lanes_of_a_breakout_carry_links_at_their_own_speed() -> None:
    text = """
fabric: x
spines: {count: 2, model: lonja-s64, ports: {breakouts: {p1..p4: 4x100}, downlinks: "p1s0, p1s1, p1s2, p1s3, p2s0"}}
racks: [{racks: r1..r5, leaves: 1}]
"""
    compiled = compile(read(text).brief)
    ports = [end.upper_port for end in compiled.ends if end.link.upper.key == "spine/1"]
    assert ports == ["p1s0", "p1s1", "p1s2", "p1s3", "p2s0"]
    assert {end.link.speed for end in compiled.ends} == {100}
    assert "iface p1s3\n" in compiled.files("spine/1")["etc/network/interfaces"]


@pytest.mark.parametrize(
    ("text", "code"),
    [
        ("pods: p1..p2\n", "brief.value-error"),
        ("super_spines: {}\n", "brief.value-error"),
        ("racks: [{racks: r1, leaves: 1, pairing: multihoming}]\n", "brief.value-error"),
        ("racks: [{racks: r1, uplinks_per_spine: 2}]\n", "brief.value-error"),
        ("racks: [{racks: r1, pods: p1}]\n", "pod.unknown"),
        ("racks: [{racks: r1, host_speed: 400}]\n", "ports.host-speed"),
        ("racks: [{racks: r1, lags: h1}]\n", "pair.lags"),
        ("racks: [{racks: r1, pairing: peer-link, ports: {peer: u8}}]\n", "ports.peer-full"),
        ("models: {spine/9: cantera-c64}\n", "name.of-nothing"),
        ("models: {spine/1: cantera-l48}\n", "model.tier"),
        ("pods: p01..p40\nsuper_spines: {model: cantera-c32}\nracks: [{racks: r1}]\n", "ports.super-full"),
        ("pods: p1..p2\nsuper_spines: {per_plane: 20}\nracks: [{racks: r1}]\n", "ports.spine-up-full"),
        ("underlay: {protocol: ospf}\nracks: [{racks: r1}]\n", "routing.overlay"),
        ("underlay: {protocol: isis, addressing: ipv6}\noverlay: {protocol: ibgp}\n", "routing.tunnel-ends"),
        ("out_of_service: {leaf/r1: no}\n", "brief.value-error"),
        ("vrfs: {a: {}}\noutside: {o: {asn: 64600, links: [{switch: leaf/r1/a, port: h1, vrfs: {a: {}}}]}}\n", "outside.switch"),
        ("racks: [{racks: r1, role: border}]\noutside: {o: {asn: 64600, links: [{switch: leaf/r1/a, port: u1, vrfs: {a: {}}}]}}\n", "outside.port"),
        ("racks: [{racks: r1, role: border}]\noutside: {o: {asn: 64600, links: [{switch: leaf/r1/a, port: h1, vrfs: {a: {}}}]}}\n", "outside.vrf"),
        ("outside: {o: {asn: 23456, links: [{switch: leaf/r1/a, port: h1, vrfs: {a: {}}}]}}\n", "brief.value-error"),
    ],
)  # fmt: skip
def test_what_cannot_be_built_is_refused_in_words(text: str, code: str) -> None:
    with pytest.raises(Refused) as refused:
        compile(read(f"fabric: x\n{text}").brief)
    fault = refused.value.faults[0]
    assert fault.code == code, fault
    assert fault.message.endswith(".") and len(fault.message) > 30


def test_a_mark_shuts_both_ends_keeps_the_numbers_and_leaves_the_plan_of_what_comes_later() -> None:
    text = "fabric: x\nspines: {count: 2}\nracks: [{racks: r1..r3, leaves: 1}]\nsegments: {a: {}}\n"
    before = compile(read(text).brief)
    marks = "out_of_service: {leaf/r1/a~spine/1~1: cut, leaf/r2/a:h3: dead}\nplanned_later: {rack/r3: next year}\n"
    after = compile(read(text + marks).brief, kept(before))
    assert after.allocation.numbers == before.allocation.numbers
    leaf = {port.label: port for port in after.models["leaf/r1/a"].fabric_ports}
    assert leaf["u1"].shut == "out of service: cut" and leaf["u2"].shut is None
    spine = {port.peer: port for port in after.models["spine/1"].fabric_ports}
    silent = compile(read(text + "out_of_service: {spine/1: ''}\n").brief).models["leaf/r1/a"].fabric_ports[0].shut
    assert silent == "out of service: spine-1 is out of service", "a mark without a reason names its end"
    assert spine["leaf-r1"].shut and spine["leaf-r3"].shut == "planned later: next year" and not spine["leaf-r2"].shut
    assert "link-down yes" in after.files("leaf/r2/a")["etc/network/interfaces"].split("iface h3")[1].split("iface")[0]
    assert [switch.key for switch in after.staged] == ["spine/1", "spine/2", "leaf/r1/a", "leaf/r2/a"]
    assert len(after.cables) == 4, "no cable to the rack that comes later"


@tries(60)
@given(data=briefs())
def test_what_is_counted_before_anything_is_made_is_what_is_made(data: dict[str, Any]) -> None:
    brief = Brief.model_validate(data)
    structure = expand(brief, MADE)
    assert extent(brief) == (len(structure.switches), sum(link.kind == "fabric" for link in structure.links))


BORDER = (
    "fabric: x\nspines: {count: 2}\nracks: [{racks: r1..r2, leaves: 1}, {racks: b1..b2, role: border, leaves: 1}]\n"
    "vrfs: {a: {}}\noutside:\n  quay:\n    asn: 64600\n    links:\n"
)
LINKS = "".join(
    f"      - {{switch: leaf/{rack}/a, port: h{port}, vrfs: {{a: {{}}}}}}\n"
    for rack, port in (("b1", 1), ("b1", 2), ("b2", 1))
)


@pytest.mark.parametrize(
    ("marks", "ports"),
    [
        ("", {"leaf/b1/a h1", "leaf/b1/a h2", "leaf/b2/a h1"}),
        ("planned_later: {leaf/b1/a: next year}\n", {"leaf/b2/a h1"}),
        ("planned_later: {'leaf/b1/a:h1': next year}\n", {"leaf/b1/a h2", "leaf/b2/a h1"}),
        ("out_of_service: {leaf/b1/a: a fan, 'leaf/b2/a:h1': cut}\n", {"leaf/b1/a h1", "leaf/b1/a h2", "leaf/b2/a h1"}),
    ],
)
def test_cables_to_outside_are_laid_unless_their_switch_or_port_comes_later(marks: str, ports: set[str]) -> None:
    compiled = compile(read(BORDER + LINKS + marks).brief)
    keys = {switch.name: switch.key for switch in compiled.structure.switches}
    out = [cable for cable in compiled.cables if cable.b.switch == "quay"]
    assert {f"{keys[cable.a.switch]} {cable.a.port}" for cable in out} == ports
    assert all((cable.b.rack, cable.b.unit, cable.b.port) == ("", 0, "") for cable in out), (
        "nobody knows where quay stands"
    )
    sums = add_up(compiled.brief, compiled.structure)
    assert sum(sums.cables_by_kind.values()) == sums.cables == len(compiled.cables)


def test_every_link_to_outside_that_cannot_be_is_told_at_once() -> None:
    wrong = [("r1", "h1"), ("b1", "u1"), ("b2", "h1"), ("b2", "h1"), ("zz", "h1"), ("b1", "h99"), ("b2", "h1")]
    links = "".join(f"      - {{switch: leaf/{rack}/a, port: {port}, vrfs: {{a: {{}}}}}}\n" for rack, port in wrong)
    with pytest.raises(Refused) as refused:
        compile(read(BORDER + links).brief)
    told = [(fault.code, int(fault.path.split("[")[1].split("]")[0])) for fault in refused.value.faults]
    assert told == [
        ("outside.switch", 0), ("outside.port", 1), ("outside.port-twice", 3), ("outside.switch", 4), ("outside.port", 5),
        ("outside.port-twice", 6),
    ]  # fmt: skip


def test_switches_whose_ports_have_no_speed_in_common_are_refused_before_numbers_are_drawn() -> None:
    old = SwitchType(
        id="old-leaf", maker="Lonja", name="Old", tiers=["leaf"], power=90,
        groups=[
            PortGroup(prefix="h", count=8, speeds=[10], use="host", connector="SFP+"),
            PortGroup(prefix="u", count=4, speeds=[10], use="fabric", connector="SFP+"),
        ],
    )  # fmt: skip
    text = "fabric: x\nspines: {count: 2, model: cantera-c64}\nracks: [{racks: r1, leaves: 1}, {racks: r2, leaves: 1, model: old-leaf}]\n"
    with pytest.raises(Refused) as refused:
        compile(read(text).brief, catalogue=MADE.with_models([old]))
    assert [(fault.code, fault.path) for fault in refused.value.faults] == [("ports.speed", "racks[1].model")]


@pytest.mark.parametrize(
    ("later", "words"),
    [
        ("", "6 switches, 11 cables"),
        ("'leaf/b1/a:h1': x", "6 switches, 10 cables (1 cable more planned for later)"),
        ("leaf/b1/a: x", "5 switches, 7 cables (1 switch and 4 cables more planned for later)"),
    ],
)
def test_what_there_is_to_be_now_and_later_is_said_in_words(later: str, words: str) -> None:
    assert compile(read(f"{BORDER}{LINKS}planned_later: {{{later}}}\n").brief).extent == words
