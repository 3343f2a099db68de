"""Checks of the brief as a whole: what would work on paper and hurt on the floor.

A finding has a stable code. Those in `barrio.core.compile.BLOCKING` stop the compile; the others are shown.
"""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import contract_names, expand_names
from barrio.core.checks.tenants import check_tenants
from barrio.core.errors import Fault

VXLAN_OVERHEAD = 50
"""Bytes that VXLAN over IPv4 adds to a host's packet (RFC 7348, section 5)."""


def check_brief(brief: Brief) -> tuple[Fault, ...]:
    """Findings about a brief, in a fixed order."""
    return (
        *_mtu(brief),
        *_routing(brief),
        *_access(brief),
        *_resilience(brief),
        *_services(brief),
        *_absent_racks(brief),
        *check_tenants(brief),
    )


def _mtu(brief: Brief) -> list[Fault]:
    need, has = brief.overlay.host_mtu + VXLAN_OVERHEAD, brief.underlay.mtu
    if need <= has:
        return []
    return [
        Fault(
            "mtu.overlay",
            f"Hosts send {brief.overlay.host_mtu} bytes and VXLAN adds {VXLAN_OVERHEAD}: fabric links need an MTU of {need}, "
            f"and have {has}. Raise underlay.mtu or lower overlay.host_mtu.",
            "underlay.mtu",
        )
    ]


_IGP = {"ospf": "OSPF", "isis": "IS-IS"}


def _routing(brief: Brief) -> Iterator[Fault]:
    igp = _IGP.get(brief.underlay.protocol)
    if igp and brief.overlay.protocol != "ibgp":
        yield Fault(
            "routing.overlay",
            f"Over {igp} there are no eBGP sessions that EVPN could use. Set overlay.protocol to ibgp.",
            "overlay.protocol",
        )
    if igp and brief.underlay.addressing == "ipv6":
        yield Fault(
            "routing.tunnel-ends",
            f"Tunnel ends are IPv4, and {igp} cannot carry IPv4 over links that have IPv6 only. Use dual or unnumbered "
            "links, or eBGP, which can (RFC 8950).",
            "underlay.addressing",
        )
    if brief.overlay.protocol == "ibgp" and brief.overlay.reflectors == 1:
        yield Fault(
            "routing.one-reflector",
            "With one route reflector, losing it stops the overlay from learning. Use two or more.",
            "overlay.reflectors",
        )


def _access(brief: Brief) -> list[Fault]:
    if brief.services.users:
        return []
    return [
        Fault(
            "access.nobody",
            "Nobody could sign in to these switches: the brief names no user. Add one with an SSH key under services.users.",
            "services.users",
        )
    ]


def _resilience(brief: Brief) -> list[Fault]:
    if brief.spines.count > 1:
        return []
    return [Fault("spines.single", "With one spine, losing it stops the fabric. Use two or more.", "spines.count")]


def _services(brief: Brief) -> list[Fault]:
    names = [
        ("ntp", "a time server", "logs of two switches cannot be compared"),
        ("syslog", "a syslog server", "logs are lost with the switch"),
    ]
    return [
        Fault(
            f"services.{field}",
            f"The brief names no {thing[2:]}: {why}. Add {thing} under services.{field}.",
            f"services.{field}",
        )
        for field, thing, why in names
        if brief.racks and not getattr(brief.services, field)
    ]


def _absent_racks(brief: Brief) -> list[Fault]:
    racks = set(brief.rack_names)
    faults = []
    for name, segment in brief.segments.items():
        absent = tuple(rack for rack in expand_names(segment.racks or "") if rack not in racks) if segment.racks else ()
        if absent:
            faults.append(
                Fault(
                    "segment.rack",
                    f"Segment {name} is on {contract_names(absent)}, which the fabric does not have; nothing is made there. "
                    "Take it out of the segment, or add the rack.",
                    f"segments.{name}.racks",
                )
            )
    return faults
