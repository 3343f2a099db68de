"""A rehearsal over several machines: a worker has another one's ground, frames go between them, and whoever dies is named and leaves nothing."""

from __future__ import annotations

import signal
import socket
import ssl
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import ExitStack, closing, suppress
from pathlib import Path
from typing import Any, Protocol

import pytest
from fastapi.testclient import TestClient
from psycopg.conninfo import conninfo_to_dict

from barrio.app.house import House
from barrio.jobs import lending
from barrio.rehearsal import room
from barrio.rehearsal.afar import Afar
from barrio.rehearsal.ground import NoGround
from barrio.rehearsal.room import Here
from tests.api.conftest import TERN
from tests.jobs.test_rehearsals import AT, MINE, QUICK, begun, labs, told
from tests.machines import machines
from tests.processes import until

WORK = """
import sys, time
from barrio.app.house import House
from barrio.jobs import lending
from barrio.jobs.worker import Worker
from barrio.rehearsal import room
from barrio.store.database import connect
room.STEM, lending.PATIENCE = sys.argv[2], float(sys.argv[4])
Worker(House(connect(sys.argv[1])), reach=sys.argv[3]).start()
time.sleep(600)
"""


@pytest.fixture(autouse=True)
def stem(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(room, "STEM", MINE)


@pytest.fixture
def house(house_of: Callable[..., House]) -> House:
    return house_of(TERN)


class Workers(Protocol):
    def __call__(self, count: int, *, patience: float = 60) -> list[subprocess.Popen[bytes]]: ...


@pytest.fixture
def workers(house: House) -> Iterator[Workers]:
    """Starts workers, each on a machine of its own, which has an address that the others reach."""
    conninfo = house.connections.conninfo
    given = conninfo() if callable(conninfo) else conninfo
    running: list[subprocess.Popen[bytes]] = []

    with ExitStack() as stack:
        there = stack.enter_context(machines(int(str(conninfo_to_dict(given)["port"])), 2))

        def start(count: int, *, patience: float = 60) -> list[subprocess.Popen[bytes]]:
            for name, address in list(there.items())[:count]:
                words = ["ip", "netns", "exec", name, sys.executable, "-c", WORK, given, MINE, address, str(patience)]
                running.append(subprocess.Popen(words))
            return running

        yield start
        for one in running:
            one.kill()
            one.wait()


def holds(process: int) -> set[Path]:
    """The labs whose folders a process holds, as long as it lives."""
    found: set[Path] = set()
    for one in Path(f"/proc/{process}/fd").iterdir():
        # A file may be closed while it is looked at.
        with suppress(OSError):
            found.add(one.readlink())
    return {one.parent for one in found if one.name == "held"}


def switches(api: TestClient, job: int, word: str) -> int:
    return sum(one["words"] == word for one in told(api, job)["switches"])


@pytest.mark.parametrize(
    ("questions", "drills"),
    [
        pytest.param(["sessions", "bfd", "routes"], [], marks=pytest.mark.long),
        pytest.param(["cables", "sessions"], ["spine-1:p2"], marks=pytest.mark.long),
    ],
)
def test_two_machines_rehearse_one_fabric_with_cables_between_them(
    api: TestClient, workers: Workers, questions: list[str], drills: list[str]
) -> None:
    workers(2)
    job = begun(api, machines=2, questions=questions, drills=drills)
    until(lambda: len(labs()) == 2, 60)
    until(lambda: told(api, job)["state"] == "done", 200)
    found = told(api, job)
    assert found["ground"] == "2 × this machine's kernel" and switches(api, job, "runs") == 3
    states: dict[str, Any] = {one["question"]: (one["state"], one["failed"]) for one in found["answers"]}
    assert states == dict.fromkeys(questions, ("yes", 0))
    assert not drills or "1 of 1 drills as foretold" in found["words"], (
        "a cable between machines goes dark at both ends"
    )
    until(lambda: labs() == set(), 20)


@pytest.mark.long
def test_a_machine_that_vanishes_is_named_and_nothing_of_the_lab_is_left(api: TestClient, workers: Workers) -> None:
    running = workers(2)
    job = begun(api, machines=2, questions=["sessions"])
    until(lambda: any(holds(one.pid) for one in running), 120)
    # Whoever makes a lab first has the job, and asks the other for one.
    [lender] = [one for one in running if not holds(one.pid)]
    until(lambda: switches(api, job, "boots") > 0 and bool(holds(lender.pid)), 120)
    lender.send_signal(signal.SIGKILL)
    until(lambda: told(api, job)["state"] == "failed", 120)
    assert "which lent a part of the lab, is gone" in told(api, job)["words"]
    until(lambda: labs() == set(), 20)


@pytest.mark.long
def test_who_waits_in_vain_for_machines_is_told_the_way_out(api: TestClient, workers: Workers) -> None:
    workers(1, patience=6)
    job = begun(api, machines=2)
    until(lambda: told(api, job)["state"] == "failed", 60)
    assert "0 of 1 further machines answered" in told(api, job)["words"]
    assert "BARRIO_REACH" in told(api, job)["words"] and labs() == set()
    refused = api.post(AT, json=QUICK | {"machines": 17})
    assert refused.status_code == 422


def test_only_who_has_the_key_that_was_told_is_let_in() -> None:
    mine, theirs, other = lending.new_key(), lending.new_key(), lending.new_key()
    with socket.create_server(("127.0.0.1", 0)) as listener:
        context = mine.context(ssl.PROTOCOL_TLS_SERVER, theirs.certificate)
        ground, ending = Here(True), threading.Event()
        waiting = threading.Thread(target=lending._wait_on, args=(listener, context, ground, ending))
        waiting.start()

        def come(key: lending.Key, knows: lending.Key) -> Afar:
            raw = socket.create_connection(listener.getsockname())
            return Afar(key.context(ssl.PROTOCOL_TLS_CLIENT, knows.certificate).wrap_socket(raw), "there")

        with pytest.raises(ssl.SSLError):
            come(theirs, other)
        with pytest.raises((NoGround, OSError)):
            come(other, mine)
        with closing(come(theirs, mine)) as far:
            assert far.run("cat", given="x" * 300_000).out == "x" * 300_000
            far.write(far.folder / "a/word", "written afar")
            assert far.read(far.folder / "a/word") == "written afar" == (ground.folder / "a/word").read_text()
            with pytest.raises(NoGround):
                far.write(far.folder / "../elsewhere", "no")
        waiting.join(20)
        assert not waiting.is_alive() and not ground.folder.exists(), "the ground ends with the line"
