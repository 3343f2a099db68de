"""Which step comes next, as sums: waves one after the other, so many at once, nothing more after so many failures; and what of a switch's answers is as planned."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from barrio.core import Compiled, compile
from barrio.core.brief.document import read
from barrio.core.model.switch import SwitchModel
from barrio.core.staging import tasks
from barrio.core.staging.steps import STEPS, Rules, Standing, failures, may_begin, through, under_way
from barrio.rehearsal.asking import real
from tests.conftest import tries

TERN = (Path(__file__).parents[2] / "examples" / "tern.yaml").read_text()
STANDINGS = st.lists(
    st.builds(
        Standing,
        st.just(""),
        st.integers(1, 3),
        st.sampled_from(STEPS),
        st.sampled_from(["waits", "works", "done", "failed", "skipped"]),
    ),
    max_size=12,
).map(lambda all_: [Standing(f"k{at}", one.wave, one.step, one.state) for at, one in enumerate(all_)])


@tries(200)
@given(STANDINGS, st.integers(1, 5), st.integers(1, 4))
def test_nobody_begins_out_of_turn_and_no_more_than_there_is_place_for(
    all_: list[Standing], at_once: int, stop_after: int
) -> None:
    there = {one.key for one in all_[::2]}
    begin = may_begin(all_, Rules(at_once, stop_after), there)
    chosen = [one for one in all_ if one.key in begin]
    assert len(chosen) == len(begin) == len(set(begin))
    assert all(one.wave == under_way(all_) and one.step == "admitted" and one.state == "waits" for one in chosen)
    assert set(begin) <= there, "only who was let in"
    assert not begin or sum(one.state == "works" for one in all_) + len(begin) <= at_once
    assert not begin or failures(all_) < stop_after
    earlier = [one for one in all_ if chosen and one.wave < chosen[0].wave]
    assert all(map(through, earlier)), "a wave begins when those before it are through"


def test_a_wave_is_through_when_all_of_it_are_handed_over_or_skipped() -> None:
    done, skipped = Standing("a", 1, "handed over", "done"), Standing("b", 1, "knocked", "skipped")
    later = Standing("c", 2, "admitted", "waits")
    assert under_way([done, skipped, later]) == 2 and under_way([done, skipped]) is None
    assert may_begin([done, skipped, later], Rules(1, 1), {"c"}) == ["c"]
    assert may_begin([done, Standing("b", 1, "checked", "failed"), later], Rules(1, 1), {"c"}) == []


@pytest.fixture(scope="module")
def tern() -> Compiled:
    return compile(read(TERN).brief)


def model_of(tern: Compiled, name: str) -> SwitchModel:
    return next(one for one in tern.models.values() if one.name == name)


def heard(model: SwitchModel) -> list[dict[str, Any]]:
    """Whom a switch hears by LLDP that is plugged in as planned."""
    return [
        {
            "name": str(port.label),
            "chassis": [{"name": [{"value": str(port.peer)}]}],
            "port": [{"id": [{"value": str(port.peer_port)}]}],
        }
        for port in model.fabric_ports
    ]


def faults(model: SwitchModel, there: list[str], answers: dict[tuple[str, ...], str]) -> list[str]:
    ran = [{"command": " ".join(argv), "code": 0, "output": text} for argv, text in answers.items()]
    return list(tasks.faults(model, ran, there))


BOTH = ["spine-1", "spine-2"]


def test_a_crossed_cable_and_a_dark_port_are_named_of_switches_that_are_there(tern: Compiled) -> None:
    model = model_of(tern, "leaf-t01")
    said = heard(model)
    assert faults(model, BOTH, {tasks.LLDP: json.dumps({"lldp": [{"interface": said}]})}) == []
    first, second = model.fabric_ports
    said[0]["port"][0]["id"][0]["value"] = "p9"
    answers = {tasks.LLDP: json.dumps({"lldp": [{"interface": said[:1]}]})}
    assert faults(model, BOTH, answers) == [
        f"{first.label} hears spine-1 p9; the plan says spine-1 {first.peer_port}. Move one plug",
        f"{second.label} hears nobody; the plan says spine-2 {second.peer_port}. Look at the cable",
    ]
    assert faults(model, [], answers) == [], "of switches that are not there yet nothing is asked"


LIGHT = """port u1
	Identifier                                : 0x11 (QSFP28)
	Rcvr signal avg optical power(Channel 1)  : 0.0123 mW / -19.10 dBm
	Laser tx power high alarm (Channel 1)     : Off
	Rx power low alarm (Channel 1)            : On
port u2
	Rcvr signal avg optical power(Channel 1)  : 0.5123 mW / -2.90 dBm
	Rx power low alarm (Channel 1)            : Off
