"""A private PostgreSQL: made on first use in a folder of our own, on loopback, as a user that is not root.

The server listens on 127.0.0.1 and a free port, and takes only the password that stands in a file beside it, readable by
its owner alone. It ends with the process that started it, even when that one is killed.
"""

from __future__ import annotations

import os
import pwd
import secrets
import shutil
import signal
import socket
import subprocess
import time
from pathlib import Path

import psycopg
from psycopg.conninfo import make_conninfo

_SERVER_USER = "postgres"
_SETTINGS = ("shared_buffers=256MB", "work_mem=32MB", "max_wal_size=2GB", "jit=off")
"""Room for a ledger of a million entries; no compiling of queries that take milliseconds. All else is PostgreSQL's own."""


class ClusterError(Exception):
    """PostgreSQL cannot be started here; the message says why and what to do."""


class Cluster:
    """One server with its data folder. `start` makes what is missing; `stop` ends it."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.data = folder / "data"
        self._secret = folder / "password"
        self._process: subprocess.Popen[bytes] | None = None
        self.port = 0

    @property
    def conninfo(self) -> str:
        return make_conninfo(
            host="127.0.0.1", port=self.port, user="barrio", dbname="postgres", password=self._secret.read_text()
        )

    def start(self) -> None:
        """Start the server, making its data first if there is none. Raises `ClusterError`."""
        programs = _programs()
        self._prepare()
        if not (self.data / "PG_VERSION").exists():
            self._init(programs)
        self._end_leftover()
        log = self.folder / "server.log"
        for _ in range(5):
            self.port = _free_port()
            with log.open("ab") as out:
                self._process = subprocess.Popen(
                    [
                        *_as_server_user(),
                        str(programs / "postgres"),
                        *("-D", str(self.data), "-p", str(self.port), "-h", "127.0.0.1", "-k", str(self.folder)),
                        *(word for setting in _SETTINGS for word in ("-c", setting)),
                    ],
                    stdout=out,
                    stderr=out,
                    stdin=subprocess.DEVNULL,
                    start_new_session=True,
                )
            if self._wait_until_ready():
                return
        raise ClusterError(f"PostgreSQL did not start; its log is {log}.")

    def stop(self) -> None:
        """End the server, connections included, and wait for it."""
        if self._process is None:
            return
        if self._process.poll() is None:
            # SIGINT is PostgreSQL's fast shutdown.
            self._process.send_signal(signal.SIGINT)
            try:
                self._process.wait(20)
            except subprocess.TimeoutExpired:
                self._process.send_signal(signal.SIGQUIT)
                self._process.wait()
        self._process = None

    def _prepare(self) -> None:
        self.folder.mkdir(parents=True, exist_ok=True)
        if not self._secret.exists():
            self._secret.touch(0o600)
            self._secret.write_text(secrets.token_urlsafe(24))
        if os.geteuid() == 0:
            try:
                user = pwd.getpwnam(_SERVER_USER)
            except KeyError:
                raise ClusterError(
                    f"PostgreSQL may not run as root and there is no user {_SERVER_USER}. "
                    "Install Debian's postgresql, or run Barrio as another user."
                ) from None
            for place in (self.folder, self._secret):
                os.chown(place, user.pw_uid, user.pw_gid)
            reach = subprocess.run([*_as_server_user(), "test", "-w", str(self.folder)], check=False)
            if reach.returncode:
                raise ClusterError(
                    f"User {_SERVER_USER} cannot reach {self.folder}, since a folder above it is closed to others. "
                    "Move the clone to a folder that others may enter (such as /srv), or run Barrio as another user."
                )
        self.folder.chmod(0o700)

    def _init(self, programs: Path) -> None:
        beside = self.folder / "data.new"
        if beside.exists():
            shutil.rmtree(beside)
        done = subprocess.run(
            [
                *_as_server_user(),
                str(programs / "initdb"),
                *("-D", str(beside), "-U", "barrio", "--pwfile", str(self._secret)),
                *("-A", "scram-sha-256", "-E", "UTF8", "--locale", "C.UTF-8", "--no-instructions"),
            ],
            capture_output=True,
            text=True,
            check=False,
        )
        if done.returncode:
            raise ClusterError(f"PostgreSQL's initdb failed: {done.stderr.strip()}")
        beside.rename(self.data)

    def _end_leftover(self) -> None:
        """End a server of this folder that outlived its Barrio."""
        try:
            pid = int((self.data / "postmaster.pid").read_text().splitlines()[0])
            command = Path(f"/proc/{pid}/cmdline").read_bytes().decode(errors="replace")
        except (OSError, ValueError, IndexError):
            return
        if str(self.data) not in command.split("\0"):
            return
        os.kill(pid, signal.SIGINT)
        until = time.monotonic() + 20
        while Path(f"/proc/{pid}").exists() and time.monotonic() < until:
            time.sleep(0.05)

    def _wait_until_ready(self) -> bool:
        assert self._process is not None
        until = time.monotonic() + 30
        while time.monotonic() < until and self._process.poll() is None:
            try:
                psycopg.connect(self.conninfo, connect_timeout=2).close()
            except psycopg.OperationalError:
                time.sleep(0.05)
            else:
                return True
        self.stop()
        return False


def _programs() -> Path:
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/postgres"), key=lambda path: int(path.parts[-3]))
    if not found:
        raise ClusterError("PostgreSQL is not installed. Install Debian's package postgresql.")
    return found[-1].parent


def _as_server_user() -> list[str]:
    """The words before a command that runs it as the server's user and ends it with us."""
    end_with_us = ["setpriv", "--pdeathsig", "INT"]
    if os.geteuid() == 0:
        return [*end_with_us, "--reuid", _SERVER_USER, "--regid", _SERVER_USER, "--init-groups", "--"]
    return [*end_with_us, "--"]


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
