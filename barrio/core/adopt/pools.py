"""Pools that hold every number that runs, with room to grow; the office's own where they hold them already."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
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
    edits: dict[str, Any] = {}
    for use, ranges in _ranges(there, carries, links).items():
        if ranges:
            name = _holding(use, ranges, known) or f"{fabric}-{use}"
            said: dict[str, Any] = {f"numbers.{use}": name}
            if name not in known:
                said[f"pools.{name}"] = ranges
            edits |= said
            why = "holds every number found" if name not in known else "is there already, and holds every number found"
            found.propose("numbers", f"pool/{use}", f"pool {name}: {', '.join(ranges)}", said, [why], "likely")
    return edits


def _ranges(there: list[Known], carries: Carried, links: Wired) -> dict[str, list[str]]:
    """The ranges of each kind of number; loopbacks and tunnel ends as filters name them, where any does."""
    told = list(dict.fromkeys(_filtered(there)))
    vteps = [ip_network(one.vtep) for one in there if one.vtep]
    loopbacks = [ip_network(address.ip) for one in there for address in one.loopbacks if str(address.ip) != one.vtep]
    ports = [one.devices[port] for one in there for port in links.far().get(one.name, ()) if port in one.devices]
    small = [address.network for port in ports for address in port.addresses if 1 < address.network.num_addresses <= 4]
    asns = sorted(set(_asns(there)))
    vlans = {vlan for at in carries.vlans.values() for vlan in at.values()} | set(carries.vrf_vlans.values())
    relays = [
        address.network for one in there for device in one.devices.values()
        if device.kind == "VLAN" and device.one("vlan-id") in one.text.l3_vlans for address in device.addresses
    ]  # fmt: skip
    segments = [
        said[family]
        for path, said in carries.edits.items()
        if path.startswith("segments.")
        for family in ("v4", "v6")
        if said.get(family)
    ]
    found: dict[str, list[str]] = {}
    management = list(dict.fromkeys(str(one.management.addresses[0].network) for one in there if one.management))
    leaves = sum(1 for one in there if one.tunnels or one.vtep)
    every = len({name for link in links.links for name in (link.a, link.b)})
    prefixes: list[tuple[str, list[Network], list[str], int]] = [
        ("loopback", loopbacks, told, every), ("vtep", vteps, told, every), ("links", small, [], 2 * len(links.links)),
        ("relays", relays, [], leaves * len(carries.vrfs)), ("segments", [ip_network(one) for one in segments], [], 0),
    ]  # fmt: skip
    bare = {use: [str(one) for one in networks] for use, networks, _, _ in prefixes}
    for use, networks, ranges, least in prefixes:
        others = [one for other, held in bare.items() if other != use for one in found.get(other, held)]
        found[use] = covering(networks, ranges, [*others, *management], least)
    return found | {
        "management": management,
        "asn": roomy(asns, 1000, 65534 if asns and asns[-1] < 65535 else 4294967294),
        "vlan": roomy(sorted(vlans), 100, 4094),
        "vni": roomy(sorted({*carries.segments.values(), *carries.vrfs.values()}), 1000, 16777215),
    }


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


def _holding(use: str, ranges: list[str], known: Mapping[str, Pool]) -> str:
    """A pool of the right kind that is there and holds some ranges, or nothing."""
    try:
        wanted = [parse_range(text) for text in ranges]
    except Refused:
        return ""
    fit = (one for one in known.values() if one.kind is KINDS[use])
    return next((one.name for one in fit if all(any(within(part, old) for old in one.ranges) for part in wanted)), "")


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
