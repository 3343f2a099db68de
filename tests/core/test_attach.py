"""Hosts on ports: dealt as written, bonded where they can be, carrying what they, their plugs and sets say; and everything else shut."""

from __future__ import annotations

import random
from typing import Any

import hypothesis.strategies as st
import pytest
from hypothesis import given

from barrio.core import Compiled, Refused, compile
from barrio.core.attach.attachments import Attachments
from barrio.core.because import of_value
from barrio.core.brief.document import Document, apply, read
from barrio.core.brief.model import Brief
from barrio.core.compiled import Stock
from barrio.core.edits.attaching import Cell, detach, dress, fill
from barrio.core.edits.reshape import remove_racks
from barrio.core.ledger.wanted import Holdings
from tests.conftest import briefs, tries

HALL = """
fabric: hall
spines: {count: 2}
racks:
  - {racks: r01..r02, pairing: multihoming}
  - {racks: r03, leaves: 1}
  - {racks: r04}
vrfs: {tides: {}}
segments:
  grid: {vrf: tides, v4: auto}
  telemetry: {vrf: tides, v4: auto}
  boot: {}
  sync: {racks: "r01..r02"}
sets: {storage: [sync, grid]}
plugs:
  compute: {lag: lacp, untagged: boot, tagged: [storage]}
  plain: {untagged: telemetry}
"""
HOSTS = """
hosts:
  model-01..model-08: {at: r01 h1..h8, plug: compute, team: Models}
  store: {at: r02 h3..h4, plug: compute, untagged: none}
  gauge-1..gauge-3: {at: r03 h10..h12, plug: plain}
  probe: {at: [r04/a h1, r04/b h7], tagged: [telemetry]}
"""


def hall(hosts: str = HOSTS, **edits: Any) -> Compiled:
    return compile(read(apply(HALL + hosts, list(edits.items()))).brief)


def port(compiled: Compiled, leaf: str, name: str) -> Any:
    return next(one for one in compiled.models[leaf].host_ports if one.label == name)


def carried(found: Attachments) -> dict[str, tuple[str | None, frozenset[str]]]:
    return {name: (one.way.untagged, frozenset(one.way.tagged)) for name, one in found.hosts.items()}


def test_hosts_are_dealt_their_ports_in_turn_on_both_leaves_of_a_pair() -> None:
    found = hall().attachments.hosts
    assert found["model-05"].ports == (("leaf/r01/a", "h5"), ("leaf/r01/b", "h5"))
    assert found["store"].ports == tuple((f"leaf/r02/{side}", name) for name in ("h3", "h4") for side in "ab")
    assert found["gauge-2"].ports == (("leaf/r03/a", "h11"),)
    assert found["probe"].ports == (("leaf/r04/a", "h1"), ("leaf/r04/b", "h7"))
    assert (found["model-01"].way.untagged, found["model-01"].way.tagged) == ("boot", ("sync", "grid"))
    assert found["store"].way.untagged is None, "none is nothing, over its plug"


def test_a_lag_is_one_device_with_all_its_ports_and_one_ethernet_segment_on_both_leaves() -> None:
    compiled = hall()
    one, two = (list(compiled.models[f"leaf/r02/{side}"].host_lags) for side in "ab")
    assert [lag.members for lag in one] == [("h3", "h4")] and one[0].segment_id == two[0].segment_id == 3
    assert len(compiled.models["leaf/r01/a"].host_lags) == 8 and compiled.models["leaf/r03/a"].host_lags == ()
    text = compiled.files("leaf/r02/a")["etc/network/interfaces"]
    assert "bond-slaves h3 h4\n" in text and "alias store\n" in text


def test_a_lag_goes_on_over_the_ports_that_are_in_service() -> None:
    compiled = hall(out_of_service={"leaf/r02/a:h3": "a broken cage"})
    one, two = (compiled.models[f"leaf/r02/{side}"].host_lags[0] for side in "ab")
    assert (one.label, one.members) == ("bond-h3", ("h4",)) and two.members == ("h3", "h4")
    assert one.segment_id == two.segment_id and "a broken cage" in (port(compiled, "leaf/r02/a", "h3").shut or "")
    assert compiled.read_back() == ()


