"""Numbers over HTTP and on the command line: whose, what is free, pins, sheets, the past; and what is refused, in words."""

from __future__ import annotations

import csv
import io
import zipfile
from itertools import pairwise
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
from fastapi.testclient import TestClient

from barrio.app import editions
from barrio.app.desk import Actor, Desk
from barrio.app.house import House
from barrio.store.entries import Act, open_change
from tests.api.conftest import MARLIN
from tests.cli import barrio
from tests.people import without_review
from tests.serving import Serving


def version(api: TestClient, name: str = "marlin") -> int:
    return int(api.get(f"/api/v1/fabrics/{name}/version").json()["version"])


def pin(api: TestClient, *pins: tuple[str, str, str | None], note: str = "by hand") -> Any:
    body = {"version": version(api), "pins": [{"use": u, "key": k, "number": n, "note": note} for u, k, n in pins]}
    return api.post("/api/v1/fabrics/marlin/pins", json=body)


def whois(api: TestClient, number: str) -> dict[str, Any]:
    return dict(api.get("/api/v1/whois", params={"q": number}).json())


def test_whose_is_answered_for_addresses_prefixes_numbers_and_nobody(marlin: TestClient) -> None:
    assert whois(marlin, "10.60.0.17")["says"] == "10.60.0.17 is the loopback of leaf-r07a in marlin, held."
    assert "is the link of leaf-r01a – spine-1 in marlin" in whois(marlin, "10.61.0.3")["says"], "inside its /31"
    assert whois(marlin, "fd60::11")["owners"][0]["key"] == "leaf/r07/a"
    assert whois(marlin, "4200065001")["owners"][0]["name"] == "leaf-r01a"
    assert {(one["use"], one["key"]) for one in whois(marlin, "110")["owners"]} == {("vlan", "segment/forecast-web")}
    assert whois(marlin, "10.60.1.77")["says"] == "10.60.1.77 is free, in pool halls-loopback (10.60.0.0/22)."
    assert whois(marlin, "10.99.0.1")["says"] == "10.99.0.1 is in no pool."
    for bad in ("10.60.0.300", "leaf-r07a", "", "12345678901"):
        answer = marlin.get("/api/v1/whois", params={"q": bad})
        assert answer.status_code == 422 and "Write 10.60.0.7" in answer.json()["detail"], bad


def test_what_is_free_comes_best_fit_first_and_never_from_what_is_kept(marlin: TestClient) -> None:
    found = marlin.get("/api/v1/numbers/free", params={"length": 22, "pool": "office-segments"}).json()
    holes = [int(one["hole"].split("/")[1]) for one in found]
    assert holes == sorted(holes, reverse=True) and found[0]["prefix"].endswith("/22")
    marlin.post("/api/v1/pools/office-segments/reservations", json={"range": found[0]["hole"], "note": "kept"})
    again = marlin.get("/api/v1/numbers/free", params={"length": 22, "pool": "office-segments"}).json()
    assert found[0]["hole"] not in {one["hole"] for one in again} and again
    assert marlin.get("/api/v1/numbers/free", params={"length": 40}).status_code == 422
    assert marlin.get("/api/v1/numbers/free", params={"length": 64, "family": "v6"}).json()


def test_which_numbers_a_rack_a_switch_and_a_segment_own(marlin: TestClient) -> None:
    def of(what: str) -> list[dict[str, str]]:
        return list(marlin.get("/api/v1/fabrics/marlin/numbers", params={"of": what}).json())

    rack, switch = of("r07"), of("leaf-r07a")
    assert {one["key"] for one in switch} < {one["key"] for one in rack}
    assert sum(one["use"] == "link.v4" for one in rack) == 16 and sum(one["use"] == "link.v4" for one in switch) == 8
    assert {one["use"] for one in of("tide-grid")} == {"vlan", "vni", "segment.v4", "segment.v6"}
    answer = marlin.get("/api/v1/fabrics/marlin/numbers", params={"of": "r99"})
    assert answer.status_code == 422 and "Nothing in marlin is called r99" in answer.json()["detail"]


