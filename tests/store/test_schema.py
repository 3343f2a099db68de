"""The schema by itself: a database of an earlier Barrio is carried over, and bugs above it cannot break the ledger."""

from __future__ import annotations

from pathlib import Path

import psycopg
import pytest

import barrio.store
from barrio.app import drafts, pools
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.dev.cluster import Cluster
from barrio.store.database import Connections, bring_up_to_date, connect
from barrio.store.entries import Act, Author, load_pools, open_change
from tests.conftest import EXAMPLES
from tests.store.test_fabrics import audit

TERN = next(path.read_text() for path in EXAMPLES if path.stem == "tern")
SQL = Path(barrio.store.__file__).parent / "sql"


def test_a_database_of_an_earlier_barrio_keeps_every_number(cluster: Cluster) -> None:
    pool = connect(cluster.conninfo)
    with pool.connection() as connection:
        connection.execute("drop schema public cascade; create schema public")
        connection.execute("create table schema_steps (name text primary key, applied_at timestamptz default now())")
        for step in ("001_start", "002_catalogue_and_people"):
            connection.execute((SQL / f"{step}.sql").read_bytes())
            connection.execute("insert into schema_steps (name) values (%s)", [step])
        connection.execute("insert into fabrics (name, cable_prefix) values ('tern', 'T')")
        connection.execute("insert into revisions (fabric, brief, note) values ('tern', %s, 'made')", [TERN])
        connection.execute("update fabrics set head = (select max(id) from revisions)")
        connection.execute("insert into pools (name) values ('halls-loopback'), ('office-private')")
        connection.execute("insert into pool_ranges (pool, place, prefix) values ('halls-loopback', 0, '10.60.0.0/22')")
        connection.execute(
            "insert into pool_ranges (pool, place, low, high) values ('office-private', 0, 4200065000, 4200069999)"
        )
        connection.execute(
            "insert into entries (use, key, fabric, pool, space, prefix, state) values "
            "('loopback.v4', 'spine/1', 'tern', 'halls-loopback', 'v4', '10.60.0.77/32', 'held')"
        )
        connection.execute(
            "insert into entries (use, key, fabric, pool, space, number, state, released_at) values "
            "('asn', 'leaf/t09/a', 'tern', 'office-private', 'asn', 4200065009, 'resting', now())"
        )
    assert (
        bring_up_to_date(pool)
        == [
            "003_ledger_in_full",
            "004_people",
            "005_events",
            "006_jobs",
            "007_ways",
            "008_office",
            "009_cabling",
            "010_editions",
            "011_outlets",
            "012_rehearsals",
            "013_rehearsed",
            "014_lent",
            "015_staging",
            "016_staged",
            "017_sztp",
            "018_images",
            "019_drains",
            "020_snapshots",
            "021_adoptions",
            "022_asked",
            "023_drift_rules",
            "024_flows",
            "025_adoption_words",
            "026_tables",
        ]
        and bring_up_to_date(pool) == []
    )
    with pool.connection() as connection:
        pools = load_pools(connection)
    assert (pools["halls-loopback"].kind, pools["office-private"].kind) == ("addresses", "asn")
    desk = Desk(House(pool))
    compiled = drafts.load(desk, "tern").compiled
    assert compiled.models["spine/1"].loopback_v4.startswith("10.60.0.77")
    draft = drafts.save(desk, "tern", 1, lambda text: text.replace("title: ", "title: The "), "a word").draft
    assert drafts.load(desk, draft.name).compiled.models["spine/1"].loopback_v4.startswith("10.60.0.77")
    audit(pool)
    pool.close()


@pytest.mark.parametrize(
    ("statement", "error"),
    [
        ("insert into entries (use, key, fabric, pool, space, prefix, state) values ('x', 'y', 'tern', 'p', 'v4@moon', '10.0.0.0/8', 'held')", psycopg.errors.ForeignKeyViolation),
        ("insert into entries (use, key, fabric, pool, space, prefix, state) values ('x', 'y', 'gone', 'p', 'v4', '10.99.0.0/24', 'held')", psycopg.errors.ForeignKeyViolation),
        ("insert into entries (use, key, fabric, pool, space, prefix, state) values ('loopback.v4', 'spine/1', 'tern', 'p', 'v4', '10.99.0.0/24', 'held')", psycopg.errors.UniqueViolation),
        ("insert into entries (use, key, fabric, pool, space, prefix, state) values ('x', 'y', 'tern', 'p', 'v4', '10.60.0.0/22', 'reserved')", psycopg.errors.CheckViolation),
        ("insert into entries (use, key, fabric, pool, space, prefix, state, pinned) values ('x', 'y', 'tern', 'p', 'v4', '10.60.0.0/22', 'reserved', true)", psycopg.errors.ExclusionViolation),
        ("update entries set leaving = true where use = 'asn'", psycopg.errors.CheckViolation),
        ("delete from fabrics where name = 'tern'", psycopg.errors.ForeignKeyViolation),
        ("delete from scopes where name = 'site'", psycopg.errors.ForeignKeyViolation),
        ("insert into pool_ranges (pool, place, prefix) values ('halls-p2p', 9, '10.60.0.0/24')", psycopg.errors.ExclusionViolation),
        ("update pools set parent = 'halls-p2p' where name = 'halls-loopback'", psycopg.errors.CheckViolation),
    ],
)  # fmt: skip
def test_the_database_refuses_what_no_program_should_ask(
    desk: Desk, connections: Connections, statement: str, error: type[Exception]
) -> None:
    drafts.create(desk, TERN)
    with pytest.raises(error), connections.connection() as connection:
        open_change(connection, Act("a bug"))
        connection.execute(statement)
    audit(connections)


def test_nothing_is_changed_without_a_record(desk: Desk, connections: Connections) -> None:
    drafts.create(desk, TERN)
    with pytest.raises(psycopg.Error), connections.connection() as connection:
        connection.execute("update entries set note = 'nobody did this'")
    with connections.connection() as connection:
        open_change(connection, Act("by hand"), Author("Teo"))
        connection.execute("update entries set note = 'Teo did this' where use = 'loopback.v4' and key = 'spine/1'")
    (now, *past) = pools.history(desk, "v4", "10.60.0.1")
    assert now.note == "Teo did this" and [state.ended_by for state in past] == ["Teo"], "who, and how it was before"
