"""The API over a real database: what it answers, what it refuses, and in which words."""

from __future__ import annotations

import io
import json
import zipfile

import pytest
from fastapi.testclient import TestClient

from tests.conftest import EXAMPLES

MARLIN, PELICAN, TERN = (path.read_text() for path in EXAMPLES)


def edits(version: int, *changes: tuple[str, object]) -> dict[str, object]:
    return {"version": version, "edits": changes, "note": "a change"}


def test_an_edit_moves_the_sums_and_says_what_it_did(marlin: TestClient) -> None:
    before = marlin.get("/api/v1/fabrics/marlin").json()
    assert before["sums"]["cables"] == 208 and before["findings"] == []
    after = marlin.post("/api/v1/fabrics/marlin/edits", json=edits(1, ("racks[0].racks", "r01..r13"))).json()
    assert after["version"] == 2 and after["sums"]["cables"] == 224 and after["changed"] == ["racks[0].racks"]
    effect = {key: value for key, value in after["effect"].items() if value}
    assert effect == {"switches_added": 2, "switches_changed": 4, "cables_added": 24, "numbers_taken": 78}
    assert marlin.get("/api/v1/fabrics/marlin/weave").json()["fresh"] == ["leaf/r13/a", "leaf/r13/b"]
    undone = marlin.post("/api/v1/fabrics/marlin/undo", json={"version": 2}).json()
    assert undone["sums"] == before["sums"] and undone["redo"] == "a change" and undone["text"] == before["text"]


def test_a_save_over_a_newer_version_is_a_409_that_keeps_both_informed(marlin: TestClient) -> None:
    marlin.post("/api/v1/fabrics/marlin/edits", json=edits(1, ("spines.count", 3)))
    late = marlin.put("/api/v1/fabrics/marlin/text", json={"version": 1, "text": MARLIN})
    assert late.status_code == 409 and late.headers["content-type"] == "application/problem+json"
    problem = late.json()
    assert problem["type"] == "urn:barrio:problem:stale" and problem["version"] == 2
    assert "a change" in problem["detail"] and "Nothing of yours was saved over it" in problem["detail"]
    assert marlin.get("/api/v1/fabrics/marlin").json()["brief"]["spines"]["count"] == 3


def test_a_refusal_points_at_the_field_and_the_line_and_saves_nothing(marlin: TestClient) -> None:
    bad = marlin.post(
        "/api/v1/fabrics/marlin/edits", json=edits(1, ("spines.count", 3), ("racks[0].racks", "r01..r40"))
    )
    assert bad.status_code == 422
    (fault,) = bad.json()["faults"]
    assert fault["code"] == "ports.spine-full" and fault["path"] == "spines.model"
    assert MARLIN.splitlines()[fault["line"] - 1].strip() == "model: cantera-c64"
    assert marlin.get("/api/v1/fabrics/marlin").json()["version"] == 1
    text = marlin.put(
        "/api/v1/fabrics/marlin/text", json={"version": 1, "text": MARLIN.replace("count: 4", "count: four")}
    )
    assert text.json()["faults"][0]["line"] == 6


def test_options_say_what_they_would_do_or_why_they_cannot_be(marlin: TestClient) -> None:
    options = marlin.post(
        "/api/v1/fabrics/marlin/options", json={"path": "uplinks_per_spine", "values": [1, 2, 3]}
    ).json()
    assert [option["sums"] and option["sums"]["oversubscription"] for option in options] == [3.0, 1.5, None]
    assert "need 12 uplinks" in options[2]["refusal"] or "need 78 ports" in options[2]["refusal"]


def test_the_file_that_is_shown_is_the_file_in_the_bundle(marlin: TestClient) -> None:
    with zipfile.ZipFile(io.BytesIO(marlin.get("/api/v1/fabrics/marlin/bundle.zip").content)) as bundle:
        for row in marlin.get("/api/v1/fabrics/marlin/switches/leaf-r07b/files").json():
            shown = marlin.get("/api/v1/fabrics/marlin/switches/leaf-r07b/file", params={"path": row["path"]}).json()
            text = "".join(f"{line['text']}\n" for line in shown["lines"])
            assert bundle.read(f"switches/leaf-r07b/{row['path']}").decode() == text
        manifest = json.loads(bundle.read("manifest.json"))
        assert manifest["counts"]["switches"] == 30