def test_a_pin_moves_a_number_marks_it_explains_it_and_is_undone(marlin: TestClient) -> None:
    done = pin(marlin, ("loopback.v4", "leaf/r07/a", "10.60.0.200"), note="as the old plan had it")
    assert done.status_code == 200 and done.json()["effect"]["numbers_taken"] == 1
    owner = whois(marlin, "10.60.0.200")["owners"][0]
    assert owner["pinned"] and owner["note"] == "as the old plan had it" and owner["key"] == "leaf/r07/a"
    because = marlin.get("/api/v1/fabrics/marlin/because", params={"use": "loopback.v4", "key": "leaf/r07/a"}).json()
    assert "pinned by hand in the Ledger" in because["steps"][0]["title"] + because["steps"][1]["title"]
    assert {one["switch"] for one in because["printed_on"]} == {"leaf-r07a"} and because["printed_on"]
    assert whois(marlin, "10.60.0.17")["owners"][0]["state"] == "resting"
    marlin.post("/api/v1/fabrics/marlin/undo", json={"version": version(marlin)})
    assert whois(marlin, "10.60.0.17")["owners"][0]["state"] == "held"
    assert not whois(marlin, "10.60.0.17")["owners"][0]["pinned"]
    marlin.post("/api/v1/fabrics/marlin/redo", json={"version": version(marlin)})
    assert whois(marlin, "10.60.0.200")["owners"][0]["pinned"]


@pytest.mark.parametrize(
    ("use", "key", "number", "says"),
    [
        ("loopback.v4", "leaf/r07/a", "10.60.0.1", "it is the loopback of spine/1"), ("loopback.v4", "leaf/r07/a", "10.99.0.1", "is not in pool"),
        ("loopback.v4", "leaf/r07/a", "10.60.0.0/24", "a loopback is a /32"), ("loopback.v4", "leaf/r07/a", "fd60::99", "is IPv6"),
        ("loopback.v4", "leaf/r07/a", "ten", "not an address"), ("link.v4", "leaf/r01/a~spine/1~1", "10.61.9.1/31", "bits set past"),
        ("asn", "leaf/r01/a", "65000", "is not in pool"), ("cable", "leaf/r01/a~spine/1~1", "7", "nothing that numbers are drawn for"),
        ("loopback.v4", "leaf/r40/a", "10.60.0.1", "cannot be pinned for leaf/r40/a: it is held in marlin"),
        ("management.v4", "leaf/r07/a", "10.90.1.255", "reserved"), ("management.v4", "leaf/r07/a", "10.90.1.1", "reserved"),
    ],
)  # fmt: skip
def test_a_pin_that_cannot_be_is_refused_and_changes_nothing(
    marlin: TestClient, use: str, key: str, number: str, says: str
) -> None:
    before, at = marlin.get("/api/v1/numbers.csv").content, version(marlin)
    answer = pin(marlin, ("asn", "leaf/r02/a", "4200065500"), (use, key, number))
    assert answer.status_code == 422 and says in answer.json()["detail"], answer.json()
    assert marlin.get("/api/v1/numbers.csv").content == before and version(marlin) == at


def test_a_number_pinned_for_a_switch_to_come_waits_for_it(marlin: TestClient) -> None:
    assert pin(marlin, ("loopback.v4", "leaf/r40/a", "10.60.0.40")).status_code == 200
    assert whois(marlin, "10.60.0.40")["owners"][0]["state"] == "reserved"
    body = {"version": version(marlin), "edits": [["racks[0].racks", "r01..r12, r40"]], "note": "r40"}
    assert marlin.post("/api/v1/fabrics/marlin/edits", json=body).status_code == 200
    assert (whois(marlin, "10.60.0.40")["owners"][0]["state"], whois(marlin, "10.60.0.40")["owners"][0]["key"]) == (
        "held",
        "leaf/r40/a",
    )
    body = {"version": version(marlin), "edits": [["racks[0].racks", "r01..r12"]], "note": "no r40"}
    marlin.post("/api/v1/fabrics/marlin/edits", json=body)
    assert whois(marlin, "10.60.0.40")["owners"][0]["state"] == "reserved", "a pin outlives its switch"


