"""Two servers and two workers on one database, behind a proxy; one of them is killed every few seconds while all kinds of work go on.

How long it goes on is `BARRIO_TESTS_SECONDS`, 40 when nothing is said.
"""

from __future__ import annotations

import http.client
import itertools
import json
import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import IO, Any

import httpx2
import pytest

from barrio.app.house import House
from tests.api.conftest import MARLIN, TERN
from tests.people import PASSWORD, set_password_of_olmo
from tests.processes import until
from tests.signed import BEARER

SECONDS = float(os.environ.get("BARRIO_TESTS_SECONDS", "40"))
EVERY = 4.0
"""Seconds between two kills."""


class Many:
    """Processes of Barrio over one database: `serve` and `work`, each started again when it was killed."""

    def __init__(self, conninfo: str, folder: Path) -> None:
        self.environment = os.environ | {
            "BARRIO_DATABASE": conninfo, "BARRIO_KEY_FILE": str(folder / "key"), "BARRIO_DATA": str(folder),
            "BARRIO_WORKER": "false", "BARRIO_PROXIES": '["127.0.0.1"]', "PYTHONUNBUFFERED": "1",
        }  # fmt: skip
        self.ports = [_free_port(), _free_port()]
        self.folder = folder
        # The two workers are told apart by their data folders, in which they keep nothing.
        workers = [["work", "--data", str(folder / name)] for name in ("one", "two")]
        self.commands = [["serve", "--port", str(port)] for port in self.ports] + workers
        self.running = [self._start(command) for command in self.commands]

    def _start(self, command: list[str]) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, "-m", "barrio.cli.main", *command],
            env=self.environment, stdout=self._said(command, "wb"), stderr=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip

    def _said(self, command: list[str], mode: str) -> IO[bytes]:
        """What a process says, in a file; each has its own, which the next one of its kind begins anew."""
        return (self.folder / f"said-{self.commands.index(command)}").open(mode)

    def ready(self, port: int) -> bool:
        try:
            return httpx2.get(f"http://127.0.0.1:{port}/api/v1/ready", timeout=5).status_code == 200
        except httpx2.HTTPError:
            return False

    def all_up(self) -> None:
        until(lambda: all(map(self.ready, self.ports)), 60)
        # A worker that is still on its way to its work cannot be told to end it.
        until(lambda: all(b"Working" in self._said(one, "rb").read() for one in self.commands if one[0] == "work"), 60)
        assert all(one.poll() is None for one in self.running)

    def kill(self, which: int) -> None:
        """End one without a word, and start it again."""
        self.running[which].send_signal(signal.SIGKILL)
        self.running[which].wait()
        time.sleep(0.5)
        self.running[which] = self._start(self.commands[which])
        self.all_up()

    def end(self) -> list[int]:
        for one in self.running:
            one.send_signal(signal.SIGINT)
        return [one.wait(30) for one in self.running]


def _free_port() -> int:
    with ThreadingHTTPServer(("127.0.0.1", 0), BaseHTTPRequestHandler) as taken:
        return int(taken.server_address[1])


def proxy(ports: list[int]) -> ThreadingHTTPServer:
    """A plain proxy: each request goes to one of the servers, to the other when nobody listens there; when one dies in mid-answer, it says so."""
    turn = itertools.count()

    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def pass_on(self) -> None:
            body = self.rfile.read(int(self.headers.get("Content-Length", 0)))
            at = next(turn)
            for port in (ports[at % 2], ports[(at + 1) % 2]):
                server = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
                try:
                    server.connect()
                except OSError:
                    continue
                self.exchange(server, body)
                return
            self.broken()

        def exchange(self, server: http.client.HTTPConnection, body: bytes) -> None:
            begun = False
            try:
                kept = {name: value for name, value in self.headers.items() if name.lower() != "connection"}
                server.request(self.command, self.path, body or None, kept | {"X-Forwarded-For": "10.1.2.3"})
                answer = server.getresponse()
                begun = True
                self.send_response(answer.status)
                for name, value in answer.getheaders():
                    if name.lower() not in ("connection", "transfer-encoding", "content-length", "date", "server"):
                        self.send_header(name, value)
                self.send_header("Connection", "close")
                self.end_headers()
                while piece := answer.read1(65536):
                    self.wfile.write(piece)
                    self.wfile.flush()
                self.close_connection = True
            except (OSError, http.client.HTTPException):
                self.close_connection = True
                if not begun:
                    self.broken()
                else:
                    # Whoever reads must not take half an answer for a whole one.
                    self.connection.close()
            finally:
                server.close()

        def broken(self) -> None:
            self.send_response(502)
            self.send_header("Content-Length", "0")
            self.end_headers()

        do_GET = do_POST = do_PUT = do_DELETE = pass_on

        def log_message(self, *_: Any) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server


AGAIN = {502, 503}
"""Answers that say: not now, try again."""


