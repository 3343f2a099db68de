"""Agents, the server and the database are killed at any moment of stagings: nothing is lost, nothing stays half, nothing is done twice to harm."""

from __future__ import annotations

import io
import os
import random
import signal
import socket
import threading
import time
import zipfile
from contextlib import suppress
from pathlib import Path

import httpx2
import pytest

from barrio.staging.faults import MOMENTS
from barrio.staging.simulate import Light
from tests.dev.test_loss import health, postmaster
from tests.processes import Server, server, until
from tests.staging.conftest import NAMES, TERN, number

__all__ = ["server"]
F = "/api/v1/fabrics/tern"


class Rounds:
    """A real server, six light switches, and a chance by which something is killed."""

    def __init__(self, server: Server, folder: Path) -> None:
        self.server, self.chance = server, random.Random(12)
        with socket.create_server(("127.0.0.1", 0)) as free:
            self.port = free.getsockname()[1]
        server.start(port=self.port)
        self.stop = threading.Event()
        self.lights = [Light(server.address, folder / name, {"serial": number(name)}) for name in NAMES]
        self.threads = [threading.Thread(target=one.run, args=(self.stop, 0.05), daemon=True) for one in self.lights]

    def api(self, method: str, path: str, json: object = None) -> httpx2.Response:
        """A request that is sent until it is answered, since whoever answers may just be killed."""
        for _ in range(200):
            with suppress(httpx2.HTTPError), self.server.client() as client:
                answer = client.request(method, f"{F}{path}", json=json)
                if answer.status_code < 500:
                    return answer
            time.sleep(0.1)
        raise AssertionError("nobody answers")

    def prepare(self) -> None:
        with self.server.client() as client:
            client.post("/api/v1/fabrics", json={"text": TERN}).raise_for_status()
        self.api("PUT", "/review/rule", {"agree": 0, "people": []})
        version = self.api("GET", "").json()["version"]
        sealed = self.api("POST", "/editions", {"version": version, "title": "as cabled"})
        assert sealed.status_code == 201, sealed.text
        for name in NAMES:
            self.api("PUT", f"/staging/roll/{name}/box", {"serial": number(name)})
        self.api("PUT", "/staging/ways", {"address": "", "admits": "serial", "lend": ""})
        for thread in self.threads:
            thread.start()
        until(lambda: all(one["admitted"] for one in self.api("GET", "/staging/roll").json()), 60)

    def wanted(self) -> dict[str, dict[str, bytes]]:
        """The files that each is to end with."""
        with zipfile.ZipFile(io.BytesIO(self.api("GET", "/bundle.zip").content)) as packed:
            return {
                name: {path.removeprefix(f"switches/{name}/"): packed.read(path) for path in packed.namelist() if path.startswith(f"switches/{name}/")}
                for name in NAMES
            }  # fmt: skip

    def kill(self) -> None:
        """One of them, at any moment; all start again by themselves, or at once by whoever looks after the server."""
        time.sleep(self.chance.random())
        what = self.chance.choice(["agent", "agents", "server", "database"])
        if what == "server":
            assert self.server.process is not None
            self.server.process.kill()
            self.server.process.wait(20)
            assert self.server.process.stdout is not None
            self.server.process.stdout.close()
            self.server.start(port=self.port)
        elif what == "database":
            with suppress(OSError, ValueError):
                os.kill(postmaster(self.server), signal.SIGKILL)
            with self.server.client() as client:
                until(lambda: _well(client), 60)
        else:
            for one in self.chance.sample(self.lights, 1 if what == "agent" else 4):
                one.moments.append(self.chance.choice(MOMENTS))

    def drift(self) -> None:
        """Files of some switches are other than they were, so that there is something to do."""
        for one in self.chance.sample(self.lights, 3):
            for path in self.chance.sample(["etc/hosts", "etc/frr/frr.conf", "etc/nftables.conf"], 2):
                (one.folder / "root" / path).write_text("drifted\n")

    def round(self) -> None:
        begun = self.api("POST", "/staging", {"at_once": 6})
        # Where the answer was lost with the server, it stands all the same.
        assert begun.status_code in (201, 422), begun.text
        self.kill()
        until(lambda: self.api("GET", "/staging").json()["state"] != "runs", 120)
        found = self.api("GET", "/staging").json()
        assert found["state"] == "done", [(one["name"], one["words"]) for one in found["switches"]]
        for name in NAMES:
            lines = self.api("GET", f"/staging/log/{found['id']}/{name}").json()
            assert sum(one["step"] == "handed over" for one in lines) == 1, "once, and not twice"


def _well(client: httpx2.Client) -> bool:
    with suppress(httpx2.HTTPError):
        return health(client)[0] == 200
    return False


@pytest.mark.parametrize("rounds", [1, pytest.param(250, marks=pytest.mark.long)])
def test_whatever_is_killed_every_switch_ends_with_just_its_files(server: Server, tmp_path: Path, rounds: int) -> None:
    every = Rounds(server, tmp_path / "lights")
    every.prepare()
    wanted = every.wanted()
    try:
        for _ in range(rounds):
            every.round()
            for name, one in zip(NAMES, every.lights, strict=True):
                assert {path: one.file(path) for path in wanted[name]} == wanted[name]
            every.drift()
    finally:
        every.stop.set()
        for thread in every.threads:
            thread.join(20)
