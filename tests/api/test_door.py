"""Signing in and out: by password, by code, by links; guessers, thieves, and whoever asks from another site's page."""

from __future__ import annotations

import json
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from datetime import timedelta
from typing import Any

import pyotp
import pytest
from fastapi.testclient import TestClient

from barrio.app import door, links, people, secret
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.store.database import Connections, bring_up_to_date, connect
from tests.application import client_of
from tests.database import Databases
from tests.people import PASSWORD, browser, signed_in

NEW = "a lamp beside the slipway"


@pytest.fixture
def empty(databases: Databases) -> Iterator[House]:
    """A house where never anybody was."""
    pool = connect(databases.of(databases.named()))
    bring_up_to_date(pool)
    house = House(pool)
    with client_of(house):
        yield house
    databases.drop(pool)


@pytest.fixture
def ines(api: TestClient, connections: Connections) -> TestClient:
    """Ines, an architect, who has chosen her password by the link that she was given."""
    link = api.post("/api/v1/people", json={"name": "ines", "called": "Ines Marrero"}).json()["secret"]
    api.post("/api/v1/grants", json={"role": "architect", "person": "ines"})
    mine = browser()
    assert mine.post("/api/v1/links/look", json={"secret": link}).json() == {"purpose": "welcome", "name": "ines"}
    assert mine.post("/api/v1/links/enter", json={"secret": link, "password": PASSWORD}).status_code == 204
    return mine


def sign_in(password: str = PASSWORD, name: str = "ines", client: TestClient | None = None, **more: str) -> Any:
    return (client or browser()).post("/api/v1/session", json={"name": name, "password": password, **more})


def test_the_first_person_comes_by_a_link_that_is_good_once(empty: House) -> None:
    older, link = links.first_link(empty), links.first_link(empty)
    first = browser()
    said = {"name": "olmo", "called": "Olmo Reyes", "password": PASSWORD}
    assert first.post("/api/v1/links/first", json=said | {"secret": older}).status_code == 401, "an earlier link ended"
    soon = first.post("/api/v1/links/first", json=said | {"secret": link, "password": "olmo olmo olmo"})
    assert soon.status_code == 422 and "soon guessed" in soon.json()["detail"]
    assert first.post("/api/v1/links/first", json=said | {"secret": link}).status_code == 204
    assert first.get("/api/v1/session").json()["name"] == "olmo" and first.get("/api/v1/people").status_code == 200
    again = browser().post("/api/v1/links/first", json=said | {"secret": link, "name": "mallory"})
    assert again.status_code == 401 and links.first_link(empty) is None
    assert [one.name for one in people.everybody(Desk(empty))[0]] == ["olmo"]


def test_of_two_who_use_one_link_at_once_one_comes_in(empty: House) -> None:
    link = links.first_link(empty)
    answers: list[int] = []

    def take(name: str) -> None:
        said = {"secret": link, "name": name, "called": name.title(), "password": PASSWORD}
        answers.append(browser().post("/api/v1/links/first", json=said).status_code)

    racers = [threading.Thread(target=take, args=(name,)) for name in ("olmo", "mallory", "trudy")]
    for racer in racers:
        racer.start()
    for racer in racers:
        racer.join()
    assert sorted(answers) == [204, 401, 401] and len(people.everybody(Desk(empty))[0]) == 1


def test_name_and_password_let_in_and_nothing_says_which_was_wrong(ines: TestClient) -> None:
    mine = browser()
    came = sign_in(client=mine)
    cookie = came.headers["set-cookie"].lower()
    assert came.status_code == 204 and "httponly" in cookie and "samesite=strict" in cookie and PASSWORD not in cookie
    assert mine.get("/api/v1/session").json()["called"] == "Ines Marrero"
    wrong, nobody = sign_in("another word entirely"), sign_in(name="nobody")
    assert wrong.status_code == nobody.status_code == 401
    assert {**wrong.json(), "request": ""} == {**nobody.json(), "request": ""}
    assert sign_in(name="  INES ").status_code == 204, "names are typed as they come"


def test_over_tls_the_cookie_is_bound_to_tls_and_to_this_host(ines: TestClient) -> None:
    safe = browser()
    safe.base_url = "https://127.0.0.1:8710"  # type: ignore[assignment]
    safe.headers["Origin"] = "https://127.0.0.1:8710"
    cookie = sign_in(client=safe).headers["set-cookie"]
    assert cookie.startswith("__Host-barrio=") and "Secure" in cookie and "Path=/" in cookie
    mine = cookie.partition("=")[2].partition(";")[0]
    for name, code in (("__Host-barrio", 200), ("barrio", 401)):
        shown = {"Cookie": f"{name}={mine}"}
        safe.cookies.clear()
        assert safe.get("/api/v1/session", headers=shown).status_code == code, "what another could set is not heeded"


