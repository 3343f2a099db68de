"""What changes is told to all pages of all processes; two who change different words both succeed."""

from __future__ import annotations

import json
import socket
import threading
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import Any
from uuid import uuid4

import httpx2
import pytest
from fastapi.testclient import TestClient

from barrio.app import drafts
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.core.brief.document import set_value
from barrio.store import events
from barrio.store.database import Connections
from tests.api.conftest import MARLIN, TERN
from tests.database import Databases
from tests.people import signed_in
from tests.processes import until
from tests.serving import Serving
from tests.signed import BEARER


class Stream:
    """What a page hears, as it comes: (event, data)."""

    def __init__(self, address: str, headers: dict[str, str]) -> None:
        self.heard: list[tuple[str, Any]] = []
        self.status = 0
        self._client = httpx2.Client(base_url=address, timeout=httpx2.Timeout(30, read=60), headers=headers)
        self._thread = threading.Thread(target=self._listen, daemon=True)
        self._thread.start()

    def _listen(self) -> None:
        try:
            with self._client.stream("GET", "/api/v1/events") as answer:
                self.status = answer.status_code
                self._socket = answer.extensions["network_stream"].get_extra_info("socket")
                event = ""
                for line in answer.iter_lines():
                    if line.startswith("event:"):
                        event = line[6:].strip()
                    elif line.startswith("data:"):
                        said = line[5:].strip()
                        self.heard.append((event, json.loads(said) if said.startswith("{") else said))
        except httpx2.HTTPError:
            pass

    def hears(self, event: str, of: Callable[[Any], bool] = lambda _: True, seconds: float = 20) -> Any:
        """The data of an event, once it has come."""
        until(lambda: any(one == event and of(data) for one, data in self.heard), seconds)
        return next(data for one, data in self.heard if one == event and of(data))

    def close(self) -> None:
        """As a browser does that closes the page."""
        with suppress(OSError):
            self._socket.shutdown(socket.SHUT_RDWR)
        self._thread.join(5)
        self._client.close()


@pytest.fixture
def server(serving: Serving) -> Serving:
    serving.start()
    serving.load(MARLIN, TERN)
    return serving


@pytest.fixture
def streams(server: Serving) -> Iterator[Callable[[dict[str, str]], Stream]]:
    open_now: list[Stream] = []

    def stream(headers: dict[str, str]) -> Stream:
        open_now.append(Stream(server.address, headers))
        open_now[-1].hears("standing")
        return open_now[-1]

    yield stream
    for one in open_now:
        one.close()


def cookie(name: str) -> dict[str, str]:
    return {"Cookie": f"barrio=session of {name}"}


def test_a_stream_begins_with_how_things_stand_and_tells_each_change_by_whatever_process(
    server: Serving, streams: Callable[[dict[str, str]], Stream]
) -> None:
    page = streams(BEARER)
    assert page.hears("standing")["fabrics"] == {"marlin": 1, "tern": 1}
    # Another process on the same database: a house of its own, with no knowledge of the first.
    other = House(server.house.connections)
    drafts.save(Desk(other), "marlin", 1, lambda text: set_value(text, "title", "By another"), "titled")
    page.hears("fabric", lambda name: name == "marlin")
    with server.client() as client:
        client.post("/api/v1/pools", json={"name": "spare", "ranges": ["10.250.0.0/24"]})
        page.hears("pools")
        client.post("/api/v1/people", json={"name": "per", "called": "Per"})
        page.hears("people")
    slept = streams(BEARER)
    assert slept.hears("standing")["fabrics"]["marlin"] == 2, "a page that slept knows what it missed"


def test_nobody_is_told_of_a_fabric_that_they_may_not_read_nor_when_they_are_signed_out(
    server: Serving, streams: Callable[[dict[str, str]], Stream]
) -> None:
    signed_in(server.house, "lucia", [(Role.READER, "tern")])
    hers, all_of_it = streams(cookie("lucia")), streams(BEARER)
    assert hers.hears("standing")["fabrics"] == {"tern": 1}
    with server.client() as client:
        for name in ("marlin", "tern"):
            edit = {"version": 1, "edits": [["title", "Anew"]], "note": "anew"}
            client.post(f"/api/v1/fabrics/{name}/edits", json=edit).raise_for_status()
        all_of_it.hears("fabric", lambda name: name == "marlin")
        hers.hears("fabric", lambda name: name == "tern")
        assert ("fabric", "marlin") not in hers.heard
        given = client.get("/api/v1/fabrics/tern/sharing").json()["given"]
        grant = next(one["id"] for one in given if one["person"] == "lucia")
        client.delete(f"/api/v1/fabrics/tern/sharing/{grant}")
        hers.hears("people")
        before = len(hers.heard)
        edit = {"version": 2, "edits": [["title", "Again"]], "note": "again"}
        client.post("/api/v1/fabrics/tern/edits", json=edit).raise_for_status()
        all_of_it.hears("fabric", lambda name: name == "tern")
        assert all(event != "fabric" for event, _ in hers.heard[before:]), "the role was taken away meanwhile"
        client.put("/api/v1/people/lucia/presence", json={"left": True})
        hers.hears("signedout")