def test_segments_reach_the_leaves_that_carry_them_and_ports_what_they_ask_for() -> None:
    compiled = hall()
    on = {key: [part.label for part in model.segments] for key, model in compiled.models.items() if model.is_leaf}
    assert on["leaf/r01/a"] == on["leaf/r01/b"] == ["boot", "grid", "sync"]
    assert on["leaf/r02/a"] == ["grid", "sync"] and on["leaf/r03/a"] == on["leaf/r04/b"] == ["telemetry"]
    vlans = {name: taken.low for name, taken in compiled.allocation.numbers["vlan"].items()}
    at = port(compiled, "leaf/r01/b", "h8")
    assert at.untagged == vlans["segment/boot"]
    assert set(at.tagged) == {vlans["segment/sync"], vlans["segment/grid"]}


def test_a_port_without_a_host_is_shut_and_says_so_unless_a_default_plug_says_otherwise() -> None:
    compiled = hall()
    free = port(compiled, "leaf/r01/a", "h9")
    assert free.free and free.shut == "no host is attached" and not free.tagged
    assert "h9" not in " ".join(compiled.models["leaf/r01/a"].edge_ports)
    document = read(HALL + HOSTS)
    chain = of_value(document, compiled, "switches/leaf-r01a/host_ports/h9/shut")
    assert "no host is attached" in free.shut and "shut, once hosts are named" in chain[0].title
    for path, value, leaf in (
        ("default_plug", "plain", "leaf/r03/a"),
        ("racks[1].default_plug", "plain", "leaf/r03/a"),
        ("leaf_plugs", {"leaf/r03/a": "plain"}, "leaf/r03/a"),
    ):
        opened = hall(**{path: value})
        assert port(opened, leaf, "h40").untagged and not port(opened, leaf, "h40").shut, path
        assert port(opened, "leaf/r01/a", "h9").free == (path != "default_plug")
    named = hall(default_plug="plain", leaf_plugs={"leaf/r03/a": "shut"})
    assert port(named, "leaf/r03/a", "h40").shut and not port(named, "leaf/r04/a", "h40").shut
    assert port(hall(hosts=""), "leaf/r04/a", "h40").tagged, "while no host is named, all are open"


def test_a_set_that_grows_grows_on_every_trunk() -> None:
    before, after = hall(), hall(**{"sets.storage": ["sync", "grid", "telemetry"]})
    vlan = after.allocation.numbers["vlan"]["segment/telemetry"].low
    for leaf, name in (("leaf/r01/a", "h1"), ("leaf/r01/b", "h8"), ("leaf/r02/b", "h3")):
        assert vlan in port(after, leaf, name).tagged and vlan not in port(before, leaf, name).tagged
    chain = of_value(read(HALL + HOSTS), before, "switches/leaf-r01a/host_ports/h1/tagged/0")
    assert any("storage" in step.title for step in chain) and any("compute" in step.title for step in chain)


def test_a_paused_segment_is_silent_and_keeps_its_numbers() -> None:
    before, after = hall(), hall(**{"segments.grid.state": "paused"})
    assert after.allocation.numbers == before.allocation.numbers
    vlan = after.allocation.numbers["vlan"]["segment/grid"].low
    for model in after.models.values():
        assert vlan not in model.vlans and all(vlan not in one.tagged for one in model.host_ports)
        assert not any(part.label == "grid" for part in model.segments)
    only = hall(hosts="hosts: {probe: {at: r03 h1, untagged: telemetry}}\n", **{"segments.telemetry.state": "paused"})
    at = port(only, "leaf/r03/a", "h1")
    assert at.host == "probe" and not at.shut and at.untagged is None, "its port stays as it was"


