"""Who is linked to whom: by LLDP; where nobody speaks it, by the two addresses of a subnet; else by what ports are called."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise

from barrio.core.adopt.found import Findings
from barrio.core.adopt.running import Known
from barrio.core.exchange.links import PlainLink

_End = tuple[str, str]
HOW = {"lldp": "heard by LLDP", "subnet": "by the two addresses of their subnet", "words": "by what the port is called"}


@dataclass(frozen=True)
class Wired:
    """The links of a fabric, and how each was told; `unread` are switches that only others tell of."""

    links: list[PlainLink]
    how: Mapping[frozenset[_End], str]
    unread: frozenset[str] = frozenset()

    @property
    def evidence(self) -> list[str]:
        """How links were told, in words."""
        return [f"{count} links {HOW[how]}" for how, count in Counter(self.how.values()).most_common()]

    def far(self) -> dict[str, dict[str, _End]]:
        """What is at the other end of each port, by switch."""
        found: dict[str, dict[str, _End]] = defaultdict(dict)
        for one in self.links:
            found[one.a][one.a_port] = (one.b, one.b_port)
            found[one.b][one.b_port] = (one.a, one.a_port)
        return found


def wired(known: Mapping[str, Known], found: Findings) -> Wired:
    """The links between switches. Two tellings that contradict each other are an oddity, and LLDP is believed.

    A switch that could not be read is one where a port with an address of the fabric, or a session of it, leads to.
    """
    how: dict[frozenset[_End], str] = {}
    taken: dict[_End, frozenset[_End]] = {}
    for source, tell in (("lldp", _lldp), ("subnet", _subnets), ("words", _called)):
        for one, other in tell(known):
            link = frozenset((one, other))
            if link in how or len(link) < 2 or one[0] == other[0]:
                continue
            there = taken.get(one) or taken.get(other)
            if there is not None:
                if source == "words":
                    named, real = f"{other[0]} {other[1]}", _text(there, one)
                    found.odd(
                        f"link/{one[0]}:{one[1]}", one[0],
                        f"{one[1]} is called a link to {named}, and is {HOW[how[there]]} {real}",
                    )  # fmt: skip
                continue
            how[link] = source
            taken[one] = taken[other] = link
    ends = sorted(tuple(sorted(link)) for link in how)
    elsewhere = frozenset(name for link in how for name, _ in link if name not in known)
    return Wired([PlainLink(*one, *other, place) for place, (one, other) in enumerate(ends, 1)], how, elsewhere)


def _text(link: frozenset[_End], own: _End) -> str:
    far = next((end for end in link if end != own), own)
    return f"to {far[0]} {far[1]}"


def _lldp(known: Mapping[str, Known]) -> Iterator[tuple[_End, _End]]:
    for name, one in known.items():
        out_of_band = one.management.name if one.management else ""
        for row in one.running.heard:
            there = row.far.system in known or row.at.name in _routed(one)
            if there and row.at.name != out_of_band:
                yield (name, row.at.name), (row.far.system, row.far.name)


def _subnets(known: Mapping[str, Known]) -> Iterator[tuple[_End, _End]]:
    """Ports whose addresses are the two of one small subnet."""
    there: dict[tuple[int, int, int], list[_End]] = defaultdict(list)
    for name, one in known.items():
        for device in one.devices.values():
            if device.kind in ("port", "bond") and not device.one("vrf"):
                for address in device.addresses:
                    net = address.network
                    if 1 < net.num_addresses <= 4:
                        there[net.version, int(net.network_address), net.prefixlen].append((name, device.name))
    for ends in there.values():
        if len(ends) == 2:
            yield ends[0], ends[1]


def _called(known: Mapping[str, Known]) -> Iterator[tuple[_End, _End]]:
    """Ports whose alias, or whose session's description, names a switch and a port of it."""
    for name, one in known.items():
        said = {device.name: device.one("alias") for device in one.devices.values() if device.kind == "port"}
        for session in one.underlay.sessions if one.underlay else ():
            if session.name in said:
                said[session.name] += " " + session.value("description")
        for port, words in said.items():
            tokens = [token for token in re.split(r"[\s,:;]+", words) if token]
            for far, far_port in pairwise(tokens):
                if far in known and far != name and far_port in known[far].devices:
                    yield (name, port), (far, far_port)
                    break
            else:
                if len(tokens) > 1 and tokens[0] not in known and port in _routed(one) and re.search(r"\d$", tokens[1]):
                    yield (name, port), (tokens[0], tokens[1])


def _routed(one: Known) -> frozenset[str]:
    """The ports over which a switch speaks to switches: those with a session, or a small subnet, of the fabric."""
    sessions = {session.name for session in one.underlay.sessions} if one.underlay else set()
    ports = [device for device in one.devices.values() if device.kind == "port" and not device.one("vrf")]
    small = {
        device.name for device in ports if any(1 < address.network.num_addresses <= 4 for address in device.addresses)
    }
    return frozenset(small | {device.name for device in ports if device.name in sessions})