"""
PEOPLE = """root:x:0:0:root:/root:/bin/bash
nobody:x:65534:65534::/nonexistent:/usr/sbin/nologin
ines:x:995:995::/:/bin/bash
debian:x:1000:1000::/home/debian:/bin/bash
backup:x:1001:1001::/:/usr/sbin/nologin
"""


def test_time_people_sign_in_and_light_are_looked_at(tern: Compiled) -> None:
    model = model_of(tern, "leaf-t01")
    light = tuple(tasks.look(model)[-1])
    assert faults(model, BOTH, {
        tasks.TIME: "^,?,10.90.0.21,0,6,0,4294967295,0.0,0.0,0.0\n^,-,10.90.0.22,3,6,1,2,0.0,0.0,0.0\n",
        tasks.PEOPLE: PEOPLE,
        tasks.SIGN_IN: "port 22\npasswordauthentication yes\n",
        light: LIGHT,
    }) == [
        "its clock follows none of its time servers yet",
        "the account debian is still there; nobody of the plan has it. Take it away: userdel debian",
        "sshd takes passwords",
        "u1: rx power low alarm at -19.10 dBm. Clean the plug, or look for a bend",
    ]  # fmt: skip
    assert faults(model, BOTH, {
        tasks.TIME: "^,*,10.90.0.21,3,6,1,2,0.0,0.0,0.0\n",
        tasks.PEOPLE: PEOPLE.replace("debian", "x").replace(":1000:", ":999:"),
        tasks.SIGN_IN: "passwordauthentication no\n",
        light: LIGHT.replace(": On", ": Off"),
    }) == []  # fmt: skip
    assert faults(model, BOTH, {tasks.PEOPLE: "root:x:0:0:root:/root:/bin/bash\n"}) == ["it has no account ines"]


def test_a_command_that_failed_is_a_fault_and_one_that_answers_nothing_is_none(tern: Compiled) -> None:
    model = model_of(tern, "leaf-t01")
    ran = [{"command": "vtysh -c show bfd peers json", "code": 1, "output": "bfdd is not running\n"}]
    assert list(tasks.faults(model, ran, BOTH)) == ["“vtysh -c show bfd peers json” ended with 1: bfdd is not running"]
    assert faults(model, BOTH, {tuple(argv): "" for argv in tasks.look(model)}) == []
    assert set(tasks.CHECKS) <= {path for one in tern.models for path in tern.files(one)}, (
        "what is checked is what switches have"
    )


def test_the_questions_of_a_rehearsal_are_asked_of_a_real_switch_about_those_that_are_there(tern: Compiled) -> None:
    key = next(key for key, one in tern.models.items() if one.name == "leaf-t01")
    model, there = tern.models[key], {one.key for one in tern.staged}
    asked = [tuple(argv) for argv in real.commands(tern, key, there)]
    neighbours = ("vtysh", "-c", "show bgp vrf all neighbors json")
    routes = ("ip", "-4", "-j", "route", "show", "table", "main")
    assert {neighbours, routes, ("vtysh", "-c", "show bfd peers json")} <= set(asked)
    assert real.claims(tern, key, there, dict.fromkeys(asked, "")) == [], "a light one answers nothing"
    up = {
        str(port.neighbor): {
            "bgpState": "Established", "localAs": model.asn, "remoteAs": port.peer_asn, "bgpTimerHoldTimeMsecs": 9000,
            "addressFamilyInfo": {"ipv4Unicast": {}, "l2VpnEvpn": {}},
        }
        for port in model.fabric_ports
    }  # fmt: skip
    up[str(model.fabric_ports[1].neighbor)]["bgpState"] = "Active"
    hops = [{"via": {"host": "fe80::1"}, "dev": "u1"}, {"via": {"host": "fe80::2"}, "dev": "u2"}]
    far = next(one for one in tern.models.values() if one.name == "leaf-t04")
    table = [{"dst": str(far.loopback_v4).removesuffix("/32"), "nexthops": hops[:1]}]
    answers = {neighbours: json.dumps({"default": up}), routes: json.dumps(table)}
    found = {one.words: one.found for one in real.claims(tern, key, there, answers) if not one.holds}
    assert found["leaf-t01 holds its session with spine-2"] == "it is Active"
    assert "leaf-t01 holds its session with spine-1" not in found
    assert found[f"leaf-t01 has 2 paths to {far.loopback_v4} of leaf-t04"] == "1 next hops"
    assert not any(words.startswith("leaf-t02") for words in found), "it is asked about itself alone"
    spine = next(one for one in tern.models if tern.models[one].name == "spine-1")
    alone = real.claims(tern, key, {spine}, answers)
    assert {one.words for one in alone if "session" in one.words} == {"leaf-t01 holds its session with spine-1"}


@pytest.mark.parametrize("name", ["tern", "marlin", "pelican"])
def test_every_file_of_a_switch_is_read_anew_by_somebody_or_read_when_it_is_asked_for(name: str) -> None:
    compiled = compile(read((Path(__file__).parents[2] / "examples" / f"{name}.yaml").read_text()).brief)
    for key in list(compiled.models)[:30]:
        files = list(compiled.files(key))
        told = tasks.applies(files)
        read_anew = {path for one in told for path in one["when"]}
        left = [path for path in files if path not in read_anew and not path.startswith(tuple(tasks.ASKED_FOR))]
        assert left == [], "a new file says who reads it"
        assert all(one["argv"] for one in told)
    units = tasks.applies(["etc/systemd/system/fabric-guard.service", "etc/hosts"])
    assert [one["argv"] for one in units[-2:]] == [
        ["systemctl", "daemon-reload"],
        ["systemctl", "enable", "--now", "fabric-guard.service"],
    ]
