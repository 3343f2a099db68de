"""The agent as it runs on a switch: one file that is fetched, a process of its own, a key that openssl made; and its power goes at any moment."""

from __future__ import annotations

import hashlib
import json
import os
import random
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import pytest

from barrio.app import rollcall, stagings
from barrio.app.boot import NotLetIn, Signed
from barrio.core.staging.boxes import box
from barrio.staging import forward
from barrio.staging.agent import Agent, Hands, Key, Server, Wrong, awaited, put
from barrio.staging.gate import Gate
from barrio.staging.simulate import LightKey
from tests.processes import until
from tests.staging.conftest import Hall


def test_a_key_is_made_once_is_nobody_elses_to_read_and_signs_as_barrio_checks(tmp_path: Path) -> None:
    key = Key(tmp_path)
    assert (tmp_path / "key.pem").stat().st_mode & 0o777 == 0o600 and len(key.public) == 32
    assert Key(tmp_path).public == key.public, "the same at every start"
    body = b'{"serial": "A-1"}'
    message = b"\n".join((b"POST", b"/boot/v1/ask", b"7", hashlib.sha256(body).hexdigest().encode()))
    signed = Signed(key.public, 7, key.sign(message), "POST", "/boot/v1/ask", body)
    signed.check()
    for other in (
        Signed(signed.key, 8, signed.signature, "POST", signed.path, body),
        Signed(signed.key, 7, signed.signature, "POST", "/boot/v1/files/0", body),
        Signed(signed.key, 7, signed.signature, "POST", signed.path, body + b" "),
        Signed(b"\0" * 32, 7, signed.signature, "POST", signed.path, body),
        Signed(b"short", 7, signed.signature, "POST", signed.path, body),
    ):
        with pytest.raises(NotLetIn):
            other.check()


def test_commands_are_run_and_what_they_answer_is_kept_short() -> None:
    hands = Hands()
    said = hands.run(["sh", "-c", "sleep 0.3; echo out; echo err >&2; exit 3"])
    assert said.pop("seconds") > 0.2
    assert said == {"command": "sh -c sleep 0.3; echo out; echo err >&2; exit 3", "code": 3, "output": "out\nerr\n"}
    assert hands.run(["no-such-program"])["code"] == 127
    assert hands.run(["sleep", "5"], seconds=0.2)["code"] == 127
    assert len(hands.run(["sh", "-c", "yes | head -c 100000"])["output"]) == 20_000


def test_a_file_is_in_place_as_a_whole_with_its_mode(tmp_path: Path) -> None:
    put(tmp_path / "etc/a", b"one", 0o600)
    put(tmp_path / "etc/a", b"two", 0o640)
    assert (tmp_path / "etc/a").read_bytes() == b"two" and (tmp_path / "etc/a").stat().st_mode & 0o777 == 0o640
    assert [one.name for one in (tmp_path / "etc").iterdir()] == ["a"], "nothing is left beside it"


def test_the_agent_that_is_fetched_stages_a_switch_though_it_is_killed_again_and_again(
    hall: Hall, tmp_path: Path
) -> None:
    program, words = tmp_path / "barrio-agent", tmp_path / "agent.json"
    with urllib.request.urlopen(f"{hall.address}/boot/v1/agent") as answer:
        program.write_bytes(answer.read())
    with urllib.request.urlopen(f"{hall.address}/boot/v1/agent.service") as answer:
        assert b"/usr/local/sbin/barrio-agent" in answer.read()
    words.write_text(
        json.dumps({"server": hall.address, "place": str(tmp_path / "place"), "root": str(tmp_path / "root"), "serial": "K-1", "mac": "", "model": "", "light": True})
    )  # fmt: skip
    rollcall.bind(hall.desk, "tern", "leaf-t01", box("K-1"))

    def start() -> subprocess.Popen[bytes]:
        return subprocess.Popen(["/usr/bin/python3", "-I", str(program), str(words)], stderr=subprocess.DEVNULL)

    running = start()
    try:
        until(lambda: bool(hall.knocking()), 20)
        rollcall.admit(hall.desk, "tern", hall.knocking()[0].knock.key, "leaf-t01")
        stagings.begin(hall.desk, "tern", stagings.Wanted(switches=("leaf-t01",)))
        chance = random.Random(8572)
        for _ in range(8):
            time.sleep(chance.uniform(0.05, 0.5))
            os.kill(running.pid, signal.SIGKILL)
            running.wait()
            running = start()
        hall.done()
    finally:
        running.kill()
        running.wait()
    wanted = hall.wanted("leaf-t01")
    root = tmp_path / "root"
    assert {str(one.relative_to(root)) for one in root.rglob("*") if one.is_file()} == set(wanted)
    assert all((root / path).read_text() == text for path, text in wanted.items())


