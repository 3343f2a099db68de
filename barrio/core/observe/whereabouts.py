"""Where a host is, as the tables of the leaves have it: by its address, or by its name in the plan and what is heard at its port."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from ipaddress import ip_interface

from barrio.core.errors import refuse
from barrio.core.model.switch import SegmentModel, SwitchModel
from barrio.core.observe import tables
from barrio.core.observe.flow import Said, Wanted
from barrio.core.observe.tables import Ip

NEIGHBOURS = "ip -j neigh show nud all"


@dataclass(frozen=True, slots=True)
class Seat:
    """A port of a leaf at which a host is, and the VLAN there."""

    switch: str
    port: str
    vlan: int


@dataclass(frozen=True, slots=True)
class Located:
    """A host: its address, where one is known, its MAC, and where it is; nowhere if no leaf has it at a port."""

    address: Ip | None
    mac: str
    seats: tuple[Seat, ...]
    segment: str


def heard_at(port: str) -> str:
    """The command that prints the MACs that are heard at a port."""
    return f"bridge fdb show brport {port}"


def within(segment: SegmentModel, address: Ip) -> bool:
    """Whether an address is one of a segment's."""
    prefixes = [segment.gateway_v4, segment.gateway_v6, *(one.prefix for one in segment.secondary)]
    return any(address in ip_interface(str(one)).network for one in prefixes if one)


def locate(models: Mapping[str, SwitchModel], said: Said, who: str, near: str = "") -> Located | None:
    """A host by its address, or by its name, which may say in which segment (“far in tide-grid”) and is taken in the one `near` where that is open;
    nothing for an address that no segment of the fabric holds. Models by switch name.

    Raises `Wanted` while leaves have not answered, and `Refused`: `flow.host` for a name that no host has, of which nothing is heard, or that is heard in
    several segments, `flow.vrfs` for an address that segments of two VRFs hold.
    """
    address = tables.address_of(who)
    return _by_address(models, said, address) if address else _by_name(models, said, who, near)


def _by_address(models: Mapping[str, SwitchModel], said: Said, address: Ip) -> Located | None:
    held = [(name, one) for name, model in models.items() for one in model.segments if within(one, address)]
    if not held:
        return None
    vrfs = sorted({str(one.vrf) for _, one in held})
    if len(vrfs) > 1:
        words = f"Segments of the VRFs {' and '.join(vrfs)} hold {address}. Name the host instead."
        raise refuse("flow.vrfs", words)
    macs = dict(_each(said, held, address))
    known = next(iter(sorted(macs.values())), "")
    seats = tuple(_seats(said, held, known)) if known else ()
    return Located(address, known, seats, str(held[0][1].label))


def _each(said: Said, held: list[tuple[str, SegmentModel]], address: Ip) -> Iterator[tuple[str, str]]:
    """What each leaf knows of an address; all are asked before one waits for any."""
    waits = False
    for name, segment in held:
        try:
            mac, _ = said.mac(name, address, str(segment.svi))
        except Wanted:
            waits = True
            continue
        if mac:
            yield name, mac
    if waits:
        raise Wanted


def _seats(said: Said, held: list[tuple[str, SegmentModel]], mac: str) -> Iterator[Seat]:
    waits = False
    for name, segment in held:
        try:
            devices = said.devices(name)
            bridge = next((one.name for one in devices.values() if one.kind == "bridge"), "bridge")
            found = tables.entries(said.of(name, tables.macs_of(bridge, segment.vlan, mac)))
        except Wanted:
            waits = True
            continue
        for one in found:
            device = devices.get(one.device)
            if device and device.vni is None and device.kind != "bridge":
                yield Seat(name, device.name, segment.vlan)
    if waits:
        raise Wanted


def _by_name(models: Mapping[str, SwitchModel], said: Said, who: str, near: str) -> Located:
    name, _, chosen = who.partition(" in ")
    ports = [(at, str(one)) for at, model in models.items() for one in _ports(model, name)]
    if not ports:
        words = f"“{who[:80]}” is no address, and no host of the fabric. Name a host, or say its address."
        raise refuse("flow.host", words)
    waits = False
    heard: dict[str, list[str]] = {}
    for at, port in ports:
        try:
            for mac, vlan in _macs(said.of(at, heard_at(port))):
                for one in models[at].segments:
                    if one.vlan == vlan:
                        heard.setdefault(str(one.label), []).append(mac)
            said.of(at, NEIGHBOURS)
        except Wanted:
            waits = True
    if waits:
        raise Wanted
    leaves = list(dict.fromkeys(at for at, _ in ports))
    known = {label: _known(models, said, leaves, label, macs) for label, macs in heard.items()}
    with_address = [label for label, (address, _) in known.items() if address]
    picked = _picked(name, chosen, near, list(known), with_address)
    if not picked:
        where = ", ".join(f"{at}:{port}" for at, port in ports[:4])
        raise refuse("flow.host", f"{who} is not heard at {where}: it has not spoken there lately, or it is not there.")
    address, mac = known[picked]
    held = [(at, one) for at in leaves for one in models[at].segments if str(one.label) == picked]
    return Located(address, mac, tuple(dict.fromkeys(_seats(said, held, mac))), picked)


def _picked(name: str, chosen: str, near: str, heard: list[str], with_address: list[str]) -> str:
    """The segment that a host is meant in: the one that was said, the one where an address of it is known, the other end's, or its only one."""
    if chosen or not heard:
        return chosen if chosen in heard else ""
    for some in (with_address, [one for one in heard if one == near], heard):
        if len(some) == 1:
            return some[0]
        if some:
            words = f"{name} is heard in {' and '.join(sorted(some))}. Say which: “{name} in {sorted(some)[0]}”."
            raise refuse("flow.host", words)
    return ""


def _known(
    models: Mapping[str, SwitchModel], said: Said, leaves: list[str], label: str, macs: list[str]
) -> tuple[Ip | None, str]:
    """The first address that a leaf knows of somebody with one of some MACs in a segment, and the MAC; no address where a leaf knows none, since they
    speak to hosts of their own segment only."""
    for at in leaves:
        svis, heard = {str(one.svi) for one in models[at].segments if str(one.label) == label}, set(macs)
        for one in tables.neighbours(said.of(at, NEIGHBOURS)):
            if one.mac in heard and one.device in svis and not one.address.is_link_local:
                return one.address, one.mac
    return None, macs[0]


def _ports(model: SwitchModel, host: str) -> Iterator[str]:
    lags = [one for one in model.host_lags if one.host == host]
    yield from (str(one.label) for one in lags)
    inside = {str(port) for one in lags for port in one.members}
    yield from (str(one.label) for one in model.host_ports if one.host == host and str(one.label) not in inside)


def _macs(text: str) -> Iterator[tuple[str, int]]:
    """The MACs heard at a port, and the VLAN of each: those that are not the port's own."""
    for line in text.splitlines():
        found = re.match(r"([\da-f:]{17}) .*\bvlan (\d+)", line)
        if found and "permanent" not in line and not int(found[1][:2], 16) & 1:
            yield found[1], int(found[2])
