"""The grid of ports and segments over HTTP: windows of it, fills in one save, hosts named and taken away, and what cannot be."""

from __future__ import annotations

import io
from typing import Any

import pytest
import xlsxwriter
from fastapi.testclient import TestClient

from tests.core.test_attach import HALL, HOSTS

GRID = "/api/v1/fabrics/hall/carrying"


@pytest.fixture
def hall(api: TestClient) -> TestClient:
    api.post("/api/v1/fabrics", json={"text": HALL + HOSTS}).raise_for_status()
    return api


def rows(api: TestClient, **sieve: Any) -> dict[str, dict[str, Any]]:
    return {row["key"]: row for row in api.get(GRID, params=sieve).json()["rows"]}


def marks(api: TestClient, key: str) -> tuple[str | None, list[str]]:
    found = api.get(GRID, params={"limit": 2000}).json()
    names = [column["name"] for column in found["columns"]]
    row = next(row for row in found["rows"] if row["key"] == key)
    return None if row["untagged"] is None else names[row["untagged"]], [names[at] for at in row["tagged"]]


def test_the_grid_shows_what_is_asked_for_a_window_at_a_time(hall: TestClient) -> None:
    whole = hall.get(GRID, params={"limit": 5}).json()
    assert len(whole["rows"]) == 5 and whole["total"] > 300 and whole["hosts"] == 13
    assert [(one["name"], one["vrf"]) for one in whole["columns"]][-2:] == [("boot", ""), ("sync", "")]
    assert {one["name"]: one["hosts"] for one in whole["columns"]} == {"grid": 9, "telemetry": 4, "boot": 8, "sync": 9}
    assert list(rows(hall, offset=5, limit=1)) != list(rows(hall, limit=1))
    assert {row["rack"] for row in rows(hall, rack="r03").values()} == {"r03"}
    joined = rows(hall, host="store")
    assert list(joined) == ["leaf/r02/a:h3"] and joined["leaf/r02/a:h3"]["ports"] == "h3..h4"
    assert joined["leaf/r02/a:h3"]["leaf"] == "leaf-r02a+b" and joined["leaf/r02/a:h3"]["lag"] == "lacp"
    assert {row["host"] for row in rows(hall, segment="telemetry").values()} == {
        "gauge-1",
        "gauge-2",
        "gauge-3",
        "probe",
    }
    assert len(rows(hall, team="Models")) == 8 and rows(hall, find="gauge-2 r03")
    free = rows(hall, rack="r03", show="free")
    assert len(free) == 45 and all(row["shut"] == "no host is attached" for row in free.values())
    locked = {row["locked"] for row in rows(hall, rack="r01", find="u1").values()}
    assert locked == {"an uplink"}


def test_a_fill_is_one_save_that_one_undo_takes_back(hall: TestClient) -> None:
    cells = [{"row": f"leaf/r03/a:h{n}", "segment": "grid", "mark": "tagged"} for n in (10, 11, 12)]
    saved = hall.post(GRID, json={"version": 1, "cells": cells})
    assert (
        saved.status_code == 200 and saved.json()["note"] == "grid tagged on 3 ports" and saved.json()["version"] == 2
    )
    assert marks(hall, "leaf/r03/a:h11") == ("telemetry", ["grid"])
    same = hall.post(GRID, json={"version": 2, "cells": cells})
    assert same.status_code == 422 and "says so already" in same.json()["detail"]
    hall.post("/api/v1/fabrics/hall/undo", json={"version": 2}).raise_for_status()
    assert marks(hall, "leaf/r03/a:h11") == ("telemetry", [])


def test_a_fill_with_one_cell_that_cannot_be_takes_nothing(hall: TestClient) -> None:
    good = {"row": "leaf/r03/a:h10", "segment": "grid", "mark": "tagged"}
    for bad, words in (
        ({"row": "leaf/r03/a:h40", "segment": "grid", "mark": "tagged"}, "No host is attached to r03/a h40"),
        ({"row": "leaf/r03/a:u1", "segment": "grid", "mark": "tagged"}, "No host is attached"),
        ({"row": "leaf/r03/a:h10", "segment": "gird", "mark": "tagged"}, "no segment gird"),
        ({"row": "leaf/r03/a:h11", "segment": "sync", "mark": "tagged"}, "kept to racks r01..r02"),
        ({"row": "", "segment": "grid", "mark": "tagged"}, "No host is attached"),
    ):
        refused = hall.post(GRID, json={"version": 1, "cells": [good, bad]})
        assert refused.status_code == 422 and words in refused.json()["detail"], refused.text
    assert hall.get("/api/v1/fabrics/hall/version").json()["version"] == 1
    assert hall.post(GRID, json={"version": 7, "cells": [good]}).status_code == 409


