"""A stored brief that this Barrio refuses: it harms nobody else, says why, and can be mended or given up."""

from __future__ import annotations

import json

import pytest
from fastapi.testclient import TestClient

from barrio.app.house import House
from barrio.store.database import Connections

GOOD = "fabric: tern\nspines: {count: 2}\nracks:\n  - racks: r01..r03\nvrfs:\n  tides: {}\n"
BROKEN = {
    "a word that programs keep for themselves": GOOD.replace("tides", "main"),
    "not YAML": GOOD + "  [",
    "a switch that nobody makes": GOOD.replace("{count: 2}", "{count: 2, model: lost-64}"),
    "more than the pool has": GOOD.replace("r03", "r09") + "pools: {tiny: 10.250.0.0/31}\nnumbers: {loopback: tiny}\n",
}


@pytest.fixture(params=BROKEN.values(), ids=BROKEN.keys())
def stale(marlin: TestClient, marlin_house: House, request: pytest.FixtureRequest) -> TestClient:
    """Marlin, and Tern whose draft is one that an earlier Barrio took."""
    assert marlin.post("/api/v1/fabrics", json={"text": GOOD}).status_code == 201
    edited = {"version": 1, "edits": [["title", "Tern"]], "note": "titled"}
    assert marlin.post("/api/v1/fabrics/tern/edits", json=edited).status_code == 200
    with marlin_house.connections.connection() as connection:
        connection.execute(
            "update revisions set brief = %s where id = (select head from fabrics where name = 'tern')", [request.param]
        )
        connection.execute("update fabrics set version = version + 1 where name = 'tern'")
    return marlin


def test_it_is_a_row_that_says_so_beside_those_that_can_be_read(stale: TestClient) -> None:
    rows = {row["name"]: row for row in stale.get("/api/v1/fabrics").json()}
    assert rows["marlin"]["sums"] and rows["marlin"]["wrong"] is None
    assert rows["tern"]["sums"] is None and rows["tern"]["wrong"]["message"]
    assert [hit["title"] for hit in stale.get("/api/v1/search?q=tern").json() if hit["kind"] == "fabric"] == ["tern"]
    for path in ("numbers.csv", "numbers.xlsx", "whois?q=10.60.0.1", "pools", "catalogue"):
        assert stale.get(f"/api/v1/{path}").status_code == 200, path
    kept = {"version": 1, "edits": [["title", "The Marlin"]], "note": "titled"}
    assert stale.post("/api/v1/fabrics/marlin/edits", json=kept).status_code == 200
    pool = {"name": "spare", "ranges": ["10.250.0.0/24"]}
    assert stale.post("/api/v1/pools", json=pool).is_success


def held(api: TestClient) -> list[tuple[str, ...]]:
    """What Tern holds: number, use, key."""
    return [tuple(line.split(",")[:3]) for line in api.get("/api/v1/numbers.csv?fabric=tern").text.splitlines()]


def test_its_text_and_its_history_can_be_read_and_the_text_mended(stale: TestClient) -> None:
    said = stale.get("/api/v1/fabrics/tern/text").json()
    assert said["faults"] and said["text"] in BROKEN.values()
    assert stale.get("/api/v1/fabrics/tern").status_code == 422
    assert stale.get("/api/v1/fabrics/tern/brief.yaml").text == said["text"]
    assert [one["note"] for one in stale.get("/api/v1/fabrics/tern/history").json()] == ["titled", "made"]
    before = held(stale)
    mended = stale.put("/api/v1/fabrics/tern/text", json={"version": said["version"], "text": GOOD + "# mended\n"})
    assert mended.status_code == 200, mended.text
    assert stale.get("/api/v1/fabrics/tern").json()["text"] == GOOD + "# mended\n"
    assert held(stale) == before


def test_undo_goes_back_to_what_could_be_read(stale: TestClient) -> None:
    version = stale.get("/api/v1/fabrics/tern/text").json()["version"]
    back = stale.post("/api/v1/fabrics/tern/undo", json={"version": version})
    assert back.status_code == 200 and back.json()["text"] == GOOD


def test_mending_takes_no_held_number_into_another_scope(stale: TestClient) -> None:
    assert stale.post("/api/v1/scopes", json={"name": "trial"}).is_success
    pool = {"name": "trial-vnis", "ranges": ["70000..79999"], "kind": "vni", "scope": "trial"}
    assert stale.post("/api/v1/pools", json=pool).is_success
    version = stale.get("/api/v1/fabrics/tern/text").json()["version"]
    moved = {"version": version, "text": GOOD + "numbers: {vni: trial-vnis}\n"}
    answer = stale.put("/api/v1/fabrics/tern/text", json=moved)
    assert answer.status_code == 422 and answer.json()["type"].endswith("pool.scope")


def test_a_model_that_it_names_is_not_taken_out(api: TestClient, connections: Connections) -> None:
    model = api.get("/api/v1/catalogue").json()[0]["model"] | {"id": "own-48", "name": "Own 48"}
    assert api.put("/api/v1/catalogue", json={"text": json.dumps(model)}).status_code == 200
    assert api.post("/api/v1/fabrics", json={"text": GOOD}).status_code == 201
    with connections.connection() as connection:
        connection.execute("update revisions set brief = brief || '  [ # own-48'")
        connection.execute("update fabrics set version = version + 1")
    assert api.delete("/api/v1/catalogue/own-48").status_code == 422