def test_a_session_ends_by_sign_out_by_time_and_by_a_new_password(ines: TestClient, connections: Connections) -> None:
    here, there = browser(), browser()
    sign_in(client=here), sign_in(client=there)
    kept = dict(there.cookies)
    assert there.delete("/api/v1/session").status_code == 204
    assert browser(kept["barrio"]).get("/api/v1/session").status_code == 401, "a stolen cookie of an ended session"
    sign_in(client=there)
    assert here.put("/api/v1/me/password", json={"old": "not it", "new": NEW}).status_code == 401
    assert here.put("/api/v1/me/password", json={"old": PASSWORD, "new": NEW}).status_code == 204
    assert there.get("/api/v1/session").status_code == 401 and here.get("/api/v1/session").status_code == 200
    assert sign_in().status_code == 401 and sign_in(NEW).status_code == 204
    with connections.connection() as connection:
        connection.execute("update sessions set seen_at = now() - interval '4 days'")
    assert here.get("/api/v1/session").status_code == 401, "no sign of life for too long"
    sign_in(NEW, client=here)
    with connections.connection() as connection:
        connection.execute("update sessions set ends_at = now() - interval '1 second'")
    assert here.get("/api/v1/session").status_code == 401


def test_one_or_all_other_sessions_are_ended_from_ones_own_page(ines: TestClient) -> None:
    others = [browser() for _ in range(3)]
    for other in others:
        sign_in(client=other)
    me = ines.get("/api/v1/me").json()
    assert len(me["sessions"]) == 4 and me["here"] in {one["id"] for one in me["sessions"]}
    one = next(one["id"] for one in others[0].get("/api/v1/me").json()["sessions"] if one["id"] != me["here"])
    assert ines.delete(f"/api/v1/me/sessions/{one}").status_code == 204
    assert ines.delete("/api/v1/me/sessions").status_code == 204
    assert [client.get("/api/v1/session").status_code for client in (*others, ines)] == [401, 401, 401, 200]


def test_nobody_ends_a_session_or_a_token_of_somebody_else(ines: TestClient, connections: Connections) -> None:
    theirs = signed_in(House(connections), "teo")
    session = theirs.get("/api/v1/me").json()["here"]
    assert ines.delete(f"/api/v1/me/sessions/{session}").status_code == 204
    assert theirs.get("/api/v1/me").status_code == 200, "it was none of hers"
    assert ines.delete("/api/v1/me/tokens/tests").status_code == 404


def test_who_guesses_is_slowed_down_and_who_knows_still_comes_in_from_elsewhere(ines: TestClient) -> None:
    guesser = browser(address="127.0.0.9")
    codes = [sign_in(f"guess number {n}", client=guesser).status_code for n in range(8)]
    assert codes[:5] == [401] * 5 and codes[5:] == [429] * 3
    told = sign_in(client=guesser)
    assert told.status_code == 429 and int(told.headers["retry-after"]) >= 1, "the right password makes no difference"
    assert sign_in(client=browser(address="127.0.0.8")).status_code == 204, "the owner is not locked out by it"
    many = browser(address="127.0.0.7")
    codes = [sign_in("one and the same guess", f"name{n}", many).status_code for n in range(55)]
    assert codes.count(401) == 50 and set(codes[50:]) == {429}, "one password for many names, from one address"


def test_who_has_a_stolen_session_guesses_no_password_with_it(ines: TestClient) -> None:
    codes = [ines.put("/api/v1/me/password", json={"old": f"guess {n}", "new": NEW}).status_code for n in range(7)]
    assert codes == [401] * 5 + [429] * 2
    assert ines.post("/api/v1/me/second/end", json={"password": PASSWORD}).status_code == 429