def test_hosts_are_named_at_ports_and_taken_away_again(hall: TestClient) -> None:
    attach = "/api/v1/fabrics/hall/attach"
    asked = {
        "version": 1,
        "rows": ["leaf/r01/a:h20", "leaf/r01/b:h20", "leaf/r01/a:h21"],
        "hosts": "tide-1..tide-2",
        "plug": "compute",
    }
    saved = hall.post(attach, json=asked)
    assert saved.status_code == 200, saved.text
    assert "tide-1..tide-2:" in saved.json()["text"] and "at: r01 h20..h21" in saved.json()["text"]
    assert rows(hall, host="tide-1")["leaf/r01/a:h20"]["leaf"] == "leaf-r01a+b", "in a pair on both leaves"
    for more, words in (
        ({"rows": ["leaf/r01/a:h20"], "hosts": "other"}, "tide-1 is at r01/a h20 already"),
        ({"rows": ["leaf/r03/a:h30"], "hosts": "store"}, "a host store already"),
        ({"rows": ["leaf/r03/a:h30"], "hosts": "a-1..a-2"}, "2 hosts and 1 ports"),
        ({"rows": ["leaf/r03/a:h30"], "hosts": "NO SUCH"}, "is not a name"),
        ({"rows": ["leaf/r03/a:u1"], "hosts": "other"}, "is an uplink"),
        ({"rows": ["leaf/r03/a:h30"], "hosts": "other", "plug": "conpute"}, "Is compute meant?"),
    ):
        refused = hall.post(attach, json=asked | {"version": 2} | more)
        assert refused.status_code == 422 and words in refused.json()["detail"], refused.text
    gone = hall.post("/api/v1/fabrics/hall/detach", json={"version": 2, "hosts": ["tide-1", "model-03"]})
    assert gone.status_code == 200 and "model-01..model-02, model-04..model-08" in gone.json()["text"]
    assert rows(hall, rack="r01")["leaf/r01/a:h20"]["host"] == "" and rows(hall, host="tide-2")
    assert hall.post("/api/v1/fabrics/hall/detach", json={"version": 3, "hosts": ["nobody"]}).status_code == 422


def test_hosts_get_another_plug_in_one_save(hall: TestClient) -> None:
    asked = {"version": 1, "hosts": ["gauge-1", "gauge-2"], "field": "plug", "value": "compute"}
    refused = hall.post("/api/v1/fabrics/hall/dress", json=asked)
    assert refused.status_code == 422 and "kept to racks r01..r02" in refused.json()["detail"]
    saved = hall.post("/api/v1/fabrics/hall/dress", json=asked | {"value": "", "field": "team"})
    assert saved.status_code == 422 and "says so already" in saved.json()["detail"]
    saved = hall.post("/api/v1/fabrics/hall/dress", json=asked | {"value": ""})
    assert saved.status_code == 200 and marks(hall, "leaf/r03/a:h10") == (None, [])
    assert marks(hall, "leaf/r03/a:h12") == ("telemetry", [])


def test_hosts_leave_as_a_sheet(hall: TestClient) -> None:
    lines = hall.get("/api/v1/fabrics/hall/hosts.csv").text.splitlines()
    assert lines[0] == "host,team,at,plug,lag,untagged,tagged,note" and len(lines) == 14
    assert lines[9] == "store,,r02 h3..h4,compute,lacp,none,sync grid,"


SHEET = "host,rack,leaf,ports,plug,tagged,team\nnew-1,r03,,h20,plain,,Tides\nnew-2,r03,,h21,plain,,Tides\ngauge-2,r03,,h11,plain,boot,\nmodel-01,r01,,h1,compute,,Models\n"


def preview(api: TestClient, sheet: str | bytes, act: str = "preview", **query: Any) -> Any:
    return api.post(
        f"/api/v1/fabrics/hall/hosts/{act}", content=sheet, params=query, headers={"Content-Type": "text/csv"}
    )


