"""In a demo a hall of simulated switches may be switched on, and nowhere else; only where nobody is let in yet, and as many as a machine keeps up with."""

from __future__ import annotations

from typing import Any

import pytest

from barrio.core import Refused
from barrio.jobs import halls
from tests.staging.conftest import Hall


class Built:
    """What is built in place of a hall: it has light switches, which ask the same server."""

    address = "https://10.90.2.1"

    def __init__(self, floor: Any, address: str) -> None:
        self.floor, self.at, self.told = floor, address, ""
        self.switches = {one.name: Boxed(one) for one in floor.switches}

    def __enter__(self) -> Built:
        return self

    def __exit__(self, *error: object) -> None:
        BUILT.append(self)

    def serve(self, text: str) -> None:
        self.told = text

    def boot(self) -> None:
        for one in self.switches.values():
            HALLS[-1].light(str(one.bare.name), serial=one.serial)


class Boxed:
    def __init__(self, bare: Any) -> None:
        self.bare, self.serial = bare, f"SIM-{bare.name}".upper()
        self.mac = ""


BUILT: list[Built] = []
HALLS: list[Hall] = []


def test_a_hall_is_built_cabled_told_of_by_dhcp_and_staged_to_the_end(
    hall: Hall, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The steps of the job; what a hall's switches do is claimed on a whole kernel."""
    hall.desk.house.demo = True
    HALLS.append(hall)
    monkeypatch.setattr("barrio.staging.hall.Hall", Built)
    told: list[tuple[int, int, str]] = []
    words = halls.perform(hall.desk, "tern", hall.address, lambda *said: told.append(said), stays=2)
    assert words == "6 switches were handed over"
    assert told[0] == (0, 6, "the hall is built") and told[-1][:2] == (6, 6) and "stays" in told[-1][2]
    assert BUILT.pop().told.startswith("{"), "Kea was told"
    with pytest.raises(Refused, match="were let in already"):
        halls.checked(hall.desk, "tern")


def test_it_is_for_demos_and_for_no_more_switches_than_a_machine_keeps_up_with(hall: Hall, monkeypatch: pytest.MonkeyPatch) -> None:  # fmt: skip
    with pytest.raises(Refused, match="started with --demo"):
        halls.checked(hall.desk, "tern")
    hall.desk.house.demo = True
    assert len(halls.checked(hall.desk, "tern").switches) == 6
    monkeypatch.setattr(halls, "MOST", 5)
    with pytest.raises(Refused, match="6 switches are more than the 5"):
        halls.checked(hall.desk, "tern")
