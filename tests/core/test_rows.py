"""What a switch holds is read into rows that change when it does, and not because time passes or a listing comes in another order."""

from __future__ import annotations

import json
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core.observe.rows import KINDS, changes, rows, undone

VRFS = json.dumps([{"ifname": "tides", "linkinfo": {"info_kind": "vrf", "info_data": {"table": 1002}}}])
WAYS = [{"dev": "u1", "gateway": "10.60.9.1", "flags": []}, {"dev": "u2", "gateway": "10.60.9.3", "flags": ["dead"]}]


def routes(*four: dict[str, object], six: tuple[dict[str, object], ...] = ()) -> str:
    return f"{VRFS}\n4\n{json.dumps(four)}\n6\n{json.dumps(six)}\n"


def test_routes_stand_by_their_table_and_say_by_which_ways_they_lead() -> None:
    spread = {"dst": "10.60.8.1", "nexthops": WAYS, "protocol": "bgp"}
    own = {"type": "local", "dst": "10.60.8.9", "table": "local", "dev": "lo"}
    hole = {"type": "blackhole", "dst": "default", "table": "1002"}
    six = (
        {"dst": "fe80::/64", "dev": "u1"},
        {"dst": "default", "via": {"family": "inet6", "host": "fe80::1"}, "dev": "u1"},
    )
    found = rows("routes", routes(spread, own, hole, six=six))
    assert found == {
        "10.60.8.1": "u1 by 10.60.9.1, u2 by 10.60.9.3 (down)",
        "tides 0.0.0.0/0": "blackhole",
        "::/0": "u1 by fe80::1",
    }
    turned = {**spread, "nexthops": WAYS[::-1]}
    assert rows("routes", routes(hole, turned, own, six=six[::-1])) == found, "order is no change"


def test_macs_are_on_ports_or_behind_tunnel_ends_and_what_a_switch_says_of_itself_is_none() -> None:
    text = """02:00:00:00:00:0a dev p1 vlan 110 master br0
02:00:00:00:00:0b dev vni30001 vlan 110 extern_learn master br0
02:00:00:00:00:0b dev vni30001 dst 10.60.8.2 self extern_learn
00:00:00:00:00:00 dev vni30001 dst 10.60.8.3 self permanent
33:33:00:00:00:01 dev u1 self permanent
02:00:00:00:00:0c dev br0 vlan 110 master br0 permanent
"""
    assert rows("macs", text) == {
        "02:00:00:00:00:0a VLAN 110": "on p1",
        "02:00:00:00:00:0b VLAN 110": "through vni30001",
        "02:00:00:00:00:0b vni30001": "behind 10.60.8.2",
    }


def test_other_tables_say_what_lasts_and_leave_out_what_counts_up() -> None:
    peer = {"bgpState": "Established", "localAs": 65010, "remoteAs": 65001, "addressFamilyInfo": {"ipv4Unicast": {}}}
    session = {**peer, "bgpTimerUpMsec": 7000, "messageStats": {"totalSent": 9}}
    later = {**peer, "bgpTimerUpMsec": 9000, "messageStats": {"totalSent": 11}}
    one, other = (rows("sessions", json.dumps({"default": {"u1": each, "vrfId": 0}})) for each in (session, later))
    assert one == other == {"default u1": "Established, AS 65010 with AS 65001, ipv4Unicast"}
    vni = {"vni": 30001, "type": "L2", "vxlanIf": "vni30001", "numMacs": 7, "numRemoteVteps": 2, "tenantVrf": "tides"}
    assert rows("vnis", json.dumps({"30001": vni})) == {"30001": "L2 of tides, 2 tunnel ends, vni30001"}
    vlans = [
        {"ifname": "p1", "vlans": [{"vlan": 10, "flags": ["PVID", "Egress Untagged"]}, {"vlan": 20, "vlanEnd": 29}]}
    ]
    assert rows("vlans", json.dumps(vlans)) == {"p1": "10 untagged, 20-29"}
    device = {"ifname": "u1", "mtu": 9216, "operstate": "UP", "address": "02:00:00:00:00:01", "addr_info": [{"local": "10.0.0.1", "prefixlen": 31, "valid_life_time": 9}]}  # fmt: skip
    assert rows("devices", json.dumps([device])) == {"u1": "up, MTU 9216, 10.0.0.1/31, 02:00:00:00:00:01"}
    assert rows("software", "frr\t8.4.4\nno tab\n") == {"frr": "8.4.4"}


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize(
    "text", ["", "nothing", "[", "{}[", '[{"ifname": 7}, null, [1]]', '{"a": {"b": 1}}', "4\n[[]]\n"]
)
def test_what_cannot_be_read_is_no_table_and_breaks_nothing(kind: str, text: str) -> None:
    found = rows(kind, text)
    assert found is None or all(key and words for key, words in found.items())
    assert rows(kind, "sh: 1: command not found") is None, "which is not to say that the table is empty"


@pytest.mark.parametrize(
    ("kind", "text"),
    [("routes", "[]\n4\n[]\n"), ("routes", "[]"), ("routes", '[]\n4\n{"error": 1}\n6\n[]\n'), ("devices", '{"error": 1}'), ("neighbours", '{"error": 1}')],
)  # fmt: skip
def test_what_is_cut_off_or_an_error_is_not_an_empty_table(kind: str, text: str) -> None:
    assert rows(kind, text) is None


def test_a_switch_that_hears_nobody_any_more_says_so() -> None:
    assert rows("neighbours", '{"lldp": {}}') == {}


def test_nothing_that_is_told_breaks_out_of_its_row() -> None:
    assert rows("software", "frr\t8.4\tx\x00\x1by\ud800\n") == {"frr": "8.4 x y"}


tables = st.dictionaries(st.sampled_from("abcdef"), st.sampled_from(["on p1", "on p2", "behind 10.0.0.1"]))


@given(st.lists(tables, min_size=1, max_size=6))
def test_every_state_comes_back_from_the_newest_and_what_changed_since(states: list[dict[str, str]]) -> None:
    steps = [changes(was, now) for was, now in pairwise(states)]
    for place, state in enumerate(states):
        later = [one for step in reversed(steps[place:]) for one in step]
        assert undone(states[-1], later) == dict(sorted(state.items()))
