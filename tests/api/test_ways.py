"""Other ways in: the word of the office's provider, and passkeys; and whoever lies, replays, or comes with what is not theirs."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import Any
from urllib.parse import parse_qsl, urlsplit

import pytest
from fastapi.testclient import TestClient

from barrio.app import people
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.store.database import Connections
from tests.application import APP
from tests.authenticator import PRESENT, Device
from tests.people import PASSWORD, browser, signed_in
from tests.provider import Office, office, signed_by_another, signed_by_public_key, unsigned

HERE = "http://localhost:8710"


def at_home() -> TestClient:
    """A browser that opened Barrio by its name, as passkeys need it."""
    mine = browser()
    mine.base_url, mine.headers["Origin"] = HERE, HERE  # type: ignore[assignment]
    return mine


@pytest.fixture
def harbour(api: TestClient) -> Iterator[Office]:
    """The office's provider, on which this Barrio relies; a keeper has added Ines."""
    api.post("/api/v1/people", json={"name": "ines", "called": "Ines Marrero"})
    with office() as provider:
        APP.state.house.provider = provider.provider
        yield provider


def go(
    office: Office, client: TestClient, begin: str = "/api/v1/session/provider/begin", **said: str
) -> dict[str, str]:
    """Go to the provider and come back: what the page then has."""
    away = client.post(begin, json=said).json()
    back = dict(parse_qsl(urlsplit(office.agree(away["to"])).query))
    return {"ticket": away["ticket"], **back}


def come(office: Office, client: TestClient) -> Any:
    return client.post("/api/v1/session/provider", json=go(office, client))


def test_whom_the_provider_vouches_for_is_the_person_that_a_keeper_added(api: TestClient, harbour: Office) -> None:
    assert browser().get("/api/v1/ways").json() == {"provider": "Harbour office"}
    mine = browser()
    assert come(harbour, mine).status_code == 204
    assert mine.get("/api/v1/session").json()["name"] == "ines" and mine.get("/api/v1/me").json()["outside"] == "ines"
    harbour.person |= {"preferred_username": "marrero"}
    again = browser()
    assert come(harbour, again).status_code == 204, "once known, by what never changes"
    assert again.get("/api/v1/session").json()["name"] == "ines"
    deeds = [deed["act"] for deed in api.get("/api/v1/record").json()["deeds"]]
    assert deeds.count("signed in by provider") == 2 and "provider joined" in deeds


def test_whoever_is_nobody_here_has_left_or_has_a_password_is_told_what_to_do(api: TestClient, harbour: Office) -> None:
    harbour.person |= {"sub": "9c", "preferred_username": "trudy@harbour.example"}
    nobody = come(harbour, browser())
    assert nobody.status_code == 401 and "nobody called trudy@harbour.example" in nobody.json()["detail"]
    link = api.post("/api/v1/people", json={"name": "teo", "called": "Teo"}).json()["secret"]
    teo = browser()
    teo.post("/api/v1/links/enter", json={"secret": link, "password": PASSWORD})
    harbour.person |= {"sub": "t3", "preferred_username": "teo"}
    taken = come(harbour, browser())
    assert taken.status_code == 401 and "join the two on your own page" in taken.json()["detail"]
    wrong = teo.post("/api/v1/me/provider/begin", json={"password": "not it at all"})
    assert wrong.status_code == 401
    said = go(harbour, teo, "/api/v1/me/provider/begin", password=PASSWORD)
    assert browser().post("/api/v1/session/provider", json=said).status_code == 401, "a ticket to join is none to enter"
    assert (
        teo.put(
            "/api/v1/me/provider", json=go(harbour, teo, "/api/v1/me/provider/begin", password=PASSWORD)
        ).status_code
        == 204
    )
    assert come(harbour, browser()).status_code == 204
    people.leave(Desk(APP.state.house), "teo")
    left = come(harbour, browser())
    assert left.status_code == 401 and "has left" in left.json()["detail"]


def test_a_name_that_is_an_address_is_a_persons_only_in_the_offices_own_domain(
    api: TestClient, harbour: Office
) -> None:
    house: House = APP.state.house
    assert house.provider
    for domain, address, code in (
        ("", "ines@harbour.example", 401), ("harbour.example", "ines@elsewhere.example", 401),
        ("harbour.example", "ines@evil.harbour.example", 401), ("harbour.example", "Ines@harbour.example", 204),
    ):  # fmt: skip
        house.provider.domain = domain
        harbour.person |= {"preferred_username": address}
        assert come(harbour, browser()).status_code == code, address


