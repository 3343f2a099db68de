"""Many at once in one house: nobody sees what never was, halves of what is, or twice what is there once."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor

import pytest

from barrio.app import catalogue, drafts, ending, poolchanges, sheets
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.core import Refused, compile
from barrio.core.brief.document import read, set_value
from barrio.core.catalogue.made import MADE
from barrio.core.errors import refuse
from barrio.core.ledger.pool import Family
from barrio.store import models
from barrio.store.database import Connections, bring_up_to_date, connect
from barrio.store.entries import Act
from tests.application import client_of
from tests.conftest import EXAMPLES

MARLIN, PELICAN, TERN = (path.read_text() for path in EXAMPLES)


def test_many_who_ask_for_a_cabling_plan_at_once_all_get_the_same_one() -> None:
    compiled = compile(read(PELICAN).brief)
    together = threading.Barrier(6)

    def ask(_: int) -> int:
        together.wait()
        return len(compiled.cables)

    with ThreadPoolExecutor(6) as pool:
        assert set(pool.map(ask, range(6))) == {586}


def test_a_previewed_sheet_and_then_a_changed_pool_show_no_reservation_that_never_was(desk: Desk) -> None:
    drafts.create(desk, TERN)
    tried = sheets.understand(desk, "tern", b"number,note\n10.60.0.200,crane\n", {}, keep=False)
    assert [row.outcome for row in tried.rows] == ["reserved"]
    poolchanges.change(desk, "halls-loopback", poolchanges.PoolSettings(warn=0.5))
    pool = drafts.load(desk, "tern").compiled.pools["halls-loopback"]
    assert pool.warn == 0.5 and list(pool.kept(Family.V4)) == []


def test_a_catalogue_that_was_undone_is_remembered_by_nobody(desk: Desk) -> None:
    """The version that an undone change had is given to the next one; who looked meanwhile must not take it for that."""
    first, second = (MADE.models[0].model_copy(update={"id": "own", "name": name}) for name in ("Undone", "Kept"))

    def undone(tx: Transaction) -> None:
        tx.act(Act("model added"))
        models.put(tx.connection, first, "")
        assert tx.catalogue().catalogue.find("own") == first
        raise refuse("test", "no")

    with pytest.raises(Refused):
        desk.writing(undone, alone=True)
    catalogue.put(desk, second)
    assert catalogue.shelf(desk).catalogue.find("own") == second


def test_readers_never_fail_under_writers_and_never_see_a_draft_without_its_numbers(connections: Connections) -> None:
    """Pages are read while pools are widened, pools made, and a fabric grows and shrinks."""
    house = House(connections)
    desk = Desk(house)
    drafts.create(desk, TERN)
    done = threading.Event()

    def write() -> None:
        for turn in range(12):
            version = drafts.version(desk, "tern")
            racks = "t01..t04" if turn % 2 else "t01..t06"
            drafts.save(
                desk, "tern", version, lambda text, racks=racks: set_value(text, "racks[0].racks", racks), racks
            )
            poolchanges.add_range(desk, "halls-p2p", f"10.250.{turn}.0/24")
            poolchanges.create(desk, poolchanges.NewPool(f"spare-{turn}", (f"10.251.{turn}.0/24",)))
        done.set()

    answers: list[tuple[str, int]] = []
    with client_of(house) as api, ThreadPoolExecutor(3) as pool:
        writer = pool.submit(write)

        def read_on(path: str) -> None:
            while not done.is_set() and not writer.done():
                answers.append((path, api.get(f"/api/v1/{path}").status_code))

        for path in ("pools", "fabrics/tern/growth"):
            pool.submit(read_on, path)
        writer.result()
        sums = api.get("/api/v1/fabrics/tern").json()["sums"]
        assert len(api.get("/api/v1/fabrics/tern/switches").json()) == sums["switches"]
    assert len(answers) > 7 and {status for _, status in answers} == {200}, [one for one in answers if one[1] != 200]


def test_many_first_starts_on_one_empty_database_all_come_up(connections: Connections) -> None:
    with connections.connection() as connection:
        connection.execute("drop schema public cascade; create schema public")
    pools = [connect(connections.conninfo) for _ in range(4)]
    together = threading.Barrier(4)

    def start(number: int) -> list[str]:
        together.wait()
        return bring_up_to_date(pools[number])

    with ThreadPoolExecutor(4) as threads:
        applied = [step for steps in threads.map(start, range(4)) for step in steps]
    assert len(applied) == len(set(applied)) > 0, "each step by one of them"
    for pool in pools:
        pool.close()


def test_of_two_who_make_a_fabric_of_one_name_at_once_one_is_told_and_writes_nothing(desk: Desk) -> None:
    together = threading.Barrier(2)

    def make(title: str) -> str:
        together.wait()
        try:
            drafts.create(desk, TERN.replace("title: ", f"title: {title} "))
        except Refused as refused:
            return refused.faults[0].code
        return "made"

    for _ in range(3):
        with ThreadPoolExecutor(2) as pool:
            assert sorted(pool.map(make, ("One", "Two"))) == ["fabric.twice", "made"]
        found = drafts.history(desk, "tern")
        assert [one.note for one in found] == ["made"]
        ending.delete(desk, "tern", drafts.version(desk, "tern"))