def test_the_past_of_a_number_is_whole_and_in_order(marlin: TestClient, marlin_house: House) -> None:
    ines = Desk(marlin_house, Actor("Ines"))
    without_review(marlin_house, "marlin")
    editions.seal(ines, "marlin", version(marlin), "spring")
    body = {"version": version(marlin), "edits": [["racks[0].racks", "r01..r06, r08..r12"]], "note": "r07 is gone"}
    marlin.post("/api/v1/fabrics/marlin/edits", json=body)
    assert "leaving with the next edition" in whois(marlin, "10.60.0.17")["says"]
    editions.seal(ines, "marlin", version(marlin), "autumn")
    marlin.post("/api/v1/pools/halls-loopback/end-rest", json={"reason": "the rack is scrapped"})
    past = marlin.get("/api/v1/numbers/history", params={"number": "10.60.0.17"}).json()
    states = [("leaving" if one["leaving"] else one["state"], one["ended_act"], one["ended_by"]) for one in past]
    assert states == [
        ("resting", "rest ended", "Olmo"), ("leaving", "sealed", "Ines"), ("live", "draft saved", "Olmo"), ("held", "sealed", "Ines"),
    ]  # fmt: skip
    assert all(newer["since"] == older["until"] or newer["since"] >= older["since"] for newer, older in pairwise(past))
    assert past[2]["why"] == "spring" and past[0]["until"] is not None, "it is free now"
    assert whois(marlin, "10.60.0.17")["says"].startswith("10.60.0.17 is free")
    acts = [one["act"] for one in marlin.get("/api/v1/ledger/changes").json()]
    assert acts[:4] == ["rest ended", "sealed", "draft saved", "sealed"]
    assert marlin.get("/api/v1/ledger/audit").json() == []


def test_a_discarded_draft_gives_back_only_what_it_held(marlin: TestClient, marlin_house: House) -> None:
    desk = Desk(marlin_house)
    without_review(marlin_house, "marlin")
    editions.seal(desk, "marlin", version(marlin))
    live = {row["number"] for row in _sheet(marlin) if row["state"] == "live"}
    body = {"version": version(marlin), "edits": [["racks[0].racks", "r01..r06, r08..r15"]], "note": "more and less"}
    marlin.post("/api/v1/fabrics/marlin/edits", json=body)
    assert {row["state"] for row in _sheet(marlin)} == {"live", "held", "leaving"}
    editions.discard(desk, "marlin", version(marlin))
    rows = _sheet(marlin)
    assert {row["number"] for row in rows if row["state"] == "live"} == live
    assert {row["state"] for row in rows} == {"live", "resting"} and sum(row["state"] == "resting" for row in rows) > 50


def _sheet(api: TestClient) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(api.get("/api/v1/numbers.csv").text)))


@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({"name": "a", "ranges": ["10.60.0.0/24"]}, "overlaps"), ({"name": "a", "ranges": ["10.200.0.1/24"]}, "bits set past its length"),
        ({"name": "a", "ranges": ["20..10"], "kind": "vni"}, "runs backwards"), ({"name": "a", "ranges": ["10.200.0.0/33"]}, "is not a range"),
        ({"name": "a", "ranges": ["10.200.0.0/24"], "parent": "halls-loopback"}, "is not inside pool halls-loopback"),
        ({"name": "a", "ranges": ["10.60.0.0/28"], "parent": "halls-loopback"}, "taken from halls-loopback already"),
        ({"name": "halls-loopback", "ranges": ["10.200.0.0/24"]}, "already"), ({"name": "a", "ranges": ["4000..4095"], "kind": "vlan"}, "VLANs go from 1 to 4094"),
        ({"name": "a", "ranges": ["1..9"], "kind": "vlan", "plan": "position"}, "no position"), ({"name": "a", "ranges": ["10.200.0.0/24"], "scope": "moon"}, "no scope called moon"),
        ({"name": "a", "ranges": ["10.200.0.0/24"], "private_to": "nobody"}, "no fabric called nobody"), ({"name": "a", "ranges": ["10.200.0.0/24", "10.200.0.0/25"]}, "overlaps"),
        ({"name": "A b", "ranges": ["10.200.0.0/24"]}, "name"), ({"name": "a", "ranges": []}, "ranges"),
    ],
)  # fmt: skip
def test_a_pool_that_cannot_be_is_refused_in_words_and_not_made(
    marlin: TestClient, body: dict[str, Any], says: str
) -> None:
    before = marlin.get("/api/v1/pools").json()
    answer = marlin.post("/api/v1/pools", json=body)
    assert answer.status_code == 422 and says in answer.json()["detail"], answer.json()
    assert marlin.get("/api/v1/pools").json() == before


