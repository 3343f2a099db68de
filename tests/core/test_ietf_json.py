"""The IETF's models: accepted by their own validator, everything told that they have words for, and compared with switches of another language."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given

from barrio.core import Compiled, compile
from barrio.core.because.lines import of_line
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from barrio.core.targets.report import read_back
from barrio.rehearsal.parsers import parsers
from tests.conftest import EXAMPLES, briefs, tries

CONFIG = "ietf/config.json"


def in_json(path: Path) -> Compiled:
    return compile(read(f"target: ietf-json\n{path.read_text()}").brief)


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_the_models_own_validator_takes_every_kind_of_switch_and_nothing_is_left_out(path: Path) -> None:
    compiled = in_json(path)
    assert compiled.read_back() == () and compiled.cut_off() == ()
    kinds = {
        (one.role, one.pair is None, bool(one.outside_ports), bool(one.segments)): key
        for key, one in compiled.models.items()
    }
    with parsers() as programs:
        assert "yanglint" not in programs.missing
        for key in kinds.values():
            files = dict(compiled.files(key))
            assert list(programs.complaints(files)) == []
        files[CONFIG] = files[CONFIG].replace('"router-id": "', '"router-id": "x')
        assert [one.program for one in programs.complaints(files)] == ["yanglint"], "the claim above can fail"


@tries(20)
@given(data=briefs(peer_links=True))
def test_whatever_the_brief_says_the_text_is_json_and_reads_back(data: dict[str, Any]) -> None:
    compiled = compile(Brief.model_validate(data | {"target": "ietf-json"}))
    for switch in compiled.staged:
        said = json.loads(compiled.files(switch.key)[CONFIG])
        model = compiled.models[switch.key]
        ports = {one["name"]: one for one in said["ietf-interfaces:interfaces"]["interface"]}
        assert said["ietf-routing:routing"]["router-id"] == model.router_id
        assert {one.label for one in (*model.fabric_ports, *model.host_ports, *model.host_lags)} <= ports.keys()
        for port in model.fabric_ports:
            assert ports[port.label]["enabled"] == (not port.shut)
            told = [
                f"{one['ip']}/{one['prefix-length']}"
                for one in ports[port.label].get("ietf-ip:ipv4", {}).get("address", [])
            ]
            assert told == ([port.v4] if port.v4 else [])
    assert [one for one in compiled.read_back() if one.code != "readback.missing"] == []


def test_a_switch_that_says_other_than_its_linux_neighbour_is_found() -> None:
    text = (
        next(path for path in EXAMPLES if path.stem == "marlin")
        .read_text()
        .replace("rungs:\n", "rungs:\n  role spine: {target: ietf-json}\n")
    )
    compiled = compile(read(text).brief)
    assert {one.name for one in compiled.targets.values()} == {"linux-frr", "ietf-json"} and compiled.read_back() == ()
    switches = [(compiled.models[key], compiled.targets[key]) for key in compiled.models]
    for old, new, words in (
        ('"description": "leaf-r01a u1', '"description": "leaf-r02a u1', "names leaf-r02a u1 as its other end"),
        (
            '{"ip": "10.61.0.2", "prefix-length": 31}',
            '{"ip": "10.61.0.90", "prefix-length": 31}',
            "10.61.0.2/31, is in none of them",
        ),
        ('"hostname": "spine-1.', '"hostname": "spine-9.', "the switch calls itself spine-9"),
        ('"mtu": 9216', '"mtu": 9000', "carries 9000 bytes"),
    ):

        def files(model: Any, old: str = old, new: str = new) -> dict[str, str]:
            said = dict(compiled.files(model.key))
            if model.name == "spine-1":
                assert old in said[CONFIG]
                said[CONFIG] = said[CONFIG].replace(old, new)
            return said

        assert words in " ".join(one.message for one in read_back(switches, files))


def test_every_value_says_where_it_comes_from_also_behind_a_filter() -> None:
    path = next(path for path in EXAMPLES if path.stem == "marlin")
    document = read(f"target: ietf-json\n{path.read_text()}")
    compiled = compile(document.brief)
    lines = compiled.files("spine/1")[CONFIG].split("\n")
    at = next(number for number, line in enumerate(lines, 1) if '"prefix-length": 31' in line)
    why = of_line(document, compiled, "spine-1", CONFIG, at)
    assert [path for path, _, _ in why.values] == ["switches/spine-1/fabric_ports/p1/v4"]
    assert any(step.kind == "ledger" for _, _, steps in why.values for step in steps)