def test_a_second_factor_is_asked_for_is_good_once_and_may_be_half_a_minute_off(
    ines: TestClient, connections: Connections
) -> None:
    proposed = ines.post("/api/v1/me/second").json()
    assert proposed["uri"].startswith("otpauth://totp/Barrio:ines")
    assert ines.put("/api/v1/me/second", json={"secret": proposed["secret"], "code": "000000"}).status_code == 401
    totp = pyotp.TOTP(proposed["secret"])
    assert (
        ines.put("/api/v1/me/second", json={"secret": proposed["secret"], "code": code(totp, connections)}).status_code
        == 204
    )
    asked = sign_in()
    assert asked.status_code == 401 and asked.json()["type"].endswith("sign-in.code")
    used = code(totp, connections)
    assert sign_in(code=used).status_code == 401, "it was used to set it up"
    following = code(totp, connections, 1)
    assert sign_in(code=following).status_code == 204, "a clock that runs ahead"
    assert sign_in(code=following).status_code == 401, "a code that somebody saw is of no use any more"
    assert sign_in(code=code(totp, connections, 7)).status_code == 401
    with connections.connection() as connection:
        kept = connection.execute("select seconds from people where name = 'ines'").fetchone()
    assert kept is not None and proposed["secret"].encode() not in bytes(kept[0]), "it is sealed"
    assert ines.post("/api/v1/me/second/end", json={"password": "wrong"}).status_code == 401
    assert ines.post("/api/v1/me/second/end", json={"password": PASSWORD}).status_code == 204
    assert sign_in().status_code == 204


def code(totp: pyotp.TOTP, connections: Connections, steps: int = 0) -> str:
    """The code at some step of the database's clock."""
    with connections.connection() as connection:
        row = connection.execute("select extract(epoch from now())::bigint / 30").fetchone()
    assert row is not None
    return totp.generate_otp(int(row[0]) + steps)


def test_where_the_office_asks_for_a_second_factor_nothing_else_is_given_first(
    ines: TestClient, connections: Connections, api: TestClient
) -> None:
    with client_of(House(connections, second_factor=True)):
        assert ines.get("/api/v1/fabrics").status_code == 403 and ines.get("/api/v1/me").status_code == 200
        made = ines.post("/api/v1/me/tokens", json={"name": "x", "roles": ["architect"], "days": 5}).json()["token"]
        by_token = browser().get("/api/v1/fabrics", headers={"Authorization": f"Bearer {made}"})
        assert by_token.status_code == 403, "a token is no way around it"
        proposed = ines.post("/api/v1/me/second").json()["secret"]
        said = {"secret": proposed, "code": code(pyotp.TOTP(proposed), connections)}
        assert ines.put("/api/v1/me/second", json=said).status_code == 204
        assert ines.get("/api/v1/fabrics").status_code == 200


def test_a_session_changes_nothing_from_another_sites_page(ines: TestClient) -> None:
    new = {"text": "fabric: bait\n"}
    for headers in (
        {"Origin": "https://elsewhere.example"}, {"Origin": "null"}, {"Origin": "http://127.0.0.1:9999"},
        {"Origin": "", "Sec-Fetch-Site": "cross-site"},
    ):  # fmt: skip
        assert ines.post("/api/v1/fabrics", json=new, headers=headers).status_code == 403, headers
    del ines.headers["Origin"]
    assert ines.post("/api/v1/fabrics", json=new).status_code == 403, "a program shows a token"
    assert ines.post("/api/v1/fabrics", json=new, headers={"Sec-Fetch-Site": "same-origin"}).status_code == 201


@pytest.mark.parametrize(
    ("name", "called", "says"),
    [
        ("olmo", "Another", "There is olmo already"), ("0lmo", "Olmo", "small letters"), ("o1mo", "Olmo Reyes", "could be taken for olmo"),
        ("ol.mo", "Olmo", "could be taken for olmo"), ("Ines", "Ines", "small letters"), ("ines", "Inеs", "mixes letters of Cyrillic and Latin"),
        ("ines", "\u202eseni", "can be seen"), ("ines", " ", "1 to 60"), ("инес", "Инес", "small letters"), ("a" * 33, "A", "2 to 32"),
    ],
)  # fmt: skip
def test_names_that_could_be_taken_for_others_are_refused(api: TestClient, name: str, called: str, says: str) -> None:
    answer = api.post("/api/v1/people", json={"name": name, "called": called})
    assert answer.status_code == 422 and says in answer.json()["detail"], answer.text


