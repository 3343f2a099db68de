"""The private database's folder: one Barrio at a time, and every folder that cannot be trusted is refused in a sentence."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Callable
from pathlib import Path

import psycopg
import pytest

from barrio.dev.cluster import Cluster
from barrio.dev.folder import ClusterError
from barrio.store.database import Connections, Newer, bring_up_to_date
from tests.processes import Server


@pytest.mark.long
def test_a_second_server_on_a_folder_is_refused_and_the_first_goes_on(server: Server) -> None:
    server.start()
    other = Server(server.folder)
    with pytest.raises(
        AssertionError, match=rf"Another Barrio \(process {server.process and server.process.pid}\) works"
    ):
        other.start()
    with server.client() as client:
        assert client.get("/api/v1/fabrics").status_code == 200


@pytest.mark.long
def test_of_two_first_starts_at_once_one_comes_up_and_the_other_says_why(server: Server) -> None:
    other = Server(server.folder)
    processes = [one.spawn() for one in (server, other)]
    outcomes = []
    for one, process in zip((server, other), processes, strict=True):
        try:
            one.wait_until_up()
            outcomes.append("up")
        except AssertionError as said:
            outcomes.append("refused" if "Another Barrio" in str(said) else str(said))
        if outcomes[-1] == "up":
            with one.client() as client:
                assert client.get("/api/v1/fabrics").status_code == 200
        else:
            process.wait(30)
    assert sorted(outcomes) == ["refused", "up"]
    if outcomes[0] != "up":
        other.end()


def _copied(running: Cluster, folder: Path) -> None:
    shutil.copytree(running.data, folder / "data")
    shutil.copy(running.folder / "password", folder)


def _without_password(running: Cluster, folder: Path) -> None:
    (folder / "data").mkdir(parents=True)
    shutil.copy(running.data / "PG_VERSION", folder / "data")


def _of_another_version(_: Cluster, folder: Path) -> None:
    (folder / "data").mkdir(parents=True)
    (folder / "data/PG_VERSION").write_text("9\n")


@pytest.mark.parametrize(
    ("made", "says"),
    [
        (_copied, "copied or moved while PostgreSQL was running"),
        (_without_password, "password is missing"),
        (_of_another_version, "made by PostgreSQL 9, and this machine has"),
    ],
)
def test_a_folder_that_cannot_be_trusted_is_refused(
    cluster: Cluster, tmp_path: Path, made: Callable[[Cluster, Path], None], says: str
) -> None:
    folder = tmp_path / "postgres"
    made(cluster, folder)
    other = Cluster(folder)
    with pytest.raises(ClusterError, match=says):
        other.start()
    other.stop()
    assert psycopg.connect(cluster.conninfo).execute("select 1").fetchone() == (1,), "the first is not disturbed"


def test_a_database_of_a_newer_barrio_is_refused(connections: Connections) -> None:
    with connections.connection() as connection:
        connection.execute("insert into schema_steps (name) values ('999_from_the_future')")
    with pytest.raises(Newer, match="999 from the future"):
        bring_up_to_date(connections)


@pytest.mark.long
def test_the_usual_port_taken_means_another_which_is_said(server: Server) -> None:
    holder = subprocess.Popen(
        ["python3", "-c", "import socket, sys; s = socket.create_server(('127.0.0.1', 8710)); print('on', flush=True); sys.stdin.read()"],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    try:
        # Taken by the holder, or before it by somebody else: taken it is.
        assert holder.stdout is not None
        holder.stdout.readline()
        server.start(port=None)
        assert any("Port 8710 on 127.0.0.1 is taken, so another is used" in line for line in server.said)
        assert not server.address.endswith(":8710")
    finally:
        holder.communicate()
