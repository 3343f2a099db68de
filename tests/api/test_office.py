"""The office: files with their history, templates tried while they are written, and fabrics that follow or are refused."""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from barrio.contained.process import APART
from tests.contained.test_apart import CANTERA, ROOT

HERON = (ROOT / "examples/mixed/heron.yaml").read_text()
SPINE = "/api/v1/fabrics/heron/switches/spine-1"
STARTUP = "targets/cantera/startup.j2"


@pytest.fixture
def office(api: TestClient) -> Iterator[TestClient]:
    saved = api.put("/api/v1/office", json={"number": 0, "files": CANTERA, "note": "Cantera's language"})
    assert saved.status_code == 200, saved.text
    api.post("/api/v1/fabrics", json={"text": HERON}).raise_for_status()
    yield api
    APART.close()


def trial(api: TestClient, switch: str = "spine-1", data: object = None, **changed: str) -> dict[str, Any]:
    files = {path.rpartition("/")[2]: text for path, text in CANTERA.items() if path.startswith("targets/")} | {
        f"{name}.j2": text for name, text in changed.items()
    }
    asked = {"target": "cantera", "files": files, "switch": switch, "data": data}
    answer = api.post("/api/v1/fabrics/heron/templates/try", json=asked)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def test_fabrics_are_written_in_the_office_s_language_and_follow_when_it_changes(office: TestClient) -> None:
    now = office.get("/api/v1/office").json()
    assert now["number"] == 1 and {one["name"]: one["users"] for one in now["targets"]} == {
        "linux-frr": {"heron": 6},
        "ietf-json": {},
        "cantera": {"heron": 2},
    }
    assert [one["path"] for one in office.get(f"{SPINE}/files").json()] == [
        "flash/startup.cfg",
        "flash/first-boot.cfg",
        "flash/keys/ines",
    ]
    files = CANTERA | {STARTUP: CANTERA[STARTUP] + "remember me\n"}
    effects = office.post("/api/v1/office/preview", json={"files": files}).json()
    assert effects == [{"fabric": "heron", "switches": 2, "refusal": ""}]
    office.put("/api/v1/office", json={"number": 1, "files": files, "note": "they forget"}).raise_for_status()
    lines = office.get(f"{SPINE}/file", params={"path": "flash/startup.cfg"}).json()["lines"]
    assert lines[-1]["text"] == "remember me" and lines[1]["text"] == "switch spine-1"
    why = office.get(f"{SPINE}/because", params={"path": "flash/startup.cfg", "line": 2}).json()
    assert "Command Reference" in str(why["steps"])
    past = office.get("/api/v1/office/editions").json()
    assert [(one["number"], one["note"], one["files"]) for one in past] == [
        (2, "they forget", 9),
        (1, "Cantera's language", 9),
    ]
    assert office.get("/api/v1/office/editions/1").json()["files"] == CANTERA
    record = office.get("/api/v1/record", params={"text": "office"}).json()["deeds"]
    assert [deed["note"] for deed in record] == ["they forget", "Cantera's language"]


REFUSED = {
    "a template that a fabric's files need fails": (
        {STARTUP: "{{ sw.nmae }}"},
        422,
        "heron would have no files any more: startup.j2, line 1",
    ),
    "a target that a fabric uses is gone": (
        None,
        422,
        "heron would have no files any more: There is no target cantera",
    ),
    "a manifest is wrong": ({"targets/cantera/target.yaml": "target: cantera\nfile: []"}, 422, "file"),
    "a file is in no folder of a target": ({"notes.txt": "x"}, 422, "notes.txt is no file of an office"),
    "nothing is other than before": ({}, 422, "Nothing of the office is other"),
}


@pytest.mark.parametrize("why", REFUSED)
def test_an_office_that_would_break_something_is_refused_whole(why: str, office: TestClient) -> None:
    changed, status, words = REFUSED[why]
    files = {} if changed is None else CANTERA | changed
    answer = office.put("/api/v1/office", json={"number": 1, "files": files})
    assert answer.status_code == status and words in answer.text, answer.text
    assert office.get("/api/v1/office").json()["files"] == CANTERA
    assert office.get(f"{SPINE}/files").status_code == 200


def test_two_who_change_the_office_at_once_are_told(office: TestClient) -> None:
    late = office.put("/api/v1/office", json={"number": 0, "files": CANTERA | {STARTUP: "x\n"}})
    assert (
        late.status_code == 409
        and "The office was changed elsewhere" in late.text
        and "Cantera's language" in late.text
    )


