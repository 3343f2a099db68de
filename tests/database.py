"""A PostgreSQL of the tests' own, and databases in it: each test has a fresh one, copied from one that was made before."""

from __future__ import annotations

import itertools
import shutil
from collections.abc import Callable, Iterator

import psycopg
import pytest
from psycopg.conninfo import make_conninfo
from psycopg.sql import SQL, Identifier, Literal

from barrio.app import drafts
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.dev.cluster import Cluster
from barrio.jobs.queue import bring_up
from barrio.store.database import Connections, bring_up_to_date, connect
from tests.folders import folder
from tests.signed import let_in

UNSAFE_AND_QUICK = ("fsync=off", "synchronous_commit=off", "full_page_writes=off", "max_wal_size=128MB")
"""What is lost when the machine loses power does not matter here."""


class Databases:
    """Databases of one cluster, by what they hold: the first of a kind is filled, all others are copies of it."""

    def __init__(self, cluster: Cluster) -> None:
        self.cluster = cluster
        self._made: dict[tuple[str, ...], str] = {}
        self._kept: dict[str, str] = {}
        self._numbers = itertools.count(1)

    def of(self, name: str) -> str:
        return make_conninfo(self.cluster.conninfo, dbname=name)

    def fresh(self, *briefs: str) -> Connections:
        """Connections to a database with an up-to-date schema, somebody who may do all, and these fabrics."""
        kind = tuple(briefs)
        if kind not in self._made:
            name = self._create("template0" if not briefs else self._template(()))
            pool = connect(self.of(name))
            bring_up_to_date(pool)
            bring_up(pool)
            if not briefs:
                let_in(House(pool))
            for text in briefs:
                drafts.create(Desk(House(pool)), text)
            pool.close()
            self._made[kind] = name
        return connect(self.of(self._create(self._made[kind])))

    def named(self) -> str:
        """The name of a new database with nothing in it at all."""
        return self._create("template0")

    def of_an_earlier(self, dump: str) -> Connections:
        """Connections to a database as an earlier Barrio left it, from its dump."""
        name = self._create("template0")
        with psycopg.connect(self.of(name), autocommit=True) as connection:
            connection.execute(dump.encode())
        return connect(self.of(name))

    def keep(self, kind: str, pool: Connections) -> None:
        """Have a database as one that others are copies of."""
        name = str(psycopg.conninfo.conninfo_to_dict(pool.conninfo)["dbname"])
        pool.close()
        self._do(SQL("alter database {} with allow_connections false").format(Identifier(name)))
        self._do(SQL("select pg_terminate_backend(pid) from pg_stat_activity where datname = {}").format(Literal(name)))
        self._kept[kind] = name

    def kept(self, kind: str) -> Connections:
        """Connections to a copy of a database that was kept."""
        return connect(self.of(self._create(self._kept[kind])))

    def drop(self, pool: Connections) -> None:
        name = psycopg.conninfo.conninfo_to_dict(pool.conninfo)["dbname"]
        pool.close()
        self._do(SQL("drop database {} with (force)").format(Identifier(str(name))))

    def _template(self, kind: tuple[str, ...]) -> str:
        self.drop(self.fresh(*kind))
        return self._made[kind]

    def _create(self, template: str) -> str:
        name = f"test-{next(self._numbers)}"
        self._do(
            SQL("create database {} template {} strategy file_copy").format(Identifier(name), Identifier(template))
        )
        return name

    def _do(self, statement: psycopg.sql.Composed) -> None:
        with psycopg.connect(self.cluster.conninfo, autocommit=True) as connection:
            connection.execute(statement)


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """A PostgreSQL of the tests' own."""
    place = folder("barrio-test-")
    running = Cluster(place / "postgres", UNSAFE_AND_QUICK)
    running.start()
    yield running
    running.stop()
    shutil.rmtree(place)


@pytest.fixture(scope="session")
def databases(cluster: Cluster) -> Databases:
    return Databases(cluster)


@pytest.fixture
def connections(databases: Databases) -> Iterator[Connections]:
    """Connections to a database with an empty schema."""
    pool = databases.fresh()
    yield pool
    databases.drop(pool)


@pytest.fixture
def desk(connections: Connections) -> Desk:
    """Somebody at work in an empty house."""
    return Desk(House(connections))


@pytest.fixture
def house_of(databases: Databases) -> Iterator[Callable[..., House]]:
    """Houses over databases that hold the fabrics of these briefs."""
    pools = []

    def make(*briefs: str) -> House:
        pools.append(databases.fresh(*briefs))
        return House(pools[-1])

    yield make
    for pool in pools:
        databases.drop(pool)