def test_an_account_of_somebody_else_cannot_be_joined_nor_the_last_way_in_parted_from(
    api: TestClient, harbour: Office
) -> None:
    ines = browser()
    come(harbour, ines)
    olmo = signed_in(APP.state.house, "uma", [(Role.READER, None)])
    taken = olmo.put("/api/v1/me/provider", json=go(harbour, olmo, "/api/v1/me/provider/begin"))
    assert taken.status_code == 422 and "somebody's here already" in taken.json()["detail"]
    last = ines.delete("/api/v1/me/provider")
    assert last.status_code == 422 and "Choose a password first" in last.json()["detail"]
    assert come(harbour, browser()).status_code == 204, "nothing was parted"
    assert ines.put("/api/v1/me/password", json={"old": "", "new": PASSWORD}).status_code == 204
    assert ines.delete("/api/v1/me/provider").status_code == 204
    assert come(harbour, browser()).status_code == 401


@pytest.mark.parametrize(
    ("lie", "sign"),
    [
        ({"nonce": "of another browser"}, None),
        ({"aud": "another client"}, None),
        ({"iss": "https://elsewhere.example"}, None),
        ({"exp": time.time() - 300}, None),
        ({"iat": time.time() + 4000, "nbf": time.time() + 4000}, None),
        ({"sub": None}, None),
        ({"preferred_username": None}, None),
        ({"amr": "otp"}, None),
        ({}, unsigned),
        ({}, signed_by_public_key),
        ({}, signed_by_another),
    ],
)  # fmt: skip
def test_a_token_that_does_not_hold_lets_nobody_in(harbour: Office, lie: dict[str, Any], sign: Any) -> None:
    harbour.lie = lambda said: {name: value for name, value in {**said, **lie}.items() if value is not None}
    harbour.sign = sign or harbour.sign
    mine = browser()
    refused = come(harbour, mine)
    assert (refused.status_code == 401 and "Begin again" in refused.json()["detail"]) or "is missing" in refused.text
    assert mine.get("/api/v1/session").status_code == 401


def test_a_clock_that_is_a_little_off_is_borne(harbour: Office) -> None:
    harbour.lie = lambda said: {**said, "exp": int(time.time()) - 20}
    assert come(harbour, browser()).status_code == 204


def test_an_answer_is_good_once_in_the_browser_that_asked(harbour: Office) -> None:
    mine = browser()
    said = go(harbour, mine)
    other = mine.post("/api/v1/session/provider/begin", json={}).json()
    crossed = browser().post("/api/v1/session/provider", json=said | {"ticket": other["ticket"]})
    assert crossed.status_code == 401 and "not the answer to what was asked" in crossed.json()["detail"]
    assert mine.post("/api/v1/session/provider", json=said).status_code == 204
    again = browser().post("/api/v1/session/provider", json=said)
    assert again.status_code == 401 and "used already" in again.json()["detail"]
    altered = said["ticket"].rstrip("=") + "===="
    assert browser().post("/api/v1/session/provider", json=said | {"ticket": altered}).status_code == 401
    assert browser().post("/api/v1/session/provider", json=said | {"ticket": "nonsense"}).status_code == 401


