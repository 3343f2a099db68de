"""Cables over HTTP: the floor, ways and parts, work that is recorded, neighbour tables, and what is printed."""

from __future__ import annotations

import csv
import io
import json
from typing import Any
from uuid import uuid4

import pytest
from fastapi.testclient import TestClient

from barrio.app import editions
from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from barrio.app.rights import Role
from tests.api.conftest import TERN
from tests.people import signed_in, without_review

AT = "2026-11-20T09:00:00Z"


def get(api: TestClient, path: str, **query: str) -> Any:
    answer = api.get(f"/api/v1/fabrics/marlin/{path}", params=query)
    assert answer.status_code == 200, answer.text
    return answer.json()


def deed(cable: str, kind: str, **more: Any) -> dict[str, Any]:
    return {"id": str(uuid4()), "cable": cable, "kind": kind, "done_at": AT, **more}


def done(api: TestClient, *deeds: dict[str, Any]) -> Any:
    return api.post("/api/v1/fabrics/marlin/cable-work", json={"deeds": list(deeds)})


def test_the_floor_has_racks_trays_and_aisles_and_a_cable_its_way(marlin: TestClient) -> None:
    floor = get(marlin, "floor")
    assert floor["placed"] and len(floor["racks"]) == 15 and floor["findings"] == []
    assert [aisle["kind"] for aisle in floor["aisles"]] == ["cold"]
    assert {tray["name"]: tray["filled"] > 0 for tray in floor["trays"]} == {
        "tray-north": True,
        "tray-south": True,
        "across": True,
    }
    cable = next(row for row in get(marlin, "cables") if row["label"] == "M-0109")
    route = get(marlin, "cables/M-0109/route")
    walked = sum(route[step] for step in ("up", "aside", "along", "down", "slack"))
    assert walked == pytest.approx(cable["length"], abs=0.1) and cable["stock"] >= cable["length"]
    assert [step["tray"] for step in route["trays"]] == ["tray-south", "across", "tray-north"]
    assert route["bundle"]["cables"] == 10, "eight uplinks and two consoles"
    rack = get(marlin, "elevations/r07")
    assert [(thing["name"], thing["unit"], thing["airflow"]) for thing in rack["things"]] == [
        ("leaf-r07a", 42, "back to front"), ("leaf-r07b", 41, "back to front"),
    ]  # fmt: skip
    for path in (
        "elevations/r99",
        "cables/M-9999/route",
        "cable-work/M-9999",
        "cables/M-9999/label.svg",
        "elevations/r99/page.pdf",
    ):
        assert marlin.get(f"/api/v1/fabrics/marlin/{path}").status_code == 404


def test_a_cable_without_a_place_has_no_length_until_the_brief_says_where_racks_stand(api: TestClient) -> None:
    api.post("/api/v1/fabrics", json={"text": TERN})
    assert api.get("/api/v1/fabrics/tern/floor").json()["placed"] is False
    assert {row["length"] for row in api.get("/api/v1/fabrics/tern/cables").json()} == {None}
    edit = {"version": 1, "edits": [["floor", "racks 0.6 m apart in rows of 12"]], "note": "placed"}
    assert api.post("/api/v1/fabrics/tern/edits", json=edit).status_code == 200
    assert all(row["length"] > 0 for row in api.get("/api/v1/fabrics/tern/cables").json())


def test_work_is_kept_once_however_often_it_is_sent_and_in_whatever_order(marlin: TestClient) -> None:
    link = get(marlin, "cables")[108]["link"]
    first = deed(link, "laid")
    later = {**deed(link, "measured", number=12.6), "done_at": "2026-11-20T11:00:00Z"}
    assert done(marlin, later, deed(link, "scanned b", text="M-0110 | s01.U39")).json() == {"new": 2, "not_planned": []}
    assert done(marlin, first, later).json()["new"] == 1
    assert done(marlin, {**deed(link, "measured", number=99), "done_at": "2026-11-20T10:00:00Z"}).json()["new"] == 1
    (row,) = get(marlin, "cable-work")
    assert (row["label"], row["laid_by"], row["measured"]) == ("M-0109", "Olmo", 12.6), (
        "the later deed counts, not the later message"
    )
    assert row["wrong_label"] == "end B bears M-0110"
    cable = get(marlin, "cables")[108]
    assert (cable["length"], cable["measured"], cable["stock"]) == (10.5, 12.6, 15), (
        "both are kept, and the measured one counts"
    )
    assert len(get(marlin, "cable-work/M-0109")) == 4
    assert done(marlin, deed("leaf/r99/a~spine/1~1", "fault", text="a foreign plug")).json()["not_planned"] == [
        "leaf/r99/a~spine/1~1"
    ]


