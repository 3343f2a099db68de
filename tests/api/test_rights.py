"""Who may do what: one table, asked by every route, for every role and for nobody."""

from __future__ import annotations

from itertools import count
from typing import Any

import hypothesis.strategies as st
import pytest
from fastapi.testclient import TestClient
from hypothesis import settings
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule, run_state_machine_as_test

from barrio.app import people
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.core import Refused
from tests.api.conftest import MARLIN, TERN
from tests.application import client_of
from tests.conftest import EVERYTHING, tries
from tests.database import Databases
from tests.people import browser, signed_in

OF_A_FABRIC = {
    "read",
    "edit",
    "number",
    "cable",
    "seal",
    "agree",
    "say",
    "rehearse",
    "rule",
    "delete",
    "share",
    "unbox",
    "stage",
}
MAY = {
    Role.READER: "read look",
    Role.REVIEWER: "read look agree say rehearse",
    Role.TECHNICIAN: "read look cable say rehearse unbox",
    Role.OPERATOR: "read look cable seal say rehearse unbox stage",
    Role.ARCHITECT: "read look edit number cable say rehearse delete share create office",
    Role.KEEPER: "read look delete share rule pools catalogue office people record",
}
"""The table as it is agreed on, written down a second time."""
OPEN = {
    "getHealth", "getReady", "getModelSchema", "signIn", "lookAtLink", "enter", "makeFirst", "getWays",
    "beginByProvider", "signInByProvider", "beginByPasskey", "signInByPasskey",
}  # fmt: skip
"""What is there for everybody."""
BY_THEMSELVES = {"getSession"}
"""What asks who is there without a desk."""


def operations(api: TestClient) -> list[tuple[str, str, str, str]]:
    """Every operation: (its id, its method, an address of it, the right it needs)."""
    document = api.get("/api/v1/openapi.json").json()
    filled = {"name": "marlin", "switch": "leaf-r01a", "pool": "none", "kind": "zip", "reservation": 0, "grant": 0,
              "deed": 0, "person": "nobody", "team": "none", "token": "none", "session": 0, "model": "none", "job": 0, "key": "none", "setting": "services.ntp", "number": 0, "secret": "none", "rack": "r01", "label": "M-0001", "end": "a", "revision": 1, "outlet": 1, "delivery": "00000000-0000-0000-0000-000000000000", "voice": 1, "comment": 1, "question": "sessions", "drill": "none", "knock": "A" * 43, "program": "kea4", "version": "1", "errand": "replace"}  # fmt: skip
    return [
        (said["operationId"], method, path.format(**filled), said.get("x-right", ""))
        for path, methods in document["paths"].items()
        for method, said in methods.items()
    ]


def test_every_route_says_which_right_it_needs_or_is_known_to_be_open(api: TestClient) -> None:
    without = {name for name, _, _, right in operations(api) if not right}
    assert without == OPEN | BY_THEMSELVES


def test_nobody_is_answered_but_where_all_may_ask(marlin: TestClient) -> None:
    outside = browser()
    for name, method, path, _ in operations(marlin):
        answer = outside.request(method, path)
        assert (answer.status_code == 401) == (name not in OPEN), (name, answer.text)
        assert answer.status_code != 401 or "Sign in" in answer.json()["detail"]
    for wrong in (
        {"Authorization": "Bearer nonsense"},
        {"Authorization": "Basic b2xtbzpvbG1v"},
        {"Cookie": "barrio=x"},
    ):
        assert outside.get("/api/v1/fabrics/marlin", headers=wrong).status_code == 401, wrong


QUICK = (Role.READER, Role.KEEPER)
"""The roles of every run, the least and the most; those between in `make test-all`."""


@pytest.mark.parametrize("role", [one if one in QUICK else pytest.param(one, marks=pytest.mark.long) for one in Role])
def test_every_route_gives_what_the_table_gives_and_nothing_else(
    marlin: TestClient, marlin_house: House, role: Role
) -> None:
    """Held for all fabrics, for this one, and for another. The quick run asks each route of one of them, in turn."""
    marlin.post("/api/v1/fabrics", json={"text": TERN})
    holders = {}
    if EVERYTHING or role is Role.KEEPER:
        holders[None] = signed_in(marlin_house, f"all-{role}", [(role, None)])
    if role is not Role.KEEPER:
        holders["marlin"] = signed_in(marlin_house, f"here-{role}", [(role, "marlin")])
        holders["tern"] = signed_in(marlin_house, f"there-{role}", [(role, "tern")])
    for place, (name, method, path, right) in enumerate(operations(marlin)):
        if name in OPEN | BY_THEMSELVES | {"listen", "signOut", "endOtherSessions", "undo", "redo"}:
            continue
        asked = list(holders.items())
        for fabric, client in asked if EVERYTHING else [asked[place % len(asked)]]:
            may = right == "sign-in" or (
                right in MAY[role].split()
                and (right == "look" or fabric is None or (right in OF_A_FABRIC and fabric == "marlin"))
            )
            answer = client.request(method, path)
            assert (answer.status_code != 403) == may, (name, role, fabric, answer.text[:200])
            assert answer.status_code != 401
            if not may:
                problem = answer.json()
                assert problem["type"] == f"urn:barrio:problem:may-not.{right}" and "Olmo" in problem["detail"]


