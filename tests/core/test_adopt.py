"""What runs becomes a brief again: the files that it makes are those that were read, or each difference is told."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, Refused, compile
from barrio.core.adopt.adopting import Adoption, adopt
from barrio.core.adopt.running import Running, know
from barrio.core.adopt.saved import read_saved
from barrio.core.brief.document import read, set_value
from barrio.core.brief.model import Brief
from barrio.core.compiled import Stock
from barrio.core.ledger.wanted import Holdings
from tests.conftest import EXAMPLES, briefs, tries
from tests.core import handwritten
from tests.core.restyled import restyled


def running(compiled: Compiled) -> list[Running]:
    """All that stands there, with nothing but its files."""
    return [Running(str(one.name), compiled.files(one.key)) for one in compiled.staged]


def said_by(compiled: Compiled, key: str) -> list[str]:
    """What the files of a switch say, without their remarks."""
    lines = [line for text in compiled.files(key).values() for line in text.split("\n")]
    return [line for line in lines if not line.lstrip().startswith(("#", "!"))]


def adopted(name: str) -> tuple[Compiled, Adoption]:
    text = next(path for path in EXAMPLES if path.stem == name).read_text()
    compiled = compile(read(text).brief)
    return compiled, adopt(running(compiled), name)


@pytest.mark.parametrize("name", ["tern", "marlin", "pelican"])
def test_the_demo_fabrics_come_back_byte_for_byte_with_every_number(name: str) -> None:
    compiled, found = adopted(name)
    for switch in compiled.staged:
        assert found.compiled.files(found.keys[str(switch.name)]) == compiled.files(switch.key), switch.name
    assert not found.left
    there = {str(switch.name): switch.key for switch in compiled.staged}
    assert all(found.keys[one] == key for one, key in there.items()), "keys are told from names and racks"
    held = compiled.allocation.numbers
    pinned = {(pin.use, pin.key): pin.number for pin in found.pins}
    for use in ("loopback.v4", "vtep.v4", "management.v4", "link.v4", "asn", "vlan", "vni"):
        for key, number in held.get(use, {}).items():
            if (
                use != "asn"
                and key.split("~")[0] not in there.values()
                and "/" in key
                and key.split("/")[0] in ("leaf", "spine", "super")
            ):
                continue
            assert pinned.get((use, key), number) == number, (use, key)


@given(briefs())
@tries(60)
def test_random_fabrics_come_back_or_say_what_does_not(said: dict[str, Any]) -> None:
    compiled = compile(Brief.model_validate(said | {"out_of_service": {}, "planned_later": {}}))
    found = adopt(running(compiled), said["fabric"])
    for switch in compiled.staged:
        key = found.keys[str(switch.name)]
        same = said_by(found.compiled, key) == said_by(compiled, switch.key)
        assert same or key in found.left or any(one.part == "additions" for one in found.proposals), switch.name


def test_the_same_switches_in_another_order_are_the_same_brief() -> None:
    compiled, found = adopted("marlin")
    again = adopt(list(reversed(running(compiled))), "marlin")
    assert again.text == found.text and again.pins == found.pins


def test_half_of_the_leaves_unreachable_and_what_others_say_of_them_is_still_known() -> None:
    compiled, whole = adopted("marlin")
    every = running(compiled)
    found = adopt([one for one in every if not one.name.endswith("b")], "marlin")
    assert set(found.keys) == set(whole.keys), "the others' ports lead to them"
    gone = {one.switch for one in found.oddities if one.key.startswith("unread/")}
    assert gone == {one.name for one in every if one.name.endswith("b")}
    key = found.keys["leaf-r03b"]
    numbers = {(pin.use, pin.key): pin.number for pin in found.pins}
    held = compiled.allocation.numbers
    assert numbers["asn", key] == held["asn"][key], "neighbours expect it in its AS"
    assert numbers["link.v4", f"{key}~spine/2~1"] == held["link.v4"][f"{key}~spine/2~1"]


SLICE = ("spine", "super-1-1", "super-2-1", "super-3-1", "super-4-1", "leaf-p01-a01", "border-p01-b01", "leaf-p02-r01", "leaf-p03-r01", "leaf-p04-a02")  # fmt: skip
"""What is read of *Pelican*: every spine, a super-spine of each plane, and five pairs of leaves."""


def test_a_part_of_pods_and_planes_is_adopted_as_it_runs_and_the_rest_stands_beside_its_like() -> None:
    compiled, _ = adopted("pelican")
    every = running(compiled)
    found = adopt([one for one in every if one.name.startswith(SLICE)], "pelican")
    read_ones = [one for one in compiled.staged if str(one.name).startswith(SLICE)]
    assert len(read_ones) == 30 and len(compiled.staged) == 98 and not found.left
    for switch in read_ones:
        assert found.compiled.files(found.keys[str(switch.name)]) == compiled.files(switch.key), switch.name
    numbers = {(pin.use, pin.key): pin.number for pin in found.pins}
    held = compiled.allocation.numbers["loopback.v4"]
    assert numbers["loopback.v4", "leaf/p01-r02/a"] == held["leaf/p01-r02/a"], "a reflector holds a session with it"
    fewer = [one for one in every if one.name.startswith(SLICE) and not one.name.startswith(("spine-p03", "spine-p04"))]
    part = adopt(fewer, "pelican")
    lines = {part.compiled.structure.by_key[key].name for key, one in part.left.items() if one.lines}
    assert "super-1-1" in lines, "what leads to pods that nobody read is told"
    assert not {"spine-p01-1", "leaf-p01-a01a", "leaf-p02-r01a"} & {str(name) for name in lines}


def test_a_rack_more_changes_nothing_that_ran() -> None:
    compiled, found = adopted("marlin")
    grown = read(set_value(found.text, "racks[0].racks", "r01..r13")).brief
    pinned: dict[str, dict[str, Any]] = {}
    for pin in found.pins:
        pinned.setdefault(pin.use, {})[pin.key] = pin.number
    larger = compile(grown, Stock(holdings=Holdings(pinned=pinned)), found.compiled.catalogue)
    assert "leaf/r13/a" in larger.models
    for switch in compiled.staged:
        if switch.is_leaf:
            assert larger.files(switch.key) == compiled.files(switch.key), switch.name
        else:
            lines = set(larger.files(switch.key)["etc/network/interfaces"].split("\n"))
            assert set(compiled.files(switch.key)["etc/network/interfaces"].split("\n")) <= lines


def test_a_fabric_written_by_hand_in_another_style() -> None:
    found = adopt(handwritten.fabric(), "office")
    brief = found.compiled.brief
    assert found.keys["tor-12-2"] == "leaf/r12/b" and brief.names["leaf/r12/b"] == "tor-12-2"
    assert brief.underlay.protocol == "ebgp" and brief.underlay.mtu == 9100 and brief.underlay.timers.hold == 30
    assert brief.segments["staff"].vrf == "office" and brief.segments["staff"].v4 == "10.40.10.0/24"
    assert (
        brief.services.ntp == ["192.168.90.5"]
        and brief.services.syslog == ["192.168.90.7"]
        and brief.services.domain == "office.example"
    )
    assert str(brief.management.gateway) == "192.168.90.254"
    model = found.compiled.models["leaf/r11/a"]
    assert (model.asn, model.loopback_v4, str(model.vtep)) == (65101, "172.20.0.11/32", "172.20.1.11")
    assert {str(port.label): (port.v4, port.neighbor) for port in model.fabric_ports} == {
        "up1": ("172.20.4.1/31", "172.20.4.0"), "up2": ("172.20.4.33/31", "172.20.4.32"),
    }  # fmt: skip
    assert {segment.label: segment.vni for segment in model.segments} == {"staff": 10210, "cameras": 10220}
    hosts = {str(port.host): str(port.label) for port in model.host_ports if port.host}
    assert hosts["desk-01"] == "lan1" and hosts["cam-08"] == "lan8"
    assert {one.id for one in found.models} == {"found-leaf-lan24-up4", "found-spine-fab16"}, "models by their ports"


def test_what_does_not_fit_stands_apart() -> None:
    every = {one.name: dict(one.files) for one in handwritten.fabric()}
    heard = {one.name: one for one in handwritten.fabric()}

    def wrong(name: str, path: str, before: str, after: str) -> None:
        assert before in every[name][path]
        every[name][path] = every[name][path].replace(before, after, 1)

    wrong("tor-11-1", "etc/network/interfaces", "\tmtu 9100", "\tmtu 1500")
    wrong("tor-11-1", "etc/network/interfaces", "\tmtu 9100", "\tmtu 1500")
    wrong("tor-12-1", "etc/network/interfaces", "bridge-vids 210 220 900", "bridge-vids 210 220 666 900")
    wrong("tor-12-2", "etc/frr/frr.conf", "\n!\nend", "\n!\nip route 198.51.100.0/24 blackhole\n!\nend")
    every["tor-11-2"]["etc/frr/frr.conf"] = every["tor-11-2"]["etc/frr/frr.conf"].split("  neighbor CORES activate")[0]
    lost = Running("lost", every["tor-12-1"] | {"etc/network/interfaces": "auto lo\niface lo\n"})
    found = adopt(
        [*(Running(name, files, heard[name].heard, heard[name].ports) for name, files in every.items()), lost, lost],
        "office",
    )
    words = {one.key: one.words for one in found.oddities}
    assert "is 1500 on tor-11-1, and 9100 on" in words["underlay.mtu/tor-11-1"]
    assert "VLAN 666 has no VNI" in words["vlan/666/tor-12-1"]
    assert "cut off" in words["unread/tor-11-2"] and "tor-11-2" in found.keys
    assert "no link to another switch" in words["switch/lost"] and "two switches are called lost" in words["twice/lost"]
    added = [edit for one in found.proposals if one.part == "additions" for edit in one.edits]
    assert ('rungs."switch leaf/r12/b"."additions.frr"', ["ip route 198.51.100.0/24 blackhole"]) in added


def test_a_network_that_is_no_folded_clos_is_refused_with_the_switch_that_breaks_it() -> None:
    ring = [(f"sw{one}", f"sw{(one + 1) % 5}") for one in range(5)]
    every = []
    for place in range(5):
        text = f"auto lo\niface lo\n    address 10.0.0.{place}/32\n"
        for number, (one, other) in enumerate(ring):
            if f"sw{place}" in (one, other):
                side = 0 if one == f"sw{place}" else 1
                text += f"auto p{number}\niface p{number}\n    address 10.1.{number}.{side}/31\n"
        every.append(
            Running(f"sw{place}", {"etc/network/interfaces": text, "etc/frr/frr.conf": "router bgp 65000\nexit\n"})
        )
    with pytest.raises(Refused, match=r"stand in the same tier|not a folded Clos"):
        adopt(every, "ring")
    with pytest.raises(Refused, match="No two switches could be read"):
        adopt([], "none")


def test_saved_outputs_are_read_from_folders_and_from_sessions() -> None:
    one = handwritten.fabric()[2]
    folder = {f"site/{one.name}/{path}": text.encode() for path, text in one.files.items()}
    session = f"admin@{one.name}:~$ vtysh -c 'show running-config'\n{one.files['etc/frr/frr.conf']}\n"
    session += f"admin@{one.name}:~$ cat /etc/network/interfaces\n{one.files['etc/network/interfaces']}\n"
    rows = {
        "lldp": {
            "interface": [
                {
                    row.at.name: {
                        "chassis": {row.far.system: {}},
                        "port": {"id": {"type": "ifname", "value": row.far.name}},
                    }
                }
                for row in one.heard
            ]
        }
    }
    session += f"admin@{one.name}:~$ lldpcli -f json show neighbors\n{json.dumps(rows)}\n"
    session += f"admin@{one.name}:~$ ip -j link\n{handwritten.links_json(one)}\nadmin@{one.name}:~$ exit\n"
    split = {
        f"out/{one.name}/running-config.txt": one.files["etc/frr/frr.conf"].encode(),
        f"out/{one.name}/interfaces": one.files["etc/network/interfaces"].encode(),
    }
    for files in (folder, {"log.txt": session.encode()}, split):
        (read_back,) = read_saved(files)
        assert read_back.name == one.name and know(read_back).underlay is not None
    (read_back,) = read_saved({"log.txt": session.encode()})
    assert set(read_back.ports) == set(one.ports) and [row.far for row in read_back.heard] == [
        row.far for row in one.heard
    ]
    with pytest.raises(Refused, match="Nothing of a switch was found"):
        read_saved({"notes.txt": b"call Ines", "picture.png": b"\x89PNG\0"})


@given(briefs(), st.integers(0, 2**32))
@tries(30)
def test_the_same_switches_in_another_hand_are_the_same_brief(said: dict[str, Any], seed: int) -> None:
    every = running(compile(Brief.model_validate(said | {"out_of_service": {}, "planned_later": {}})))
    other = [replace(one, files=restyled(one.files, seed)) for one in every]
    found, again = adopt(every, said["fabric"]), adopt(other, said["fabric"])
    assert again.text == found.text and again.pins == found.pins
