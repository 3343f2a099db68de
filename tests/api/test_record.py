"""The record: every change of anything, with what stood there before and after; read, sieved, taken along, and never altered."""

from __future__ import annotations

import csv
from typing import Any

import psycopg
import pytest
from fastapi.testclient import TestClient

from barrio.app.house import House
from barrio.app.rights import Role
from barrio.store.database import Connections
from tests.people import signed_in


def deeds(api: TestClient, **sieve: Any) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = api.get("/api/v1/record", params=sieve).json()["deeds"]
    return found


def altered(api: TestClient, deed: dict[str, Any]) -> dict[str, tuple[Any, Any]]:
    return {one["thing"]: (one["before"], one["after"]) for one in api.get(f"/api/v1/record/{deed['id']}").json()}


CHANGES: list[tuple[str, str, dict[str, Any], str, str]] = [
    ("post", "/fabrics/marlin/edits", {"version": 1, "edits": [["title", "Mended"]], "note": "mended"}, "draft saved", "fabrics"),
    ("post", "/fabrics/marlin/undo", {"version": 2}, "undone", "fabrics"),
    ("post", "/fabrics/marlin/redo", {"version": 3}, "redone", "fabrics"),
    ("post", "/fabrics", {"text": "fabric: gull\nspines: {count: 2}\n"}, "draft saved", "fabrics"),
    ("post", "/pools", {"name": "spare", "ranges": ["10.250.0.0/24"]}, "pool made", "pools"),
    ("patch", "/pools/spare", {"note": "for the pier"}, "pool changed", "pools"),
    ("post", "/pools/spare/ranges", {"range": "10.251.0.0/24"}, "range added", "pool_ranges"),
    ("post", "/pools/spare/reservations", {"range": "10.250.0.0/30", "note": "lamps"}, "reserved", "reserved"),
    ("delete", "/pools/spare/ranges?range=10.251.0.0/24", {}, "range taken out", "pool_ranges"),
    ("post", "/scopes", {"name": "bench", "note": ""}, "scope made", "scopes"),
    ("post", "/people", {"name": "per", "called": "Per"}, "person added", "people"),
    ("put", "/people/per/presence", {"left": True}, "person left", "people"),
    ("put", "/people/per/presence", {"left": False}, "person came back", "people"),
    ("put", "/teams/Buoys", {"note": "", "members": ["per"]}, "team set", "members"),
    ("post", "/grants", {"role": "reader", "team": "Buoys"}, "role given", "grants"),
    ("post", "/fabrics/marlin/sharing", {"role": "reader", "person": "per"}, "role given", "grants"),
    ("delete", "/teams/Buoys", {}, "team ended", "grants"),
    ("delete", "/fabrics/marlin?version=4", {}, "fabric deleted", "fabrics"),
]  # fmt: skip


def test_every_change_tells_who_did_it_from_where_and_what_stood_before_and_after(
    marlin: TestClient, marlin_house: House
) -> None:
    ines = signed_in(marlin_house, "ines", [(role, None) for role in Role], called="Ines Marrero")
    for method, path, body, act, thing in CHANGES:
        last = deeds(marlin)[0]["id"]
        kept = {"json": body} if body else {}
        answer = ines.request(method, f"/api/v1{path}", **kept)
        assert answer.is_success, (path, answer.text)
        fresh = [deed for deed in deeds(marlin) if deed["id"] > last]
        assert {(deed["author"], deed["address"]) for deed in fresh} == {("Ines Marrero", "127.0.0.1")}, path
        done = next((deed for deed in fresh if deed["act"] == act), None)
        assert done is not None, (path, [deed["act"] for deed in fresh])
        assert thing in altered(marlin, done), (path, altered(marlin, done))