def test_lists_and_searches_hold_no_fabric_that_one_may_not_read(marlin: TestClient, marlin_house: House) -> None:
    marlin.post("/api/v1/fabrics", json={"text": TERN})
    reader = signed_in(marlin_house, "lucia", [(Role.READER, "tern")])
    assert [row["name"] for row in reader.get("/api/v1/fabrics").json()] == ["tern"]
    hits = reader.get("/api/v1/search", params={"q": "leaf"}).json()
    assert hits and {hit["fabric"] for hit in hits} == {"tern"}
    assert reader.get("/api/v1/fabrics/nowhere").status_code == 403, "whether it is there is not said"
    assert marlin.get("/api/v1/fabrics/nowhere").status_code == 404


def test_a_role_taken_away_is_gone_with_the_next_click(marlin: TestClient, marlin_house: House) -> None:
    ines = signed_in(marlin_house, "ines", [(Role.ARCHITECT, "marlin")])
    edit = {"version": 1, "edits": [["spines.count", 3]], "note": "3 spines"}
    assert ines.post("/api/v1/fabrics/marlin/edits", json=edit).status_code == 200
    given = marlin.get("/api/v1/fabrics/marlin/sharing").json()["given"]
    grant = next(one["id"] for one in given if one["person"] == "ines")
    assert marlin.delete(f"/api/v1/fabrics/marlin/sharing/{grant}").status_code == 204
    refused = ines.post("/api/v1/fabrics/marlin/edits", json=edit | {"version": 2})
    assert refused.status_code == 403 and "Olmo can" in refused.json()["detail"]
    assert ines.get("/api/v1/fabrics/marlin").status_code == 403
    assert marlin.get("/api/v1/fabrics/marlin").json()["version"] == 2


def test_an_architect_shares_their_own_fabric_in_one_call_and_no_other(marlin: TestClient, marlin_house: House) -> None:
    marlin.post("/api/v1/fabrics", json={"text": TERN})
    ines = signed_in(marlin_house, "ines", [(Role.ARCHITECT, "marlin")])
    lucia = signed_in(marlin_house, "lucia")
    assert lucia.get("/api/v1/fabrics").status_code == 403, "who is nothing to any fabric may look at nothing"
    shared = ines.post("/api/v1/fabrics/marlin/sharing", json={"role": "reader", "person": "lucia"})
    assert shared.status_code == 204 and lucia.get("/api/v1/fabrics/marlin").status_code == 200
    assert ines.post("/api/v1/fabrics/tern/sharing", json={"role": "reader", "person": "lucia"}).status_code == 403
    keeper = ines.post("/api/v1/fabrics/marlin/sharing", json={"role": "keeper", "person": "lucia"})
    assert keeper.status_code == 422 and "all fabrics" in keeper.json()["detail"]
    elsewhere = marlin.get("/api/v1/people").json()["given"][0]["id"]
    assert ines.delete(f"/api/v1/fabrics/marlin/sharing/{elsewhere}").status_code == 404, "a role for all is not theirs"


def test_a_token_has_what_is_left_of_its_persons_roles_within_its_limits(
    marlin: TestClient, marlin_house: House
) -> None:
    marlin.post("/api/v1/fabrics", json={"text": TERN})
    ines = signed_in(marlin_house, "ines", [(Role.ARCHITECT, None), (Role.KEEPER, None)])
    asked = {"name": "nightly", "roles": ["architect"], "fabrics": ["tern"], "days": 1}
    token = ines.post("/api/v1/me/tokens", json=asked).json()["token"]
    program = browser()
    program.headers = {"Authorization": f"Bearer {token}"}
    edit = {"version": 1, "edits": [["title", "By night"]], "note": "by night"}
    assert program.post("/api/v1/fabrics/tern/edits", json=edit).status_code == 200
    assert program.get("/api/v1/fabrics/marlin").status_code == 403, "a token of another fabric"
    assert program.get("/api/v1/people").status_code == 403
    assert program.put("/api/v1/me/password", json={"old": "", "new": "a lamp beside the slipway"}).status_code == 422
    for wider in ({"roles": ["architect", "keeper"]}, {"fabrics": None}, {"fabrics": ["marlin"]}, {"days": 30}):
        more = program.post("/api/v1/me/tokens", json=asked | {"name": "wider"} | wider)
        assert more.status_code == 422 and more.json()["type"].endswith("token.wider"), wider
    assert program.post("/api/v1/me/tokens", json=asked | {"name": "as wide"}).status_code == 201
    assert ines.post("/api/v1/me/tokens", json=asked).json()["type"].endswith("token.twice")
    assert ines.post("/api/v1/me/tokens", json=asked | {"name": "x", "days": 0}).status_code == 422
    history = marlin.get("/api/v1/record", params={"fabric": "tern"}).json()["deeds"]
    assert (history[0]["author"], history[0]["token"]) == ("Ines", "nightly")
    people.give(Desk(marlin_house), Role.READER, "tern", person="ines")
    given = marlin.get("/api/v1/people").json()["given"]
    for one in given:
        if one["person"] == "ines" and one["role"] == "architect":
            marlin.delete(f"/api/v1/grants/{one['id']}")
    assert program.get("/api/v1/fabrics/tern").status_code == 403, "what the person lost, the token lost"
    assert ines.delete("/api/v1/me/tokens/nightly").status_code == 204
    assert program.get("/api/v1/fabrics/tern").status_code == 401