def test_with_the_old_files_barrio_is_reached_in_the_old_way_again(tmp_path: Path) -> None:
    """A switch that was reached by the table of its new files, and puts these back, would otherwise not be heard of again."""
    server = Server("http://127.0.0.1:9", LightKey(tmp_path), tmp_path)
    one = Agent(server, tmp_path, tmp_path / "root", {}, Hands(light=True))
    put(tmp_path / "next/etc/a", b"new")
    one.note(prepared=["etc/a"], wanted=["etc/a"])
    task = {"id": "1/a", "set": 1, "seconds": -1, "applies": [], "device": "mgmt"}
    one._commit(task, [])
    assert one.server.device == "mgmt" and (tmp_path / "root/etc/a").exists()
    one.turn()
    assert not (tmp_path / "root/etc/a").exists() and one.journal["report"]["task"] == "1/a"
    assert one.server.device == one.journal["device"] == ""


def test_whom_no_dhcp_server_answers_asks_anew(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """ifupdown2 ends a client that nobody answered, and would never start it again."""
    monkeypatch.setattr("barrio.staging.agent.LEASES", tmp_path)
    monkeypatch.setattr("barrio.staging.agent.time.sleep", lambda seconds: None)
    told = iter(["", "", "", "https://barrio.example"])
    monkeypatch.setattr("barrio.staging.agent.named_by_dhcp", lambda: next(told))
    monkeypatch.setattr("barrio.staging.agent.ASKS_AGAIN", 2)
    hands, ran = Hands(light=True), []
    monkeypatch.setattr(hands, "run", ran.append)
    assert awaited({}, hands) == "https://barrio.example"
    assert ran == [["ifreload", "--all"]]


def test_what_openssl_does_not_do_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("PATH", str(tmp_path))
    (tmp_path / "openssl").write_text("#!/bin/sh\necho no keys today >&2\nexit 1\n")
    (tmp_path / "openssl").chmod(0o755)
    with pytest.raises(Wrong, match="openssl failed: no keys today"):
        Key(tmp_path)


@pytest.mark.parametrize(("days", "answered"), [(2, True), (-1, False)])
def test_nothing_is_asked_of_somebody_whose_certificate_has_ended(
    hall: Hall, tmp_path: Path, days: int, answered: bool
) -> None:
    """By TLS through the gate of a simulated hall, as its switches come."""
    gate = Gate(tmp_path, "127.0.0.1", hall.address, days)
    (tmp_path / "trust.pem").write_bytes(gate.trust)
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    words = [sys.executable, forward.__file__, "127.0.0.1", str(port), str(gate.path)]
    with subprocess.Popen(words) as forwarding:
        try:
            until(lambda: socket.socket().connect_ex(("127.0.0.1", port)) == 0, 10)
            server = Server(f"https://127.0.0.1:{port}", LightKey(tmp_path), tmp_path, str(tmp_path / "trust.pem"))
            if answered:
                assert server.ask({"serial": "T-1"})["words"] == "waits to be let in"
            else:
                with pytest.raises(OSError, match="certificate has expired"):
                    server.ask({"serial": "T-1"})
                assert hall.knocking() == []
        finally:
            forwarding.terminate()
            gate.close()
