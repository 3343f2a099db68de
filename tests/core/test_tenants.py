"""VRFs and segments in full: what they say to each other, to hosts and outside; what cannot be; and that nothing is left of what goes."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import read, set_value
from barrio.core.brief.model import Brief
from tests.conftest import briefs, tries

QUAY = """
fabric: quay
racks:
  - {racks: r01..r02, leaves: 1, model: cantera-l48}
  - {racks: b01, leaves: 1, model: cantera-l48, role: border}
vrfs:
  tides:
    routes: {10.97.0.0/16: 10.72.1.9}
    imports: {store: [copies]}
    aggregates: [10.72.0.0/16]
  store: {imports: {tides: [grid]}}
segments:
  grid: {vrf: tides, v4: 10.72.1.0/24, v6: "fd72:0:0:1::/64", secondary: [10.73.1.0/24], racks: "r01, b01"}
  boot: {vrf: tides, v4: 10.72.5.0/24, racks: r02, relay: {servers: [10.72.1.53]}}
  copies: {vrf: store, v4: 10.80.0.0/24, mtu: 1500, suppress: false, multicast: snoop, racks: r02}
outside:
  router: {asn: 64600, links: [{switch: leaf/b01/a, port: h48, vrfs: {tides: {}}}]}
"""


def quay(*edits: tuple[str, object]) -> Compiled:
    text = QUAY
    for path, value in edits:
        text = set_value(text, path, value)
    return compile(read(text).brief)


def test_a_route_is_on_the_leaves_beside_its_next_hop_and_told_to_the_others() -> None:
    made = quay()
    said = {key: made.files(key)["etc/frr/frr.conf"] for key in ("leaf/r01/a", "leaf/r02/a", "leaf/b01/a")}
    assert [" ip route 10.97.0.0/16 10.72.1.9\n" in text for text in said.values()] == [True, False, True]
    assert ["redistribute static" in text for text in said.values()] == [True, False, True]


def test_outside_hears_of_aggregates_and_of_what_none_of_them_covers() -> None:
    tides = next(one for one in quay().models["leaf/b01/a"].vrfs if one.label == "tides")
    assert [entry.prefix for entry in tides.own_v4] == ["10.72.0.0/16", "10.73.1.0/24", "10.97.0.0/16"]
    assert [entry.prefix for entry in tides.own_v6] == ["fd72:0:0:1::/64"]


def test_a_vrf_is_on_a_leaf_where_another_takes_routes_from_it() -> None:
    """r01 has no segment of the store's, and needs its table for what tides imports; the other way round nothing is there to import for."""
    made = quay()
    assert [str(one.label) for one in made.models["leaf/r01/a"].vrfs] == ["store", "tides"]
    alone = quay(("vrfs.tides.imports", None))
    assert [str(one.label) for one in alone.models["leaf/r01/a"].vrfs] == ["tides"]
    assert [finding.code for finding in alone.findings if finding.code.startswith("vrf.")] == ["vrf.one-way"]


def test_what_a_vrf_lends_to_another_is_not_what_it_took_from_a_third() -> None:
    """Tides takes from the store, which takes from a third: where the store is for tides alone, the third is not needed and is not there."""
    made = quay(
        ("vrfs.third", {"imports": {"store": ["copies"]}}),
        ("segments.deep", {"vrf": "third", "v4": "10.90.0.0/24", "racks": "r02"}),
        ("vrfs.store.imports", {"tides": ["grid"], "third": ["deep"]}),
    )
    there = {str(one.label): [str(taken.label) for taken in one.imports] for one in made.models["leaf/r01/a"].vrfs}
    assert there == {"store": [], "tides": ["store"]}
    both = {str(one.label): [str(taken.label) for taken in one.imports] for one in made.models["leaf/r02/a"].vrfs}
    assert both == {"store": ["third", "tides"], "third": ["store"], "tides": ["store"]}
    assert made.read_back() == ()


def test_each_leaf_asks_dhcp_servers_from_an_address_of_its_own() -> None:
    made = quay(("segments.boot.racks", None))
    sources = [relay.source for key in ("leaf/r01/a", "leaf/r02/a") for relay in made.models[key].relays]
    assert len(sources) == 2 and len(set(sources)) == 2
    r01, r02 = (made.models[key].relays[0] for key in ("leaf/r01/a", "leaf/r02/a"))
    grid = next(one.svi for one in made.models["leaf/r01/a"].segments if one.label == "grid")
    assert r01.uplinks == (grid,) and r02.uplinks == (r02.own,), "the server is beside r01, and elsewhere for r02"


def test_where_a_dhcpv6_server_is_the_leaf_does_not_speak_as_the_gateway() -> None:
    made = quay(("segments.grid.relay", {"servers": ["fd72:0:0:1::53"]}))
    said = made.files("leaf/r01/a")["etc/network/interfaces"]
    assert said.count("ip -6 address change fd72:0:0:1::1/64 dev vlan") == 1 and made.read_back() == ()
    assert "preferred_lft" not in quay().files("leaf/r01/a")["etc/network/interfaces"]


