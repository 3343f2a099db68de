"""A fabric that is deleted: all of it is gone but its numbers, which rest."""

from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from barrio.app import drafts, editions, ending, poolchanges, pools
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.store.database import Connections
from barrio.store.entries import Act, open_change
from tests.api.conftest import MARLIN
from tests.people import without_review

SMALL = "fabric: small\nspines: {count: 2}\nracks:\n  - racks: r01..r03\n"


@pytest.fixture
def gone(api: TestClient, connections: Connections) -> TestClient:
    """A house in which Small was sealed, grown, and then deleted."""
    assert api.post("/api/v1/fabrics", json={"text": SMALL}).status_code == 201
    desk = Desk(House(connections))
    without_review(desk.house, "small")
    editions.seal(desk, "small", 1)
    edited = {"version": 1, "edits": [["racks[0].racks", "r01..r02, r05"]], "note": "another rack"}
    assert api.post("/api/v1/fabrics/small/edits", json=edited).status_code == 200
    pin = {"use": "loopback.v4", "key": "leaf/r09/a", "number": "10.0.0.200", "note": "kept"}
    assert api.post("/api/v1/fabrics/small/pins", json={"version": 2, "pins": [pin]}).status_code == 200
    assert api.delete("/api/v1/fabrics/small?version=3").status_code == 204
    assert pools.audit(desk) == []
    return api


def test_it_is_nowhere_to_be_found_and_its_name_and_cable_prefix_are_free(gone: TestClient) -> None:
    assert gone.get("/api/v1/fabrics").json() == []
    for path in ("", "/version", "/text", "/history", "/bundle.zip"):
        assert gone.get(f"/api/v1/fabrics/small{path}").status_code == 404, path
    assert gone.delete("/api/v1/fabrics/small?version=4").status_code == 404
    prefixed = SMALL.replace("small", "other") + "cabling: {prefix: SMALL}\n"
    assert gone.post("/api/v1/fabrics", json={"text": prefixed}).status_code == 201
    again = gone.post("/api/v1/fabrics", json={"text": SMALL + "cabling: {prefix: AGAIN}\n"})
    assert again.status_code == 201 and again.json()["version"] > 3
    assert [one["note"] for one in gone.get("/api/v1/fabrics/small/history").json()] == ["made"]


def test_its_numbers_rest_and_nobody_is_given_them_until_their_rest_is_over(
    gone: TestClient, connections: Connections
) -> None:
    rows = gone.get("/api/v1/pools/loopbacks/entries").json()["entries"]
    assert {row["state"] for row in rows} == {"resting"} and len(rows) == 10, "2 spines, 4 racks of two leaves"
    assert "resting" in gone.get("/api/v1/whois?q=10.0.0.1").json()["says"]
    other = gone.post("/api/v1/fabrics", json={"text": SMALL.replace("small", "other")})
    assert other.status_code == 201
    held = {row["number"] for row in gone.get("/api/v1/fabrics/other/numbers").json() if row["use"] == "loopback.v4"}
    assert not held & {row["number"] for row in rows}
    with connections.connection() as connection:
        open_change(connection, Act("days pass"))
        connection.execute("update entries set released_at = now() - interval '9 days' where state = 'resting'")
    third = gone.post("/api/v1/fabrics", json={"text": SMALL.replace("small", "third")})
    assert third.status_code == 201
    held = {row["number"] for row in gone.get("/api/v1/fabrics/third/numbers").json() if row["use"] == "loopback.v4"}
    assert held <= {row["number"] for row in rows}
    assert [row["name"] for row in gone.get("/api/v1/fabrics").json()] == ["third", "other"]


def test_a_fabric_with_a_pool_of_its_own_or_that_changed_since_stays(marlin: TestClient) -> None:
    pool = {"name": "radar", "ranges": ["10.250.0.0/24"], "private_to": "marlin"}
    assert marlin.post("/api/v1/pools", json=pool).status_code == 201
    refused = marlin.delete("/api/v1/fabrics/marlin?version=1")
    assert refused.status_code == 422 and "radar is private to marlin" in refused.json()["detail"]
    assert marlin.patch("/api/v1/pools/radar", json={"private_to": ""}).status_code == 200
    assert marlin.delete("/api/v1/fabrics/marlin?version=7").status_code == 409
    assert marlin.get("/api/v1/fabrics/marlin").json()["text"] == MARLIN
    assert marlin.delete("/api/v1/fabrics/marlin?version=1").status_code == 204