def test_who_leaves_is_out_at_once_and_the_last_keeper_cannot(ines: TestClient, api: TestClient) -> None:
    made = ines.post("/api/v1/me/tokens", json={"name": "x", "roles": ["architect"], "days": 5}).json()["token"]
    assert api.put("/api/v1/people/ines/presence", json={"left": True}).status_code == 204
    assert ines.get("/api/v1/session").status_code == 401 and sign_in().status_code == 401
    assert browser().get("/api/v1/fabrics", headers={"Authorization": f"Bearer {made}"}).status_code == 401
    assert api.post("/api/v1/people/ines/link").status_code == 422
    assert api.put("/api/v1/people/ines/presence", json={"left": False}).status_code == 204
    assert sign_in().status_code == 204 and ines.get("/api/v1/session").status_code == 401
    gone = api.put("/api/v1/people/olmo/presence", json={"left": True})
    assert gone.status_code == 422 and gone.json()["type"].endswith("people.last-keeper")
    grant = next(one["id"] for one in api.get("/api/v1/people").json()["given"] if one["role"] == "keeper")
    assert api.delete(f"/api/v1/grants/{grant}").json()["type"].endswith("people.last-keeper")
    api.put("/api/v1/teams/Keepers", json={"members": ["ines"]})
    api.post("/api/v1/grants", json={"role": "keeper", "team": "Keepers"})
    assert api.delete(f"/api/v1/grants/{grant}").status_code == 204, "a team keeps it now"
    for change in (
        lambda: people.set_team(Desk(house_of(api)), "Keepers", "", []), lambda: people.drop_team(Desk(house_of(api)), "Keepers"),
        lambda: people.leave(Desk(house_of(api)), "ines"),
    ):  # fmt: skip
        with pytest.raises(Exception, match="last keeper"):
            change()


def house_of(api: TestClient) -> House:
    house: House = api.app.state.house  # type: ignore[attr-defined]
    return house


def test_a_link_for_a_new_password_takes_a_lost_second_factor_with_it(
    ines: TestClient, api: TestClient, connections: Connections
) -> None:
    proposed = ines.post("/api/v1/me/second").json()["secret"]
    ines.put("/api/v1/me/second", json={"secret": proposed, "code": code(pyotp.TOTP(proposed), connections)})
    link = api.post("/api/v1/people/ines/link").json()["secret"]
    assert sign_in().json()["type"].endswith("sign-in.code"), "until the link is used, the old one holds"
    fresh = browser()
    short = fresh.post("/api/v1/links/enter", json={"secret": link, "password": "short"})
    assert short.status_code == 422 and short.json()["type"].endswith("password.length")
    assert fresh.post("/api/v1/links/enter", json={"secret": link, "password": NEW}).status_code == 204
    assert fresh.post("/api/v1/links/enter", json={"secret": link, "password": NEW}).status_code == 401, "good once"
    assert ines.get("/api/v1/session").status_code == 401, "whoever had the old password is out"
    assert fresh.get("/api/v1/session").status_code == 200
    assert sign_in(NEW).status_code == 204
    with connections.connection() as connection:
        connection.execute("update links set ends_at = now()")
    late = api.post("/api/v1/people/ines/link").json()["secret"]
    with connections.connection() as connection:
        connection.execute("select set_config('barrio.change', max(id)::text, true) from changes")
        connection.execute("update links set ends_at = now() - interval '1 second'")
    assert fresh.post("/api/v1/links/look", json={"secret": late}).status_code == 401


def test_no_secret_that_goes_through_a_door_stands_in_the_database_the_record_or_a_log(
    ines: TestClient, api: TestClient, connections: Connections, capfd: pytest.CaptureFixture[str]
) -> None:
    """Each is marked, and every table is read for the marks."""
    marks = {"password": "MARKED-four-words-of-hers", "wrong": "MARKED-wrong-guess"}
    ines.put("/api/v1/me/password", json={"old": PASSWORD, "new": marks["password"]})
    sign_in(marks["wrong"]), sign_in(marks["wrong"], name=marks["wrong"].lower())
    mine = browser()
    sign_in(marks["password"], client=mine)
    marks["session"] = mine.cookies["barrio"]
    marks["token"] = mine.post("/api/v1/me/tokens", json={"name": "x", "roles": ["architect"], "days": 5}).json()[
        "token"
    ]
    marks["second"] = mine.post("/api/v1/me/second").json()["secret"]
    mine.put(
        "/api/v1/me/second", json={"secret": marks["second"], "code": code(pyotp.TOTP(marks["second"]), connections)}
    )
    marks["link"] = api.post("/api/v1/people/ines/link").json()["secret"]
    browser().post("/api/v1/links/enter", json={"secret": marks["link"], "password": "short"})
    api.get("/api/v1/fabrics/nowhere", headers={"Authorization": f"Bearer {marks['token']}x"})
    with connections.connection() as connection:
        tables = [name for (name,) in connection.execute("select tablename from pg_tables where schemaname = 'public'")]
        everything = "\n".join(
            str(row) for table in tables for row in connection.execute(f"select t::text from {table} as t".encode())
        )
    said = everything.lower() + "".join(capfd.readouterr()).lower()
    record = api.get("/api/v1/record").text.lower()
    assert "changes" in tables and "argon2id" in said
    for what, mark in marks.items():
        assert mark.lower() not in said and mark.lower() not in record, what
        assert mark.encode().hex() not in said, what