def test_pools_are_made_cut_changed_and_deleted_and_one_in_use_is_not(marlin: TestClient) -> None:
    cut = {"name": "radar", "ranges": ["10.60.2.0/24"], "parent": "halls-loopback", "private_to": "marlin"}
    assert marlin.post("/api/v1/pools", json=cut).status_code == 201
    pools = {pool["name"]: pool for pool in marlin.get("/api/v1/pools").json()["pools"]}
    assert (
        pools["halls-loopback"]["cut"] == ["radar"]
        and pools["radar"]["scope"] == "site"
        and pools["radar"]["kind"] == "addresses"
    )
    refused = marlin.delete("/api/v1/pools/halls-loopback")
    assert (
        refused.status_code == 422
        and "marlin draws from it" in refused.json()["detail"]
        and "radar is cut from it" in refused.json()["detail"]
    )
    assert marlin.delete("/api/v1/pools/radar").status_code == 204
    said = {"plan": "best-fit", "rest": 48, "warn": 0.5}
    assert marlin.patch("/api/v1/pools/office-segments", json=said).status_code == 200
    assert marlin.patch("/api/v1/pools/asns", json={"plan": "best-fit"}).status_code == 404
    now = next(pool for pool in marlin.get("/api/v1/pools").json()["pools"] if pool["name"] == "office-segments")
    assert {name: now[name] for name in said} == said
    assert marlin.patch("/api/v1/pools/office-private", json={"plan": "best-fit"}).status_code == 422
    for bad in ({"warn": 0}, {"rest": -1}, {"plan": "lucky"}):
        assert marlin.patch("/api/v1/pools/office-private", json=bad).status_code == 422
    dropped = marlin.request("DELETE", "/api/v1/pools/halls-loopback/ranges", params={"range": "10.60.0.0/22"})
    assert dropped.status_code == 422 and "taken" in dropped.json()["detail"]
    marlin.post("/api/v1/pools/halls-loopback/ranges", json={"range": "10.62.0.0/24"})
    assert (
        marlin.request("DELETE", "/api/v1/pools/halls-loopback/ranges", params={"range": "10.62.0.0/24"}).status_code
        == 204
    )


def test_two_scopes_may_have_the_same_addresses_and_one_may_not(marlin: TestClient) -> None:
    assert marlin.post("/api/v1/scopes", json={"name": "bench", "note": "the workshop"}).status_code == 201
    assert marlin.post("/api/v1/scopes", json={"name": "bench"}).status_code == 422
    assert marlin.post("/api/v1/scopes", json={"name": "Bad Name"}).status_code == 422
    assert (
        marlin.post(
            "/api/v1/pools", json={"name": "bench-loops", "ranges": ["10.60.0.0/24"], "scope": "bench"}
        ).status_code
        == 201
    )
    text = "fabric: bench\nnumbers: {loopback: bench-loops}\nracks: [{racks: r01}]\n"
    assert marlin.post("/api/v1/fabrics", json={"text": text}).status_code == 201
    owners = whois(marlin, "10.60.0.1")["owners"]
    assert {(one["fabric"], one["space"]) for one in owners} == {("marlin", "v4"), ("bench", "v4@bench")}
    moved = {"version": 1, "edits": [["numbers.loopback", "halls-loopback"]], "note": "over"}
    answer = marlin.post("/api/v1/fabrics/bench/edits", json=moved)
    assert answer.status_code == 422 and "Numbers do not change their scope" in answer.json()["detail"]


def test_a_reservation_keeps_new_numbers_out_and_leaves_what_is_held(marlin: TestClient) -> None:
    kept = marlin.post(
        "/api/v1/pools/oob-marlin/reservations", json={"range": "10.90.1.10..10.90.1.60", "note": "power strips"}
    )
    assert kept.status_code == 201
    body = {"version": version(marlin), "edits": [["racks[0].racks", "r01..r13"]], "note": "one more"}
    marlin.post("/api/v1/fabrics/marlin/edits", json=body)
    new = [
        one["number"]
        for one in marlin.get("/api/v1/fabrics/marlin/numbers", params={"of": "r13", "use": "management"}).json()
    ]
    assert new == ["10.90.1.61", "10.90.1.62"]
    assert whois(marlin, "10.90.1.10")["owners"], "what was held there stays"
    assert "reserved in pool oob-marlin: power strips" in whois(marlin, "10.90.1.55")["says"]
    for bad, says in (
        ("10.90.1.50", "meets what is reserved"),
        ("10.91.0.0/24", "not inside pool"),
        ("10.90.1.9..10.90.1.2", "runs backwards"),
        ("x", "is not a range"),
    ):
        answer = marlin.post("/api/v1/pools/oob-marlin/reservations", json={"range": bad, "note": "n"})
        assert answer.status_code == 422 and says in answer.json()["detail"], bad
    assert (
        marlin.post("/api/v1/pools/oob-marlin/reservations", json={"range": "10.90.1.200", "note": ""}).status_code
        == 422
    )
    assert marlin.delete(f"/api/v1/reservations/{kept.json()['id']}").status_code == 204
    assert marlin.delete(f"/api/v1/reservations/{kept.json()['id']}").status_code == 404


