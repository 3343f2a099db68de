"""Names for addresses: DNS zones, forward and reverse, and a hosts file.

Zones are master files (RFC 1035, 5) with absolute owner names left out where the origin serves. Every switch has its loopback
under its own name; its out-of-band port is `mgmt.<name>`, its tunnel end `vtep.<name>`, a numbered port `<port>.<name>`; a
segment's gateway is `gw.<segment>`. IPv4 reverse zones are cut at /24 (RFC 1035, 3.5), IPv6 ones at /64 (RFC 3596, 2.5).
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from ipaddress import IPv4Address, IPv6Address, ip_address

from barrio.core.compiled import Compiled

Address = IPv4Address | IPv6Address
_TIMES = "3600 900 1209600 3600"
"""Refresh, retry, expire and negative TTL in seconds (RFC 1912, 2.2; RFC 2308)."""


@dataclass(frozen=True, slots=True)
class Record:
    """An address and the name it goes by, relative to the fabric's domain."""

    name: str
    address: Address


def records(compiled: Compiled) -> list[Record]:
    """Every address that has a name, by name and address; a name that several switches share (a VTEP's) is under each."""
    found = {(record.name, record.address): record for record in _records(compiled)}
    return [found[at] for at in sorted(found, key=lambda at: (at[0], at[1].version, int(at[1])))]


def _records(compiled: Compiled) -> Iterator[Record]:
    for switch in compiled.staged:
        model = compiled.models[switch.key]
        for text in (model.loopback_v4, model.loopback_v6):
            if text:
                yield Record(model.name, _address(text))
        yield Record(f"mgmt.{model.name}", _address(model.management.address))
        if model.vtep:
            yield Record(f"vtep.{model.name}", _address(model.vtep))
        for port in model.fabric_ports:
            for text in (port.v4, port.v6):
                if text:
                    yield Record(f"{_label(port.label)}.{model.name}", _address(text))
        for segment in model.segments:
            for text in (segment.gateway_v4, segment.gateway_v6):
                if text:
                    yield Record(f"gw.{_label(segment.label)}", _address(text))


def _address(text: str) -> Address:
    return ip_address(text.split("/", maxsplit=1)[0])


def _label(text: str) -> str:
    """A name as one label of the DNS."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")


def hosts_file(compiled: Compiled) -> str:
    """A hosts file: address, full name, and the short name."""
    domain = compiled.brief.services.domain
    lines = [f"{record.address} {record.name}.{domain} {record.name}" for record in records(compiled)]
    return f"# {compiled.brief.fabric}: every address that has a name\n" + "\n".join(lines) + "\n"


def zones(compiled: Compiled, serial: int = 1) -> dict[str, str]:
    """Master files by zone name: the domain of the fabric, and a reverse zone for each /24 and /64.

    `serial` has to grow from one set of zones to the next (RFC 1982); the version of the draft does.
    """
    domain = compiled.brief.services.domain
    all_records = records(compiled)
    head, nameservers = _head(compiled, domain, serial)
    width = max((len(record.name) for record in all_records), default=0)
    body = [f"{record.name:<{width}} IN {_type(record.address):<4} {record.address}" for record in all_records]
    found: dict[str, str] = {domain: "\n".join([*head, *nameservers, *body]) + "\n"}
    reverse: dict[str, dict[str, str]] = {}
    for record in all_records:
        cut = 1 if record.address.version == 4 else 16
        labels = record.address.reverse_pointer.split(".")
        owner, zone = ".".join(labels[:cut]), ".".join(labels[cut:])
        # An address that several names share, as a pair's tunnel end, points to the first of them.
        reverse.setdefault(zone, {}).setdefault(owner, f"{record.name}.{domain}.")
    for zone in sorted(reverse):
        entries = sorted(
            reverse[zone].items(), key=lambda pair: [int(part, 16) for part in reversed(pair[0].split("."))]
        )
        width = max(len(owner) for owner, _ in entries)
        found[zone] = "\n".join([*head, *(f"{owner:<{width}} IN PTR {name}" for owner, name in entries)]) + "\n"
    return found


def _type(address: Address) -> str:
    return "A" if address.version == 4 else "AAAA"


def _head(compiled: Compiled, domain: str, serial: int) -> tuple[list[str], list[str]]:
    """The first lines of every zone, and the addresses of its name servers, which stand in the forward one."""
    servers = compiled.brief.services.dns
    names = [f"ns{number}.{domain}." for number in range(1, len(servers) + 1)] or ["ns.invalid."]
    head = [
        "$TTL 3600",
        f"@ IN SOA {names[0]} hostmaster.{domain}. {serial} {_TIMES}",
        *(f"@ IN NS {name}" for name in names),
    ]
    return head, [f"ns{at} IN {_type(ip_address(text))} {text}" for at, text in enumerate(servers, 1)]
