"""What a technician does at the rack to replace a switch, to take it out or to move it: one page of text, in its order."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from barrio.core import Compiled
from barrio.core.staging.boxes import Box, airflow_of
from barrio.core.staging.drain import cost
from barrio.core.structure.parts import Switch

Errand = Literal["replace", "take-out", "move"]
_TITLES: dict[Errand, str] = {"replace": "another box in its place", "take-out": "taken out", "move": "moved"}
Plug = tuple[str, str, str]
"""A plug: the port of the switch, what is at the other end, and the cable's label."""


def errand(kind: Errand, was: Compiled, now: Compiled, key: str, box: Box, drained: str) -> str:
    """The page for a switch (by key), cabled as in one edition and, where it is moved, to be cabled as in another one; `drained` says how far draining
    is, in words. Raises `KeyError` without such a switch in the edition that is asked for."""
    old, new = was.structure.by_key[key], now.structure.by_key[key]
    fabric = str(now.brief.fabric)
    plugs = plugs_of(was, key)
    steps = [_drain(kind, was, fabric, old, drained), _find(old, box), _unplug(plugs)]
    if kind == "take-out":
        words = "Take it out of the rack. Its name, numbers and files stay with the plan, and its cables hang where they were."
        steps.append([words])
        steps.append([
            "Say that it is out; its box then never comes back by itself.",
            f"   barrio stage replace {fabric} {old.name} --why '…'",
        ])  # fmt: skip
    else:
        steps += _put(kind, now, new, fabric)
        again = plugs_of(now, key)
        steps.append(_plug(again, same=again == plugs))
        steps.append(["Power, both feeds. Then the management port."])
        steps.append(_stage(kind, fabric, new))
    lines = [f"{old.name}, rack {old.rack}, unit {old.unit}: {_TITLES[kind]}", ""]
    for number, step in enumerate((one for one in steps if one), 1):
        lines += [f"{number}. {step[0]}", *step[1:], ""]
    return "\n".join(lines).rstrip() + "\n"


def plugs_of(compiled: Compiled, key: str) -> list[Plug]:
    """Every plug of a switch, its fabric ports first."""
    model = compiled.models[key]
    found = [(str(one.label), f"{one.peer} {one.peer_port}", str(one.cable)) for one in model.fabric_ports]
    if model.pair is not None:
        found += [(str(one.label), f"{model.pair.peer} {one.peer_port}", str(one.cable)) for one in model.pair.ports]
    found += [(str(one.label), f"host {one.host}", "") for one in model.host_ports if one.host is not None]
    found += [(str(one.label), f"{one.system} {one.far_port}", str(one.cable)) for one in model.outside_ports]
    return found


def _drain(kind: Errand, compiled: Compiled, fabric: str, switch: Switch, drained: str) -> list[str]:
    lost = cost(compiled, switch.key)
    dark = [f"   Dark meanwhile: {', '.join(lost.dark[:12])}{_more(lost.dark, 12)}."] if lost.dark else []
    if kind == "replace":
        first = "If it is alive, have it drained first; a dead one carries nothing."
    else:
        first = "Have it drained, and wait until it says so."
    return [first, f"   barrio stage drain {fabric} {switch.name} --why '…'", f"   Now: {drained}", *dark]


def _more(names: Sequence[str], shown: int) -> str:
    return f" and {len(names) - shown} more" if len(names) > shown else ""


def _find(switch: Switch, box: Box) -> list[str]:
    said = f"serial {box.serial}" if box.serial else f"MAC {box.mac}" if box.mac else "nobody said which box it is"
    return [f"Find it: rack {switch.rack}, unit {switch.unit}, {switch.type.title}, {said}."]


def _unplug(plugs: list[Plug]) -> list[str]:
    return ["Take the plugs out. Each cable has its label; leave it at the port's place.", *_table(plugs)]


def _plug(plugs: list[Plug], same: bool) -> list[str]:
    if same:
        return ["Plug every cable in again, into the port that it came from."]
    return ["Plug the cables in as they are to be now.", *_table(plugs)]


def _table(plugs: list[Plug]) -> list[str]:
    if not plugs:
        return ["   none"]
    wide = max(len(port) for port, _, _ in plugs)
    return [
        f"   {port:<{wide}}  {f'cable {cable}' if cable else 'its host cable'}  to {far}" for port, far, cable in plugs
    ]


def _put(kind: Errand, now: Compiled, switch: Switch, fabric: str) -> list[list[str]]:
    place = f"rack {switch.rack}, unit {switch.unit}"
    air = airflow_of(now, switch)
    if kind == "move":
        return [[f"Take it out, and put it into {place}. Its air goes {air} there; a box that blows the other way does not fit."]]  # fmt: skip
    return [
        ["Say that the old box is out; it never comes back by itself.", f"   barrio stage replace {fabric} {switch.name} --why '…'"],
        [f"Put the new box into {place}: {switch.type.title}, air {air}."],
        ["Scan its serial number (Staging, Scan boxes), or type it.", f"   barrio stage bind {fabric} {switch.name} SERIAL"],
    ]  # fmt: skip


def _stage(kind: Errand, fabric: str, switch: Switch) -> list[str]:
    let_in = ["   Let it in when it knocks, unless the fabric's rule does."] if kind == "replace" else []
    carry = (
        [f"   It carries again once you say so: barrio stage undrain {fabric} {switch.name}"] if kind == "move" else []
    )
    return [
        "Have it staged, and stay until it is handed over: Barrio then heard every neighbour at its port.",
        *let_in,
        f"   barrio stage begin {fabric} --switch {switch.name} --wait",
        *carry,
    ]
