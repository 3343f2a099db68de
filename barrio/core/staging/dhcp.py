"""What a DHCP server of the management network is told: who gets which address, and where Barrio is, in the words of Kea and of dnsmasq.

Every switch whose MAC address is known has the address that the plan gives it. Those that nobody knows yet are lent one of a span that is kept free
for it, where there is such a span.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv4Network, ip_address, ip_interface
from typing import Any

from barrio.core import Compiled
from barrio.core.staging.boxes import Box

LEASE = 3600
"""Seconds for which an address is lent."""
SZTP_V4, SZTP_V6 = 143, 136
"""The options that name bootstrap servers (RFC 8572, section 8): each a length of two octets and a URI."""


@dataclass(frozen=True, slots=True)
class Known:
    """A switch whose MAC address is known, with the address that it is to have."""

    name: str
    mac: str
    ip: str


@dataclass(frozen=True, slots=True)
class Network:
    """A part of the management network: its gateway, the switches in it that are known, and the span that strangers are lent from, lowest and highest."""

    prefix: IPv4Network
    gateway: str
    known: tuple[Known, ...]
    lent: tuple[IPv4Address, IPv4Address] | None = None


@dataclass(frozen=True, slots=True)
class Served:
    """A management network as a DHCP server serves it; `address` is where switches reach Barrio."""

    fabric: str
    edition: int
    address: str
    networks: tuple[Network, ...]
    ntp: tuple[str, ...]
    dns: tuple[str, ...]
    domain: str


def served(
    compiled: Compiled, edition: int, boxes: Mapping[str, Box], address: str, lend: Sequence[IPv4Network] = ()
) -> Served:
    """The management network of an edition, with the boxes of its switches by their keys; `lend` are the spans that strangers are lent from."""
    parts: dict[IPv4Network, list[Known]] = {}
    gateways: dict[IPv4Network, str] = {}
    for switch in compiled.staged:
        management = compiled.models[switch.key].management
        network = ip_interface(str(management.address)).network
        assert isinstance(network, IPv4Network)
        gateways.setdefault(network, str(management.gateway))
        known = parts.setdefault(network, [])
        mac = boxes.get(switch.key, Box()).mac
        if mac:
            known.append(Known(str(switch.name), mac, str(management.ip)))
    networks = tuple(
        Network(one, gateways[one], tuple(parts[one]), _span(one, lend)) for one in sorted(parts, key=int_of)
    )
    services = compiled.brief.services
    return Served(
        str(compiled.brief.fabric), edition, address, networks, _addresses(services.ntp), _addresses(services.dns), str(services.domain)
    )  # fmt: skip


def int_of(network: IPv4Network) -> int:
    return int(network.network_address)


def _span(network: IPv4Network, lend: Sequence[IPv4Network]) -> tuple[IPv4Address, IPv4Address] | None:
    for one in lend:
        if one.subnet_of(network):
            last = one.broadcast_address - (one.broadcast_address == network.broadcast_address)
            first = one.network_address + (one.network_address == network.network_address)
            return IPv4Address(first), IPv4Address(last)
    return None


def _addresses(hosts: Iterable[object]) -> tuple[str, ...]:
    """Those that are IPv4 addresses; a name is nothing that DHCP can tell."""
    return tuple(str(one) for one in hosts if str(one).replace(".", "").isdigit() and ip_address(str(one)).version == 4)


def uris(address: str) -> bytes:
    """A list of one bootstrap server, as the options carry it.

    >>> uris("https://b.example").hex()
    '001168747470733a2f2f622e6578616d706c65'
    """
    said = address.encode()
    return len(said).to_bytes(2, "big") + said


def kea4(one: Served, interface: str = "*") -> str:
    """The configuration of Kea's DHCPv4 server (`kea-dhcp4 -t` reads it)."""
    options: list[dict[str, Any]] = [
        {"code": SZTP_V4, "space": "dhcp4", "csv-format": False, "data": uris(one.address).hex(), "always-send": True},
        {"name": "domain-name", "data": one.domain},
    ]
    for name, hosts in (("ntp-servers", one.ntp), ("domain-name-servers", one.dns)):
        if hosts:
            options.append({"name": name, "data": ", ".join(hosts)})
    return _json("Dhcp4", one, {
        "interfaces-config": {"interfaces": [interface], "re-detect": True},
        "lease-database": {"type": "memfile", "persist": True},
        "authoritative": True,
        "valid-lifetime": LEASE,
        "host-reservation-identifiers": ["hw-address"],
        "option-data": options,
        "subnet4": [_subnet(number, network) for number, network in enumerate(one.networks, 1)],
    })  # fmt: skip


def _subnet(number: int, one: Network) -> dict[str, Any]:
    return {
        "id": number,
        "subnet": str(one.prefix),
        "option-data": [{"name": "routers", "data": one.gateway}],
        "pools": [{"pool": f"{one.lent[0]} - {one.lent[1]}"}] if one.lent else [],
        "reservations": [{"hw-address": each.mac, "ip-address": each.ip, "hostname": each.name} for each in one.known],
    }


def kea6(one: Served, interface: str) -> str:
    """The configuration of Kea's DHCPv6 server: it lends nothing, and tells whoever asks on the link where Barrio is (RFC 8415, section 18.3.6)."""
    return _json("Dhcp6", one, {
        "interfaces-config": {"interfaces": [interface], "re-detect": True},
        "lease-database": {"type": "memfile", "persist": False},
        "option-data": [
            {"code": SZTP_V6, "space": "dhcp6", "csv-format": False, "data": uris(one.address).hex(), "always-send": True},
        ],
        "subnet6": [{"id": 1, "subnet": "fe80::/10", "interface": interface}],
    })  # fmt: skip


def _json(name: str, one: Served, words: Mapping[str, Any]) -> str:
    said = {name: {**words, "user-context": {"comment": f"{one.fabric}, edition {one.edition}"}}}
    return json.dumps(said, indent=2) + "\n"


def dnsmasq(one: Served, interface: str = "") -> str:
    """The configuration of dnsmasq's DHCP server (`dnsmasq --test` reads it)."""
    lines = [f"# {one.fabric}, edition {one.edition}", "port=0", "dhcp-authoritative", f"domain={one.domain}"]
    lines += [f"interface={interface}", "bind-dynamic"] if interface else []
    told = ":".join(f"{octet:02x}" for octet in uris(one.address))
    lines.append(f"dhcp-option-force={SZTP_V4},{told}")
    for name, hosts in (("ntp-server", one.ntp), ("dns-server", one.dns)):
        lines += [f"dhcp-option=option:{name},{','.join(hosts)}"] if hosts else []
    for number, network in enumerate(one.networks, 1):
        mask = network.prefix.netmask
        lines.append(f"dhcp-range=set:n{number},{network.prefix.network_address},static,{mask},{LEASE}")
        if network.lent:
            lines.append(f"dhcp-range=set:n{number},{network.lent[0]},{network.lent[1]},{mask},{LEASE}")
        lines.append(f"dhcp-option=tag:n{number},option:router,{network.gateway}")
        lines += [f"dhcp-host={each.mac},{each.ip},{each.name},{LEASE}" for each in network.known]
    return "\n".join(lines) + "\n"