def test_a_line_answers_why_and_where_else_it_stands(marlin: TestClient) -> None:
    lines = marlin.get("/api/v1/fabrics/marlin/switches/leaf-r07b/file", params={"path": "etc/frr/frr.conf"}).json()[
        "lines"
    ]
    texts = [line["text"] for line in lines]
    ask = {
        "path": "etc/frr/frr.conf",
        "line": next(n for n, text in enumerate(texts, 1) if text.startswith("router bgp ")),
    }
    reason = marlin.get("/api/v1/fabrics/marlin/switches/leaf-r07b/because", params=ask).json()
    assert reason["text"].startswith("router bgp ")
    ledger = next(step for value in reason["values"] for step in value["steps"] if step["kind"] == "ledger")
    assert ledger["refs"]["key"] == "leaf/r07/b" and reason["same_on"] == []
    common = marlin.get(
        "/api/v1/fabrics/marlin/switches/leaf-r07b/because",
        params=ask | {"line": texts.index("log syslog informational") + 1},
    ).json()
    assert len(common["same_on"]) == 23
    for wrong in ({"line": 0}, {"line": 9999}, {"path": "etc/passwd"}, {"path": "../../secret"}):
        assert marlin.get("/api/v1/fabrics/marlin/switches/leaf-r07b/because", params=ask | wrong).status_code == 404


def test_numbers_values_and_cables_have_chains(marlin: TestClient) -> None:
    for ask in (
        {"use": "link.v4", "key": "leaf/r07/b~spine/3~1"},
        {"path": "switches/leaf-r07b/asn"},
        {"cable": "M-0109"},
    ):
        chain = marlin.get("/api/v1/fabrics/marlin/because", params=ask).json()["steps"]
        assert {"ledger", "brief"} <= {step["kind"] for step in chain}
    for nothing in ({"use": "link.v4", "key": "x"}, {"path": "switches/leaf-r07b/nope"}, {"cable": "M-9999"}, {}):
        assert marlin.get("/api/v1/fabrics/marlin/because", params=nothing).status_code == 404


def test_search_finds_switches_numbers_and_cables_across_fabrics(marlin: TestClient) -> None:
    marlin.post("/api/v1/fabrics", json={"text": TERN})
    crossing = marlin.get("/api/v1/fabrics/marlin/crossing", params={"one": "spine-3", "other": "leaf-r07b"}).json()
    address = crossing["links"][0]["v4"].split("/")[0]
    assert any(hit["fabric"] == "marlin" for hit in marlin.get("/api/v1/search", params={"q": address}).json())
    kinds = {(hit["kind"], hit["fabric"]) for hit in marlin.get("/api/v1/search", params={"q": "spine-1"}).json()}
    assert {("switch", "marlin"), ("switch", "tern")} <= kinds
    assert marlin.get("/api/v1/search", params={"q": "t-0008"}).json()[0]["title"] == "T-0008"
    assert marlin.get("/api/v1/search", params={"q": "  "}).json() == []
    assert marlin.get("/api/v1/search", params={"q": "99999999999999999999"}).status_code == 200


def test_pools_show_what_is_taken_and_take_new_ranges(marlin: TestClient) -> None:
    ranges = {(row["pool"], row["family"]): row for row in marlin.get("/api/v1/pools").json()["ranges"]}
    links = ranges["halls-p2p", "v4"]
    assert links["held"] == str(208 * 2) and links["free"] == str(4096 - 416)
    assert sum(run["count"] for run in links["runs"]) == 208
    clash = marlin.post("/api/v1/pools/halls-p2p/ranges", json={"range": "10.60.0.0/16"})
    assert clash.status_code == 422 and "overlaps" in clash.json()["detail"]
    assert marlin.post("/api/v1/pools/halls-p2p/ranges", json={"range": "10.62.0.0/20"}).status_code == 201
    assert marlin.post("/api/v1/pools/nowhere/ranges", json={"range": "10.63.0.0/20"}).status_code == 404
    assert sum(row["pool"] == "halls-p2p" for row in marlin.get("/api/v1/pools").json()["ranges"]) == 3


def test_ending_the_rest_of_a_pool_frees_what_was_given_back(marlin: TestClient) -> None:
    marlin.post("/api/v1/fabrics/marlin/edits", json=edits(1, ("racks[1]", None)))
    entries = marlin.get("/api/v1/pools/office-private/entries").json()["entries"]
    resting = [entry for entry in entries if entry["state"] == "resting"]
    assert len(resting) == 2 and all(entry["rests_until"] for entry in resting)
    assert marlin.post("/api/v1/pools/office-private/end-rest", json={"reason": "the rack is scrapped"}).json() == {
        "ended": 2
    }
    after = marlin.get("/api/v1/pools/office-private/entries").json()["entries"]
    assert [entry["id"] for entry in after] == [entry["id"] for entry in entries if entry not in resting]
    marlin.post("/api/v1/fabrics/marlin/edits", json=edits(2, ("racks[0].racks", "r01..r12, r40")))
    again = marlin.get("/api/v1/pools/office-private/entries").json()["entries"]
    drawn = {entry["number"] for entry in again if entry["key"].startswith("leaf/r40")}
    assert drawn == {entry["number"] for entry in resting}, "and others are given them"


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({}, 200),
        ({"Origin": "http://127.0.0.1:8710"}, 200),
        ({"Host": "barrio.example"}, 403),
        ({"Host": "127.0.0.1.example:8710"}, 403),
        ({"Host": ""}, 403),
        ({"Origin": "http://barrio.example"}, 403),
        ({"Origin": "null"}, 403),
        ({"Origin": "http://127.0.0.1:9999"}, 403),
    ],
)
def test_only_this_machine_is_answered(api: TestClient, headers: dict[str, str], status: int) -> None:
    assert api.get("/api/v1/fabrics", headers=headers).status_code == status
    assert api.post("/api/v1/fabrics", json={"name": "x"}, headers=headers).status_code in (
        {201} if status == 200 else {403}
    )


