"""Pools that hold every number that runs, with room to grow; the office's own where they hold them already."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from ipaddress import IPv4Network, IPv6Network, collapse_addresses, ip_network
from typing import Any

from barrio.core.adopt.carried import Carried
from barrio.core.adopt.found import Findings
from barrio.core.adopt.numbers import cable_of
from barrio.core.adopt.running import Known
from barrio.core.adopt.wired import Wired
from barrio.core.errors import Refused
from barrio.core.ledger.demand import KINDS
from barrio.core.ledger.nest import within
from barrio.core.ledger.pool import Pool, parse_range

Network = IPv4Network | IPv6Network


def pooled(
    there: list[Known], carries: Carried, links: Wired, fabric: str, known: Mapping[str, Pool], found: Findings
) -> dict[str, Any]:
    """The edits that name a pool for each kind of number."""
    return pools_for(_raw(there, carries, links), fabric, known, found)


def pools_for(raw: Mapping[str, Numbers], fabric: str, known: Mapping[str, Pool], found: Findings) -> dict[str, Any]:
    """The edits that name a pool for each kind of number that was found, by its use."""
    edits: dict[str, Any] = {}
    taken = [part.text for pool in known.values() for part in pool.ranges if "/" in part.text]
    for use, numbers in raw.items():
        if not numbers.found:
            continue
        name, left = _holding(use, numbers.found, known)
        said: dict[str, Any] = {f"numbers.{use}": name or f"{fabric}-{use}"}
        why = "is there already, and holds every number found"
        if left and not (name and use == "segments"):
            others = [
                text for other, its in raw.items() if other != use for text in (its.ranges or its.found) if "/" in text
            ]
            numbers.ranges = _ranges(use, left, numbers, [*taken, *others])
            said[f"pools.{name or f'{fabric}-{use}'}"] = numbers.ranges
            why = "is there already, and holds the others" if name else "holds every number found"
        name = name or f"{fabric}-{use}"
        edits |= said
        words = f"pool {name}: {', '.join(numbers.ranges)}" if numbers.ranges else f"pool {name}"
        found.propose("numbers", f"pool/{use}", words, said, [why], "likely")
    return edits


@dataclass
class Numbers:
    """What was found of one kind, as texts: prefixes, or numbers. `told` are ranges that a filter names, `least` how many there are to be; `ranges` those
    that the pool is given."""

    found: list[str]
    told: list[str] = field(default_factory=list)
    least: int = 0
    ranges: list[str] = field(default_factory=list)


_MOST = {"vlan": (100, 4094), "vni": (1000, 16777215), "asn": (1000, 4294967294)}


def _ranges(use: str, left: list[str], numbers: Numbers, apart: list[str]) -> list[str]:
    """The ranges that a pool is given for numbers that no other holds."""
    if use == "management":
        return left
    if use in _MOST:
        values = [int(text) for text in left]
        step, most = _MOST[use]
        return roomy(values, step, 65534 if use == "asn" and values[-1] < 65535 else most)
    return covering(map(ip_network, left), numbers.told, apart, numbers.least)


def _raw(there: list[Known], carries: Carried, links: Wired) -> dict[str, Numbers]:
    """Every number of each kind; loopbacks and tunnel ends with the ranges that filters name."""
    told = list(dict.fromkeys(_filtered(there)))
    far = links.far()
    ports = [one.devices[port] for one in there for port in far.get(one.name, ()) if port in one.devices]
    vlans = {vlan for at in carries.vlans.values() for vlan in at.values()} | set(carries.vrf_vlans.values())
    leaves = sum(1 for one in there if one.tunnels or one.vtep)
    every = len({name for link in links.links for name in (link.a, link.b)})
    segments = [
        said[family]
        for path, said in carries.edits.items()
        if path.startswith("segments.")
        for family in ("v4", "v6")
        if said.get(family)
    ]
    return {
        "management": Numbers(list(dict.fromkeys(str(one.management.addresses[0].network) for one in there if one.management))),
        "loopback": Numbers(
            [str(ip_network(address.ip)) for one in there for address in one.loopbacks if str(address.ip) != one.vtep], told, every
        ),
        "vtep": Numbers([str(ip_network(one.vtep)) for one in there if one.vtep], told, every),
        "links": Numbers(
            [str(address.network) for port in ports for address in port.addresses if 1 < address.network.num_addresses <= 4], [], 2 * len(links.links)
        ),
        "relays": Numbers(
            [
                str(address.network) for one in there for device in one.devices.values()
                if device.kind == "VLAN" and device.one("vlan-id") in one.text.l3_vlans for address in device.addresses
            ], [], leaves * len(carries.vrfs),
        ),
        "segments": Numbers(segments),
        "asn": Numbers([str(asn) for asn in sorted(set(_asns(there)))]),
        "vlan": Numbers([str(vlan) for vlan in sorted(vlans)]),
        "vni": Numbers([str(vni) for vni in sorted({*carries.segments.values(), *carries.vrfs.values()})]),
    }  # fmt: skip


def _filtered(there: list[Known]) -> Iterator[str]:
    """The prefixes of which filters let host routes pass."""
    for one in there:
        yield from re.findall(r"ip6? saddr (\S+/\d+) udp dport 4789 accept", one.file("etc/nftables.conf"))
        for entries in one.text.lists.values():
            for entry in entries:
                words = entry.split()
                if entry.endswith(("ge 32", "ge 128")) and "permit" in words:
                    yield words[words.index("permit") + 1]


def _asns(there: list[Known]) -> Iterator[int]:
    for one in there:
        yield from (router.asn for router in one.text.routers.values())
        for group in one.underlay.neighbors.values() if one.underlay else ():
            own = group.value("local-as").split()
            if own:
                yield int(own[0])


def _holding(use: str, numbers: list[str], known: Mapping[str, Pool]) -> tuple[str, list[str]]:
    """The pool of the right kind that holds most of some numbers, or nothing, and the numbers that it does not hold."""
    every = list(dict.fromkeys(numbers))
    try:
        wanted = [(text, parse_range(text if "/" in text else f"{text}..{text}")) for text in every]
    except Refused:
        return "", every
    best, left = "", every
    for pool in known.values():
        if pool.kind is KINDS[use]:
            rest = [text for text, part in wanted if not any(within(part, old) for old in pool.ranges)]
            if len(rest) < len(left):
                best, left = pool.name, rest
    return best, left


def managed(there: list[Known], links: Wired, found: Findings) -> dict[str, Any]:
    """The edits that say how switches are managed, and how cable labels begin."""
    edits: dict[str, Any] = {}
    ports = Counter(one.management.name for one in there if one.management)
    gateways = Counter(one.management.one("gateway") for one in there if one.management)
    if gateways:
        gateway, port = gateways.most_common(1)[0][0], ports.most_common(1)[0][0]
        firsts = {str(one.management.addresses[0].network[1]) for one in there if one.management}
        said = ({"management.gateway": gateway} if gateway not in firsts else {}) | (
            {"management.interface": port} if port != "eth0" else {}
        )
        edits |= said
        found.propose(
            "shape", "management", f"management by {port} and {gateway}", said, [f"{sum(gateways.values())} switches"]
        )
    by_name = {one.name: one for one in there}
    labels = Counter(
        label[0] for link in links.links if link.a in by_name and (label := cable_of(by_name[link.a].devices.get(link.a_port)))
    )  # fmt: skip
    if labels:
        prefix, count = labels.most_common(1)[0]
        edits["cabling.prefix"] = prefix
        found.propose(
            "shape",
            "cabling.prefix",
            f"cable labels begin with {prefix}",
            {"cabling.prefix": prefix},
            [f"{count} ports are called after such cables"],
        )
    return edits


def covering(addresses: Iterable[Network], told: Iterable[str], apart: Iterable[str] = (), least: int = 0) -> list[str]:
    """The ranges of a pool that holds some prefixes: those that a filter names, else the smallest around them that keeps clear of what stands `apart` and has
    room for twice as many as there are, or as there are to be at `least`."""
    wanted = sorted(set(addresses), key=lambda one: (one.version, int(one.network_address), one.prefixlen))
    taken = [ip_network(one) for one in apart]
    holds = [one for one in map(ip_network, dict.fromkeys(told)) if any(_in(mine, one) for mine in wanted)]
    left = [mine for mine in wanted if not any(_in(mine, one) for one in holds)]
    for version in (4, 6):
        holds += _around([one for one in left if one.version == version], taken, least)
    return [str(one) for one in holds]


def _in(one: Network, other: Network) -> bool:
    return one.version == other.version and one.subnet_of(other)  # type: ignore[arg-type]


def _clear(one: Network, taken: Iterable[Network]) -> bool:
    return not any(one.version == other.version and one.overlaps(other) for other in taken)


def _around(networks: list[Any], taken: list[Network], least: int) -> list[Network]:
    """The smallest prefix around some that holds twice as many, and a network and a broadcast address; several where something lies between."""
    if not networks:
        return []
    low, high = networks[0].network_address, max(one.broadcast_address for one in networks)
    size = max(4, 2 * least, 2 * sum(mine.num_addresses for mine in networks))
    one: Network = networks[0]
    while one.prefixlen > 1 and not (low in one and high in one):
        one = one.supernet()
    while one.prefixlen > 1 and _clear(one.supernet(), taken) and (one.num_addresses < size or _edges(one, low, high)):
        one = one.supernet()
    if _clear(one, taken):
        return [one]
    half = len(networks) // 2
    if not half:
        return list(collapse_addresses(networks))
    return _around(networks[:half], taken, 0) + _around(networks[half:], taken, least)


def _edges(one: Network, low: object, high: object) -> bool:
    """Whether the first or the last address of an IPv4 range is in use, which an address of a subnet is not."""
    return one.version == 4 and (one.network_address == low or one.broadcast_address == high)


def roomy(numbers: list[int], step: int, most: int) -> list[str]:
    """A range around sorted numbers that goes on to the next round one, so that there is room to grow.

    >>> roomy([102, 118], 100, 4094), roomy([], 100, 4094)
    (['100..199'], [])
    """
    if not numbers:
        return []
    return [f"{max(2, numbers[0] // step * step)}..{min(most, (numbers[-1] // step + 1) * step - 1)}"]
