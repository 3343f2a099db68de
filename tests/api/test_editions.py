"""From a draft to an edition: offered, seen, agreed to, sealed; and the way back."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import psycopg
import pytest
from fastapi.testclient import TestClient

from barrio.app.house import House
from barrio.app.rights import Role
from barrio.core.brief.document import read
from tests.api.conftest import TERN
from tests.application import client_of
from tests.people import signed_in

F = "/api/v1/fabrics/tern"


@pytest.fixture
def tern_house(house_of: Callable[..., House]) -> Iterator[House]:
    house = house_of(TERN)
    with client_of(house):
        yield house


@pytest.fixture
def ines(tern_house: House) -> TestClient:
    return signed_in(tern_house, "ines", [(Role.ARCHITECT, None)], "Ines")


@pytest.fixture
def teo(tern_house: House) -> TestClient:
    return signed_in(tern_house, "teo", [(Role.REVIEWER, None), (Role.KEEPER, None)], "Teo")


@pytest.fixture
def nadia(tern_house: House) -> TestClient:
    return signed_in(tern_house, "nadia", [(Role.OPERATOR, None)], "Nadia")


@pytest.fixture
def office(ines: TestClient, teo: TestClient, nadia: TestClient) -> tuple[TestClient, TestClient, TestClient]:
    return ines, teo, nadia


def version(client: TestClient) -> int:
    return int(client.get(f"{F}/version").json()["version"])


def edit(client: TestClient, path: str, value: object, note: str = "a word") -> None:
    said = client.post(f"{F}/edits", json={"version": version(client), "edits": [[path, value]], "note": note})
    assert said.status_code == 200, said.text


def offer(client: TestClient, title: str = "as it is to stand") -> None:
    said = client.put(f"{F}/review", json={"version": version(client), "title": title})
    assert said.status_code == 200, said.text


def agree(client: TestClient, verdict: str = "agrees", note: str = "") -> int:
    seen = client.get(f"{F}/review").json()["seen"]
    return client.post(f"{F}/review/voices", json={"verdict": verdict, "seen": seen, "note": note}).status_code


def seal(client: TestClient) -> dict[str, object]:
    said = client.post(f"{F}/editions", json={"version": version(client)})
    return {**said.json(), "status_code": said.status_code}


def sealed(office: tuple[TestClient, TestClient, TestClient], title: str = "as it is to stand") -> dict[str, object]:
    ines, teo, nadia = office
    offer(ines, title)
    assert agree(teo) == 200
    return seal(nadia)


def test_an_edition_says_who_asked_who_agreed_and_who_sealed_it_and_keeps_what_leaves(
    office: tuple[TestClient, TestClient, TestClient],
) -> None:
    ines, _, _ = office
    done = sealed(office, "The archive hall as cabled")
    assert (done["status_code"], done["number"], done["title"]) == (201, 1, "The archive hall as cabled")
    assert (done["asked_by"], done["sealed_by"], [one["who"] for one in done["agreed"]]) == ("Ines", "Nadia", ["Teo"])  # type: ignore[attr-defined]
    kept = ines.get(f"{F}/editions/1/bundle.zip").content
    assert kept == ines.get(f"{F}/bundle.zip").content, "an edition leaves as the draft did that it was made of"
    edit(ines, "services.ntp", ["10.90.0.23"])
    assert ines.get(f"{F}/editions/1/bundle.zip").content == kept
    assert ines.post(f"{F}/editions/1/again").json() == {"files": 119, "other": [], "refusal": "", "cause": ""}


def test_nobody_agrees_to_their_own_draft_nor_to_what_they_have_not_seen(
    office: tuple[TestClient, TestClient, TestClient], tern_house: House
) -> None:
    ines, teo, nadia = office
    assert "not offered" in str(seal(nadia)["detail"])
    offer(ines)
    both = signed_in(tern_house, "both", [(Role.ARCHITECT, None), (Role.REVIEWER, None)], "Both")
    edit(both, "services.ntp", ["10.90.0.23"])
    assert agree(both) == 422 and "0 of 1 agree" in str(seal(nadia)["detail"])
    seen = teo.get(f"{F}/review").json()["seen"]
    edit(ines, "services.ntp", ["10.90.0.24"])
    late = teo.post(f"{F}/review/voices", json={"verdict": "agrees", "seen": seen})
    assert late.status_code == 409 and "since you looked" in late.json()["detail"]


def test_a_stale_draft_is_neither_offered_nor_sealed(office: tuple[TestClient, TestClient, TestClient]) -> None:
    ines, teo, nadia = office
    old = version(ines)
    edit(ines, "services.ntp", ["10.90.0.23"])
    late = ines.put(f"{F}/review", json={"version": old, "title": "late"})
    offer(ines)
    agree(teo)
    stale = nadia.post(f"{F}/editions", json={"version": old})
    for refused in (late, stale):
        assert refused.status_code == 409 and "changed" in refused.json()["detail"], refused.text
    assert seal(nadia)["number"] == 1


def test_a_later_change_asks_again_and_tells_only_what_is_new_since(
    office: tuple[TestClient, TestClient, TestClient],
) -> None:
    ines, teo, nadia = office
    sealed(office)
    edit(ines, "services.ntp", ["10.90.0.23"])
    offer(ines, "another clock")
    assert agree(teo) == 200 and teo.get(f"{F}/review").json()["lacking"] == []
    edit(ines, "services.banner", "Authorised people only")
    found = teo.get(f"{F}/review").json()
    assert [one["current"] for one in found["voices"]] == [False] and "0 of 1 agree" in found["lacking"][0]
    new = teo.get(f"{F}/review/voices/{found['voices'][0]['id']}/since").json()
    assert [one["path"] for one in new["said"]] == ["services.banner"]
    assert {one["path"] for one in teo.get(f"{F}/ripple").json()["said"]} == {"services.banner", "services.ntp"}
    ines.post(f"{F}/undo", json={"version": version(ines)})
    assert teo.get(f"{F}/review").json()["lacking"] == [], "what was agreed to is what the draft is again"
    assert seal(nadia)["number"] == 2


def test_who_declines_or_asks_keeps_it_open_and_comments_stand_as_long_as_what_they_are_about(
    office: tuple[TestClient, TestClient, TestClient],
) -> None:
    ines, teo, nadia = office
    offer(ines)
    agree(teo, "asks", "a slower clock")
    assert "Teo asks for changes: a slower clock" in " ".join(teo.get(f"{F}/review").json()["lacking"])
    line = {"thing": "line", "at": "leaf-t01 etc/chrony/chrony.conf", "stood": "server 10.90.0.21 iburst"}
    said = teo.post(f"{F}/review/comments", json={**line, "words": "Is this one still there?"}).json()["comments"][0]
    assert said["stands"]
    answer = {"words": "It is not.", "answers": said["id"]}
    assert ines.post(f"{F}/review/comments", json=answer).status_code == 200
    edit(ines, "services.ntp", ["10.90.0.23"])
    assert not teo.get(f"{F}/review").json()["comments"][0]["stands"]
    assert agree(teo) == 200
    assert "1 comment is open" in " ".join(teo.get(f"{F}/review").json()["lacking"])
    ines.put(f"{F}/review/comments/{said['id']}", json={})
    assert seal(nadia)["number"] == 1
    record = ines.get(f"{F}/editions/1/record.json").json()
    (told,) = record["offers"]
    assert [(one["author"], one["verdict"], one["note"]) for one in told["voices"]] == [
        ("Teo", "asks", "a slower clock"),
        ("Teo", "agrees", ""),
    ]
    assert [(one["words"], one["settled_by"]) for one in told["comments"]] == [
        ("Is this one still there?", "Ines"),
        ("It is not.", ""),
    ]
    assert told["offer"]["outcome"] == "sealed" and record["edition"]["number"] == 1


def test_what_waits_for_somebody_is_told_to_them_alone(office: tuple[TestClient, TestClient, TestClient]) -> None:
    ines, teo, _ = office

    def waits() -> list[str]:
        return ["; ".join(one["words"] for one in client.get("/api/v1/waiting").json()) for client in office]

    assert waits() == ["", "", ""]
    offer(ines)
    assert waits() == ["", "Look at it, and agree or say what is wrong.", ""]
    agree(teo, "asks", "a slower clock")
    assert waits() == ["Teo wants something changed.", "", ""]
    edit(ines, "services.ntp", ["10.90.0.23"])
    assert waits()[1] == "It changed since you spoke; look again."
    agree(teo)
    assert waits() == ["", "", "It may be sealed."]


def test_a_rule_that_nobody_can_meet_says_so_and_how_to_go_on(
    office: tuple[TestClient, TestClient, TestClient], tern_house: House
) -> None:
    ines, teo, _ = office
    many = teo.put(f"{F}/review/rule", json={"agree": 9})
    assert many.status_code == 422 and "9 are to agree, and" in many.json()["detail"]
    stranger = teo.put(f"{F}/review/rule", json={"agree": 1, "people": ["Ines"]})
    assert stranger.status_code == 422 and "Make them reviewers first" in stranger.json()["detail"]
    assert ines.put(f"{F}/review/rule", json={"agree": 0}).status_code == 403
    assert teo.put(f"{F}/review/rule", json={"agree": 0}).json()["lacking"] == []


def test_the_database_refuses_to_alter_an_edition(
    office: tuple[TestClient, TestClient, TestClient], tern_house: House
) -> None:
    sealed(office)
    for change in (
        "update editions set title = 'other'", "delete from editions", "truncate editions cascade", "update edition_files set path = 'x'",
        "delete from edition_files", "update texts set size = 1", "delete from texts",
    ):  # fmt: skip
        with pytest.raises(psycopg.errors.InsufficientPrivilege), tern_house.connections.connection() as connection:
            connection.execute(change)


def test_an_older_edition_comes_back_as_a_draft_with_its_ripple(
    office: tuple[TestClient, TestClient, TestClient],
) -> None:
    ines, _, _ = office
    sealed(office)
    before = ines.get(f"{F}/text").json()["text"]
    edit(ines, "services.ntp", ["10.90.0.23"])
    sealed(office, "another clock")
    back = ines.post(f"{F}/editions/1/back", json={"version": version(ines)})
    assert back.json()["not_back"] == [] and ines.get(f"{F}/text").json()["text"] == before
    found = ines.get(f"{F}/ripple").json()
    assert (found["against"], found["changed"], found["words"]) == (2, 6, "a service restarts that carries no traffic")
    assert ines.get(f"{F}/ripple", params={"against": 1}).json()["changed"] == 0
    did = ines.get(f"{F}/ripple", params={"of": 2}).json()
    assert (did["of"], did["against"], [one["path"] for one in did["said"]]) == (2, 1, ["services.ntp"])
    assert [one["number"] for one in ines.get(f"{F}/editions").json()] == [2, 1]
    sealed(office, "back")
    assert "other than in edition 3" in str(sealed(office)["detail"])


def test_numbers_come_back_as_they_were_unless_another_has_them_since(
    office: tuple[TestClient, TestClient, TestClient],
) -> None:
    ines, teo, _ = office
    sealed(office)
    first = {row["key"]: row["number"] for row in ines.get(f"{F}/numbers?use=asn").json()}
    pins = [
        {"use": "asn", "key": key, "number": str(4200065500 + at), "note": "moved"}
        for at, key in enumerate(sorted(first))
    ]
    assert ines.post(f"{F}/pins", json={"version": version(ines), "pins": pins}).status_code == 200
    free = [{**pin, "number": None, "note": ""} for pin in pins]
    assert ines.post(f"{F}/pins", json={"version": version(ines), "pins": free}).status_code == 200
    sealed(office, "other numbers")
    assert teo.post("/api/v1/pools/office-private/end-rest", json={"reason": "none waits"}).status_code == 200
    heron = "fabric: heron\nracks: [{racks: t51}]\ncabling: {prefix: H}\nnumbers: {asn: office-private}\n"
    assert ines.post("/api/v1/fabrics", json={"text": heron}).status_code == 201
    others = {row["number"] for row in ines.get("/api/v1/fabrics/heron/numbers?use=asn").json()}
    gone = {key for key, number in first.items() if number in others}
    assert gone and gone != first.keys()
    back = ines.post(f"{F}/editions/1/back", json={"version": version(ines)}).json()["not_back"]
    assert {(one["key"], one["was"], one["why"]) for one in back} == {
        (key, first[key], "another has it since") for key in gone
    }
    now = {row["key"]: row["number"] for row in ines.get(f"{F}/numbers?use=asn").json()}
    assert {key for key in first if first[key] != now[key]} == gone


def test_one_change_of_several_is_taken_back_and_the_others_stay(
    office: tuple[TestClient, TestClient, TestClient],
) -> None:
    ines, _, _ = office
    first = ines.get(f"{F}/text").json()["text"]
    edit(ines, "services.ntp", ["10.90.0.23"], "another clock")
    edit(ines, "segments.echo", {"vrf": "archive", "v4": "auto"}, "a segment")
    edit(ines, "underlay.bfd.interval", 100, "quicker")
    by = {one["note"]: one["id"] for one in ines.get(f"{F}/history").json()}

    def back(note: str) -> tuple[int, str]:
        said = ines.post(f"{F}/history/{by[note]}/back", json={"version": version(ines)})
        return said.status_code, said.text

    assert back("a segment")[0] == 200
    text = ines.get(f"{F}/text").json()["text"]
    assert "echo" not in text and "10.90.0.23" in text and "interval: 100" in text
    edit(ines, "services.ntp", ["10.90.0.24"], "and another")
    status, words = back("another clock")
    assert status == 422 and "services.ntp was changed again since" in words
    by |= {one["note"]: one["id"] for one in ines.get(f"{F}/history").json()}
    assert [back(note)[0] for note in ("and another", "another clock", "quicker")] == [200, 200, 200]
    assert read(ines.get(f"{F}/text").json()["text"]).brief == read(first).brief


def test_any_two_are_held_against_each_other(
    office: tuple[TestClient, TestClient, TestClient], tern_house: House
) -> None:
    ines, _, _ = office
    sealed(office)
    brought = ines.post(f"{F}/apart/brought", content=ines.get(f"{F}/editions/1/bundle.zip").content).json()
    edit(ines, "services.ntp", ["10.90.0.23"])
    ines.post(f"{F}/copy", json={"name": "heron"})

    def apart(one: str, other: str = "draft") -> dict[str, int]:
        return dict(ines.get(f"{F}/apart", params={"one": one, "other": other}).json()["counts"])

    assert (
        apart("edition 1")
        == apart(brought["side"])
        == {"words": 1, "numbers": 0, "switches": 0, "files": 2, "cables": 0}
    )
    assert set(apart("edition 1", brought["side"]).values()) == {0}
    assert apart("fabric heron")["switches"] == 6, "numbers of their own"
    rows = ines.get(
        f"{F}/apart/file", params={"one": "edition 1", "path": "switches/leaf-t01/etc/chrony/chrony.conf"}
    ).json()
    assert [(row["kind"], row["text"], row["beside"]) for row in rows if row["kind"] not in ("same", "folded")] == [
        ("changed", "server 10.90.0.21 iburst", "server 10.90.0.23 iburst"), ("gone", "server 10.90.0.22 iburst", ""),
    ]  # fmt: skip
    guest = signed_in(tern_house, "guest", [(Role.READER, "tern")])
    assert guest.get(f"{F}/apart", params={"one": "fabric heron"}).status_code == 403
    for wrong in ("fabric nowhere", "edition 9", "yesterday", f"brought {'0' * 8}-0000-0000-0000-{'0' * 12}"):
        assert ines.get(f"{F}/apart", params={"one": wrong}).status_code in (404, 422), wrong
    assert ines.post(f"{F}/apart/brought", content=b"nothing").status_code == 422


def test_a_ripple_names_sessions_waves_and_what_is_left(office: tuple[TestClient, TestClient, TestClient]) -> None:
    ines, _, _ = office
    sealed(office)
    edit(ines, "underlay.bfd.interval", 100)
    found = ines.get(f"{F}/ripple").json()
    assert (found["sessions"], found["added"], found["removed"], found["untouched"]) == (0, 12, 0, 0)
    (group,) = ines.get(f"{F}/ripple/groups").json()
    assert (group["count"], group["same"], [one["after"] for one in group["lines"]]) == (
        6, True, ["receive-interval 100", "transmit-interval 100"],
    )  # fmt: skip
    assert [wave["switches"] for wave in found["order"]["waves"]] == [
        ["spine-1"], ["spine-2"], ["leaf-t01", "leaf-t02", "leaf-t03", "leaf-t04"],
    ]  # fmt: skip
    assert found["order"]["exact"] and found["order"]["bandwidth"] == 1
    sums = ines.get(f"{F}/ripple/sums").json()
    assert sums["counts"]["switches_changed"] == 6 and sums["against"] == 1
    rows = ines.get(f"{F}/ripple/switches").json()
    assert {one["name"] for one in rows} == {"spine-1", "spine-2", "leaf-t01", "leaf-t02", "leaf-t03", "leaf-t04"}
    assert ines.get(f"{F}/ripple/switches/leaf-t01").json()[0]["why"].startswith("timers of BFD")
    assert ines.get(f"{F}/ripple/switches/leaf-t09").status_code == 404
    edit(ines, "underlay.asn", "per-pair")
    rows = ines.get(f"{F}/ripple/sessions").json()
    assert len(rows) == ines.get(f"{F}/ripple").json()["sessions"] == 8
    assert rows[0] == {
        "ends": ["leaf-t01", "spine-1"], "families": ["ipv4 unicast", "l2vpn evpn"], "cable": "T-0001", "by": ["spine-1", "leaf-t01"],
    }  # fmt: skip
    assert "lose all their sessions in the same moment" in ines.get(f"{F}/ripple").json()["order"]["unsafe"][0]
