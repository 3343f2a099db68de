"""What a switch's kernel says of where packets go, as iproute2 prints it: its devices, routes, neighbours and MACs."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from ipaddress import (
    IPv4Address,
    IPv4Interface,
    IPv4Network,
    IPv6Address,
    IPv6Interface,
    IPv6Network,
    ip_address,
    ip_interface,
    ip_network,
)
from typing import Any

Ip = IPv4Address | IPv6Address
_MAC = re.compile(r"[\da-f]{2}(:[\da-f]{2}){5}")

DEVICES = "ip -j -d address"


def address_of(who: str) -> Ip | None:
    """An address, if that is what is said."""
    try:
        return ip_address(who)
    except ValueError:
        return None


def routes_to(address: Ip) -> str:
    """The command that prints each table's routes that hold an address."""
    return f"ip -j -{address.version} route show table all to match {address}"


def neighbours_of(address: Ip) -> str:
    """The command that prints what is known of an address beside a switch."""
    return f"ip -j -{address.version} neigh show nud all to {address}"


def macs_of(bridge: str, vlan: int, mac: str) -> str:
    """The command that prints where a bridge has a MAC."""
    return f"bridge fdb get {mac} br {bridge} vlan {vlan}"


def tunnels_of(device: str, mac: str) -> str:
    """The command that prints behind which tunnel end a VXLAN device has a MAC."""
    return f"bridge fdb get {mac} dev {device} self"


def vlan_of(device: str) -> str:
    """The command that prints the VLAN of a device that is on a bridge."""
    return f"bridge -j vlan show dev {device}"


def group_of(number: int) -> str:
    """The command that prints a group of next hops."""
    return f"ip -j nexthop show id {number}"


@dataclass(frozen=True, slots=True)
class Device:
    """A device of a switch. `master` is its bridge, LAG or VRF, `lower` what it stands on, `table` the routing table of a VRF. MTU in bytes."""

    name: str
    mac: str
    mtu: int
    up: bool
    kind: str
    master: str
    lower: str
    vlan: int | None
    vni: int | None
    table: int | None
    addresses: tuple[IPv4Interface | IPv6Interface, ...]


@dataclass(frozen=True, slots=True)
class Way:
    """A next hop of a route: a device, a router behind it where there is one, and how much of the traffic it takes beside others."""

    device: str
    gateway: Ip | None
    weight: int
    dead: bool


@dataclass(frozen=True, slots=True)
class Route:
    """A route of a table, which is known by its name or its number. `kind` is the kernel's (RTN_…), `unicast` where it forwards."""

    prefix: IPv4Network | IPv6Network
    kind: str
    table: str
    metric: int
    ways: tuple[Way, ...]


@dataclass(frozen=True, slots=True)
class Neighbour:
    """An address beside a switch, and its MAC where it answered. `told` says that another switch told of it (EVPN, RFC 9135)."""

    address: Ip
    device: str
    mac: str
    told: bool


@dataclass(frozen=True, slots=True)
class Entry:
    """Where a MAC is: a port, or behind tunnel ends, which may be a group of next hops."""

    device: str
    ends: tuple[Ip, ...]
    group: int | None


def devices(text: str) -> dict[str, Device]:
    """The devices of `DEVICES`, by name.

    >>> devices('[{"ifname": "u1", "mtu": 9216, "operstate": "UP", "addr_info": [{"local": "10.0.0.1", "prefixlen": 31}]}]')["u1"].mtu
    9216
    """
    return {one.name: one for one in (_device(each) for each in _rows(text)) if one}


def _device(said: Mapping[str, Any]) -> Device | None:
    name = said.get("ifname")
    if not isinstance(name, str):
        return None
    info = said.get("linkinfo") if isinstance(said.get("linkinfo"), dict) else {}
    data = info.get("info_data", {}) if info else {}
    kind = str(info.get("info_kind", "")) if info else ""
    number = data.get("id")
    return Device(
        name,
        str(said.get("address", "")),
        _int(said.get("mtu")),
        said.get("operstate") in ("UP", "UNKNOWN") and "UP" in said.get("flags", ["UP"]),
        kind,
        str(said.get("master", "")),
        str(said.get("link", "")),
        number if kind == "vlan" and isinstance(number, int) else None,
        number if kind == "vxlan" and isinstance(number, int) else None,
        data.get("table") if kind == "vrf" else None,
        tuple(_interfaces(said.get("addr_info"))),
    )