def test_one_that_cannot_be_read_can_be_deleted(marlin: TestClient, marlin_house: House) -> None:
    with marlin_house.connections.connection() as connection:
        connection.execute("update revisions set brief = 'fabric: ['")
    assert marlin.delete("/api/v1/fabrics/marlin?version=1").status_code == 204
    assert drafts.every(Desk(marlin_house)) == []


def test_another_server_does_not_take_a_later_fabric_of_the_name_for_the_one_that_it_knew(desk: Desk) -> None:
    """Its numbers may be free again at once, and nothing of the first be left but what others remember of it."""
    other = Desk(House(desk.house.connections))
    drafts.create(desk, SMALL)
    assert len(drafts.load(other, "small").compiled.structure.leaves) == 6
    ending.delete(desk, "small", 1)
    for pool in ("loopbacks", "vteps", "links", "asns", "management", "vlans", "vnis"):
        poolchanges.end_rest(desk, pool)
    drafts.create(desk, SMALL.replace("r03", "r05"))
    assert len(drafts.load(other, "small").compiled.structure.leaves) == 10


def test_it_is_said_in_numbers_first_and_comes_back_within_a_day_as_it_was(
    api: TestClient, connections: Connections
) -> None:
    assert api.post("/api/v1/fabrics", json={"text": SMALL}).status_code == 201
    without_review(House(connections), "small")
    assert api.post("/api/v1/fabrics/small/editions", json={"version": 1, "title": "spring"}).status_code == 201
    kept = api.get("/api/v1/fabrics/small/editions/1/bundle.zip").content
    edited = {"version": 1, "edits": [["racks[0].racks", "r01..r04"]], "note": "another rack"}
    assert api.post("/api/v1/fabrics/small/edits", json=edited).status_code == 200
    before = api.get("/api/v1/fabrics/small/numbers").json()
    said = api.get("/api/v1/fabrics/small/ending").json()
    assert (said["switches"], said["editions"], said["changes"]) == (10, 1, 2) and said["numbers"] > 50
    assert api.delete("/api/v1/fabrics/small?version=2").status_code == 204
    assert [one["name"] for one in api.get("/api/v1/deleted-fabrics").json()] == ["small"]
    back = api.post("/api/v1/fabrics/small/bring-back").json()
    assert back["not_back"] == [] and back["version"] > 3
    assert api.get("/api/v1/fabrics/small/numbers").json() == before
    assert api.get("/api/v1/fabrics/small/editions/1/bundle.zip").content == kept
    assert [one["note"] for one in api.get("/api/v1/fabrics/small/history").json()] == ["another rack", "made"]
    assert api.get("/api/v1/deleted-fabrics").json() == [] and pools.audit(Desk(House(connections))) == []
    assert api.post("/api/v1/fabrics/small/bring-back").status_code == 404


def test_what_others_have_since_does_not_come_back_and_a_day_later_nothing_does(
    gone: TestClient, connections: Connections
) -> None:
    with connections.connection() as connection:
        open_change(connection, Act("days pass"))
        connection.execute("update entries set released_at = now() - interval '9 days' where state = 'resting'")
    assert gone.post("/api/v1/fabrics", json={"text": SMALL.replace("small", "other")}).status_code == 201
    said = gone.post("/api/v1/fabrics/small/bring-back")
    assert said.status_code == 200, said.text
    lost = said.json()["not_back"]
    assert lost and {one["why"] for one in lost} == {"another has it since"}
    assert pools.audit(Desk(House(connections))) == []
    version = gone.get("/api/v1/fabrics/small/version").json()["version"]
    assert gone.delete(f"/api/v1/fabrics/small?version={version}").status_code == 204
    with connections.connection() as connection:
        open_change(connection, Act("days pass"))
        connection.execute("update fabrics set ended_at = now() - interval '25 hours' where name = 'small'")
    assert gone.post("/api/v1/fabrics/small/bring-back").status_code == 404
    assert gone.post("/api/v1/fabrics", json={"text": SMALL.replace("small", "third")}).status_code == 201
    with connections.connection() as connection:
        left = connection.execute("select count(*) from revisions where fabric = 'small'").fetchone()
        assert left == (0,), "it is forgotten"
