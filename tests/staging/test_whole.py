"""Switches with nothing on them but Debian and the agent are staged by the programs that a switch runs, on a whole kernel."""

from __future__ import annotations

import time

from barrio.app import arriving, rollcall, stagings
from barrio.core.staging.boxes import box
from barrio.core.staging.floor import floor
from barrio.core.staging.ways import ways
from barrio.staging import hall as halls
from tests.processes import until
from tests.staging.conftest import Hall


def test_from_bare_to_handed_over(hall: Hall) -> None:
    with hall.desk.reading() as tx:
        compiled = rollcall.newest(tx, "tern")
    began = time.monotonic()
    with halls.Hall(floor(compiled), hall.address) as whole:
        arriving.say(hall.desk, "tern", ways(whole.address, "nobody", ""))
        for one in whole.switches.values():
            rollcall.bind(hall.desk, "tern", one.bare.name, box(one.serial, one.mac))
        whole.serve(arriving.dhcp_of(hall.desk, "tern", "kea4", "br0").text)
        whole.boot()
        print("booted", time.monotonic() - began)
        until(
            lambda: {one.knock.serial for one in hall.knocking()} == {one.serial for one in whole.switches.values()},
            120,
        )
        print("knocked", time.monotonic() - began, [(one.knock.serial, one.planned_there) for one in hall.knocking()])
        for one in hall.knocking():
            assert one.expected
            rollcall.admit(hall.desk, "tern", one.knock.key, one.expected.name)
        stagings.begin(hall.desk, "tern", stagings.Wanted(at_once=6))
        until(lambda: hall.told().staging.state in ("done", "paused"), 300)
        print("ended", time.monotonic() - began, [(one.name, one.step, one.words) for one in hall.told().switches])
        assert hall.told().staging.state == "done"
