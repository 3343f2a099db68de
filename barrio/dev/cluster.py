"""A private PostgreSQL: made on first use in a folder of our own, on loopback, as a user that is not root.

The server listens on 127.0.0.1 and a free port, and takes only the password that stands in a file beside it, readable by
its owner alone. It ends with the process that started it, even when that one is killed.
"""

from __future__ import annotations

import os
import pwd
import re
import secrets
import shutil
import signal
import socket
import subprocess
import time
from collections.abc import Sequence
from pathlib import Path

import psycopg
from psycopg.conninfo import make_conninfo

from barrio.dev.folder import ClusterError, FolderLock

_SERVER_USER = "postgres"
_SETTINGS = ("shared_buffers=256MB", "work_mem=32MB", "max_wal_size=2GB", "jit=off")
"""Room for a ledger of a million entries; no compiling of queries that take milliseconds. All else is PostgreSQL's own."""


_LEAST_FREE = 4_000_000
"""Bytes below which a disk counts as full: PostgreSQL needs more for its next steps."""


class Cluster:
    """One server with its data folder, and settings of its own beside ours. `start` makes what is missing; `stop` ends it."""

    def __init__(self, folder: Path, settings: Sequence[str] = ()) -> None:
        self.folder = folder
        self._settings = (*_SETTINGS, *settings)
        self.data = folder / "data"
        self._secret = folder / "password"
        self._log = folder / "server.log"
        self._process: subprocess.Popen[bytes] | None = None
        self._programs = Path()
        self._lock = FolderLock(folder)
        self.port = 0

    @property
    def conninfo(self) -> str:
        return make_conninfo(
            host="127.0.0.1", port=self.port, user="barrio", dbname="postgres", password=self._secret.read_text()
        )

    def start(self) -> None:
        """Start the server, making its data first if there is none. Raises `ClusterError`."""
        self.folder.mkdir(parents=True, exist_ok=True)
        self._lock.take()
        self._programs = _programs(self._version())
        self._refuse_what_cannot_be_trusted()
        self._prepare()
        if not (self.data / "PG_VERSION").exists():
            self._init()
        self._end_leftover()
        for _ in range(5):
            self.port = _free_port()
            self._spawn()
            if self._wait_until_ready():
                return
        raise ClusterError(f"PostgreSQL did not start. {self._last_words()} Its log is {self._log}.")

    def _spawn(self) -> None:
        with self._log.open("ab") as out:
            self._process = subprocess.Popen(
                [
                    *_as_server_user(),
                    str(self._programs / "postgres"),
                    *("-D", str(self.data), "-p", str(self.port), "-h", "127.0.0.1", "-k", str(self.folder)),
                    *(word for setting in self._settings for word in ("-c", setting)),
                ],
                stdout=out,
                stderr=out,
                stdin=subprocess.DEVNULL,
                start_new_session=True,
            )

    def trouble(self) -> str:
        """Why the server cannot be worked with now, as far as this machine shows it; empty when nothing is known."""
        if shutil.disk_usage(self.folder).free < _LEAST_FREE:
            return f"The disk that holds {self.folder} is full. Make room on it; Barrio goes on by itself then."
        if self._process is not None and self._process.poll() is not None:
            return f"PostgreSQL ended unexpectedly and is being started again. {self._last_words()}".strip()
        return ""

    def revive(self) -> None:
        """Start the server again, on the same port, when it has ended by itself."""
        if self._process is not None and self._process.poll() is not None:
            self._end_leftover()
            self._spawn()

    def _last_words(self) -> str:
        """What the server's log says last of why it cannot go on."""
        try:
            lines = self._log.read_text(errors="replace").splitlines()[-40:]
        except OSError:
            return ""
        found = [line for line in lines if re.search(r"\b(FATAL|PANIC):", line)]
        return f"It said: {re.split(r'(?:FATAL|PANIC):', found[-1])[-1].strip().rstrip('.')}." if found else ""

    def _version(self) -> str | None:
        try:
            return (self.data / "PG_VERSION").read_text().strip()
        except OSError:
            return None

    def _refuse_what_cannot_be_trusted(self) -> None:
        if not (self.data / "PG_VERSION").exists():
            return
        if not self._secret.exists():
            raise ClusterError(
                f"The database's password is missing: {self._secret}. Put the file back from where the folder was kept; "
                "without it nobody can sign in."
            )
        try:
            home = (self.data / "postmaster.pid").read_text().splitlines()[1]
        except (OSError, IndexError):
            return
        if Path(home) != self.data:
            raise ClusterError(
                f"{self.folder} was copied or moved while PostgreSQL was running in {home}, so what it holds may be torn. Stop "
                "Barrio there and copy the folder again, or take a copy with pg_dump. If it was moved after a crash and is the "
                f"only one, take {self.data / 'postmaster.pid'} away and start again."
            )

    def stop(self) -> None:
        """End the server, connections included, wait for it, and let the folder go."""
        self._end()
        self._lock.release()

    def _end(self) -> None:
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

    def _init(self) -> None:
        beside = self.folder / "data.new"
        if beside.exists():
            shutil.rmtree(beside)
        done = subprocess.run(
            [
                *_as_server_user(),
                str(self._programs / "initdb"),
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
            except psycopg.OperationalError as error:
                if "password authentication failed" in str(error):
                    self._end()
                    raise ClusterError(
                        f"The password in {self._secret} is not the one of the database beside it. Put the right file back."
                    ) from None
                time.sleep(0.05)
            else:
                return True
        self._end()
        return False


def _programs(version: str | None) -> Path:
    """The folder of PostgreSQL's programs: of the version that made the data, or the newest there is."""
    found = {path.parts[-3]: path.parent for path in Path("/usr/lib/postgresql").glob("*/bin/postgres")}
    if not found:
        raise ClusterError("PostgreSQL is not installed. Install Debian's package postgresql.")
    if version is None:
        return found[max(found, key=int)]
    if version not in found:
        has = ", ".join(sorted(found, key=int))
        raise ClusterError(
            f"The data was made by PostgreSQL {version}, and this machine has {has}. Install postgresql-{version}, or carry the "
            "data over with pg_dump from a machine that has it."
        )
    return found[version]


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