BAD = {
    "probe: {at: r03 h1, untagged: gird}": ("host.segment", "Is grid meant?"),
    "probe: {at: r03 h1, plug: conpute}": ("host.plug", "Is compute meant?"),
    "probe: {at: r03 h1, untagged: grid, tagged: [grid]}": ("host.untagged-twice", "untagged and tagged"),
    "probe: {at: r03 h1, untagged: sync}": ("host.elsewhere", "kept to racks r01..r02"),
    "a: {at: r03 h1}\n  b: {at: r03 h1}": ("host.port-twice", "both a and b"),
    "a-1..a-2: {at: r03 h1..h2}\n  a-2: {at: r03 h9}": ("host.twice", "named twice"),
    "a-1..a-3: {at: r03 h1..h2}": ("host.count", "3 hosts and 2 ports"),
    "a: {at: r09 h1}": ("host.rack", "no rack of leaves r09"),
    "a: {at: r03/b h1}": ("host.rack", "no leaf b in rack r03"),
    "a: {at: r03 h99}": ("host.port", "has no port h99"),
    "a: {at: r03 u1}": ("host.port", "is an uplink. Choose a host port: h1 to h48"),
    "a: {at: r03 h1, speed: 400}": ("host.port", "runs at"),
    "a: {at: r04 h1, lag: lacp}": ("host.no-pair", "are no pair"),
    "a: {at: [r01 h1, r02 h1], lag: lacp}": ("host.no-pair", "Name ports of one rack"),
    "a: {at: r03 h1, mtu: 9100}": ("host.mtu", "9000 at most"),
    "a: {at: r03 h1, fallback: false}": ("host.fallback", "Set lag: lacp"),
    "a: {at: r03-h1}": ("host.place", "r01 h1..h40"),
}


ODD = (
    ({"plugs.every": {}}, "host.plug-name"), ({"sets.grid": ["boot"]}, "host.set-name"), ({"segments.none": {}}, "host.segment-name"),
    ({"plugs.unused": {"tagged": ["gird"]}}, "host.segment"), ({"default_plug": "compute"}, "host.elsewhere"),
    ({"leaf_plugs": {"leaf/r99/a": "plain"}}, "name.of-nothing"), ({"sets.storage": ["sink"]}, "host.segment"),
    ({"default_plug": "conpute"}, "host.plug"),
    ({"hosts.store.at": ["r02/a h3", "r02/b h4"]}, "host.ports-differ"),
)  # fmt: skip


@pytest.mark.parametrize(("edits", "code"), ODD)
def test_words_of_two_meanings_and_plugs_that_fit_nowhere_are_refused(edits: dict[str, Any], code: str) -> None:
    with pytest.raises(Refused) as refused:
        hall(**edits)
    assert refused.value.faults[0].code == code and refused.value.faults[0].path, refused.value


def test_a_default_plug_without_a_lag_bonds_nothing_over_a_pair() -> None:
    compiled = hall(**{"racks[0].default_plug": "plain"})
    at = port(compiled, "leaf/r01/a", "h40")
    assert at.untagged and at.bond is None and len(compiled.models["leaf/r01/a"].host_lags) == 8


@pytest.mark.parametrize("hosts", BAD)
def test_what_cannot_be_attached_names_the_thing_the_entry_and_the_way_out(hosts: str) -> None:
    code, words = BAD[hosts]
    with pytest.raises(Refused) as refused:
        hall(f"hosts:\n  {hosts}\n")
    (fault,) = refused.value.faults
    assert fault.code == code and words in fault.message and fault.path.startswith("hosts.")


def test_what_no_bond_of_linux_can_do_is_refused_where_it_is_asked_for() -> None:
    compiled = hall(**{"hosts.store.fallback": False})
    assert set(compiled.without_files) == {"leaf/r02/a", "leaf/r02/b"}
    fault = compiled.without_files["leaf/r02/a"]
    assert fault.code == "target.fallback" and fault.path == "hosts.store" and "shut the port" in fault.message


def test_of_a_leaf_what_leads_outside_or_is_broken_out_is_for_no_host() -> None:
    outside = {
        "router": {"asn": 64600, "links": [{"switch": "leaf/r03/a", "port": "h48", "vrfs": {"tides": {"v4": "auto"}}}]}
    }
    for edits, hosts, words in (
        ({"racks[1].role": "border", "outside": outside}, "a: {at: r03 h48}", "leads outside, to router"),
        ({"racks[1].ports": {"reserved": "h5"}}, "a: {at: r03 h5}", "is reserved"),
    ):
        with pytest.raises(Refused) as refused:
            hall(f"hosts:\n  {hosts}\n", **edits)
        assert words in str(refused.value)


CELLS = [
    (leaf, name, segment)
    for leaf, names in (
        ("leaf/r01/a", [f"h{n}" for n in range(1, 9)]),
        ("leaf/r02/b", ["h3", "h4"]),
        ("leaf/r03/a", ["h10", "h11"]),
    )
    for name in names
    for segment in ("grid", "telemetry", "boot")
]