@pytest.mark.parametrize(
    ("kind", "more", "code"),
    [("measured", {"number": 0}, "work.number"), ("measured", {}, "work.number"), ("light a", {"number": 99}, "work.number"), ("fault", {"text": " "}, "work.text")],
)  # fmt: skip
def test_a_deed_that_cannot_be_is_refused_and_none_with_it_is_kept(
    marlin: TestClient, kind: str, more: dict[str, Any], code: str
) -> None:
    link = get(marlin, "cables")[0]["link"]
    answer = done(marlin, deed(link, "laid"), deed(link, kind, **more))
    assert answer.status_code == 422 and answer.json()["faults"][0]["code"] == code
    assert get(marlin, "cable-work") == []


def test_a_technician_works_on_cables_and_changes_no_brief(marlin: TestClient, marlin_house: House) -> None:
    luz = signed_in(marlin_house, "luz", [(Role.TECHNICIAN, "marlin")])
    link = get(marlin, "cables")[0]["link"]
    assert done(luz, deed(link, "laid")).status_code == 200
    assert get(marlin, "cable-work")[0]["laid_by"] == "Luz"
    edit = {"version": 1, "edits": [["floor", None]], "note": ""}
    assert luz.post("/api/v1/fabrics/marlin/edits", json=edit).status_code == 403


def lines(cables: list[dict[str, Any]], far: dict[str, str] | None = None) -> str:
    ports = {row["label"]: f"{row['b_switch']} {row['b_port']}" for row in cables}
    return "\n".join(
        f"{row['a_switch']} {row['a_port']} {ports[(far or {}).get(row['label'], row['label'])]}" for row in cables
    )


def test_crossed_cables_are_told_with_the_moves_that_put_them_right(marlin: TestClient) -> None:
    cables = [row for row in get(marlin, "cables") if row["speed"] == 100]
    assert marlin.get("/api/v1/fabrics/marlin/neighbours").status_code == 404
    table = lines(cables, {"M-0031": "M-0047", "M-0047": "M-0031"})
    answer = marlin.post("/api/v1/fabrics/marlin/neighbours", content=table)
    assert answer.status_code == 200, answer.text
    found = get(marlin, "neighbours")
    assert found == answer.json() and found["counts"] == {"right": 206, "swapped": 2}
    assert [one["label"] for one in found["cables"]] == ["M-0031", "M-0047"] and found["moves"] == 2
    assert len(found["right"]) == 206 and "M-0031" not in found["right"]
    ((first, second),) = [mend["moves"] for mend in found["mends"]]
    assert first["loose"] and not second["loose"] and second["into"] == first["out"]
    stranger = marlin.post("/api/v1/fabrics/marlin/neighbours", content="leaf-x u1 spine-x p1")
    assert stranger.status_code == 422 and "another fabric" in stranger.json()["detail"]
    assert get(marlin, "neighbours") == found, "what was refused is not kept"


