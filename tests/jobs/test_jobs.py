"""Long work that can be left: done by whichever worker is there, once to effect, stopped, tried again, and never for who may not."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import zipfile
from collections.abc import Callable
from io import BytesIO
from pathlib import Path
from threading import Event
from typing import Any

import pytest
from fastapi.testclient import TestClient

from barrio.app import output, people
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.jobs import kinds, queue, worker
from barrio.jobs.worker import Worker
from barrio.rehearsal import parsers
from barrio.store import jobs
from barrio.store.database import Connections
from barrio.store.entries import Act, Author, open_change
from barrio.store.errors import Unreachable
from tests.api.conftest import MARLIN, TERN
from tests.people import signed_in
from tests.processes import until


@pytest.fixture
def house(house_of: Callable[..., House]) -> House:
    return house_of(MARLIN, TERN)


def asked(api: TestClient, kind: str = "bundle", fabric: str = "tern", **more: Any) -> int:
    answer = api.post(f"/api/v1/fabrics/{fabric}/jobs", json={"kind": kind} | more)
    assert answer.status_code == 202, answer.text
    return int(answer.json()["id"])


def ended(api: TestClient, job: int) -> dict[str, Any]:
    until(lambda: api.get(f"/api/v1/jobs/{job}").json()["state"] not in ("waiting", "working"), 60)
    found: dict[str, Any] = api.get(f"/api/v1/jobs/{job}").json()
    return found


@pytest.mark.usefixtures("working")
def test_a_bundle_that_was_left_is_there_later_the_same_as_one_waited_for(api: TestClient, house: House) -> None:
    for packed, fabric in (("zip", "tern"), ("tar.gz", "marlin")):
        job = asked(api, fabric=fabric, packed=packed)
        found = ended(api, job)
        assert found["state"] == "done" and found["author"] == "Olmo" and found["done"] == found["of"] > 0, found
        file = api.get(f"/api/v1/jobs/{job}/result")
        assert file.content == api.get(f"/api/v1/fabrics/{fabric}/bundle.{packed}").content
        assert f'filename="{fabric}.{packed}"' in file.headers["content-disposition"]
    assert "attempt 1 begins" in found["log"][0] and "done after" in found["log"][-1]
    assert [one["id"] for one in api.get("/api/v1/jobs").json()] == [job, job - 1]
    checked = ended(api, asked(api, "read back"))
    report = api.get(f"/api/v1/jobs/{checked['id']}/result").json()
    assert (
        checked["words"] == "the files agree with each other" and report["findings"] == [] and report["switches"] == 6
    )


@pytest.mark.long
@pytest.mark.usefixtures("working")
def test_the_real_programs_are_asked_and_what_they_say_is_told(
    api: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    checked = ended(api, asked(api, "deep check"))
    report = api.get(f"/api/v1/jobs/{checked['id']}/result").json()
    assert checked["words"] == "the programs take every file" and report["complaints"] == report["not asked"] == []
    monkeypatch.setattr(parsers, "CHECKS", (parsers.Check("etc/hostname", ("nft", "-c", "-f")), MISSING))
    found = ended(api, asked(api, "deep check"))
    assert found["words"] == "6 complaints; not installed here, so not asked: no-such-program"
    report = api.get(f"/api/v1/jobs/{found['id']}/result").json()
    said = report["complaints"][0]
    assert (said["path"], said["program"]) == ("etc/hostname", "nft") and "leaf" in str(report) and said["words"]


MISSING = parsers.Check("etc/hostname", ("no-such-program",))


@pytest.mark.usefixtures("working")
def test_all_sheets_are_what_each_alone_would_be(api: TestClient) -> None:
    job = ended(api, asked(api, "sheets"))
    files = zipfile.ZipFile(BytesIO(api.get(f"/api/v1/jobs/{job['id']}/result").content))
    for path in ("cabling.csv", "numbers.csv", "topology.dot", "topology.rfc8345.json"):
        alone = api.get(f"/api/v1/fabrics/tern/{path}").content
        assert files.read(f"tern{'.' if 'topology' in path else '-'}{path.removeprefix('topology.')}") == alone, path
    assert f"{len(files.namelist())} files" in job["words"] and any(
        one.startswith("zones/") for one in files.namelist()
    )


def test_what_waits_is_stopped_at_once_and_what_is_under_way_soon(
    api: TestClient, house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    waits = asked(api)
    assert api.post(f"/api/v1/jobs/{waits}/stop").json()["state"] == "stopped"
    begun, on = Event(), Event()

    def slow(desk: Desk, name: str, wishes: dict[str, Any], tell: kinds.Tell) -> kinds.Outcome:
        for part in range(200):
            tell(part, 200, "parts")
            begun.set()
            on.wait(0.05)
        return kinds.Outcome("all of it", "x.json", "application/json", b"{}")

    monkeypatch.setitem(kinds.KINDS, "bundle", kinds.Kind("Slow", kinds.Right.READ, slow, lambda *_: 1))
    monkeypatch.setattr(worker, "OFTEN", 0.0)
    one = Worker(house).start()
    job = asked(api)
    assert begun.wait(20)
    until(lambda: api.get(f"/api/v1/jobs/{job}").json()["words"] == "parts")
    api.post(f"/api/v1/jobs/{job}/stop")
    assert ended(api, job)["state"] == "stopped"
    assert api.get(f"/api/v1/jobs/{job}/result").status_code == 404
    on.set()
    assert api.post(f"/api/v1/jobs/{job}/retry").json()["state"] in ("waiting", "working")
    assert ended(api, job)["words"] == "all of it"
    assert api.post(f"/api/v1/jobs/{job}/retry").status_code == 422, "what is done is not done again"
    assert api.get(f"/api/v1/jobs/{waits}").json()["state"] == "stopped"
    one.close()


def test_a_worker_that_ends_in_mid_job_leaves_it_to_another(
    api: TestClient, house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    begun, attempts = Event(), []

    def slow(desk: Desk, name: str, wishes: dict[str, Any], tell: kinds.Tell) -> kinds.Outcome:
        attempts.append(name)
        for part in range(100 if len(attempts) == 1 else 2):
            tell(part, 100, "parts")
            begun.set()
            Event().wait(0.05)
        return kinds.Outcome("all of it", "x.json", "application/json", b"{}")

    monkeypatch.setitem(kinds.KINDS, "bundle", kinds.Kind("Slow", kinds.Right.READ, slow, lambda *_: 1))
    first = Worker(house).start()
    job = asked(api)
    assert begun.wait(20)
    first.close()
    monkeypatch.setattr(worker, "SWEEP", 0.3)
    second = Worker(house).start()
    found = ended(api, job)
    second.close()
    assert found["state"] == "done" and found["attempt"] == 2 and attempts == ["tern", "tern"]


@pytest.mark.usefixtures("working")
def test_work_is_done_for_nobody_who_may_not_and_shown_to_nobody_else(api: TestClient, house: House) -> None:
    ines = signed_in(house, "ines", [(Role.READER, "tern")])
    lucia = signed_in(house, "lucia", [(Role.READER, None)])
    assert ines.post("/api/v1/fabrics/marlin/jobs", json={"kind": "bundle"}).status_code == 403
    job = int(ines.post("/api/v1/fabrics/tern/jobs", json={"kind": "bundle"}).json()["id"])
    assert ended(ines, job)["state"] == "done"
    for path in ("", "/result"):
        assert lucia.get(f"/api/v1/jobs/{job}{path}").status_code == 404
    assert lucia.get("/api/v1/jobs").json() == [] and lucia.post(f"/api/v1/jobs/{job}/stop").status_code == 404
    grant = next(one.id for one in people.everybody(Desk(house))[2] if one.person == "ines")
    people.take(Desk(house), grant)
    people.give(Desk(house), Role.READER, "marlin", person="ines")
    assert ines.get(f"/api/v1/jobs/{job}/result").status_code == 404, "what one may see no more"
    with house.alone() as connection:
        open_change(connection, Act("job asked for"))
        asked_before = jobs.add(connection, "bundle", "tern", {}, Author("Ines", people_id(house, "ines")))
        queue.put(connection, asked_before)
    late = ended(api, asked_before)
    assert late["state"] == "failed" and "may not see tern any more" in late["words"]


def people_id(house: House, name: str) -> int:
    return next(one.id for one in people.everybody(Desk(house))[0] if one.name == name)


def test_a_job_that_needs_more_memory_than_there_is_waits_or_says_so(
    api: TestClient, house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    free = [10_000_000]
    monkeypatch.setattr(worker, "AGAIN", 1)
    monkeypatch.setattr(worker, "memory", lambda: (8_000_000_000, free[0]))
    one = Worker(house).start()
    job = asked(api)
    until(lambda: "waits for memory" in api.get(f"/api/v1/jobs/{job}").json()["words"])
    assert api.get(f"/api/v1/jobs/{job}").json()["state"] == "waiting"
    free[0] = 6_000_000_000
    assert ended(api, job)["state"] == "done", "once there is room"
    monkeypatch.setattr(worker, "memory", lambda: (1_000_000, 1_000_000))
    assert "this machine has 0.0 GB" in ended(api, asked(api))["words"]
    one.close()


def test_what_breaks_says_so_and_is_tried_again(api: TestClient, house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    def breaks(*_: object) -> None:
        raise ZeroDivisionError("MARKED-secret-of-nobody")

    monkeypatch.setattr(output, "render", breaks)
    one = Worker(house).start()
    job = asked(api)
    found = ended(api, job)
    assert found["state"] == "failed" and "MARKED" not in str(found)
    monkeypatch.undo()
    api.post(f"/api/v1/jobs/{job}/retry")
    assert ended(api, job)["state"] == "done"
    one.close()


def test_a_job_that_its_asker_did_not_live_to_queue_is_found(
    api: TestClient, house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(queue, "put", lambda *_: None)
    job = asked(api)
    monkeypatch.undo()
    monkeypatch.setattr(worker, "SWEEP", 0.2)
    with house.alone() as connection:
        connection.execute("select set_config('barrio.change', max(id)::text, true) from changes")
        connection.execute("update jobs set asked_at = now() - interval '20 seconds'")
    one = Worker(house).start()
    assert ended(api, job)["state"] == "done"
    one.close()


def test_a_job_under_which_the_database_was_lost_is_taken_up_again(
    api: TestClient, house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    lost = [True]

    def once(desk: Desk, name: str, wishes: dict[str, Any], tell: kinds.Tell) -> kinds.Outcome:
        if lost.pop() if lost else False:
            raise Unreachable("The database was lost.")
        return kinds.Outcome("all of it", "x.json", "application/json", b"{}")

    monkeypatch.setitem(kinds.KINDS, "bundle", kinds.Kind("Slow", kinds.Right.READ, once, lambda *_: 1))
    monkeypatch.setattr(worker, "SWEEP", 0.2)
    one = Worker(house).start()
    job = asked(api)
    until(lambda: not lost)
    with house.alone() as connection:
        connection.execute("update jobs set asked_at = now() - interval '20 seconds'")
    assert ended(api, job)["attempt"] == 2
    one.close()


@pytest.mark.parametrize("body", [{"kind": "sweep the yard"}, {}, {"kind": "bundle", "packed": "rar"}])
def test_work_that_there_is_not_is_refused(api: TestClient, body: dict[str, Any]) -> None:
    assert api.post("/api/v1/fabrics/tern/jobs", json=body).status_code == 422
    assert api.get("/api/v1/jobs").json() == []


@pytest.mark.long
def test_a_worker_process_killed_in_mid_job_leaves_it_to_another_process(
    api: TestClient, house: House, connections: Connections, tmp_path: Path
) -> None:
    """Kill -9 of `barrio work`, with a large fabric under way."""
    large = "fabric: large\nspines: {count: 4, model: lonja-s64}\nracks: [{racks: r001..r030, model: cantera-l48}]\n"
    api.post("/api/v1/fabrics", json={"text": large}).raise_for_status()
    environment = os.environ | {"BARRIO_DATABASE": house.connections.conninfo, "BARRIO_DATA": str(tmp_path)}
    with house.connections.connection() as connection:
        connection.execute("delete from keyring")

    def process() -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, "-m", "barrio.cli.main", "work"],
            env=environment,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )

    first = process()
    job = asked(api, "read back", "large")
    until(lambda: api.get(f"/api/v1/jobs/{job}").json()["state"] == "working", 40)
    first.send_signal(signal.SIGKILL)
    first.wait()
    second = process()
    found = ended(api, job)
    second.send_signal(signal.SIGINT)
    assert second.wait(30) == 0
    assert found["state"] == "done" and found["attempt"] in (1, 2)
    with house.alone() as connection:
        assert connection.execute("select count(*) from results where job = %s", [job]).fetchone() == (1,)


def test_the_bundle_of_a_job_is_a_bundle(api: TestClient, working: Worker) -> None:
    job = asked(api)
    ended(api, job)
    with zipfile.ZipFile(BytesIO(api.get(f"/api/v1/jobs/{job}/result").content)) as archive:
        assert "manifest.json" in archive.namelist()