@tries(40)
@given(
    picked=st.lists(
        st.tuples(st.sampled_from(CELLS), st.sampled_from(["tagged", "untagged", ""])), min_size=1, max_size=12
    )
)
def test_a_fill_makes_just_these_cells_what_they_say_however_entries_are_cut(picked: list[Any]) -> None:
    text = HALL + HOSTS
    before = compile(read(text).brief)
    cells = [Cell(*where, mark) for where, mark in picked]
    wanted = dict(carried(before.attachments))
    for cell in cells:
        host = before.attachments.at[cell.leaf][cell.port].host
        untagged, tagged = wanted[host]
        rest = tagged - {cell.segment}
        kept = None if untagged == cell.segment else untagged
        wanted[host] = {
            "tagged": (kept, rest | {cell.segment}), "untagged": (cell.segment, rest), "": (kept, rest),
        }[cell.mark]  # fmt: skip
    after = compile(read(apply(text, fill(before.brief, before.attachments, cells))).brief)
    assert carried(after.attachments) == wanted
    ports = {name: one.ports for name, one in before.attachments.hosts.items()}
    assert {name: one.ports for name, one in after.attachments.hosts.items()} == ports
    assert fill(after.brief, after.attachments, []) == []
    again = [Cell(cell.leaf, cell.port, cell.segment, cell.mark) for cell in cells[-1:]]
    assert fill(after.brief, after.attachments, again) == [], "what a cell says already is no edit"


def test_a_fill_of_a_whole_entry_stays_one_entry_and_keeps_its_sets() -> None:
    found = hall()
    cells = [Cell("leaf/r01/a", f"h{n}", "telemetry", "tagged") for n in range(1, 9)]
    assert fill(found.brief, found.attachments, cells) == [
        ('hosts."model-01..model-08".tagged', ["storage", "telemetry"])
    ]
    one = fill(found.brief, found.attachments, cells[:1])
    assert [path for path, _ in one] == [
        'hosts."model-01..model-08"', 'hosts.model-01', 'hosts."model-02..model-08"',
    ]  # fmt: skip
    with pytest.raises(Refused, match="No host is attached to r03/a h1"):
        fill(found.brief, found.attachments, [Cell("leaf/r03/a", "h1", "grid", "tagged")])


def test_another_plug_for_some_cuts_them_out_of_their_entry_and_for_all_changes_it() -> None:
    found = hall()
    text = HALL + HOSTS
    some = compile(read(apply(text, dress(found.brief, found.attachments, ["gauge-2"], "plug", ""))).brief)
    assert carried(some.attachments) == carried(found.attachments) | {"gauge-2": (None, frozenset())}
    whole = [f"model-{n:02d}" for n in range(1, 9)]
    assert dress(found.brief, found.attachments, whole, "team", "Tides") == [
        ('hosts."model-01..model-08".team', "Tides")
    ]
    assert dress(found.brief, found.attachments, whole, "team", "Models") == [], "it is theirs already"
    with pytest.raises(Refused, match="no host nobody"):
        dress(found.brief, found.attachments, ["nobody"], "plug", "plain")


@tries(20)
@given(seed=st.integers(0, 10**6))
def test_what_is_taken_away_takes_all_it_caused_and_nothing_else(seed: int) -> None:
    """Hosts and segments come and go in any order: what stands at the end is what a brief that never had the others compiles to."""
    chance = random.Random(seed)
    text = HALL + HOSTS
    for _ in range(4):
        found = compile(read(text).brief)
        gone = chance.sample(sorted(found.attachments.hosts), chance.randint(1, 3))
        text = apply(text, detach(found.brief, found.attachments, gone))
        if not read(text).brief.hosts:
            break
    last = compile(read(text).brief)
    whole = compile(read(HALL + HOSTS).brief)
    for key, model in last.models.items():
        kept = {one.label: one for one in model.host_ports if one.host}
        for name, one in kept.items():
            assert one == port(whole, key, name)
        here = {vlan for one in kept.values() for vlan in (*one.tagged, one.untagged) if vlan}
        routed = {vrf.vlan for vrf in model.vrfs}
        assert set(model.vlans) == here | routed
        assert {part.vlan for part in model.segments} == here
    assert last.allocation.numbers == whole.allocation.numbers, "numbers belong to segments, not to hosts"


