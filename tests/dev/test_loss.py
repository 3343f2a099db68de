"""PostgreSQL ends, or its disk is full: it is said at once and why, nothing is half done, and all goes on by itself."""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
from collections.abc import Iterator
from pathlib import Path

import httpx2
import pytest

from tests.processes import Server, until

SMALL = "fabric: small\nspines: {count: 2}\nracks:\n  - racks: r01..r03\n"


def health(client: httpx2.Client) -> tuple[int, str]:
    answer = client.get("/api/v1/health")
    return answer.status_code, answer.json()["why"]


def postmaster(server: Server) -> int:
    return int((server.folder / "postgres/data/postmaster.pid").read_text().split()[0])


def test_postgresql_that_is_killed_is_noticed_and_comes_back_with_all_it_had(server: Server) -> None:
    server.start()
    with server.client() as client:
        assert client.post("/api/v1/fabrics", json={"text": SMALL}).status_code == 201
        first = postmaster(server)
        os.kill(first, signal.SIGKILL)
        # That it is away may last too short for whoever asks; the log has it in any case.
        until(lambda: another(server, first) and health(client) == (200, ""))
        edited = {"version": 1, "edits": [["spines.count", 3]], "note": "3 spines"}
        assert client.post("/api/v1/fabrics/small/edits", json=edited).status_code == 200
    server.end()
    lost = next(line for line in server.said if "database lost" in line)
    assert "PostgreSQL ended" in lost or "does not answer" in lost
    assert any("database back" in line for line in server.said)


def another(server: Server, first: int) -> bool:
    """Whether another PostgreSQL runs in the place of the first."""
    with contextlib.suppress(FileNotFoundError, IndexError, ValueError):
        return postmaster(server) != first
    return False


@pytest.mark.long
def test_a_save_that_meets_a_stopped_database_is_told_so_and_saved_nothing(server: Server) -> None:
    server.start()
    with server.client() as client:
        assert client.post("/api/v1/fabrics", json={"text": SMALL}).status_code == 201
        # Stopped, it neither answers nor ends, so nothing brings it back.
        main = postmaster(server)
        family = [main, *(int(pid) for pid in Path(f"/proc/{main}/task/{main}/children").read_text().split())]
        for pid in family:
            os.kill(pid, signal.SIGSTOP)
        try:
            until(lambda: health(client)[0] == 503)
            edited = {"version": 1, "edits": [["spines.count", 3]], "note": "3 spines"}
            answer = client.post("/api/v1/fabrics/small/edits", json=edited)
            assert answer.status_code == 503 and "Nothing was saved" in answer.json()["detail"]
        finally:
            for pid in family:
                os.kill(pid, signal.SIGCONT)
        until(lambda: health(client)[0] == 200)
        assert client.get("/api/v1/fabrics/small").json()["version"] == 1


@pytest.fixture
def small_disk(server: Server) -> Iterator[Server]:
    """A server whose data lie on a disk of 160 MB."""
    server.folder.mkdir()
    subprocess.run(["mount", "-t", "tmpfs", "-o", "size=160m", "tmpfs", server.folder], check=True)
    server.folder.chmod(0o755)
    yield server
    if server.process is not None and server.process.poll() is None:
        server.end()
    server.wait_until_gone()
    subprocess.run(["umount", "--lazy", server.folder], check=True)


@pytest.mark.long
def test_a_full_disk_is_named_and_room_on_it_is_all_that_is_needed(small_disk: Server) -> None:
    small_disk.start()
    with small_disk.client() as client:
        assert client.post("/api/v1/fabrics", json={"text": SMALL}).status_code == 201
        filler = small_disk.folder / "filler"
        with filler.open("wb", buffering=0) as out, contextlib.suppress(OSError):
            while out.write(b"x" * 65536):
                out.flush()
        until(lambda: health(client)[0] == 503)
        assert "disk" in health(client)[1] and str(small_disk.folder) in health(client)[1]
        text = SMALL.replace("small", "other").replace("r03", "r12")
        until(lambda: client.post("/api/v1/fabrics", json={"text": text}).status_code == 503)
        assert client.get("/api/v1/fabrics/small").status_code == 200, "what is there can still be read"
        filler.unlink()
        until(lambda: health(client) == (200, ""))
        assert client.post("/api/v1/fabrics", json={"text": text}).status_code == 201
