"""Databases that earlier states of this repository left behind, each made by that state's own program (`scripts/states.py`)."""

from __future__ import annotations

import gzip
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from barrio.app.house import House
from barrio.store.database import Connections, bring_up_to_date
from tests.application import client_of
from tests.database import Databases
from tests.signed import let_in
from tests.store.test_fabrics import audit, numbers

STATES = sorted((Path(__file__).parent / "states").glob("*.sql.gz"))
REFUSED_SINCE = {"reef-vrf": "“main”", "reef-dns": "fe80::1%eth0;x", "reef-peer": "peer link"}
"""Fabrics whose briefs some state took and this one refuses, and what it says of them."""


@pytest.fixture(params=STATES, ids=lambda path: path.name.split(".")[0])
def earlier(databases: Databases, request: pytest.FixtureRequest) -> Iterator[Connections]:
    pool = databases.of_an_earlier(gzip.decompress(request.param.read_bytes()).decode())
    yield pool
    databases.drop(pool)


@pytest.fixture
def before(earlier: Connections) -> dict[str, dict[tuple[str, str], str]]:
    """What each fabric holds before this Barrio has seen it."""
    with earlier.connection() as connection:
        names = [name for (name,) in connection.execute("select name from fabrics").fetchall()]
    return {name: {**numbers(earlier, name), **numbers(earlier, name, "live")} for name in names}


@pytest.fixture
def api(earlier: Connections, before: dict[str, object]) -> Iterator[TestClient]:
    bring_up_to_date(earlier)
    let_in(House(earlier))
    with client_of(House(earlier)) as client:
        yield client


def test_every_fabric_opens_or_says_why_not_and_no_number_moves(
    api: TestClient, earlier: Connections, before: dict[str, dict[tuple[str, str], str]]
) -> None:
    rows = {row["name"]: row for row in api.get("/api/v1/fabrics").json()}
    assert rows.keys() == before.keys() >= {"tern", "reef"}
    for name, row in rows.items():
        if row["wrong"]:
            assert REFUSED_SINCE[name] in row["wrong"]["message"], name
        held = {**numbers(earlier, name), **numbers(earlier, name, "live")}
        assert before[name].items() <= held.items(), name
    assert not rows["tern"]["wrong"] and not rows["reef"]["wrong"]
    audit(earlier)


def test_a_fabric_is_edited_where_it_was_left_and_gives_back_no_number(
    api: TestClient, earlier: Connections, before: dict[str, dict[tuple[str, str], str]]
) -> None:
    """A rack that was taken out before is put back: its switch finds its old numbers, and everybody else keeps theirs."""
    version = api.get("/api/v1/fabrics/tern").json()["version"]
    edit = {"version": version, "edits": [["racks[0].racks", "t01..t05"]], "note": "t02 again"}
    assert api.post("/api/v1/fabrics/tern/edits", json=edit).status_code == 200
    held = {**numbers(earlier, "tern"), **numbers(earlier, "tern", "live")}
    assert before["tern"].items() <= held.items()
    assert ("loopback.v4", "leaf/t02/a") in held and ("loopback.v4", "leaf/t02/a") not in before["tern"]
    assert api.get("/api/v1/fabrics/tern/bundle.zip").status_code == 200
    assert [one["note"] for one in api.get("/api/v1/fabrics/tern/history").json()][:2] == ["t02 again", "without t02"]
    audit(earlier)


def test_what_is_refused_today_is_mended_and_keeps_its_numbers(
    api: TestClient, earlier: Connections, before: dict[str, dict[tuple[str, str], str]]
) -> None:
    for name in [row["name"] for row in api.get("/api/v1/fabrics").json() if row["wrong"]]:
        said = api.get(f"/api/v1/fabrics/{name}/text").json()
        text = (
            said["text"]
            .replace("  main:", "  archive:")
            .replace(": main", ": archive")
            .replace("fe80::1%eth0;x", "10.90.0.53")
        )
        mended = {"version": said["version"], "text": text.replace("peer-link", "multihoming"), "note": "mended"}
        answer = api.put(f"/api/v1/fabrics/{name}/text", json=mended)
        assert answer.status_code == 200, answer.text
        switches = {key: number for key, number in before[name].items() if key[0] in ("loopback.v4", "asn", "vtep.v4")}
        assert switches and switches.items() <= numbers(earlier, name).items()
    audit(earlier)
