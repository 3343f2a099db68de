"""The API of the picture, of ways to begin and of the catalogue, over a real database."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from barrio.app import drafts
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.core.catalogue.made import MADE
from tests.api.conftest import MARLIN, PELICAN
from tests.application import client_of


@pytest.fixture
def house(house_of: Callable[..., House]) -> House:
    """A house with Marlin and Pelican in it."""
    return house_of(MARLIN, PELICAN)


@pytest.fixture
def api(house: House) -> Iterator[TestClient]:
    with client_of(house) as client:
        yield client


def numbers(api: TestClient, name: str) -> dict[str, str]:
    rows = api.get(f"/api/v1/fabrics/{name}/numbers.csv").text.splitlines()[1:]
    return {row.rsplit(",", 1)[0]: row.rsplit(",", 1)[1] for row in rows}


def test_what_is_typed_is_weighed_and_nothing_is_saved(api: TestClient) -> None:
    before = api.get("/api/v1/fabrics/marlin").json()
    tried = api.post("/api/v1/fabrics/marlin/try", json={"edits": [["spines.count", 3]]}).json()
    assert tried["sums"]["cables"] == 156 and tried["faults"] == []
    wrong = api.post("/api/v1/fabrics/marlin/try", json={"edits": [["spines.count", 9]]}).json()
    assert wrong["sums"] is None and "uplinks" in wrong["faults"][0]["message"]
    assert api.get("/api/v1/fabrics/marlin").json() == before


def test_a_line_begins_a_fabric_and_changes_one(api: TestClient) -> None:
    line = "heron: 2 spines cantera-c32, 3 racks of leaf pairs cantera-l48, unnumbered, ospf"
    started = api.post("/api/v1/quickline", json={"line": line}).json()
    made = api.post("/api/v1/fabrics", json={"text": started["text"]}).json()
    assert made["sums"] == started["sums"] and made["brief"]["underlay"]["protocol"] == "ospf"
    changed = api.post(
        "/api/v1/fabrics/heron/quickline", json={"version": 1, "line": "3 spines, 2 uplinks per spine"}
    ).json()
    assert changed["brief"]["spines"]["count"] == 3 and changed["brief"]["spines"]["model"] == "cantera-c32"
    assert changed["sums"]["cables"] == 36 and changed["line"].startswith("heron: 3 spines cantera-c32")
    bad = api.post("/api/v1/fabrics/heron/quickline", json={"version": 2, "line": "3 spoons"})
    assert bad.status_code == 422 and bad.json()["faults"][0]["column"] == 3
    words = api.post("/api/v1/quickline/complete", json={"line": "4 spines can"}).json()
    assert words["words"] == ["cantera-c32", "cantera-c48", "cantera-c64"] and words["sums"] is None


def test_a_need_a_tree_and_a_sheet_each_begin_a_fabric(api: TestClient) -> None:
    answer = api.post("/api/v1/proposals", json={"name": "heron", "need": {"hosts": 400}}).json()
    assert answer["met"] > 0 and answer["failures"]
    kept = api.post("/api/v1/fabrics", json={"text": answer["proposals"][0]["text"]})
    assert kept.status_code == 201 and kept.json()["sums"]["switches"] == answer["proposals"][0]["design"]["switches"]
    tree = api.post("/api/v1/fat-tree", json={"k": 8, "name": "tree"}).json()
    assert (tree["sums"]["host_ports"], tree["sums"]["switches"]) == (128, 80)
    for kind in ("rfc8345.json", "svg", "dot", "graphml"):
        sheet = api.get(f"/api/v1/fabrics/marlin/topology.{kind}")
        assert sheet.status_code == 200 and f"marlin.{kind}" in sheet.headers["content-disposition"]
    topology = api.get("/api/v1/fabrics/marlin/topology.rfc8345.json").content
    read = api.post("/api/v1/imports?name=again", content=topology).json()
    assert "208 links between 26 leaves and 4 spines" in read["notes"][0] and read["sums"]["cables"] == 208
    refused = api.post("/api/v1/imports", content=b"a,1,b,1\na,1,c,1\n")
    assert refused.status_code == 422 and refused.json()["faults"][0]["line"] == 2
    assert api.get("/api/v1/fabrics/marlin/topology.visio").status_code == 422


def test_a_copy_has_the_same_shape_and_numbers_of_its_own(api: TestClient) -> None:
    copied = api.post("/api/v1/fabrics/marlin/copy", json={"name": "marlin-two"})
    assert copied.status_code == 201, copied.json()
    mine, theirs = numbers(api, "marlin"), numbers(api, "marlin-two")
    shared = ("loopback", "vtep", "link", "asn", "vni", "segment", "management")
    clash = {value for key, value in mine.items() if key.startswith(shared)} & {
        value for key, value in theirs.items() if key.startswith(shared)
    }
    assert set(mine) == set(theirs) and clash == set()
    assert api.post("/api/v1/fabrics/marlin/copy", json={"name": "Marlin Two"}).status_code == 422


def reshape(api: TestClient, name: str, version: int, **asked: Any) -> dict[str, Any]:
    answer = api.post(f"/api/v1/fabrics/{name}/reshape", json={"version": version} | asked)
    assert answer.status_code == 200, answer.json()
    found: dict[str, Any] = answer.json()
    return found


def test_racks_are_edited_on_the_picture_and_history_says_by_whom(api: TestClient) -> None:
    before = numbers(api, "pelican")
    copied = reshape(api, "pelican", 1, action="copy", racks=["p01-r06"])
    assert copied["effect"]["switches_added"] == 2 and copied["brief"]["racks"][1]["pods"] == "p01"
    changed = reshape(api, "pelican", 2, action="change", racks=["p02-r01", "p02-r02"], fields={"model": "cantera-l24"})
    assert changed["effect"]["numbers_given_back"] == 0 or changed["effect"]["switches_changed"] > 0
    marked = reshape(api, "pelican", 3, action="mark", keys=["rack/p02-r01"], state="out_of_service", why="moved")
    assert marked["brief"]["out_of_service"]["rack/p02-r01"] == "moved"
    removed = reshape(api, "pelican", 4, action="remove", racks=["p01-r07"])
    assert removed["effect"]["switches_removed"] == 2
    after = numbers(api, "pelican")
    assert {key: after.get(key) for key in before if key in after} == {
        key: before[key] for key in before if key in after
    }
    history = api.get("/api/v1/fabrics/pelican/history").json()
    assert [one["author"] for one in history] == ["Olmo"] * 4 + [""]
    assert history[0]["note"] == "no racks p01-r07" and history[1]["note"] == "rack/p02-r01 out of service"


def test_the_face_shows_every_port_in_its_row_and_takes_a_plan(api: TestClient) -> None:
    face = api.get("/api/v1/fabrics/pelican/switches/leaf-p01-r01a/face").json()
    assert [(group["rows"], len(group["holes"])) for group in face["groups"]] == [(2, 48), (2, 8)]
    ports = {port["name"]: port for group in face["groups"] for hole in group["holes"] for port in hole["ports"]}
    assert ports["u1"]["use"] == "uplink" and ports["u1"]["peer"].startswith("spine-p01-1 p") and ports["u1"]["cable"]
    border = api.get("/api/v1/fabrics/pelican/switches/border-p01-b01a/face").json()
    outside = next(p for g in border["groups"] for h in g["holes"] for p in h["ports"] if p["name"] == "h48")
    assert (outside["use"], outside["peer"]) == ("outside", "harbour-router e1/1")
    asked = {"version": 1, "switch": "leaf-p01-r01a", "ports": ["u8"], "use": "4x25", "scope": "switch"}
    planned = api.post("/api/v1/fabrics/pelican/ports", json=asked).json()
    assert planned["brief"]["ports"]["leaf/p01-r01/a"]["breakouts"] == {"u8": "4x25"}
    face = api.get("/api/v1/fabrics/pelican/switches/leaf-p01-r01a/face").json()
    assert [port["name"] for port in face["groups"][1]["holes"][7]["ports"]] == ["u8s0", "u8s1", "u8s2", "u8s3"]
    assert face["own_plan"]


@pytest.mark.parametrize("name", ["leaf-p01-r01a", "spine-p01-1", "super-1-1", "border-p01-b01a"])
def test_every_port_of_a_face_has_the_use_that_its_plan_gives_it(api: TestClient, house: House, name: str) -> None:
    """Used or free: uplinks are those that the structure fills upwards, downlinks those that it fills downwards."""
    switch = drafts.load(Desk(house), "pelican").compiled.switch(name)
    assert switch is not None
    planned = {
        port.name: use
        for use, ports in (
            ("uplink", switch.plan.up), ("downlink", switch.plan.down), ("peer", switch.plan.peer),
            ("host", switch.plan.hosts), ("reserved", switch.plan.reserved),
        )
        for port in ports
    }  # fmt: skip
    face = api.get(f"/api/v1/fabrics/pelican/switches/{name}/face").json()
    shown = {port["name"]: port["use"] for group in face["groups"] for hole in group["holes"] for port in hole["ports"]}
    outside = {port for port, use in shown.items() if use == "outside"}
    assert {port: shown[port] for port in planned if port not in outside} == {
        port: use for port, use in planned.items() if port not in outside
    }
    assert outside == ({"h48"} if name.startswith("border") else set())


def test_racks_and_weave_tell_the_same_as_the_cabling(api: TestClient) -> None:
    weave = api.get("/api/v1/fabrics/pelican/weave").json()
    racks = {rack["rack"]: rack for rack in api.get("/api/v1/fabrics/pelican/racks").json()}
    assert racks["p01-a01"]["power"] == 2 * 620 and racks["p01-a01"]["units"] == 2
    switches = [switch["name"] for rack in racks.values() for switch in rack["switches"]]
    assert sorted(switches) == sorted(one["name"] for part in ("supers", "spines", "leaves") for one in weave[part])
    cables = {(row["a_switch"], row["a_port"]): row for row in api.get("/api/v1/fabrics/pelican/cables").json()}
    for leaf in weave["leaves"]:
        up = weave["fronts"][leaf["front"]]["up"]
        for column, spine in enumerate(one for one in weave["spines"] if one["pod"] == leaf["pod"]):
            down = weave["fronts"][spine["front"]]["down"]
            for lane, position in enumerate(leaf["at"]):
                row = cables.get((leaf["name"], up[weave["uplinks"][leaf["group"]][column][lane]]))
                if row is None:
                    assert leaf["state"] == "planned later"
                else:
                    assert (row["b_switch"], row["b_port"]) == (spine["name"], down[position])


NEW = """id: faro-f96
maker: Faro
name: F96
tiers: [leaf]
power: 300
groups:
  - {prefix: h, count: 96, speeds: [10, 25], use: host, connector: SFP28}
  - {prefix: u, count: 12, speeds: [100], use: fabric, connector: QSFP28}
