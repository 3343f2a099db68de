"""What else needs a cable beside the fabric's links: management and console ports, power, hosts; and the plugs that broken-out ports share.

Each such wire has a key that survives renaming, from which its number and its port on the far side come. A port of a management switch or
console server, and an outlet of a feed, is a position in the ledger like any port of a spine.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import expand_names
from barrio.core.place.elevation import gear_of
from barrio.core.place.floor import cabinet_of
from barrio.core.structure.parts import LATER, Structure, Switch

Use = Literal["management", "console", "power", "host"]
PORT_WORDS = {"management": "management switch port", "console": "console port", "power": "outlet"}


@dataclass(frozen=True, slots=True)
class Wire:
    """One further cable: from `port` of a switch to `far`, a piece of gear, a feed or a host. `position` is the use and key under which the
    ledger holds the far port, and empty where there is none; `speed` in Gbit/s, where one is said."""

    key: str
    use: Use
    switch: Switch
    port: str
    far: str
    position: tuple[str, str] = ("", "")
    speed: int | None = None


@dataclass(frozen=True, slots=True)
class Bank:
    """Like ports that wires are dealt to: the use of their positions, how many there are, and what one is called."""

    use: str
    count: int
    noun: str


def wires(brief: Brief, structure: Structure, attachments: Attachments) -> list[Wire]:
    """Every further cable that the brief has planned, in a fixed order; those of switches that are planned for later too."""
    plans = brief.cabling.plans
    found: list[Wire] = []
    racks = {str(switch.rack) for switch in structure.switches}
    uses: tuple[Use, ...] = ("management", "console")
    for use in uses:
        if use in plans:
            served = serving(brief, use, racks)
            port = str(brief.management.interface) if use == "management" else "console"
            for switch in structure.switches:
                gear = served.get(str(switch.rack))
                if gear is not None:
                    key = f"{use}/{switch.key}"
                    found.append(Wire(key, use, switch, port, gear, (f"port.{use}.{gear}", switch.key)))
    if "power" in plans:
        found += _power(structure)
    if "hosts" in plans:
        for host in attachments.hosts.values():
            for leaf, host_port in host.ports:
                key = f"host/{host.host}~{leaf}:{host_port}"
                found.append(
                    Wire(key, "host", structure.by_key[leaf], str(host_port), str(host.host), speed=host.way.speed)
                )
    return found


def _power(structure: Structure) -> Iterator[Wire]:
    for switch in structure.switches:
        for number, feed in enumerate("ab", 1):
            key, position = f"power/{switch.key}/{feed}", (f"port.outlet.{switch.rack}.{feed}", switch.key)
            yield Wire(key, "power", switch, f"psu{number}", f"feed {feed.upper()}", position)


def banks(brief: Brief, structure: Structure) -> list[Bank]:
    """The ports that further cables are dealt to, each with how many there are."""
    plans, found = brief.cabling.plans, []
    for name, _, said, _ in gear_of(brief):
        if said.kind in plans:
            found.append(Bank(f"port.{said.kind}.{name}", said.ports, PORT_WORDS[said.kind]))
    for name, trunk in brief.trunks.items():
        found.append(Bank(f"port.trunk.{name}", trunk.positions, "trunk position"))
    if "power" in plans:
        for rack in dict.fromkeys(str(switch.rack) for switch in structure.switches):
            outlets = cabinet_of(brief, rack).outlets
            found += [Bank(f"port.outlet.{rack}.{feed}", outlets, PORT_WORDS["power"]) for feed in "ab"]
    return found


def trunked(brief: Brief, structure: Structure) -> dict[str, str]:
    """The trunk that each link goes through, by the link's key: the first between its two racks that serves its lower switch."""
    if not brief.trunks:
        return {}
    stand = {name: rack for name, rack, said, _ in gear_of(brief) if said.kind == "panel"}
    between: dict[tuple[str, str], list[str]] = {}
    for name, trunk in brief.trunks.items():
        if trunk.panel in stand and trunk.to in stand:
            one, other = sorted((stand[trunk.panel], stand[trunk.to]))
            between.setdefault((one, other), []).append(name)
    found: dict[str, str] = {}
    for link in structure.links:
        one, other = sorted((str(link.lower.rack), str(link.upper.rack)))
        for name in between.get((one, other), ()):
            serves = brief.trunks[name].serves
            if not serves or link.lower.key in serves:
                found[link.key] = name
                break
    return found


def serving(brief: Brief, kind: str, racks: Iterable[str]) -> Mapping[str, str]:
    """The management switch or console server of each rack that has one: the first that says it serves it, else the first that says nothing."""
    found: dict[str, str] = {}
    for name, _, said, _ in gear_of(brief):
        if said.kind == kind and said.serves is not None:
            for rack in expand_names(said.serves):
                found.setdefault(rack, name)
    for name, _, said, _ in gear_of(brief):
        if said.kind == kind and said.serves is None:
            for rack in racks:
                found.setdefault(rack, name)
    return found


def holes(structure: Structure) -> list[str]:
    """The broken-out ports, as the key of the switch and the port; each is one plug that several cables share."""
    return [
        f"{switch.key}:{hole}"
        for switch in structure.switches
        for hole, lanes in switch.plan.lanes_at.items()
        if lanes > 1
    ]


def is_later(wire: Wire) -> bool:
    """Whether a wire is of a switch that is planned for later."""
    return wire.switch.state == LATER
