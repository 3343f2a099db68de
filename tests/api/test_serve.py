"""`barrio serve` as a process: it starts, survives being killed, and leaves nothing behind."""

from __future__ import annotations

import signal
import socket
import threading
from pathlib import Path

import httpx2
import pytest

from barrio.api.serve import run
from barrio.config import Config
from tests.processes import Server

SMALL = "fabric: small\nspines: {count: 2}\nracks:\n  - racks: r01..r03\n"


def test_ctrl_c_ends_every_process_and_a_second_start_finds_the_same_data(server: Server) -> None:
    server.start("--demo")
    with server.client() as client:
        assert {row["name"] for row in client.get("/api/v1/fabrics").json()} == {"marlin", "pelican", "tern"}
        before = client.get("/api/v1/fabrics/marlin/bundle.tar.gz").content
    assert len(server.processes()) > 1, "the server and its PostgreSQL"
    assert server.end(signal.SIGINT) == 0
    assert server.wait_until_gone() == []
    server.start("--demo")
    with server.client() as client:
        assert client.get("/api/v1/fabrics/marlin/bundle.tar.gz").content == before, "the same bytes after a restart"


@pytest.mark.parametrize("rounds", [pytest.param(8, marks=pytest.mark.long)])
def test_kill_9_in_the_middle_of_saves_loses_no_earlier_state(server: Server, rounds: int) -> None:
    server.start()
    with server.client() as client:
        assert client.post("/api/v1/fabrics", json={"text": SMALL}).status_code == 201
    for _ in range(rounds):
        acknowledged, stop = _save_until_killed(server)
        assert server.end(signal.SIGKILL) == -signal.SIGKILL
        stop.set()
        assert server.wait_until_gone() == [], "PostgreSQL ends with the server, even a killed one"
        server.start()
        with server.client() as client:
            fabric = client.get("/api/v1/fabrics/small").json()
            assert fabric["version"] in (acknowledged[-1][0], acknowledged[-1][0] + 1)
            if fabric["version"] == acknowledged[-1][0]:
                assert fabric["brief"]["spines"]["count"] == acknowledged[-1][1]
            switches = client.get("/api/v1/fabrics/small/switches").json()
            assert len(switches) == fabric["sums"]["switches"] == 6 + fabric["brief"]["spines"]["count"]
            entries = client.get("/api/v1/pools/loopbacks/entries").json()["entries"]
            assert sum(entry["state"] == "held" for entry in entries) == len(switches)


def _save_until_killed(server: Server) -> tuple[list[tuple[int, int]], threading.Event]:
    """Edit without pause until the server is gone; returns what was acknowledged once a few saves are through."""
    acknowledged: list[tuple[int, int]] = []
    enough, stop = threading.Event(), threading.Event()

    def work() -> None:
        with server.client() as client:
            version = client.get("/api/v1/fabrics/small").json()["version"]
            while not stop.is_set():
                count = 2 + version % 5
                body = {"version": version, "edits": [["spines.count", count]], "note": f"{count} spines"}
                try:
                    answer = client.post("/api/v1/fabrics/small/edits", json=body)
                except httpx2.HTTPError:
                    return
                version = answer.json()["version"]
                acknowledged.append((version, count))
                if len(acknowledged) >= 5:
                    enough.set()

    threading.Thread(target=work, daemon=True).start()
    assert enough.wait(30)
    return acknowledged, stop


def test_a_taken_port_is_said_plainly(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        assert run(Config(port=port, data=tmp_path)) == 3
    assert f"Port {port} on 127.0.0.1 is taken. Name another" in capsys.readouterr().err
    assert list(tmp_path.iterdir()) == []