def _interfaces(said: Any) -> Iterator[IPv4Interface | IPv6Interface]:
    for one in said if isinstance(said, list) else ():
        try:
            yield ip_interface(f"{one['local']}/{one['prefixlen']}")
        except (KeyError, TypeError, ValueError):
            continue


def routes(text: str, six: bool) -> Iterator[Route]:
    """Routes of a family as `routes_to` prints them; what cannot be read is left out."""
    for said in _rows(text):
        ways = said.get("nexthops")
        hops = [said] if not isinstance(ways, list) else [one for one in ways if isinstance(one, dict)]
        try:
            read = tuple(_way(one) for one in hops if one.get("dev"))
            whole = "::/0" if six else "0.0.0.0/0"
            prefix = ip_network(whole if said["dst"] == "default" else str(said["dst"]), strict=False)
        except (KeyError, ValueError):
            continue
        table, kind = str(said.get("table", "main")), str(said.get("type", "unicast"))
        yield Route(prefix, kind, table, _int(said.get("metric")), read)


def _way(said: Mapping[str, Any]) -> Way:
    via = said.get("via")
    gateway = said.get("gateway") or (via.get("host") if isinstance(via, dict) else None)
    flags = said.get("flags") or []
    dead = bool({"dead", "linkdown"} & set(flags))
    return Way(str(said["dev"]), ip_address(gateway) if gateway else None, max(1, _int(said.get("weight"))), dead)


def best(found: Iterable[Route], table: frozenset[str]) -> Route | None:
    """The route that a table takes: the longest prefix, and the lowest metric among those."""
    of_table = [one for one in found if one.table in table]
    return min(of_table, key=lambda one: (-one.prefix.prefixlen, one.metric), default=None)


def neighbours(text: str) -> list[Neighbour]:
    """Neighbours as `neighbours_of` prints them; one without a MAC did not answer."""
    found = []
    for said in _rows(text):
        address, mac = address_of(str(said.get("dst", ""))), str(said.get("lladdr", ""))
        if address is not None:
            # What one switch says is asked of others: nothing but a MAC passes for one.
            answered = "FAILED" not in (said.get("state") or []) and _MAC.fullmatch(mac)
            found.append(Neighbour(address, str(said.get("dev", "")), mac if answered else "", "extern_learn" in said))
    return found


def entries(text: str) -> list[Entry]:
    """Where MACs are, as `bridge fdb` prints them, one a line.

    >>> entries("02:00:00:00:00:01 dev vni30001 dst 10.60.8.2 self extern_learn")[0].ends
    (IPv4Address('10.60.8.2'),)
    """
    found = []
    for line in text.splitlines():
        device = re.match(r"[\da-f:]{17} dev (\S+)", line)
        if device:
            end, group = re.search(r" dst (\S+)", line), re.search(r" nhid (\d+)", line)
            ends = (ip_address(end[1]),) if end else ()
            found.append(Entry(device[1], ends, int(group[1]) if group else None))
    return found


def group(text: str) -> list[int | Ip]:
    """What a next hop is: its members' numbers, or where it leads."""
    found: list[int | Ip] = []
    for said in _rows(text):
        found += [_int(one.get("id")) for one in said.get("group", []) if isinstance(one, dict)]
        if said.get("gateway"):
            found.append(ip_address(str(said["gateway"])))
    return found


def vlan(text: str) -> int | None:
    """The VLAN that a device's frames without a tag are in, as `vlan_of` prints it."""
    for said in _rows(text):
        for one in said.get("vlans", []):
            if isinstance(one, dict) and "PVID" in (one.get("flags") or []):
                return _int(one.get("vlan"))
    return None


def _rows(text: str) -> tuple[Mapping[str, Any], ...]:
    try:
        found = json.loads(text) if text.strip() else []
    except ValueError:
        return ()
    return tuple(one for one in found if isinstance(one, dict) and one) if isinstance(found, list) else ()


def _int(said: Any) -> int:
    return said if isinstance(said, int) else 0