def test_a_template_is_tried_on_a_switch_beside_what_it_has_now(office: TestClient) -> None:
    same = trial(office)
    assert same["files"] == same["before"] and not same["faults"] and not same["missing"]
    short = trial(office, startup="switch {{ sw.name }}\n")
    assert short["files"]["flash/startup.cfg"] == "switch spine-1\n" and "its loopback, 10.0.0.1/32" in short["missing"]
    wrong = trial(office, startup="one\n{{ sw.loopback }}\n")
    assert wrong["faults"][0]["line"] == 2 and wrong["faults"][0]["path"] == "targets/cantera/startup.j2"
    data = office.get("/api/v1/fabrics/heron/switches/spine-1/data").json()
    data["fabric_ports"] = data["fabric_ports"][:1]
    assert trial(office, data=data)["files"]["flash/startup.cfg"].count("\nport ") == 1
    asked = {
        "target": "cantera",
        "files": {"target.yaml": CANTERA["targets/cantera/target.yaml"], "startup.j2": "x\n"},
        "switch": "spine-1",
    }
    no_template = office.post("/api/v1/fabrics/heron/templates/try", json=asked)
    assert no_template.status_code == 422 and "There is no template first-boot.j2" in no_template.text


def test_a_template_is_tried_on_all_switches_in_numbers(office: TestClient) -> None:
    files = {path.rpartition("/")[2]: text for path, text in CANTERA.items() if path.startswith("targets/")}
    whole = office.post(
        "/api/v1/fabrics/heron/templates/tally", json={"target": "cantera", "files": files, "switch": ""}
    ).json()
    assert (whole["switches"], whole["written"], whole["same"]) == (8, 8, 2) and not whole["missing"]
    files["ports.j2"] = "{% for port in sw.pair.ports %}{% endfor %}\n"
    some = office.post(
        "/api/v1/fabrics/heron/templates/tally", json={"target": "cantera", "files": files, "switch": ""}
    ).json()
    assert (
        some["written"] == 6 and list(some["refused"].values()) == [2] and "for a switch" in next(iter(some["refused"]))
    )


def test_what_a_template_may_say_has_a_sentence(office: TestClient) -> None:
    words = office.get("/api/v1/office/words").json()
    by_path = {(one["of"], one["path"]): one for one in words["paths"]}
    assert by_path["sw.fabric_ports", "port.v4"]["kind"] == "address/length, or none"
    assert by_path["sw", "sw.management.gateway"]["words"] == "The way out of the management network"
    assert words["filters"]["mask_of"] == "The length written out."


def test_a_secret_is_in_no_file_until_it_leaves_for_a_switch_and_is_never_shown_again(
    office: TestClient, caplog: pytest.LogCaptureFixture
) -> None:
    declared = "variables:\n  enable: {kind: secret, required: true, words: The word for changes}\nsettings: {vars.enable: quay-enable}\n"
    files = {path: text for path, text in CANTERA.items() if path != "office.yaml"} | {
        "office.yaml": CANTERA["office.yaml"]
        .replace("variables:\n", declared.partition("settings")[0])
        .replace("settings:\n", "settings:\n  vars.enable: quay-enable\n"),
        STARTUP: CANTERA[STARTUP] + "enable {{ vars.enable }}\n",
    }
    office.put("/api/v1/office", json={"number": 1, "files": files}).raise_for_status()
    assert "enable <secret:quay-enable>" in office.get(f"{SPINE}/file", params={"path": "flash/startup.cfg"}).text
    lacking = office.post("/api/v1/fabrics/heron/bundle-for-switches.zip")
    assert lacking.status_code == 422 and "The secret quay-enable was never set" in lacking.text
    office.put("/api/v1/office/secrets/quay-enable", json={"value": "tide & moon"}).raise_for_status()
    shown = office.get("/api/v1/office/secrets").json()
    assert [one["name"] for one in shown] == ["quay-enable"]
    whole = office.post("/api/v1/fabrics/heron/bundle-for-switches.zip")
    assert whole.headers["cache-control"] == "no-store"
    with zipfile.ZipFile(io.BytesIO(whole.content)) as packed:
        said = packed.read("switches/spine-1/flash/startup.cfg")
        assert b"enable tide & moon\n" in said
        assert b"Agent" in packed.read("agent/barrio-agent"), "and what brings them on"
        assert (
            json.loads(packed.read("manifest.json"))["sha256"]["switches/spine-1/flash/startup.cfg"]
            == hashlib.sha256(said).hexdigest()
        )
    everywhere = "".join(
        office.get(f"/api/v1/{path}").text
        for path in (
            "office",
            "office/secrets",
            "record",
            "fabrics/heron",
            "fabrics/heron/bundle.zip",
            "fabrics/heron/settings",
        )
    )
    assert (
        "tide & moon" not in everywhere + caplog.text
        and "secret set" in everywhere
        and "files taken with secrets" in everywhere
    )
    assert office.delete("/api/v1/office/secrets/quay-enable").status_code == 204
    assert office.delete("/api/v1/office/secrets/quay-enable").status_code == 404


@pytest.mark.parametrize(("name", "value"), [("Quay", "x"), ("quay", "a\nb"), ("quay", "")])
def test_a_secret_that_could_not_stand_in_a_file_is_refused(name: str, value: str, office: TestClient) -> None:
    assert office.put(f"/api/v1/office/secrets/{name}", json={"value": value}).status_code == 422