def test_a_sheet_is_taken_whole_or_not_at_all(marlin: TestClient) -> None:
    good = "address,device,role,note\n10.60.0.200,leaf-r07a,loopback,old plan\n10.60.0.17,leaf-r08a,loopback,swapped\n10.90.1.200,,,tapes\n"
    bad = good + "10.60.0.1,leaf-r09a,loopback,taken\n"
    before = marlin.get("/api/v1/numbers.csv").content
    seen = marlin.post("/api/v1/fabrics/marlin/numbers/preview", content=bad.encode()).json()
    assert seen["refused"] == 1 and "it is the loopback of spine/1" in seen["rows"][3]["reason"]
    answer = marlin.post("/api/v1/fabrics/marlin/numbers/take", content=bad.encode())
    assert answer.status_code == 422 and "Line 5" in answer.json()["detail"]
    assert marlin.get("/api/v1/numbers.csv").content == before
    seen = marlin.post("/api/v1/fabrics/marlin/numbers/preview", content=good.encode()).json()
    assert (seen["refused"], seen["counts"]) == (0, {"moves": 2, "reserved": 1})
    assert marlin.get("/api/v1/numbers.csv").content == before, "a preview writes nothing"
    assert marlin.post("/api/v1/fabrics/marlin/numbers/take", content=good.encode()).json()["counts"] == seen["counts"]
    rows = {row["owner"]: row for row in _sheet(marlin) if row["use"] == "loopback.v4" and row["state"] == "held"}
    assert (rows["leaf/r07/a"]["number"], rows["leaf/r08/a"]["number"]) == ("10.60.0.200/32", "10.60.0.17/32"), (
        "passed straight on"
    )
    assert rows["leaf/r07/a"]["note"] == "old plan" and rows["leaf/r07/a"]["pinned"] == "pinned"
    again = marlin.post("/api/v1/fabrics/marlin/numbers/preview", content=good.encode()).json()
    assert (
        again["counts"] == {"pinned": 2, "refused": 1}
        and "reserved in oob-marlin already" in again["rows"][2]["reason"]
    )


@pytest.mark.parametrize(
    ("content", "status", "says"),
    [
        (b"x" * 50_000_000, 413, "20,000 KB"), (b"number\n\xff\xfa\n", 422, "UTF-8"), (b"", 422, "empty"),
        (b"colour\nred\n", 422, "Say which column"), (b"\x89PNG\r\n\x1a\n\0\0", 422, "UTF-8"),
    ],
)  # fmt: skip
def test_a_sheet_that_cannot_be_read_is_refused(marlin: TestClient, content: bytes, status: int, says: str) -> None:
    answer = marlin.post("/api/v1/fabrics/marlin/numbers/preview", content=content)
    assert answer.status_code == status and says in answer.json()["detail"]


def test_no_cell_of_an_exported_sheet_is_a_formula(marlin: TestClient) -> None:
    for number, note in enumerate(("=1+1", "+1", "-1", "@sum", "\tx", '=HYPERLINK("http://x.example")')):
        if note.startswith("\t"):
            assert (
                pin(marlin, ("asn", f"leaf/r{number + 1:02d}/a", f"42000655{number:02d}"), note=note).status_code == 422
            )
            continue
        assert pin(marlin, ("asn", f"leaf/r{number + 1:02d}/a", f"42000655{number:02d}"), note=note).status_code == 200
    notes = [row["note"] for row in _sheet(marlin) if row["note"]]
    assert len(notes) == 5 and all(note.startswith("'") for note in notes)
    book = zipfile.ZipFile(io.BytesIO(marlin.get("/api/v1/numbers.xlsx").content))
    page = ElementTree.fromstring(book.read("xl/worksheets/sheet1.xml"))
    main = "{http://schemas.openxmlformats.org/spreadsheetml/2006/main}"
    assert not list(page.iter(f"{main}f")) and not list(page.iter(f"{main}hyperlink"))
    assert len(list(page.iter(f"{main}row"))) == len(_sheet(marlin)) + 1
    assert b"=1+1" in book.read("xl/sharedStrings.xml")
    assert marlin.get("/api/v1/numbers.xlsx").content == marlin.get("/api/v1/numbers.xlsx").content, "the same bytes"


