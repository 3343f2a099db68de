"""Rehearsals as jobs: asked for, looked at while they run, kept with the state that they are of, stopped, and left by whoever dies."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from barrio.app.house import House
from barrio.jobs import kinds
from barrio.jobs.worker import Worker
from barrio.rehearsal import room
from barrio.rehearsal.room import PLACE, STEM
from tests.api.conftest import TERN
from tests.processes import until

AT = "/api/v1/fabrics/tern/rehearsals"
MINE = f"{STEM}of-{os.getpid()}-"
QUICK = {"ground": "here", "racks": ["t01", "t02"], "spines": 1, "questions": ["sessions", "together"]}
"""Three switches on this machine's kernel, whatever it lacks."""


@pytest.fixture(autouse=True)
def stem(monkeypatch: pytest.MonkeyPatch) -> None:
    """Labs of this test are known by their folders."""
    monkeypatch.setattr(room, "STEM", MINE)


@pytest.fixture
def house(house_of: Callable[..., House]) -> House:
    return house_of(TERN)


def begun(api: TestClient, **more: Any) -> int:
    answer = api.post(AT, json=QUICK | more)
    assert answer.status_code == 202, answer.text
    return int(answer.json()["job"])


def told(api: TestClient, job: int) -> dict[str, Any]:
    found: dict[str, Any] = api.get(f"{AT}/{job}").json()
    return found


def test_a_wish_is_told_before_anything_is_booted_and_a_wrong_one_names_the_way_out(api: TestClient) -> None:
    found = api.post(f"{AT}/preview", json={"racks": ["t01"], "spines": 1}).json()
    assert found["switches"] == ["spine-1", "leaf-t01"] and not found["whole"]
    assert found["left_out"] == ["1 of 2 spines", "3 of 4 leaves, in t02..t04"]
    assert any("cold-store" in words and "cross" in words for words in found["cannot"]), (
        "one leaf proves nothing of crossing"
    )
    assert 0 < found["hosts"] <= found["of_hosts"] == 8
    for wish, words in (
        ({"racks": ["t10"]}, "meant?"),
        ({"edition": 3}, "no edition 3"),
        ({"questions": ["bdf"]}, "Is bfd meant?"),
    ):
        answer = api.post(AT, json=QUICK | wish)
        assert answer.status_code in (404, 422) and words in answer.text, answer.text
    assert api.get(AT).json() == [], "nothing of it was kept"


@pytest.mark.usefixtures("working")
def test_a_rehearsal_is_looked_at_while_it_runs_and_kept_with_the_state_that_it_is_of(api: TestClient) -> None:
    job = begun(api)
    until(lambda: any(one["words"] in ("boots", "runs") for one in told(api, job)["switches"]), 60)
    until(lambda: told(api, job)["state"] == "done", 120)
    found = told(api, job)
    assert [one["words"] for one in found["switches"]] == ["runs"] * 3 and all(
        one["seconds"] > 0 for one in found["switches"]
    )
    sessions, together = found["answers"]
    assert (sessions["state"], sessions["claims"], sessions["failed"]) == ("yes", 4, 0)
    assert together["state"] == "not asked" or together["claims"], "this kernel may carry hosts, and says so when not"
    claims = api.get(f"{AT}/{job}/answers/sessions").json()
    assert {one["about"] for one in claims} == {"spine-1", "leaf-t01", "leaf-t02"}
    assert api.get(f"{AT}/{job}/answers/sessions", params={"holds": False}).json() == []
    because = api.get("/api/v1/fabrics/tern/because", params={"path": claims[0]["because"]})
    assert because.status_code == 200, "what was expected says why"
    report = api.get(f"{AT}/{job}/report.html")
    assert report.status_code == 200 and "Rehearsal of tern, the draft, version 1" in report.text
    assert (
        "spine-1 holds its session with leaf-t01" in report.text
        and "not asked" in report.text
        and "src=" not in report.text
    )
    assert not found["other"]
    edit = {
        "version": api.get("/api/v1/fabrics/tern").json()["version"],
        "note": "a word",
        "edits": [["title", "Otherwise"]],
    }
    assert api.post("/api/v1/fabrics/tern/edits", json=edit).status_code == 200
    assert told(api, job)["other"] and api.get(AT).json()[0]["other"], "the draft is another now"


@pytest.mark.usefixtures("working")
def test_stopping_one_ends_everything_that_it_started(api: TestClient) -> None:
    job = begun(api, questions=["reload"], spines=2, racks=["t01", "t02", "t03", "t04"])
    until(lambda: any(one["words"] == "runs" for one in told(api, job)["switches"]), 60)
    assert labs(), "it runs"
    assert api.post(f"{AT}/{job}/stop").status_code == 200
    until(lambda: told(api, job)["state"] == "stopped", 60)
    assert labs() == set()


def labs() -> set[Path]:
    """The labs of this test."""
    return set(PLACE.glob(f"{MINE}*"))


WORK = """
import sys
from barrio.app.house import House
from barrio.jobs.worker import Worker
from barrio.store.database import connect
from barrio.rehearsal import room
import time
room.STEM = sys.argv[2]
Worker(House(connect(sys.argv[1]))).start()
time.sleep(600)
"""


@pytest.mark.long
def test_another_worker_goes_on_when_one_is_killed_and_of_the_first_nothing_is_left(
    api: TestClient, house: House
) -> None:
    conninfo = house.connections.conninfo
    given = conninfo() if callable(conninfo) else conninfo
    dying = subprocess.Popen([sys.executable, "-c", WORK, given, MINE])
    try:
        job = begun(api)
        until(lambda: any(one["words"] == "boots" for one in told(api, job)["switches"]), 60)
        assert labs()
    finally:
        os.kill(dying.pid, signal.SIGKILL)
        dying.wait()
    until(lambda: labs() == set(), 20)
    with_another = Worker(house).start()
    try:
        until(lambda: told(api, job)["state"] == "done", 120)
        assert told(api, job)["answers"][0]["state"] == "yes"
    finally:
        with_another.close()


@pytest.mark.usefixtures("working")
def test_a_machine_without_the_programs_says_so(api: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("barrio.rehearsal.room.PROGRAM", "no-such-unshare")
    job = begun(api)
    until(lambda: told(api, job)["state"] == "failed", 60)
    assert "no-such-unshare" in told(api, job)["words"] and "not installed" in told(api, job)["words"]
    assert kinds.KINDS["rehearsal"].needs(2000, {"wish": {"whole": True}}) > 100_000_000_000, (
        "too large a wish is told by its memory"
    )
