"""The Ladder over HTTP and on the command line: one picture of all rungs, what a change would reach, and the change."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from barrio.cli.main import app
from tests.core.test_ladder import QUAY

AT = "/api/v1/fabrics/quay"


@pytest.fixture
def quay(api: TestClient) -> TestClient:
    api.post("/api/v1/fabrics", json={"text": QUAY}).raise_for_status()
    return api


def rungs(api: TestClient, setting: str) -> dict[str, dict[str, Any]]:
    found = next(one for one in api.get(f"{AT}/settings").json() if one["name"] == setting)
    return {one["rung"]: one for one in found["climb"]["rungs"]}


def tried(api: TestClient, setting: str, rung: str, value: object) -> dict[str, Any]:
    answer = api.post(f"{AT}/settings/{setting}/try", json={"rung": rung, "value": value})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def test_each_rung_says_for_how_many_it_holds_and_who_beat_it_for_the_others(quay: TestClient) -> None:
    storm = rungs(quay, "overlay.storm")
    assert [(storm[one]["says"], storm[one]["wins"], storm[one]["on"]) for one in ("barrio", "fabric", "kind compute", "rack r02")] == [
        ("2,000", 3, 9), ("", 0, 9), ("500", 4, 6), ("100", 2, 2),
    ]  # fmt: skip
    assert storm["barrio"]["beaten"] == {"kind compute": 6} and storm["kind compute"]["beaten"] == {"rack r02": 2}
    syslog = rungs(quay, "services.syslog")
    assert syslog["role border"]["adds"] and syslog["role border"]["why"] == "the firewall team reads along"
    assert syslog["fabric"]["wins"] == 9, "what is added to holds on"
    ends = next(one for one in quay.get(f"{AT}/settings").json() if one["name"] == "overlay.storm")["climb"]["outcomes"]
    assert {one["words"]: one["on"] for one in ends} == {"500": 4, "2,000": 3, "100": 2}


def test_what_a_change_would_reach_is_told_before_it_is_saved_and_is_what_it_does(quay: TestClient) -> None:
    found = tried(quay, "overlay.storm", "kind compute", 300)
    assert found["path"] == 'rungs.kind compute."overlay.storm"' and found["findings"] == []
    reach = found["reach"]
    assert (reach["changed"], reach["kept"], reach["rendered"]) == (4, {"rack r02": 2}, 4)
    assert any(line.startswith("-") and "500/second" in line for line in reach["lines"])
    assert any(line.startswith("+") and "300/second" in line for line in reach["lines"])
    assert quay.get(f"{AT}/version").json() == {"version": 1}
    before = quay.get(f"{AT}/switches").json()
    edit = {"version": 1, "edits": [[found["path"], 300]], "note": "calmer"}
    assert quay.post(f"{AT}/edits", json=edit).json()["effect"]["switches_changed"] == reach["rendered"]
    assert rungs(quay, "overlay.storm")["kind compute"]["says"] == "300" and quay.get(f"{AT}/switches").json() == before


def test_a_change_for_the_whole_fabric_is_said_where_the_fabric_says_it(quay: TestClient) -> None:
    found = tried(quay, "services.ntp", "fabric", ["10.9.0.3"])
    assert (
        found["path"] == "services.ntp"
        and found["reach"]["changed"] == 8
        and found["reach"]["kept"] == {"role border": 1}
    )
    assert tried(quay, "services.dns", "fabric", {"hold": "one for all"})["path"] == 'rungs.fabric."services.dns"'
    same = tried(quay, "overlay.storm", "rack r01", 500)
    assert same["reach"]["changed"] == 0 and [one["code"] for one in same["findings"]] == ["setting.same"]


@pytest.mark.parametrize(
    ("setting", "rung", "value", "words"),
    [
        ("overlay.strom", "rack r01", 1, "Is overlay.storm meant?"),
        ("overlay.storm", "rack r01", "lots", "overlay.storm must be a whole number"),
        ("overlay.storm", "model lonja", 1, "There is no model lonja."),
        ("services.ntp", "fabric", {"hold": "one clock"}, "held for the whole fabric (one clock)"),
        ("overlay.storm", "nowhere at all", 1, "rungs"),
    ],
)
def test_what_cannot_be_said_is_refused_without_lines_that_nobody_has_seen(
    quay: TestClient, setting: str, rung: str, value: object, words: str
) -> None:
    answer = quay.post(f"{AT}/settings/{setting}/try", json={"rung": rung, "value": value})
    assert answer.status_code == 422
    assert any(words in fault["message"] for fault in answer.json()["faults"]), answer.text
    assert {fault["line"] for fault in answer.json()["faults"]} == {0}


def test_the_command_line_climbs_as_well(tmp_path: Path) -> None:
    brief = tmp_path / "quay.yaml"
    brief.write_text(QUAY)
    said = CliRunner().invoke(app, ["ladder", str(brief), "overlay.storm"]).output
    assert "for 4 of 6 switches, 2 have rack r02’s" in said and "in the end: 500 on 4; 2,000 on 3; 100 on 2" in said
    one = CliRunner().invoke(app, ["ladder", str(brief), "services.ntp", "--switch", "leaf-r02b"]).output
    assert "adds 10.9.0.7" in one and "10.9.0.9" not in one
    wrong = CliRunner().invoke(app, ["ladder", str(brief), "services.npt"])
    assert wrong.exit_code == 2 and "Is services.ntp meant?" in wrong.output


def test_a_line_is_found_in_the_files_of_all_switches(quay: TestClient) -> None:
    found = quay.get(f"{AT}/lines", params={"words": "10.9.0.1 "}).json()
    assert [(one["path"], one["text"], len(one["switches"])) for one in found["lines"]] == [
        ("etc/chrony/chrony.conf", "server 10.9.0.1 iburst", 8)
    ]
    assert quay.get(f"{AT}/lines", params={"words": " "}).json()["faults"][0]["code"] == "lines.nothing"