def test_names_leave_as_zones_and_as_a_hosts_file(marlin: TestClient) -> None:
    archive = zipfile.ZipFile(io.BytesIO(marlin.get("/api/v1/fabrics/marlin/names.zip").content))
    assert "db.marlin.azulejo.example" in archive.namelist() and "db.0.60.10.in-addr.arpa" in archive.namelist()
    assert (
        f"hostmaster.marlin.azulejo.example. {version(marlin)} " in archive.read("db.marlin.azulejo.example").decode()
    )
    assert (
        "10.60.0.17 leaf-r07a.marlin.azulejo.example leaf-r07a" in marlin.get("/api/v1/fabrics/marlin/names.hosts").text
    )
    assert marlin.get("/api/v1/fabrics/nope/names.zip").status_code == 404


def test_a_number_that_the_database_refuses_is_a_clear_409_and_nothing_is_lost(
    marlin: TestClient, marlin_house: House
) -> None:
    """Something outside took a number behind our back: the save is refused whole, and the next one works."""
    body = {"version": version(marlin), "edits": [["racks[0].racks", "r01..r13"]], "note": "one more"}
    assert marlin.post("/api/v1/fabrics/marlin/edits", json=body).status_code == 200
    with marlin_house.connections.connection() as connection:
        open_change(connection, Act("by hand"))
        connection.execute("alter table entries disable trigger user")
        connection.execute(
            "insert into entries (use, key, fabric, pool, space, prefix, state, change) "
            "values ('loopback.v4', 'ghost', 'marlin', 'halls-loopback', 'v4', '10.60.0.33/32', 'held', 0)"
        )
        connection.execute("alter table entries enable trigger user")
    body = {"version": version(marlin), "edits": [["racks[0].racks", "r01..r14"]], "note": "one more"}
    answer = marlin.post("/api/v1/fabrics/marlin/edits", json=body)
    assert answer.status_code == 409 and "Nothing was saved; do it again" in answer.json()["detail"]
    assert version(marlin) == body["version"]
    assert marlin.post("/api/v1/fabrics/marlin/edits", json=body).status_code == 200
    assert whois(marlin, "10.60.0.33")["owners"][0]["key"] == "ghost"


def asking(server: Serving, *words: str, code: int = 0) -> str:
    return barrio(*words, "--at", server.address, code=code)


def test_the_command_line_asks_and_changes_the_same_ledger(serving: Serving, tmp_path: Path) -> None:
    serving.start()
    serving.load(MARLIN)
    assert "is the loopback of leaf-r07a in marlin" in asking(serving, "whois", "10.60.0.17")
    assert "is free, in pool halls-loopback" in asking(serving, "whois", "10.60.1.9", code=1)
    assert "neither an address" in asking(serving, "whois", "nobody", code=2)
    assert (
        asking(
            serving, "numbers", "list", "--fabric", "marlin", "--of", "r07", "--use", "loopback", "--as", "csv"
        ).count("\n")
        == 5
    )
    assert "10.72." in asking(serving, "numbers", "free", "/22", "--pool", "office-segments")
    assert "pinned to 10.60.0.99" in asking(
        serving, "numbers", "pin", "loopback.v4", "leaf/r07/b", "10.60.0.99", "--fabric", "marlin", "--note", "old"
    )
    assert "held" in asking(serving, "numbers", "history", "10.60.0.99")
    assert "0 numbers would move" in asking(serving, "numbers", "renumber", "asn", "--fabric", "marlin")
    plan = tmp_path / "plan.csv"
    plan.write_text("number,owner\n10.60.0.300,leaf-r08a\n")
    assert f"{plan}:2: “10.60.0.300” is not" in asking(
        serving, "numbers", "import", str(plan), "--fabric", "marlin", code=1
    )
    plan.write_text("number,owner,use\n10.60.0.201,leaf-r08a,loopback\n")
    assert "add --take" in asking(serving, "numbers", "import", str(plan), "--fabric", "marlin")
    assert "1 moves" in asking(serving, "numbers", "import", str(plan), "--fabric", "marlin", "--take")
    for kind in ("csv", "xlsx", "hosts", "zip"):
        asking(serving, "numbers", "export", str(tmp_path / f"x.{kind}"), "--fabric", "marlin")
        assert (tmp_path / f"x.{kind}").stat().st_size > 1000
    assert "end it in .csv" in asking(serving, "numbers", "export", str(tmp_path / "x.doc"), code=2)
    assert "All is well" in asking(serving, "numbers", "audit")
    assert "No Barrio answers" in barrio("whois", "1", "--at", "http://127.0.0.1:9", code=3)