"""


def test_a_model_is_added_used_changed_with_its_effect_and_not_dropped_in_use(api: TestClient) -> None:
    added = api.put("/api/v1/catalogue", json={"text": NEW})
    assert added.status_code == 200 and not added.json()["replaces"]
    edit = {"version": 1, "edits": [["racks[0].model", "faro-f96"]], "note": "new leaves"}
    assert api.post("/api/v1/fabrics/marlin/edits", json=edit).json()["sums"]["host_ports"] == 24 * 96 + 2 * 48
    assert api.delete("/api/v1/catalogue/faro-f96").status_code == 422
    small = NEW.replace("count: 12", "count: 4")
    preview = api.post("/api/v1/catalogue/preview", json={"text": small}).json()
    assert preview["effects"][0]["fabric"] == "marlin" and "need 8 uplinks" in preview["effects"][0]["refusal"]
    refused = api.put("/api/v1/catalogue", json={"text": small})
    assert refused.status_code == 422 and "marlin uses faro-f96" in refused.json()["detail"]
    fewer = api.put("/api/v1/catalogue", json={"text": NEW.replace("count: 96", "count: 80")}).json()
    assert fewer["effects"][0]["effect"]["switches_changed"] == 24
    marlin = api.get("/api/v1/fabrics/marlin").json()
    assert marlin["sums"]["host_ports"] == 24 * 80 + 2 * 48 and marlin["version"] == 3
    assert api.post("/api/v1/fabrics/marlin/undo", json={"version": 3}).status_code == 200
    assert api.delete("/api/v1/catalogue/faro-f96").status_code == 204
    assert {row["model"]["id"] for row in api.get("/api/v1/catalogue").json()} == {kind.id for kind in MADE.models}


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("id: X", "id"),
        (NEW + "colour: red\n", "no field “colour”"),
        (NEW.replace("prefix: u", "prefix: h"), "named by two groups"),
        (NEW.replace("count: 96", "count: many"), "whole number"),
        ("- a", "list of fields"),
        (NEW.replace("speeds: [100]", "speeds: &a [100]"), "anchors"),
    ],
)
def test_a_model_that_is_wrong_is_refused_with_its_line(api: TestClient, text: str, says: str) -> None:
    refused = api.post("/api/v1/catalogue/preview", json={"text": text})
    assert refused.status_code == 422 and any(says in fault["message"] for fault in refused.json()["faults"])
    assert all(fault["line"] >= 0 for fault in refused.json()["faults"])


def test_a_changed_catalogue_is_seen_by_another_server_on_the_same_database(api: TestClient, house: House) -> None:
    other = Desk(House(house.connections))
    before = drafts.load(other, "marlin").compiled
    text = NEW.replace("faro-f96", "cantera-l48").replace("power: 300", "power: 301")
    assert api.put("/api/v1/catalogue", json={"text": text}).status_code == 200
    after = drafts.load(other, "marlin").compiled
    assert [one.structure.by_key["leaf/r01/a"].type.power for one in (before, after)] == [330, 301]
