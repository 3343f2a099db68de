"""Places as the brief writes them: racks, perhaps one leaf of each, and ports."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from barrio.core.brief.ranges import expand_names, expand_ports
from barrio.core.errors import refuse

_RACKS = r"[^\s,/]+(?:\s*,\s*[^\s,/]+)*"
_PORTS = r"[^\s,]+(?:\s*,\s*[^\s,]+)*"
_PLACE = re.compile(rf"({_RACKS})(?:/([a-h]))?\s+({_PORTS})", re.ASCII)


@dataclass(frozen=True, slots=True)
class Slot:
    """A port of a rack: of one of its leaves, or (`side` is empty) the same port of each."""

    rack: str
    side: str
    port: str


def slots(text: str, path: str = "") -> tuple[Slot, ...]:
    """The slots of a place, rack by rack.

    Raises `Refused` (`range.*`, `host.place`).

    >>> [(slot.rack, slot.side, slot.port) for slot in slots("r01..r02/b h7, h9")]
    [('r01', 'b', 'h7'), ('r01', 'b', 'h9'), ('r02', 'b', 'h7'), ('r02', 'b', 'h9')]
    """
    found = _PLACE.fullmatch(text.strip())
    if not found:
        words = f"“{text[:60]}” is not a place. Write a rack and ports, such as r01 h1..h40, or r01/b h7 for one leaf of it."
        raise refuse("host.place", words, path)
    racks, side, ports = found.groups()
    names = expand_ports(ports, path)
    return tuple(Slot(rack, side or "", port) for rack in expand_names(racks, path) for port in names)


def deal(found: Sequence[Slot], names: Sequence[str], what: str, path: str = "") -> dict[str, list[Slot]]:
    """Slots dealt to hosts in turn, as many to each; `what` says where they are. Raises `Refused` (`host.count`) when it does not come out even."""
    each, over = divmod(len(found), len(names))
    if over or not each:
        words = (
            f"{len(names)} hosts and {len(found)} ports{what}: each host needs as many. Name {len(names)} ports, or {len(found)} hosts, as in "
            f"model-01..model-{len(found):02d}."
        )
        raise refuse("host.count", words, path)
    return {name: list(found[at * each : (at + 1) * each]) for at, name in enumerate(names)}
