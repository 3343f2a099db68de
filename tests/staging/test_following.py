"""The way of a flow, asked of switches that were handed over: round by round, on record, and whoever is silent is named."""

from __future__ import annotations

import json

import pytest

from barrio.app import following, record, rollcall
from barrio.core import Refused
from barrio.store.errors import Missing
from barrio.store.record import Sieve
from tests.cli import barrio
from tests.core.tabled import Tables, tabled
from tests.core.test_flow import KEEPER, ROBOT, VAULT
from tests.processes import until
from tests.staging.conftest import NAMES, Hall


class Answering(dict[str, str]):
    """A light switch's answers, from tables; what they say nothing of stays as it was."""

    def __init__(self, tables: Tables) -> None:
        super().__init__()
        self.tables = tables

    def get(self, command: str, default: str = "") -> str:  # type: ignore[override]
        ours = command.startswith(("ip -j", "bridge"))
        return self.tables.answer(command) if ours else super().get(command, default)


@pytest.fixture
def tables(staged: Hall) -> dict[str, Tables]:
    with staged.desk.reading() as tx:
        compiled = rollcall.newest(tx, "tern")
    found = tabled(compiled, [ROBOT, KEEPER, VAULT])
    staged.leave()
    for name in NAMES:
        staged.light(name, answers=Answering(found[name]))
    return found


def come(hall: Hall, number: int) -> following.Path:
    until(lambda: not following.found(hall.desk, "tern", number).asked.waits, 60)
    return following.found(hall.desk, "tern", number)


def test_switches_are_asked_until_it_is_known_where_everything_goes(staged: Hall, tables: dict[str, Tables]) -> None:
    hall = staged
    path = come(hall, following.begin(hall.desk, "tern", "robot-1", "vault-05"))
    assert path.found is not None and path.found.arrives == 1 and path.silent == ()
    assert {one.step.state.switch for one in path.found.passed} == {"leaf-t01", "spine-1", "spine-2", "leaf-t02"}
    untouched = [command for command in hall.lights["leaf-t04"].ran if "to match" in command]
    assert untouched == [], "who is not on the way is not asked"
    [told] = following.every(hall.desk, "tern")
    assert (told.source, told.target, told.waits) == ("robot-1", "vault-05", False)
    [newest, *_] = record.deeds(hall.desk, Sieve(), None, 5)
    assert (newest.act, newest.note) == ("flow followed", "robot-1 → vault-05")


def test_who_does_not_answer_in_time_is_named(
    staged: Hall, tables: dict[str, Tables], monkeypatch: pytest.MonkeyPatch
) -> None:
    hall = staged
    monkeypatch.setattr("barrio.app.following.SECONDS", 4)
    hall.leave()
    for name in NAMES:
        if name != "spine-2":
            hall.light(name, answers=Answering(tables[name]))
    path = come(hall, following.begin(hall.desk, "tern", "robot-1", "10.72.10.5"))
    assert path.found is not None and path.silent == ("spine-2",)
    assert path.found.words(path.silent) == "What spine-2 would do with it is not known."
    with pytest.raises(Refused, match="no host of the fabric"):
        following.begin(hall.desk, "tern", "somebody", "10.72.10.5")
    with pytest.raises(Missing):
        following.found(hall.desk, "tern", path.asked.id + 9)


def test_it_is_followed_on_the_command_line(staged: Hall, tables: dict[str, Tables]) -> None:
    at = ("--at", staged.address)
    said = barrio("follow", "tern", "robot-1", "keeper", *at)
    assert "→ u1 (T-0001) to spine-1, 50%" in said and "arrives: out at h24, to keeper" in said
    assert "It arrives, at leaf-t03.\nPackets of up to 9000 bytes go through." in said
    tables["spine-1"].routes.clear()
    told = json.loads(barrio("follow", "tern", "robot-1", "keeper", "--json", *at, code=1))
    assert told["arrives"] == 0.5 and told["words"].startswith(
        "50% of it arrives; the rest does not: spine-1 has no route"
    )