def test_a_rack_that_goes_takes_its_hosts_with_it_and_no_others() -> None:
    found = hall()
    after = compile(read(apply(HALL + HOSTS, remove_racks(found.brief, ["r02", "r03"]))).brief)
    assert set(after.attachments.hosts) == {*(f"model-{n:02d}" for n in range(1, 9)), "probe"}
    spread = hall("hosts: {a-1..a-4: {at: r03..r04 h1..h2, untagged: telemetry}}\n")
    left = compile(
        read(
            apply(
                HALL + "hosts: {a-1..a-4: {at: r03..r04 h1..h2, untagged: telemetry}}\n",
                remove_racks(spread.brief, ["r03"]),
            )
        ).brief
    )
    assert {name: one.ports for name, one in left.attachments.hosts.items()} == {
        name: one.ports for name, one in spread.attachments.hosts.items() if "r03" not in str(one.ports)
    }


def test_a_brief_of_hosts_reads_back_without_a_finding_and_reasons_are_found() -> None:
    document = read(HALL + HOSTS)
    compiled = compile(document.brief)
    assert compiled.read_back() == ()
    for path in ("host_ports/h3/host", "host_lags/bond-h3/members/1", "host_lags/bond-h3/static", "host_ports/h3/mtu"):
        chain = of_value(
            Document(document.text, document.brief, document.lines), compiled, f"switches/leaf-r02a/{path}"
        )
        assert any(step.kind == "brief" for step in chain), path


@tries(10)
@given(data=briefs(), draw=st.data())
def test_a_change_of_hosts_makes_the_same_models_as_all_made_anew(data: dict[str, Any], draw: st.DataObject) -> None:
    """What did not change is taken from before; nobody can tell it from a fabric compiled whole."""
    hosts = data.get("hosts") or {}
    plug = {**(data.get("plugs") or {}).get("compute", {}), "mtu": 1400}
    changes: list[dict[str, Any]] = [
        {"hosts": {}, "plugs": {}, "sets": {}, "leaf_plugs": {}, "default_plug": None},
        {"default_plug": draw.draw(st.sampled_from(["every", "shut"]))},
        {"plugs": {**(data.get("plugs") or {}), "compute": plug}} if hosts else {},
        {"hosts": {name: host for name, host in hosts.items() if name != draw.draw(st.sampled_from([*hosts, ""]))}},
        {"hosts": {name: {**host, "note": "another word"} for name, host in hosts.items()}},
        {"title": "another title"},
        {"title": "another title", "services": {**data["services"], "domain": "other.example", "ntp": []}},
        {"services": data["services"], "hosts": {}, "out_of_service": {}, "planned_later": {}},
    ]
    before = compile(Brief.model_validate(data))
    for key in before.models:
        before.files(key)
    for change in changes:
        brief = Brief.model_validate({**data, **change})
        held = Stock(before.pools, Holdings(before.allocation.numbers))
        again, anew = compile(brief, held, previous=before), compile(brief, held)
        assert again.models == anew.models and again.ends == anew.ends and again.origins == anew.origins
        assert again.findings == anew.findings and again.allocation == anew.allocation and again.demands == anew.demands
        assert again.cables == anew.cables and again.attachments == anew.attachments
        assert again.site_wide == anew.site_wide and again.without_files == anew.without_files
        for key in anew.models:
            assert again.files(key) == anew.files(key)
        _counted(again)
        before = again


def _counted(compiled: Compiled) -> None:
    """What is told of all seats is what one finds by looking at each."""
    seats, hosts = compiled.seats, compiled.attachments.hosts.values()
    for name in compiled.brief.segments:
        assert seats.carrying.get(name, 0) == sum(name in one.carried for one in seats.all)
        assert seats.hosts.get(name, 0) == sum(name in one.way.carried for one in hosts)
    assert seats.free == sum(one.use == "host" and one.host is None for one in seats.all)
    racks = dict.fromkeys(leaf.rack for leaf in compiled.structure.leaves)
    assert [one for rack in racks for one in seats.of_rack(rack)] == list(seats.all)
