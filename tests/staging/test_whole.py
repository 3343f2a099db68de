"""Switches with nothing on them but Debian and the agent are staged by the programs that a switch runs, on a whole kernel."""

from __future__ import annotations

import json
from collections.abc import Collection, Iterator, Mapping
from contextlib import contextmanager

import pytest

from barrio.app import arriving, rollcall, stagings
from barrio.core.staging.boxes import box
from barrio.core.staging.floor import floor
from barrio.core.staging.ways import ways
from barrio.staging import hall as halls
from tests.processes import until
from tests.staging.conftest import NAMES, Hall


@contextmanager
def bare(hall: Hall, faults: Mapping[str, Collection[str]] | None = None) -> Iterator[halls.Hall]:
    """Tern's hall, switched on: each lets itself in whose serial is bound and who is plugged in where the plan has it."""
    with hall.desk.reading() as tx:
        compiled = rollcall.newest(tx, "tern")
    with halls.Hall(floor(compiled), hall.address, faults) as whole:
        arriving.say(hall.desk, "tern", ways(whole.address, "serial and place", ""))
        for one in whole.switches.values():
            rollcall.bind(hall.desk, "tern", one.bare.name, box(one.serial, one.mac))
        whole.serve(arriving.dhcp_of(hall.desk, "tern", "kea4", "br0").text)
        whole.boot()
        yield whole


def sessions(whole: halls.Hall, name: str) -> dict[str, int]:
    """The sessions of a switch that stand, with the second since when."""
    said = json.loads(whole.switches[name].ask("vtysh", "-c", "show bgp neighbors json").out)
    return {
        name: one["bgpTimerUpEstablishedEpoch"] for name, one in said.items() if one.get("bgpState") == "Established"
    }


@pytest.fixture
def patient(hall: Hall, monkeypatch: pytest.MonkeyPatch) -> Hall:
    for name, seconds in (("SETTLES", 90), ("SOON", 1), ("LATER", 1)):
        monkeypatch.setattr(f"barrio.app.turns.{name}", seconds)
    return hall


def test_from_bare_to_handed_over_by_dhcp_and_the_programs_of_a_switch(patient: Hall) -> None:
    hall = patient
    with bare(hall) as whole:
        stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=6, confirm_seconds=300))
        until(lambda: hall.told().staging.state != "runs", 480)
        hall.done()
        for name in NAMES:
            there = whole.switches[name]
            assert all(there.file(path) == text for path, text in hall.wanted(name).items())
        since = {name: sessions(whole, name) for name in NAMES}
        assert all(len(since[name]) == (4 if name.startswith("spine") else 2) for name in NAMES), since
        with hall.desk.reading() as tx:
            models = {str(one.name): one for one in rollcall.newest(tx, "tern").models.values()}
        here, far = (str(models[name].loopback_v4).split("/")[0] for name in ("leaf-t01", "leaf-t04"))
        assert whole.switches["leaf-t01"].ask("ping", "-c", "3", "-i", "0.2", "-I", str(here), str(far)).code == 0
        # Again, and nothing is touched: each session stands since then.
        stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=6))
        hall.done()
        number = hall.told().staging.id
        for name in NAMES:
            words = [one.words for one in stagings.lines(hall.desk, "tern", number, name)]
            assert "nothing is other than it has" in words
        for name in NAMES:
            now = sessions(whole, name)
            assert all(abs(now[peer] - began) <= 3 for peer, began in since[name].items()), (now, since[name])