def test_a_saved_draft_is_told_with_both_briefs_and_a_deleted_one_with_its_last(marlin: TestClient) -> None:
    edit = {"version": 1, "edits": [["underlay.mtu", 9100]], "note": "MTU 9100"}
    marlin.post("/api/v1/fabrics/marlin/edits", json=edit)
    before, after = altered(marlin, deeds(marlin, fabric="marlin")[0])["fabrics"]
    assert "mtu: 9216" in before["brief"] and "mtu: 9100" in after["brief"]
    marlin.delete("/api/v1/fabrics/marlin?version=2")
    (gone,) = [deed for deed in deeds(marlin) if deed["act"] == "fabric deleted"]
    text, nothing = altered(marlin, gone)["brief"]
    assert "mtu: 9100" in text["brief"] and nothing is None


@pytest.mark.parametrize("table", ["changes", "altered", "past"])
@pytest.mark.parametrize(
    "statement", ["update {} set {} = {}", "delete from {}", "truncate {} cascade"], ids=["update", "delete", "truncate"]
)  # fmt: skip
def test_the_database_lets_nobody_alter_the_record(
    marlin: TestClient, connections: Connections, marlin_house: House, table: str, statement: str
) -> None:
    column = {"changes": "act", "altered": "key", "past": "note"}[table]
    with (
        pytest.raises(psycopg.errors.InsufficientPrivilege, match="cannot be altered"),
        marlin_house.connections.connection() as connection,
    ):
        connection.execute(statement.format(table, column, "'x'").encode())


@pytest.mark.parametrize(
    "statement",
    ["update pools set note = 'x'", "update fabrics set title = 'x'", "delete from grants", "insert into teams (name) values ('x')"],
)  # fmt: skip
def test_nothing_that_is_kept_changes_without_an_act(marlin_house: House, statement: str) -> None:
    with (
        pytest.raises(psycopg.errors.RaiseException, match="without an act"),
        marlin_house.connections.connection() as connection,
    ):
        connection.execute(statement.encode())


def test_what_failed_left_nothing_in_the_record(marlin: TestClient) -> None:
    last = deeds(marlin)[0]["id"]
    marlin.post(
        "/api/v1/fabrics/marlin/edits", json={"version": 1, "edits": [["spines.count", 400]], "note": "too many"}
    )
    marlin.post("/api/v1/pools", json={"name": "spare", "ranges": ["10.60.0.0/24"]})
    assert deeds(marlin)[0]["id"] == last


def test_the_record_is_sieved_read_on_and_taken_along(marlin: TestClient, marlin_house: House) -> None:
    ines = signed_in(marlin_house, "ines", [(Role.KEEPER, None)], called="Ines Marrero")
    for number in range(5):
        ines.post("/api/v1/scopes", json={"name": f"bench-{number}", "note": ""})
    ines.post("/api/v1/people", json={"name": "per", "called": "=cmd()"})
    page = marlin.get("/api/v1/record", params={"limit": 3}).json()
    following = marlin.get("/api/v1/record", params={"limit": 3, "before": page["more"]}).json()
    assert len(page["deeds"]) == 3 and following["deeds"][0]["id"] < page["deeds"][-1]["id"]
    assert {deed["author"] for deed in deeds(marlin, author="Ines Marrero")} == {"Ines Marrero"}
    assert {deed["topic"] for deed in deeds(marlin, topic="people")} == {"people"}
    assert [deed["note"] for deed in deeds(marlin, text="bench-3")] == ["bench-3"]
    assert deeds(marlin, since="2999-01-01T00:00:00Z") == [] and deeds(marlin, text="bench%3") == []
    rows = list(csv.reader(marlin.get("/api/v1/record.csv", params={"author": "Ines Marrero"}).text.splitlines()))
    assert rows[0][:3] == ["id", "at", "author"] and len(rows) == 7
    assert not any(cell.startswith("=") for row in rows for cell in row)
    assert marlin.get("/api/v1/record", params={"since": "yesterday"}).status_code == 422
    assert marlin.get("/api/v1/record/999999999").status_code == 404