def test_a_stream_ends_when_the_session_of_its_reader_has_ended_by_time(
    server: Serving, streams: Callable[[dict[str, str]], Stream], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("barrio.api.events.LOOK_AGAIN", 0.3)
    signed_in(server.house, "ines", [(Role.READER, None)])
    hers = streams(cookie("ines"))
    with server.house.connections.connection() as connection:
        connection.execute("update sessions set ends_at = now() - interval '1 second'")
    hers.hears("signedout")


def test_who_is_here_and_where_is_shown_to_others_until_their_page_is_closed(
    server: Serving, streams: Callable[[dict[str, str]], Stream]
) -> None:
    signed_in(server.house, "ines", [(Role.ARCHITECT, None)], called="Ines Marrero")
    hers, mine = streams(cookie("ines")), streams(BEARER)
    ids = {page: page.hears("standing")["stream"] for page in (hers, mine)}
    origin = {"Origin": server.address}
    with httpx2.Client(base_url=server.address, headers={**cookie("ines"), **origin}, timeout=20) as client:
        said = {"stream": ids[hers], "place": "spines.count"}
        assert client.post("/api/v1/fabrics/marlin/present", json=said).json() == []
    told = mine.hears("present", lambda data: bool(data["here"]))
    assert told == {"fabric": "marlin", "here": [{"name": "ines", "called": "Ines Marrero", "place": "spines.count"}]}
    with server.client() as client:
        found = client.post("/api/v1/fabrics/marlin/present", json={"stream": ids[mine], "place": ""}).json()
        assert [one["called"] for one in found] == ["Ines Marrero"]
    hers.close()
    mine.hears("present", lambda data: data == {"fabric": "marlin", "here": []})


def test_after_the_database_was_lost_everybody_is_told_how_things_stand_now(
    server: Serving, streams: Callable[[dict[str, str]], Stream]
) -> None:
    page = streams(BEARER)
    with server.house.connections.connection() as connection:
        connection.execute(
            "select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen%' and datname = current_database()"
        )
    until(lambda: [event for event, _ in page.heard].count("standing") == 2)


def edit(api: TestClient, path: str, value: Any, version: int = 1) -> httpx2.Response:
    return api.post(
        "/api/v1/fabrics/marlin/edits", json={"version": version, "edits": [[path, value]], "note": f"{path} {value}"}
    )


def test_two_who_change_different_words_of_one_version_both_succeed(marlin: TestClient) -> None:
    assert edit(marlin, "spines.count", 3).json()["version"] == 2
    both = edit(marlin, "underlay.mtu", 9100)
    assert both.status_code == 200 and both.json()["version"] == 3
    assert both.json()["brief"]["spines"]["count"] == 3 and both.json()["brief"]["underlay"]["mtu"] == 9100
    assert edit(marlin, 'names."spine/1"', "mast").status_code == 200


@pytest.mark.parametrize(
    ("first", "second"),
    [
        (("spines.count", 3), ("spines.count", 2)),
        (("underlay.bfd.interval", 500), ("underlay.bfd", {"interval": 400})),
        (("racks", [{"racks": "r01..r12, b01"}]), ("racks[0].growth", 1)),
    ],
)
def test_of_two_who_change_one_word_the_second_is_shown_the_firsts_and_asked(
    marlin: TestClient, first: tuple[str, Any], second: tuple[str, Any]
) -> None:
    assert edit(marlin, *first).status_code == 200
    refused = edit(marlin, *second)
    assert refused.status_code == 409 and refused.json()["type"].endswith("stale")
    (fault,) = refused.json()["faults"]
    assert fault["path"] == second[0] and "Olmo changed this meanwhile" in fault["message"]
    assert edit(marlin, *second, version=2).status_code == 200, "asked, they may still have it so"


def test_what_nobody_remembers_is_never_merged(
    marlin: TestClient, connections: Connections, marlin_house: House
) -> None:
    edit(marlin, "spines.count", 3)
    with marlin_house.connections.connection() as connection:
        connection.execute("delete from versions where version = 1")
    refused = edit(marlin, "underlay.mtu", 9100)
    assert refused.status_code == 409 and refused.json()["faults"] == []
    text = marlin.get("/api/v1/fabrics/marlin/text").json()["text"]
    whole = {"version": 1, "text": text.replace("9216", "9100"), "note": "as text"}
    assert marlin.put("/api/v1/fabrics/marlin/text", json=whole).status_code == 409, "a text is everything"


def test_undone_and_redone_versions_are_remembered_as_what_they_said(marlin: TestClient) -> None:
    edit(marlin, "spines.count", 3)
    marlin.post("/api/v1/fabrics/marlin/undo", json={"version": 2})
    assert edit(marlin, "spines.count", 5, version=2).status_code == 409, (
        "it says 4 again, which nobody at version 2 saw"
    )
    assert edit(marlin, "underlay.mtu", 9100, version=2).json()["brief"]["spines"]["count"] == 4


def test_a_process_that_ends_leaves_nobody_here(databases: Databases) -> None:
    """What its pages were said to be is over once nobody says so any more."""
    pool = databases.fresh(MARLIN)
    with pool.connection() as connection:
        events.come(connection, uuid4(), 1, "marlin", "spines.count")
        connection.execute("update present set seen_at = now() - interval '50 seconds'")
        stays = uuid4()
        events.come(connection, stays, 1, "marlin", "")
        events.stay(connection, [stays])
        assert connection.execute("select count(*) from present").fetchone() == (1,)
        assert [one.place for one in events.here(connection, "marlin")] == [""]
    databases.drop(pool)