def test_a_body_too_large_is_refused_unread(api: TestClient) -> None:
    big = api.post("/api/v1/fabrics", json={"text": "# " + "x" * 5_000_000})
    assert big.status_code == 413 and "256 KB" in big.json()["detail"]
    most = api.post("/api/v1/fabrics", json={"text": "# " + "x" * 500_000})
    assert most.status_code == 422 and most.json()["faults"][0]["code"] == "yaml.too-large"


@pytest.mark.parametrize(
    "body",
    [
        {"name": "Not A Name"}, {"name": ""}, {"text": ""}, {"text": "fabric: [1"}, {"text": "fabric: 5"}, {"text": "\x00"},
        {"text": "fabric: a\nspines: {count: 99999999999999999999}"}, {"name": 7}, {"text": "? [a]\n: b"}, {"text": "a: !!python/object:x"},
        {"text": "fabric: a\nracks:\n  - racks: r1..r99999999"}, {"text": "fabric: a\npools: {loopbacks: [10.0.0.0/33]}"},
        {"text": "fabric: a\npools: {loopbacks: []}\nracks:\n  - racks: r01"}, {"text": "fabric: a\nunderlay: {timers: {hold: 3}}"},
    ],
)  # fmt: skip
def test_bad_briefs_are_answered_with_a_problem_and_leave_nothing(api: TestClient, body: dict[str, object]) -> None:
    answer = api.post("/api/v1/fabrics", json=body)
    assert answer.status_code == 422, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.json()["detail"]
    assert api.get("/api/v1/fabrics").json() == [] and api.get("/api/v1/pools").json() == {"pools": [], "ranges": []}


def test_what_is_not_there_is_a_404_in_words(api: TestClient) -> None:
    for path in ("/api/v1/fabrics/nope", "/api/v1/fabrics/nope/weave", "/api/v1/pools/nope/entries", "/api/v1/nope"):
        answer = api.get(path)
        assert answer.status_code == 404 and answer.json()["detail"], path


def test_no_path_leads_out_of_the_front_end(api: TestClient) -> None:
    for path in ("/..%2f..%2fpyproject.toml", "/assets/../../../pyproject.toml", "/%2e%2e/%2e%2e/pyproject.toml"):
        answer = api.get(path)
        assert "requires-python" not in answer.text


def test_the_brief_schema_is_published(api: TestClient) -> None:
    schema = api.get("/schemas/brief.json").json()
    assert schema["title"] == "Brief" and "spines" in schema["properties"]


def test_marks_of_the_trace_never_reach_a_client(marlin: TestClient) -> None:
    text = marlin.get("/api/v1/fabrics/marlin/switches/leaf-r07b/file", params={"path": "etc/frr/frr.conf"}).text
    assert not any("\ue000" <= char <= "\uf8ff" for char in text)


def test_files_are_read_back_and_a_refused_switch_says_so_everywhere(marlin: TestClient) -> None:
    """The target carries no peer links: the draft is saved, its other switches have files, and the way out is named."""
    whole = marlin.get("/api/v1/fabrics/marlin/readback").json()
    assert whole == {"switches": 30, "refused": 0, "findings": []}
    text = "fabric: linked\nracks: [{racks: r1..r2, pairing: peer-link}, {racks: r3, leaves: 1}]\n"
    made = marlin.post("/api/v1/fabrics", json={"text": text})
    assert made.status_code == 201, made.json()
    assert "target.peer-link" in [fault["code"] for fault in made.json()["findings"]]
    files = marlin.get("/api/v1/fabrics/linked/switches/leaf-r1a/files")
    assert files.status_code == 422 and files.json()["type"] == "urn:barrio:problem:target.peer-link"
    assert "multihoming" in files.json()["detail"]
    assert marlin.get("/api/v1/fabrics/linked/switches/spine-1/files").status_code == 200
    assert marlin.get("/api/v1/fabrics/linked/bundle.zip").status_code == 422
    assert marlin.get("/api/v1/fabrics/linked/readback").json()["refused"] == 4


def test_downloads_have_plain_names(marlin: TestClient) -> None:
    name = marlin.get("/api/v1/numbers.csv", params={"pool": 'x"; filename=evil.exe; X: y'}).headers
    assert name.get("content-disposition") == 'attachment; filename="x-filename-evil.exe-X-y-numbers.csv"'
    assert "x" not in name