def test_a_dhcp_server_outside_is_told_the_way_back_to_each_leaf_that_asks() -> None:
    made = quay(("segments.boot.relay.servers", ["10.99.0.5"]))
    tides = next(one for one in made.models["leaf/b01/a"].vrfs if one.label == "tides")
    asking = {f"{relay.source}/32" for model in made.models.values() for relay in model.relays}
    assert asking and asking <= {entry.prefix for entry in tides.own_v4}
    inside = next(one for one in quay().models["leaf/b01/a"].vrfs if one.label == "tides")
    assert not any(entry.prefix.endswith("/32") for entry in inside.own_v4)


IMPOSSIBLE: list[tuple[tuple[str, object], str, str]] = [
    (("vrfs.tides.routes", {"10.97.0.0/16": "10.99.0.1"}), "vrf.route", "no segment of VRF tides"),
    (("vrfs.tides.routes", {"10.97.0.0/16": "10.72.1.1"}), "vrf.route", "gateway of grid"),
    (("vrfs.tides.routes", {"10.97.0.0/16": "fd72:0:0:1::9"}), "vrf.route", "other family"),
    (("vrfs.tides.routes", {"10.72.1.0/24": "10.72.1.9"}), "vrf.route", "needs no route"),
    (("vrfs.tides.imports", {"stores": ["copies"]}), "vrf.import", "Is store meant?"),
    (("vrfs.tides.imports", {"tides": ["grid"]}), "vrf.import", "from itself"),
    (("vrfs.tides.imports", {"store": ["grid"]}), "vrf.import", "no segment of VRF store, which has copies"),
    (("vrfs.tides.imports", {"store": ["10.72.0.0/15"]}), "vrf.import-meets", "its own segment boot"),
    (("vrfs.tides.aggregates", ["0.0.0.0/0"]), "brief", "no aggregate"),
    (("segments.copies.mtu", 9100), "segment.mtu", "gives hosts 9000"),
    (("segments.copies.secondary", ["fd80::/64"]), "segment.secondary", "no first of its family"),
    (("segments.copies.secondary", ["10.72.1.128/25"]), "pin.taken", "segment prefix of segment/grid"),
    (("segments.boot.relay.vrf", "stor"), "segment.relay", "Is store meant?"),
    (("segments.boot.relay.servers", ["fd72::53"]), "segment.relay", "no v6 prefix"),
    (("segments.boot.relay.servers", []), "brief", "at least 1"),
    (("segments.grid.secondary", ["224.0.1.0/24"]), "prefix.unusable", "multicast"),
]  # fmt: skip


@pytest.mark.parametrize(("edit", "code", "words"), IMPOSSIBLE)
def test_what_cannot_be_is_refused_with_the_way_out(edit: tuple[str, object], code: str, words: str) -> None:
    with pytest.raises(Refused) as refused:
        quay(edit)
    fault = refused.value.faults[0]
    assert code in fault.code and words in fault.message, refused.value.faults


def test_dhcpv6_into_another_vrf_is_more_than_the_target_can() -> None:
    made = quay(("segments.grid.relay", {"servers": ["fd80::53"], "vrf": "store"}))
    assert {fault.code for fault in made.without_files.values()} == {"target.relay"}
    assert set(made.without_files) == {"leaf/r01/a", "leaf/b01/a"}


@tries(20)
@given(data=briefs(), draw=st.data())
def test_what_comes_and_goes_changes_nothing_else(data: dict[str, Any], draw: st.DataObject) -> None:
    """A VRF, segments and a host pass by, with numbers of their own: no switch that has none of them is other by one byte, and no number moves."""
    data = {**data, "default_plug": "shut", "leaf_plugs": {}}
    before = compile(Brief.model_validate(data))
    segments = {
        f"passing-{n}": {
            "vrf": "passing",
            "vlan": 3901 + n,
            "vni": 99001 + n,
            "v4": f"10.220.{n}.0/24",
            "secondary": [f"10.221.{n}.0/24"],
        }
        for n in range(draw.draw(st.integers(1, 2)))
    }
    rack = f"{'p1-' if data.get('pods') else ''}{data['racks'][0]['racks'].split(', ')[0]}"
    hosts = {"passer": {"at": f"{rack}/a h31", "untagged": "passing-0", "macs": 3}} if draw.draw(st.booleans()) else {}
    grown = {
        **data,
        "vrfs": {**data["vrfs"], "passing": {"vni": 99000, "vlan": 3900, "aggregates": ["10.220.0.0/16"]}},
        "segments": {**data["segments"], **segments},
        "hosts": {**(data.get("hosts") or {}), **hosts},
    }
    there = compile(Brief.model_validate(grown))
    meant = {f"leaf/{rack}/a"} if hosts else set()
    moved = {key for key in before.models if before.files(key) != there.files(key)}
    assert moved == meant
    for use, held in before.allocation.numbers.items():
        assert held.items() <= there.allocation.numbers[use].items(), use
    for key in meant:
        lost = _lines(before.files(key)) - _lines(there.files(key))
        assert all(re.match(r"\s*(bridge-ports|bridge-vids|elements|iifname|# ) ?", line) for line in lost), lost


def _lines(files: Mapping[str, str]) -> set[str]:
    return {line for text in files.values() for line in text.splitlines()}