class Load:
    """Everything that people and programs do at once; what they were answered is counted, and what they should not have been is kept."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.answers: Counter[str] = Counter()
        self.wrong: list[str] = []
        self.over = threading.Event()
        self.numbers = itertools.count(1)

    def ask(self, client: httpx2.Client, method: str, path: str, may: tuple[int, ...] = (), **more: Any) -> Any:
        """Ask once; the answer, or nothing when it is to be tried again."""
        try:
            answer = client.request(method, f"/api/v1{path}", **more)
        except httpx2.HTTPError:
            self.answers["cut off"] += 1
            return None
        kind = "done" if answer.is_success else "again" if answer.status_code in AGAIN else str(answer.status_code)
        self.answers[kind] += 1
        if kind not in ("done", "again") and answer.status_code not in may:
            self.wrong.append(f"{method} {path}: {answer.status_code} {answer.text[:200]}")
        return answer if answer.is_success else None

    def goes_on(self, do: Callable[[httpx2.Client, random.Random], None], seed: int) -> threading.Thread:
        def run() -> None:
            chance = random.Random(seed)
            with httpx2.Client(base_url=self.address, headers=BEARER, timeout=60) as client:
                while not self.over.is_set():
                    do(client, chance)

        thread = threading.Thread(target=run)
        thread.start()
        return thread

    def edit(self, client: httpx2.Client, chance: random.Random) -> None:
        """Two do this at once, so that either may be told that the other was first."""
        found = self.ask(client, "GET", "/fabrics/marlin/version")
        if found is None:
            return
        version = found.json()["version"]
        edits = [["spines.count", chance.choice((2, 3, 4))], ["title", f"Marlin {next(self.numbers)}"]]
        said = {"version": version, "edits": [chance.choice(edits)], "note": "by load"}
        self.ask(client, "POST", "/fabrics/marlin/edits", (409, 422), json=said)

    def come_and_go(self, client: httpx2.Client, chance: random.Random) -> None:
        """A fabric that is made, and deleted again; one of which the answer was lost may be there, or not."""
        name = f"gull-{next(self.numbers)}"
        text = f"fabric: {name}\nspines: {{count: 2}}\nracks: [{{racks: r1..r{chance.randint(1, 3)}}}]\n"
        self.ask(client, "POST", "/fabrics", json={"text": text})
        self.ask(client, "DELETE", f"/fabrics/{name}", (404, 409, 422), params={"version": 1})

    def leave_work(self, client: httpx2.Client, chance: random.Random) -> None:
        kind = chance.choice(("bundle", "read back", "sheets"))
        self.ask(client, "POST", "/fabrics/tern/jobs", json={"kind": kind})
        self.over.wait(0.4)

    def look(self, client: httpx2.Client, chance: random.Random) -> None:
        path = chance.choice(("", "/marlin", "/tern/bundle.zip", "/marlin/numbers.csv", "/tern/switches"))
        self.ask(client, "GET", f"/fabrics{path}")

    def sign_in(self, client: httpx2.Client, chance: random.Random) -> None:
        said = {"name": "olmo", "password": PASSWORD}
        with httpx2.Client(base_url=self.address, headers={"Origin": self.address}, timeout=60) as mine:
            if self.ask(mine, "POST", "/session", (429,), json=said) is not None:
                self.ask(mine, "GET", "/session")
                self.ask(mine, "DELETE", "/session")
        self.over.wait(0.5)

    def listen(self, client: httpx2.Client, chance: random.Random) -> None:
        """A page that is open; when its stream is cut off, it asks again and is told how all stands."""
        try:
            with client.stream("GET", "/api/v1/events", timeout=20) as answer:
                for line in answer.iter_lines():
                    if line.startswith("event:"):
                        self.answers[line] += 1
                    if self.over.is_set():
                        return
        except httpx2.HTTPError:
            self.answers["stream cut off"] += 1


@pytest.fixture
def folder() -> Iterator[Path]:
    made = Path(tempfile.mkdtemp(prefix="barrio-many-"))
    yield made
    shutil.rmtree(made)


@pytest.mark.long
def test_whoever_dies_nobody_is_answered_wrong_and_nothing_is_half_done(
    house_of: Callable[..., House], folder: Path
) -> None:
    house = house_of(MARLIN, TERN)
    set_password_of_olmo(house)
    many = Many(str(house.connections.conninfo), folder)
    many.all_up()
    front = proxy(many.ports)
    load = Load(f"http://127.0.0.1:{front.server_address[1]}")
    doing = [load.edit, load.edit, load.come_and_go, load.leave_work, load.look, load.look, load.sign_in, load.listen]
    threads = [load.goes_on(do, seed) for seed, do in enumerate(doing)]
    killed: Counter[str] = Counter()
    end = time.monotonic() + SECONDS
    for which in itertools.cycle((0, 2, 1, 3)):
        time.sleep(EVERY)
        if time.monotonic() > end:
            break
        many.kill(which)
        killed[many.commands[which][0]] += 1
    load.over.set()
    for thread in threads:
        thread.join(60)
    many.all_up()
    with house.alone() as connection:
        left = "select count(*) from jobs where state in ('waiting', 'working')"
        until(lambda: connection.execute(left).fetchone() == (0,), 90)
        ended = dict(connection.execute("select state, count(*) from jobs group by state").fetchall())
        lost = connection.execute("select id from jobs where state = 'done' and id not in (select job from results)")
        assert lost.fetchall() == [] and set(ended) == {"done"}, ended
    print(json.dumps({"killed": killed, "answers": load.answers, "jobs": ended}))
    assert load.wrong == []
    with httpx2.Client(base_url=load.address, headers=BEARER, timeout=60) as client:
        assert client.get("/api/v1/ledger/audit").json() == []
        for row in client.get("/api/v1/fabrics").json():
            assert client.get(f"/api/v1/fabrics/{row['name']}").status_code == 200
    both = [
        httpx2.get(f"http://127.0.0.1:{port}/api/v1/fabrics/marlin/numbers.csv", headers=BEARER) for port in many.ports
    ]
    assert both[0].content == both[1].content and both[0].status_code == 200
    assert killed["serve"] and killed["work"] and load.answers["done"] > 100 and load.answers["event: standing"] > 1
    front.shutdown()
    assert many.end() == [0, 0, 0, 0]