def test_many_who_sign_in_at_once_take_nothing_from_others(ines: TestClient, api: TestClient) -> None:
    """A storm of guesses: some are heard, most are sent away, and a page is answered meanwhile."""
    codes: list[int] = []

    def guess(n: int) -> None:
        client = browser(address=f"127.0.1.{n}")
        codes.extend(sign_in(f"guess number {n} {turn}", client=client).status_code for turn in range(4))

    storm = [threading.Thread(target=guess, args=(n,)) for n in range(24)]
    for one in storm:
        one.start()
    answered = [ines.get("/api/v1/session").status_code for _ in range(10)]
    for one in storm:
        one.join()
    assert set(answered) == {200} and set(codes) <= {401, 429} and 429 in codes and 401 in codes


@pytest.mark.parametrize(
    "body",
    [{}, {"name": "ines"}, {"name": 5, "password": []}, {"name": "x" * 99, "password": "y"}, {"name": "a\u0000", "password": "b"}],
)  # fmt: skip
def test_what_is_no_sign_in_is_said_so(api: TestClient, body: dict[str, Any]) -> None:
    answer = browser().post("/api/v1/session", content=json.dumps(body), headers={"Content-Type": "application/json"})
    assert answer.status_code in (401, 422) and answer.headers["content-type"] == "application/problem+json"


def test_the_key_file_is_made_once_and_what_it_sealed_opens_with_nothing_else(tmp_path: Any) -> None:
    keys = secret.Keys.of_file(tmp_path / "key")
    assert (tmp_path / "key").stat().st_mode & 0o777 == 0o600
    again = secret.Keys.of_file(tmp_path / "key")
    assert again.digest == keys.digest and again.open(keys.seal("tide", "a"), "a") == "tide"
    others: list[Callable[[], object]] = [
        lambda: again.open(keys.seal("tide", "a"), "b"),
        lambda: secret.Keys.of_file(tmp_path / "other").open(keys.seal("tide", "a"), "a"),
        lambda: again.open(b"x" * 40, "a"),
    ]
    for other in others:
        with pytest.raises(ValueError, match="another key"):
            other()
    (tmp_path / "key").write_text("nothing")
    with pytest.raises(ValueError, match="holds no key"):
        secret.Keys.of_file(tmp_path / "key")


def test_passwords_are_hashed_as_the_rfc_says() -> None:
    """RFC 9106: Argon2id, two passes over 48 MiB; tests use less, so it is asked of a process of its own."""
    asked = "from barrio.app.secret import Passwords; print(Passwords().hash('four words for a harbour'))"
    said = subprocess.run([sys.executable, "-c", asked], check=True, capture_output=True, text=True).stdout
    assert said.startswith("$argon2id$v=19$m=49152,t=2,p=2$")


def test_a_person_of_no_role_sees_their_own_page_and_who_they_could_ask(
    api: TestClient, connections: Connections
) -> None:
    per = signed_in(House(connections), "per", called="Per Lindqvist")
    assert per.get("/api/v1/session").json()["rights"] == []
    assert per.get("/api/v1/fabrics").json()["detail"] == "You have no role here yet. Olmo can give you one."
    page = {"called": "Per L.", "keys": [], "manners": {"theme": "dark", "dates": "iso"}}
    assert per.put("/api/v1/me", json=page).status_code == 204
    assert per.get("/api/v1/session").json()["manners"] == {"theme": "dark", "dates": "iso"}
    assert per.put("/api/v1/me", json=page | {"keys": ["ssh-rsa nonsense"]}).status_code == 422
    people.give(Desk(House(connections)), Role.READER, None, person="per")
    assert per.get("/api/v1/fabrics").json() == []
    assert timedelta(days=1) < door.LASTS