@pytest.mark.parametrize("live", [False, True])
def test_the_plan_follows_two_leaves_that_stand_in_each_others_place(
    marlin: TestClient, marlin_house: House, live: bool
) -> None:
    if live:
        without_review(marlin_house, "marlin")
        editions.seal(Desk(marlin_house, Actor("Ines")), "marlin", 1, "spring")
    cables = [row for row in get(marlin, "cables") if row["speed"] == 100]
    at = {(row["a_switch"], row["a_port"]): row["label"] for row in cables}
    swap = {"leaf-r03a": "leaf-r03b", "leaf-r03b": "leaf-r03a"}
    far = {row["label"]: at[swap[row["a_switch"]], row["a_port"]] for row in cables if row["a_switch"] in swap}
    found = marlin.post("/api/v1/fabrics/marlin/neighbours", content=lines(cables, far)).json()
    instead = found["instead"]
    assert found["moves"] == 16 and (len(instead["pins"]), instead["left"]) == (4, 0)
    labels = {row["link"]: row["label"] for row in get(marlin, "cables")}
    followed = marlin.post("/api/v1/fabrics/marlin/neighbours/follow?version=1")
    assert followed.status_code == 200, followed.text
    after = get(marlin, "neighbours")
    assert after["counts"] == {"right": 208} and after["moves"] == 0 and after["mends"] == []
    assert {row["link"]: row["label"] for row in get(marlin, "cables")} == labels, "cables keep their numbers"
    again = marlin.post("/api/v1/fabrics/marlin/neighbours/follow?version=2")
    assert again.status_code == 422 and "Move the plugs" in again.json()["detail"]
    assert marlin.post("/api/v1/fabrics/marlin/undo", json={"version": 2}).status_code == 200
    assert get(marlin, "neighbours")["moves"] == 16


def test_what_to_order_adds_up_to_the_cables_and_stock_is_taken_off(marlin: TestClient) -> None:
    rows = get(marlin, "materials")
    assert sum(row["needed"] for row in rows) == len(get(marlin, "cables")) == 328 and all(
        row["order"] == row["needed"] + row["spare"] for row in rows
    )
    first = rows[0]
    stock = f"part,length,count\n{first['part']},{first['length']},10\n"
    (weighed, *_) = marlin.post("/api/v1/fabrics/marlin/materials", content=stock).json()
    assert (weighed["stocked"], weighed["order"]) == (10, first["order"] - 10)
    wrong = marlin.post("/api/v1/fabrics/marlin/materials", content="part,length,count\nrope,3,1\n")
    assert wrong.status_code == 422 and "Line 2" in wrong.json()["detail"]


def test_a_wave_of_racks_and_what_came_since_a_version_are_ordered_by_themselves(marlin: TestClient) -> None:
    ends = [row for row in get(marlin, "cables") if {row["a_rack"], row["b_rack"]} & {"r01", "r02"}]
    assert sum(row["needed"] for row in get(marlin, "materials", rack="r01..r02")) == len(ends)
    assert get(marlin, "materials", since="1") == []
    edit = {"version": 1, "edits": [["racks[0].racks", "r01..r13"]], "note": "one more"}
    assert marlin.post("/api/v1/fabrics/marlin/edits", json=edit).status_code == 200
    assert sum(row["needed"] for row in get(marlin, "materials", since="1")) == 24
    assert marlin.get("/api/v1/fabrics/marlin/materials?since=99").status_code == 404
    assert marlin.get("/api/v1/fabrics/marlin/materials?rack=r09..r01").status_code == 422


def test_labels_and_pages_are_printed(marlin: TestClient) -> None:
    svg = marlin.get("/api/v1/fabrics/marlin/cables/M-0109/label.svg?end=b").text
    assert "M-0109 B" in svg and "to r07.U41 leaf-r07b:u5" in svg and "<path" in svg
    rows = list(csv.DictReader(io.StringIO(marlin.get("/api/v1/fabrics/marlin/labels.csv").text)))
    assert len(rows) == 656 and rows[216]["code"].endswith("/f/marlin/cabling?cable=M-0109")
    for path in ("elevations/r07/page.pdf", "labels.pdf?rack=r07&size=a4-48x25"):
        answer = marlin.get(f"/api/v1/fabrics/marlin/{path}")
        assert (
            answer.content.startswith(b"%PDF")
            and answer.content == marlin.get(f"/api/v1/fabrics/marlin/{path}").content
        )
    small = marlin.get("/api/v1/fabrics/marlin/labels.pdf?rack=r07&size=a4-38x21")
    assert small.status_code == 422 and "do not fit" in small.json()["detail"], json.dumps(small.json())
