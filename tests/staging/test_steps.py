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
from barrio.core.staging import tasks
from barrio.core.staging.steps import STEPS, Rules, Standing, failures, may_begin, through, under_way
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


def answers(tern: Compiled, leaf: str) -> dict[str, Any]:
    """What a leaf that is as planned hears and holds: by LLDP, and its sessions."""
    model = next(one for one in tern.models.values() if one.name == leaf)
    interfaces = [
        {
            "name": str(port.label),
            "chassis": [{"name": [{"value": str(port.peer)}]}],
            "port": [{"id": [{"value": str(port.peer_port)}]}],
        }
        for port in model.fabric_ports
    ]
    sessions = {
        str(port.neighbor): {"bgpState": "Established", "remoteAs": port.peer_asn} for port in model.fabric_ports
    }
    return {"model": model, "lldp": {"lldp": [{"interface": interfaces}]}, "sessions": {"default": sessions}}


def faults(tern: Compiled, said: dict[str, Any], there: list[str]) -> list[str]:
    ran = [
        {"command": " ".join(tasks.LLDP), "code": 0, "output": json.dumps(said["lldp"])},
        {"command": " ".join(tasks.SESSIONS), "code": 0, "output": json.dumps(said["sessions"])},
    ]
    return list(tasks.faults(tern, said["model"], ran, there))


BOTH = ["spine-1", "spine-2"]


def test_a_switch_that_hears_and_holds_what_is_planned_has_no_fault(tern: Compiled) -> None:
    assert faults(tern, answers(tern, "leaf-t01"), BOTH) == []


def test_a_crossed_cable_a_dark_port_and_a_session_that_is_down_or_wrong_are_named(tern: Compiled) -> None:
    said = answers(tern, "leaf-t01")
    first, second = said["model"].fabric_ports
    interfaces = said["lldp"]["lldp"][0]["interface"]
    interfaces[0]["port"][0]["id"][0]["value"] = "p9"
    del interfaces[1]
    sessions = said["sessions"]["default"]
    sessions[str(first.neighbor)]["remoteAs"] = 64999
    sessions[str(second.neighbor)]["bgpState"] = "Active"
    assert faults(tern, said, BOTH) == [
        f"{first.label} hears spine-1 p9; the plan says spine-1 {first.peer_port}. Move one plug",
        f"{second.label} hears nobody; the plan says spine-2 {second.peer_port}. Look at the cable",
        f"spine-1 speaks with AS 64999; AS {first.peer_asn} is planned",
        "its session with spine-2 is Active",
    ]
    assert faults(tern, said, []) == [], "of switches that are not there yet nothing is asked"


def test_a_command_that_could_not_be_run_says_nothing(tern: Compiled) -> None:
    model = answers(tern, "leaf-t01")["model"]
    ran = [{"command": " ".join(tasks.LLDP), "code": 127, "output": "not found"}]
    assert list(tasks.faults(tern, model, ran, BOTH)) == []
    assert set(tasks.CHECKS) <= {path for one in tern.models for path in tern.files(one)}, (
        "what is checked is what switches have"
    )


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
