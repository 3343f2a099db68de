"""A hall of simulated switches for the demo world: they boot from nothing, find this Barrio by DHCP, and a fabric comes up while one looks."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping
from typing import Any

from barrio.app import arriving, rollcall, stagings
from barrio.app.desk import Desk
from barrio.core.errors import refuse
from barrio.core.staging.boxes import box
from barrio.core.staging.floor import Floor
from barrio.core.staging.ways import ways
from barrio.store import boxes

MOST = 36
"""Switches of a hall: what a machine with a few processors keeps up with."""
STAYS = 1800.0
"""Seconds that the hall stays once all is handed over, so that one may play with it."""
_LOOKS = 1.0


def checked(desk: Desk, name: str) -> Floor:
    """The hall of a fabric, where it may be simulated here. Raises `Missing`, and `Refused`: `hall.demo` (this Barrio is no demo), `hall.size`, `stage.busy`."""
    if not desk.house.demo:
        raise refuse(
            "hall.demo", "Switches are simulated by a Barrio that was started with --demo, or by barrio simulate."
        )
    floor = arriving.floor_of(desk, name)
    if len(floor.switches) > MOST:
        words = f"{len(floor.switches)} switches are more than the {MOST} that a simulated hall takes; barrio simulate {name} switches on light ones."
        raise refuse("hall.size", words)
    with desk.reading() as tx:
        if boxes.admitted(tx.connection, name):
            raise refuse("stage.busy", f"Switches of {name} were let in already.")
    return floor


def perform(desk: Desk, name: str, address: str, tell: Callable[[int, int, str], None], stays: float = STAYS) -> str:
    """Build the hall, boot it, and have it staged; in words how that ended. Raises as `checked`, `NoLab`, and what `tell` raises when it is to stop."""
    from barrio.staging.hall import Hall

    floor = checked(desk, name)
    count = len(floor.switches)
    tell(0, count, "the hall is built")
    with Hall(floor, address) as hall:
        arriving.say(desk, name, ways(hall.address, "serial", ""))
        for one in hall.switches.values():
            rollcall.bind(desk, name, one.bare.name, box(one.serial, one.mac))
        hall.serve(arriving.dhcp_of(desk, name, "kea4", "br0").text)
        hall.boot()
        stagings.begin(desk, name, stagings.Wanted(at_once=count, confirm_seconds=300))
        looking = threading.Event()
        while (found := stagings.told(desk, name)).staging.ended_at is None:
            through = sum(one.step == "handed over" for one in found.switches)
            tell(through, count, "switches boot, and are staged")
            looking.wait(_LOOKS)
        words = found.staging.words
        for _ in range(int(stays / _LOOKS)):
            tell(count, count, f"{words}; the hall stays until it is stopped")
            looking.wait(_LOOKS)
        return words


def needs(switches: int, wishes: Mapping[str, Any]) -> int:
    """Bytes of memory that a hall takes at most."""
    from barrio.rehearsal.apart import memory_for

    return 200_000_000 + memory_for(switches) * 1_000_000
