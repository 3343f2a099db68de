"""The sessions of one switch, by what its files call them: who is at the other end, over which cable, and what they carry."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from barrio.core.model.switch import Common, SwitchModel


class Session(NamedTuple):
    """A session, the same from either end. `id` stays while its link or its two ends do, whatever addresses they have; `ends` are the names of
    the two, that of a system outside the second. `link` is the key of the link that it runs over, and `cable` that link's label, where it is
    one; `families` are what it carries."""

    id: str
    ends: tuple[str, str]
    families: tuple[str, ...]
    cable: str = ""
    link: str = ""


@dataclass(frozen=True)
class SessionsOf:
    """The sessions of a switch: `by_name` goes by VRF and by what the switch calls the other end, `by_device` by the device that they run over;
    `lo` are those between loopbacks."""

    every: dict[str, Session] = field(default_factory=dict)
    by_name: dict[tuple[str, str], Session] = field(default_factory=dict)
    by_device: dict[str, list[Session]] = field(default_factory=dict)
    shut: set[str] = field(default_factory=set)

    def note(self, session: Session, device: str, name: str, vrf: str = "", shut: bool = False) -> None:
        self.every[session.id] = session
        if name:
            self.by_name[vrf, name] = session
        self.by_device.setdefault(device, []).append(session)
        if shut:
            self.shut.add(session.id)


def sessions_of(model: SwitchModel) -> SessionsOf:
    """Every session that a switch has, with those that are shut."""
    found = SessionsOf()
    for port in model.fabric_ports:
        ends = (min(model.name, port.peer), max(model.name, port.peer))
        for name, kind, families in _over(model, str(port.neighbor), port.neighbor6):
            session = Session(f"{port.link}/{kind}", ends, families, str(port.cable), port.link)
            found.note(session, port.label, name, shut=bool(port.shut))
    for far in model.sessions:
        ends = (min(model.name, far.label), max(model.name, far.label))
        found.note(Session(f"{'-'.join(ends)}/evpn", ends, ("l2vpn evpn",)), "lo", far.address, shut=bool(far.shut))
    for outside in model.outside:
        for neighbour, family in ((outside.neighbor_v4, "ipv4 unicast"), (outside.neighbor_v6, "ipv6 unicast")):
            if neighbour:
                key = f"{model.key}/{outside.system}/{outside.port}/{outside.vrf}/{family[:4]}"
                session = Session(key, (model.name, outside.system), (family,))
                found.note(session, str(outside.label), neighbour, outside.vrf, bool(outside.shut))
    return found


def _over(model: SwitchModel, neighbour: str, six: str | None) -> Iterator[tuple[str, str, tuple[str, ...]]]:
    """The sessions over a fabric port: what it calls the other end, the kind, and the families."""
    common = model.common
    if not common.ebgp:
        if common.isis:
            yield "", "isis", _both(common)
        else:
            if common.has_v4:
                yield "", "ospf", ("ipv4 unicast",)
            if common.has_v6:
                yield "", "ospf6", ("ipv6 unicast",)
        return
    evpn = ("l2vpn evpn",) if model.in_overlay and not common.ibgp_overlay else ()
    if common.two_families:
        yield neighbour, "4", ("ipv4 unicast", *evpn)
        if six:
            yield six, "6", ("ipv6 unicast",)
    else:
        yield neighbour, "4", (*_both(common), *evpn)


def _both(common: Common) -> tuple[str, ...]:
    return (*(["ipv4 unicast"] if common.has_v4 else []), *(["ipv6 unicast"] if common.has_v6 else []))
