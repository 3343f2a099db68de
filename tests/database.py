"""A PostgreSQL of the tests' own, and what stands on it."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest

from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.dev.cluster import Cluster
from barrio.store.database import Connections, bring_up_to_date, connect


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """A PostgreSQL of the tests' own."""
    folder = Path(tempfile.mkdtemp(prefix="barrio-test-"))
    folder.chmod(0o755)
    running = Cluster(folder / "postgres")
    running.start()
    yield running
    running.stop()
    shutil.rmtree(folder)


@pytest.fixture
def connections(cluster: Cluster) -> Iterator[Connections]:
    """Connections to a database with an empty schema."""
    pool = connect(cluster.conninfo)
    with pool.connection() as connection:
        connection.execute("drop schema public cascade; create schema public")
    bring_up_to_date(pool)
    yield pool
    pool.close()


@pytest.fixture
def desk(connections: Connections) -> Desk:
    """Somebody at work in an empty house."""
    return Desk(House(connections))
