"""The command line stages a fabric as the screen does: boxes, who knocks, waves; and what it cannot do it says with the way out."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from barrio.app import drafts, editions
from barrio.app.desk import Desk
from tests.cli import barrio
from tests.people import without_review
from tests.processes import until
from tests.serving import Serving

TERN = (Path(__file__).parents[2] / "examples" / "tern.yaml").read_text()


@pytest.fixture
def at(serving: Serving, monkeypatch: pytest.MonkeyPatch) -> str:
    for name, seconds in (("LATER", 0.1), ("SOON", 0.05), ("SELDOM", 0.2), ("SETTLES", 0)):
        monkeypatch.setattr(f"barrio.app.turns.{name}", seconds)
    serving.start()
    serving.load(TERN)
    without_review(serving.house, "tern")
    desk = Desk(serving.house)
    editions.seal(desk, "tern", drafts.version(desk, "tern"), "as cabled")
    return serving.address


def test_a_fabric_of_light_switches_is_staged_by_words_alone(at: str, tmp_path: Path) -> None:
    said = barrio("simulate", "tern", "--stage", "--at", at)
    assert "6 light switches ask" in said and "6 switches were handed over" in said
    roll = barrio("stage", "roll", "tern", "--at", at)
    assert "SIM-LEAF-T01" in roll and roll.count("admitted") == 6
    shown = barrio("stage", "show", "tern", "--at", at)
    assert "6 of 6 handed over, done" in shown
    log = barrio("stage", "log", "tern", 1, "leaf-t01", "--at", at)
    assert "vtysh --dryrun" in log and "handed over" in log
    assert "leaf-t99 was never staged" in barrio("stage", "record", "tern", "leaf-t99", "--at", at, code=2)
    said = json.loads(barrio("stage", "record", "tern", "leaf-t01", "--at", at))
    assert (said["serial"], said["edition"], said["rack"]) == ("SIM-LEAF-T01", 1, "t01")
    assert {one["switch"] for one in said["cables"]} == {"spine-1", "spine-2"}
    assert "etc/frr/frr.conf" in said["files"] and said["steps"][-1]["step"] == "handed over"
    assert any(one["command"].startswith("vtysh --dryrun") for step in said["steps"] for one in step["ran"])
    barrio("stage", "record", "tern", "leaf-t01", "--out", tmp_path / "one.pdf", "--at", at)
    barrio("stage", "record", "tern", "leaf-t01", "--out", tmp_path / "two.pdf", "--at", at)
    assert (tmp_path / "one.pdf").read_bytes() == (tmp_path / "two.pdf").read_bytes()
    assert (tmp_path / "one.pdf").read_bytes().startswith(b"%PDF")
    assert "is not in this staging" in barrio("stage", "log", "tern", 1, "leaf-t99", "--at", at, code=2)


@pytest.mark.long
def test_a_fault_that_was_ordered_stops_it_and_is_named(at: str) -> None:
    said = barrio("simulate", "tern", "--stage", "--fault", "leaf-t02:parser", "--at", at, code=1)
    assert "leaf-t02: vtysh does not take etc/frr/frr.conf" in said and "paused" in said
    assert "skipped" in barrio("stage", "skip", "tern", "leaf-t02", "--why", "its parser is old", "--at", at)
    assert "It ends where it is" in barrio("stage", "leave", "tern", "--at", at)
    assert "names no fault" in barrio("simulate", "tern", "--fault", "leaf-t02:tired", "--at", at, code=2)
    assert "has no switch leaf-t99" in barrio("simulate", "tern", "--fault", "leaf-t99:slow", "--at", at, code=2)


def test_boxes_are_bound_listed_and_replaced(at: str, tmp_path: Path) -> None:
    assert "leaf-t01 is LJ4-0001" in barrio("stage", "bind", "tern", "leaf-t01", "lj4-0001", "--at", at)
    assert "is leaf-t01 already" in barrio("stage", "bind", "tern", "leaf-t02", "LJ4-0001", "--at", at, code=2)
    sheet = tmp_path / "list.csv"
    sheet.write_text("serial,switch\nLJ4-0002,leaf-t02\nLJ4-0001,leaf-t03\n")
    shown = barrio("stage", "delivery", "tern", sheet, "--at", at, code=1)
    assert "LJ4-0001 is leaf-t01 already" in shown
    assert "1 of 2 rows cannot be taken, so none was" in barrio(
        "stage", "delivery", "tern", sheet, "--take", "--at", at, code=2
    )
    sheet.write_text("serial,switch\nLJ4-0002,leaf-t02\nLJ4-0003,leaf-t03\n")
    assert "2 boxes are bound" in barrio("stage", "delivery", "tern", sheet, "--take", "--at", at)
    assert "never comes back by itself" in barrio(
        "stage", "replace", "tern", "leaf-t01", "--why", "its fans died", "--at", at
    )
    assert "was taken out" in barrio("stage", "bind", "tern", "leaf-t04", "LJ4-0001", "--at", at, code=2)
    assert "Nothing is bound to leaf-t02" in barrio("stage", "loosen", "tern", "leaf-t02", "--at", at)


@pytest.mark.long
def test_who_knocks_is_let_in_or_refused_by_serial(at: str) -> None:
    barrio("simulate", "tern", "--no-admit", "--seconds", 1, "--at", at)
    until(lambda: "SIM-SPINE-1" in barrio("stage", "knocks", "tern", "--at", at))
    assert "SIM-SPINE-1 is spine-1" in barrio("stage", "admit", "tern", "SIM-SPINE-1", "spine-1", "--at", at)
    assert "stays so" in barrio("stage", "refuse", "tern", "SIM-LEAF-T01", "--why", "another's", "--at", at)
    assert "was refused, and stays so: another's" in barrio(
        "stage", "admit", "tern", "SIM-LEAF-T01", "leaf-t01", "--at", at, code=2
    )
    assert "Nobody who knocks is X-1" in barrio("stage", "admit", "tern", "X-1", "leaf-t01", "--at", at, code=2)
    for word in ("pause", "on"):
        assert "No staging of tern is under way" in barrio("stage", word, "tern", "--at", at, code=2)
