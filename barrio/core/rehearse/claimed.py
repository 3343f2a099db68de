"""The small claims of a brief in a rehearsal: which hosts stand for those that are named, and which packets are sent."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from ipaddress import ip_address, ip_interface

from barrio.core.brief.claims import Named, Reach, parse
from barrio.core.compiled import Compiled
from barrio.core.rehearse.stations import Station


def reaches_of(compiled: Compiled) -> list[Reach]:
    """The claims of a brief, in its order."""
    return [parse(text) for text in compiled.brief.claims]


@dataclass(frozen=True, slots=True)
class Speaker:
    """Who asks: a host in a segment, or a switch (by key) from a VRF of its own."""

    station: Station | None = None
    switch: str = ""
    vrf: str = ""


@dataclass(frozen=True, slots=True)
class Asked:
    """One packet that a claim asks for: who speaks, to which address, and the host that has it, where one does."""

    speaker: Speaker
    to: str
    other: Station | None = None


def asked(compiled: Compiled, one: Reach, stations: Sequence[Station], keys: Collection[str]) -> list[Asked]:
    """The packets of a claim, of those that are here: each speaker to each of those that it is about. Nothing where nobody of either side is here."""
    families = [one.family] if one.family else [4, 6]
    found: list[Asked] = []
    for speaker in _speakers(compiled, one, stations, keys):
        if isinstance(one.whom, str):
            if speaker.station is None or speaker.station.address(one.family == 6):
                found.append(Asked(speaker, one.whom))
            continue
        for other in _stations(compiled, one.whom, one.within, stations):
            if speaker.station is not None and speaker.station.host == other.host:
                continue
            for family in families:
                six = family == 6
                if other.address(six) and (speaker.station is None or speaker.station.address(six)):
                    found.append(Asked(speaker, other.address(six), other))
    return found


def _speakers(compiled: Compiled, one: Reach, stations: Sequence[Station], keys: Collection[str]) -> Iterator[Speaker]:
    switch = compiled.switch(one.who.name) if one.who.kind in ("", "switch") else None
    if switch is None:
        yield from (Speaker(each) for each in _stations(compiled, one.who, one.within, stations))
    elif switch.key in keys:
        yield Speaker(None, switch.key, one.within.name if one.within and one.within.kind == "vrf" else "")


def _stations(compiled: Compiled, named: Named, within: Named | None, stations: Sequence[Station]) -> Iterator[Station]:
    for one in stations:
        is_it = (
            (named.kind in ("", "host") and one.host == named.name)
            or (named.kind in ("", "segment") and one.segment == named.name)
            or (named.kind in ("", "vrf") and one.vrf == named.name)
        )
        if one.host not in compiled.attachments.hosts:
            # Somebody whom nobody planned is in no segment that a claim could be about.
            continue
        there = within is None or within.name == (one.vrf if within.kind == "vrf" else one.segment)
        if is_it and there:
            yield one


def unheard(compiled: Compiled, stations: Sequence[Station], keys: Collection[str]) -> list[str]:
    """The claims of which nobody on one of the two sides is here, in their own words."""
    return [one.words for one in reaches_of(compiled) if not asked(compiled, one, stations, keys)]


def played(compiled: Compiled, stations: Sequence[Station]) -> dict[str, Station]:
    """Addresses that claims ask for, and those of DHCP servers, that a host has in the real world: in the prefix of a segment, and nobody's gateway. By
    address which host of the rehearsal has it beside its own."""
    found: dict[str, Station] = {}
    mine = {one.address(six) for one in stations for six in (False, True)}
    wanted = [(one.whom, one.who.name, "") for one in reaches_of(compiled) if isinstance(one.whom, str)]
    for segment in compiled.brief.segments.values():
        if segment.relay is not None:
            wanted += [(str(one), "", str(segment.relay.vrf or segment.vrf)) for one in segment.relay.servers]
    for address, who, vrf in wanted:
        if address in mine or address in found:
            continue
        for one in reversed(stations):
            if one.host != who and vrf in ("", one.vrf) and _in(address, one):
                found[address] = one
                break
    return found


def _in(address: str, station: Station) -> bool:
    """Whether a host could have an address: one of its segment's, and not the gateway's."""
    six = ":" in address
    own, gateway = (station.v6, station.gateway6) if six else (station.v4, station.gateway4)
    return bool(own) and not station.silent and address != gateway and ip_address(address) in ip_interface(own).network