def test_a_sheet_of_hosts_is_shown_row_by_row_and_taken_whole(hall: TestClient) -> None:
    shown = preview(hall, SHEET).json()
    assert [(row["host"], row["outcome"]) for row in shown["rows"]] == [
        ("new-1", "new"), ("new-2", "new"), ("gauge-2", "changes"), ("model-01", "same"),
    ]  # fmt: skip
    assert hall.get("/api/v1/fabrics/hall").json()["version"] == 1, "nothing is written by looking"
    assert preview(hall, SHEET, "take", version=0).status_code == 409
    assert preview(hall, SHEET, "take", version=1).json()["version"] == 2
    brief = hall.get("/api/v1/fabrics/hall").json()["brief"]["hosts"]
    assert brief["new-1..new-2"]["at"] == ["r03 h20..h21"], "rows that go on from each other are one entry"
    assert brief["gauge-2"]["tagged"] == ["boot"] and brief["gauge-1, gauge-3"]["at"] == ["r03 h10, h12"]
    assert {row["outcome"] for row in preview(hall, SHEET).json()["rows"]} == {"same"}
    hall.post("/api/v1/fabrics/hall/undo", json={"version": 2}).raise_for_status()
    assert "new-1..new-2" not in hall.get("/api/v1/fabrics/hall").json()["brief"]["hosts"]


@pytest.mark.parametrize("kind", ["csv", "xlsx"])
def test_a_sheet_that_was_taken_away_says_what_is_there(hall: TestClient, kind: str) -> None:
    taken = hall.get(f"/api/v1/fabrics/hall/hosts.{kind}").content
    shown = preview(hall, taken).json()
    assert shown["total"] == 13 and shown["counts"] == {"same": 13}, [row for row in shown["rows"] if row["reason"]]
    assert preview(hall, taken, "take", version=1).json()["version"] == 1


@pytest.mark.parametrize(
    ("sheet", "words"),
    [
        ("host;at;plug\na;r03 h20;plain\n;r03 h21;plain\n", "names no host"),
        ("host\tat\na\tr03 h20\na\tr03 h21\n", "on line 2 already"),
        ("host,at\na,r09 h1\n", "no rack of leaves r09"),
        ("host,at\na,r03 u1\n", "is an uplink"),
        ("host,at\na,r03 h10\n", "would have both"),
        ("host,at,tagged\na,r03 h20,gird\n", "Is grid meant?"),
        ("host,at,lag\na,r03 h20,maybe\n", "no way to bond"),
        ("host,at\na..b\n", "a..b"),
        ("host,at\na-1..a-3,r03 h20..h21\n", "each host needs as many"),
    ],
)
def test_a_row_that_cannot_be_taken_says_why_and_keeps_the_others_out(hall: TestClient, sheet: str, words: str) -> None:
    shown = preview(hall, sheet).json()
    refused = [row for row in shown["rows"] if row["outcome"] == "refused"]
    assert len(refused) >= 1 and words in refused[0]["reason"], shown
    taken = preview(hall, sheet, "take", version=1)
    assert taken.status_code == 422 and words in taken.text and "none was" in taken.text
    assert hall.get("/api/v1/fabrics/hall").json()["version"] == 1


def test_a_column_that_is_not_there_leaves_its_words_as_they_are(hall: TestClient) -> None:
    """Moved by a sheet of places alone, a host keeps its plug; a column that is empty takes the exception away."""
    preview(hall, "host,at\nstore,r02 h7..h8\n", "take", version=1).raise_for_status()
    said = hall.get("/api/v1/fabrics/hall").json()["brief"]["hosts"]["store"]
    assert said["at"] == ["r02 h7..h8"] and (said["plug"], said["untagged"]) == ("compute", "none")
    preview(hall, "host,at,plug,untagged\nstore,r02 h7..h8,compute,\n", "take", version=2).raise_for_status()
    assert hall.get("/api/v1/fabrics/hall").json()["brief"]["hosts"]["store"]["untagged"] is None


def test_a_sheet_that_is_none_is_refused_as_such(hall: TestClient) -> None:
    assert "Say which columns" in preview(hall, "a,b\n1,2\n").text
    mapped = preview(hall, "who,spot\na,r03 h20\n", columns='{"host": 0, "at": 1}').json()
    assert mapped["rows"][0]["outcome"] == "new"
    assert "cannot be read" in preview(hall, b"PK\x03\x04 no workbook").text
    assert "Line 3 has cells that are merged" in preview(hall, _merged()).text


def _merged() -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True})
    page = book.add_worksheet()
    page.write_row(0, 0, ["host", "at"])
    page.write_row(1, 0, ["a", "r03 h20"])
    page.merge_range(2, 0, 3, 0, "b")
    book.close()
    return out.getvalue()