def test_a_ticket_ends_by_time(harbour: Office, connections: Connections, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("barrio.app.tickets.LASTS", -1)
    refused = come(harbour, browser())
    assert refused.status_code == 401 and "too long ago" in refused.json()["detail"]


@pytest.mark.parametrize(
    ("broken", "says"),
    [
        ({"/.well-known/openid-configuration": (500, b"")}, "500"),
        ({"/.well-known/openid-configuration": (200, b"<html>")}, "does not answer as it should"),
        ({"/.well-known/openid-configuration": (200, b'{"issuer": "https://elsewhere.example"}')}, "does not answer"),
        ({"/jwks_uri": (200, b'{"keys": 7}')}, "does not answer as it should"),
        ({"/token_endpoint": (200, b"moment")}, "does not answer as it should"),
        ({"/token_endpoint": (503, b"{}")}, "does not"),
    ],
)  # fmt: skip
def test_a_provider_that_answers_wrong_or_not_is_said_to(harbour: Office, broken: Any, says: str) -> None:
    harbour.broken = broken
    mine = browser()
    away = mine.post("/api/v1/session/provider/begin", json={})
    if away.status_code == 200:
        back = dict(parse_qsl(urlsplit(harbour.agree(away.json()["to"])).query))
        away = mine.post("/api/v1/session/provider", json={"ticket": away.json()["ticket"], **back})
    assert away.status_code in (502, 401) and says in away.json()["detail"], away.text


def test_a_provider_that_is_not_there_leaves_the_other_ways_open(api: TestClient) -> None:
    with office() as gone:
        provider = gone.provider
    APP.state.house.provider = provider
    silent = browser().post("/api/v1/session/provider/begin", json={})
    assert silent.status_code == 502 and "Sign in by password" in silent.json()["detail"]
    APP.state.house.provider = None
    assert browser().post("/api/v1/session/provider/begin", json={}).status_code == 404


def test_a_second_factor_is_asked_for_whichever_way_one_comes(
    api: TestClient, harbour: Office, connections: Connections
) -> None:
    house: House = APP.state.house
    api.post("/api/v1/grants", json={"role": "architect", "person": "ines"})
    house.second_factor = True
    mine = browser()
    assert come(harbour, mine).status_code == 204 and mine.get("/api/v1/session").json()["rights"] == []
    harbour.person |= {"amr": ["pwd", "otp"]}
    strong = browser()
    assert come(harbour, strong).status_code == 204
    assert "edit" in {one["right"] for one in strong.get("/api/v1/session").json()["rights"]}
    house.second_factor = False
    strong.base_url, strong.headers["Origin"] = HERE, HERE  # type: ignore[assignment]
    strong.headers["Cookie"] = f"barrio={strong.cookies['barrio']}"
    give_passkey(strong, Device(HERE))
    del harbour.person["amr"]
    weak = come(harbour, browser())
    assert weak.status_code == 401 and "does not say that you showed one" in weak.json()["detail"]


# Passkeys


def give_passkey(client: TestClient, device: Device, password: str = "", name: str = "laptop") -> Any:
    asked = client.post("/api/v1/me/passkeys/begin", json={"password": password})
    assert asked.status_code == 200, asked.text
    said = {"ticket": asked.json()["ticket"], "answer": device.make(asked.json()["options"]), "name": name}
    return client.post("/api/v1/me/passkeys", json=said)


def by_passkey(device: Device, **altered: Any) -> Any:
    asked = at_home().post("/api/v1/session/passkey/begin").json()
    said = {"ticket": asked["ticket"], "answer": device.sign(asked["options"])}
    return at_home().post("/api/v1/session/passkey", json=said | altered)


@pytest.fixture
def ines(api: TestClient) -> TestClient:
    link = api.post("/api/v1/people", json={"name": "ines", "called": "Ines Marrero"}).json()["secret"]
    mine = at_home()
    assert mine.post("/api/v1/links/enter", json={"secret": link, "password": PASSWORD}).status_code == 204
    return mine


@pytest.fixture
def device(ines: TestClient) -> Device:
    device = Device(HERE)
    assert give_passkey(ines, device, PASSWORD).status_code == 204
    return device


def test_a_passkey_lets_in_and_a_password_alone_no_more(ines: TestClient, device: Device) -> None:
    asked = at_home().post("/api/v1/session/passkey/begin").json()
    mine = at_home()
    said = {"ticket": asked["ticket"], "answer": device.sign(asked["options"])}
    assert mine.post("/api/v1/session/passkey", json=said).status_code == 204
    assert mine.get("/api/v1/session").json()["name"] == "ines"
    assert at_home().post("/api/v1/session/passkey", json=said).status_code == 401, "replayed"
    alone = browser().post("/api/v1/session", json={"name": "ines", "password": PASSWORD})
    assert alone.status_code == 401 and alone.json()["type"].endswith("sign-in.passkey")
    wrong = browser().post("/api/v1/session", json={"name": "ines", "password": "another word entirely"})
    assert wrong.json()["type"].endswith("sign-in.wrong"), (
        "whether there is a passkey is said to who knows the password"
    )
    keys = ines.get("/api/v1/me").json()["passkeys"]
    assert [key["name"] for key in keys] == ["laptop"] and keys[0]["used_at"]


def test_what_is_not_the_passkeys_own_answer_lets_nobody_in(ines: TestClient, device: Device) -> None:
    stranger = Device(HERE)
    stranger.id = device.id
    assert by_passkey(stranger).status_code == 401, "another key under the same name"
    assert by_passkey(Device(HERE)).status_code == 401, "a key that nobody has here"
    phished = Device("http://localhost.elsewhere.example")
    phished.__dict__.update({name: value for name, value in device.__dict__.items() if name != "origin"})
    assert by_passkey(phished).status_code == 401, "signed on another site's page"
    device.flags = PRESENT
    assert by_passkey(device).status_code == 401, "nobody showed the device who they are"
    device.flags = Device(HERE).flags
    for nonsense in (
        {},
        {"id": 7},
        {"id": "x", "response": {}},
        {**device.sign({"rpId": "localhost", "challenge": "AA"})},
    ):
        assert by_passkey(device, answer=nonsense).status_code == 401
    assert by_passkey(device).status_code == 204
    device.counts -= 2
    assert by_passkey(device).status_code == 401, "a copy of the device has signed less often"


def test_a_passkey_is_added_by_the_password_for_a_page_that_has_a_name(ines: TestClient) -> None:
    device = Device(HERE)
    assert ines.post("/api/v1/me/passkeys/begin", json={"password": "not it at all"}).status_code == 401
    number = browser(ines.cookies["barrio"]).post("/api/v1/me/passkeys/begin", json={"password": PASSWORD})
    assert number.status_code == 422 and "localhost" in number.json()["detail"]
    elsewhere = at_home()
    elsewhere.post("/api/v1/session", json={"name": "ines", "password": PASSWORD})
    assert give_passkey(ines, device, PASSWORD, "lаptop").status_code == 422, "letters of two scripts"
    assert give_passkey(ines, device, PASSWORD).status_code == 204
    assert elsewhere.get("/api/v1/session").status_code == 401, "signed out everywhere else"
    assert give_passkey(ines, Device(HERE), PASSWORD).status_code == 422, "its name is taken"
    assert give_passkey(ines, device, PASSWORD, "again").status_code == 422, "the same key twice"
    theirs = at_home()
    theirs.headers["Cookie"] = f"barrio={signed_in(APP.state.house, 'teo').cookies['barrio']}"
    asked = ines.post("/api/v1/me/passkeys/begin", json={"password": PASSWORD}).json()
    made = {"ticket": asked["ticket"], "answer": Device(HERE).make(asked["options"]), "name": "theirs"}
    assert theirs.post("/api/v1/me/passkeys", json=made).status_code == 401, "a ticket of somebody else"


def test_a_passkey_goes_by_the_password_and_all_go_by_a_new_one(
    api: TestClient, ines: TestClient, device: Device
) -> None:
    assert ines.post("/api/v1/me/passkeys/laptop/end", json={"password": "not it at all"}).status_code == 401
    assert ines.post("/api/v1/me/passkeys/none/end", json={"password": PASSWORD}).status_code == 404
    assert ines.post("/api/v1/me/passkeys/laptop/end", json={"password": PASSWORD}).status_code == 204
    assert by_passkey(device).status_code == 401
    assert browser().post("/api/v1/session", json={"name": "ines", "password": PASSWORD}).status_code == 204
    lost = Device(HERE)
    give_passkey(ines, lost, PASSWORD)
    link = api.post("/api/v1/people/ines/link").json()["secret"]
    assert by_passkey(lost).status_code == 204, "a link alone takes nothing away"
    assert browser().post("/api/v1/links/enter", json={"secret": link, "password": f"{PASSWORD} x"}).status_code == 204
    assert by_passkey(lost).status_code == 401


def test_who_has_only_a_passkey_shows_it_again_before_another_is_made(
    ines: TestClient, device: Device, connections: Connections
) -> None:
    with connections.connection() as connection:
        connection.execute("select set_config('barrio.change', max(id)::text, true) from changes")
        connection.execute("update people set password = null where name = 'ines'")
        connection.execute("update sessions set began_at = now() - interval '11 minutes'")
    stolen = ines.post("/api/v1/me/passkeys/begin", json={})
    assert stolen.status_code == 422 and "Sign out and in again" in stolen.json()["detail"]
    asked = at_home().post("/api/v1/session/passkey/begin").json()
    ines.headers.pop("Cookie", None)
    ines.post("/api/v1/session/passkey", json={"ticket": asked["ticket"], "answer": device.sign(asked["options"])})
    assert ines.post("/api/v1/me/passkeys/begin", json={}).status_code == 200
    assert ines.post("/api/v1/me/passkeys/laptop/end", json={}).status_code == 422, "the last way in"


def test_whoever_fails_by_another_way_is_slowed_down_by_their_address(api: TestClient, ines: TestClient) -> None:
    """So nobody fills the record, which cannot be emptied."""
    said = {"ticket": "nonsense", "answer": {}}
    mine = browser(address="10.9.9.9")
    codes = [mine.post("/api/v1/session/passkey", json=said).status_code for _ in range(60)]
    assert codes[0] == 401 and codes[-1] == 429 and codes.count(401) < 56
    assert mine.post("/api/v1/session/provider", json={"ticket": "x", "code": "x", "state": "x"}).status_code == 429
    assert browser(address="10.9.9.8").post("/api/v1/session/passkey", json=said).status_code == 401