NAMES, FABRICS, TEAMS = ("ines", "teo", "per"), ("marlin", "tern"), ("Buoys", "Radar")
ROLES = st.sampled_from(list(Role))


class Shuffle(RuleBasedStateMachine):
    """Roles are given and taken, people join teams and leave; nobody ever gets what the table does not give."""

    databases: Databases

    @initialize()
    def begin(self) -> None:
        self.pool = self.databases.fresh(MARLIN, TERN)
        self.house = House(self.pool)
        self.desk = Desk(self.house)
        self.within = client_of(self.house)
        self.within.__enter__()
        self.clients = {name: signed_in(self.house, name) for name in NAMES}
        self.given: set[tuple[str, Role, str | None]] = set()
        self.members: dict[str, set[str]] = {team: set() for team in TEAMS}
        self.left: set[str] = set()
        self.numbers = count()
        for team in TEAMS:
            people.set_team(self.desk, team, "", ())

    @rule(whom=st.sampled_from(NAMES + TEAMS), role=ROLES, fabric=st.sampled_from((None, *FABRICS)))
    def give(self, whom: str, role: Role, fabric: str | None) -> None:
        kind: dict[str, Any] = {"team" if whom in TEAMS else "person": whom}
        if whom in self.left or (role is Role.KEEPER and fabric):
            with pytest.raises(Refused):
                people.give(self.desk, role, fabric, **kind)
            return
        people.give(self.desk, role, fabric, **kind)
        self.given.add((whom, role, fabric))

    @rule(data=st.data())
    def take(self, data: st.DataObject) -> None:
        if not self.given:
            return
        whom, role, fabric = data.draw(st.sampled_from(sorted(self.given, key=str)))
        grant = next(
            one.id
            for one in people.everybody(self.desk)[2]
            if whom in (one.person, one.team) and (one.role, one.fabric) == (role.value, fabric)
        )
        people.take(self.desk, grant)
        self.given.discard((whom, role, fabric))

    @rule(team=st.sampled_from(TEAMS), members=st.sets(st.sampled_from(NAMES)))
    def join(self, team: str, members: set[str]) -> None:
        people.set_team(self.desk, team, "", sorted(members))
        self.members[team] = members

    @rule(name=st.sampled_from(NAMES))
    def leave(self, name: str) -> None:
        people.leave(self.desk, name)
        self.left.add(name)

    @rule(name=st.sampled_from(NAMES))
    def come_back(self, name: str) -> None:
        """Whoever comes back has their roles again, and has to sign in anew."""
        people.leave(self.desk, name, away=False)
        self.left.discard(name)

    @invariant()
    def nobody_gets_more(self) -> None:
        if not hasattr(self, "clients"):
            return
        for name in NAMES:
            mine = {name, *(team for team in TEAMS if name in self.members[team])}
            has = {(role, fabric) for whom, role, fabric in self.given if whom in mine}
            for fabric in FABRICS:
                here = " ".join(MAY[role] for role, where in has if where in (None, fabric)).split()
                looked = self.clients[name].get(f"/api/v1/fabrics/{fabric}/version").status_code
                edited = self.clients[name].post(f"/api/v1/fabrics/{fabric}/undo").status_code
                if looked == 401:
                    assert edited == 401, "whoever left once is signed out"
                    continue
                assert name not in self.left
                assert (looked == 200, edited == 422) == ("read" in here, "edit" in here), (name, fabric, has)
            if looked != 401:
                wide = " ".join(MAY[role] for role, where in has if where is None).split()
                assert (self.clients[name].get("/api/v1/people").status_code == 200) == ("people" in wide)

    def teardown(self) -> None:
        if hasattr(self, "within"):
            self.within.__exit__(None, None, None)
            self.databases.drop(self.pool)


def test_no_history_of_grants_gives_anybody_more_than_the_table(databases: Databases) -> None:
    Shuffle.databases = databases
    run_state_machine_as_test(Shuffle, settings=settings(tries(24), stateful_step_count=6, deadline=None))
