"""Checks of what VRFs know of each other and of what is behind their hosts: routes, imports and aggregates."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from ipaddress import ip_address, ip_network

from barrio.core.brief.model import Brief
from barrio.core.brief.reader import quoted
from barrio.core.brief.tenants import Segment
from barrio.core.errors import Fault, nearest
from barrio.core.ledger.wanted import Taken
from barrio.core.model.switch import SwitchModel
from barrio.core.model.tenants import Tenants


def impossible_tenants(brief: Brief) -> Iterator[Fault]:
    """Faults that the brief alone shows (`vrf.*`, `segment.*`)."""
    for name, vrf in brief.vrfs.items():
        for other, shares in vrf.imports.items():
            path = f"vrfs.{name}.imports.{other}"
            if other == name:
                yield Fault("vrf.import", f"VRF {name} would import from itself. Name another VRF.", path)
            elif other not in brief.vrfs:
                yield Fault(
                    "vrf.import",
                    f"There is no VRF {other}.{nearest(other, brief.vrfs)} Add it under “vrfs”, or take this import out.",
                    path,
                )
            else:
                yield from _shares(brief, other, shares, path)
        for prefix, hops in vrf.routes.items():
            odd = next((hop for hop in hops if (":" in hop) != (":" in prefix)), None)
            if odd:
                words = (
                    f"{prefix} cannot be reached by {odd}, which is of the other family. Give a next hop of its own."
                )
                yield Fault("vrf.route", words, f"vrfs.{name}.routes.{quoted(prefix)}")
    for name, segment in brief.segments.items():
        if segment.mtu and segment.mtu > brief.overlay.host_mtu:
            words = (
                f"Segment {name} would carry {segment.mtu} bytes, and the fabric gives hosts {brief.overlay.host_mtu}. Ask for that at most, "
                "or raise overlay.host_mtu."
            )
            yield Fault("segment.mtu", words, f"segments.{name}.mtu")
        yield from _relay(brief, name, segment)
        for at, prefix in enumerate(segment.secondary):
            family = "v6" if ":" in prefix else "v4"
            if segment.vrf is None or getattr(segment, family) is None:
                words = f"{prefix} would be a second prefix of segment {name}, which has no first of its family. Give it as {family}, in a VRF."
                yield Fault("segment.secondary", words, f"segments.{name}.secondary[{at}]")


def _relay(brief: Brief, name: str, segment: Segment) -> Iterator[Fault]:
    """What is wrong with where a segment's DHCP questions go."""
    said, path = segment.relay, f"segments.{name}.relay"
    if said is None:
        return
    if said.vrf is not None and said.vrf not in brief.vrfs:
        yield Fault(
            "segment.relay",
            f"There is no VRF {said.vrf}.{nearest(said.vrf, brief.vrfs)} Name the one where the servers are.",
            path,
        )
    elif segment.vrf is None:
        words = f"Segment {name} is in no VRF, so no leaf has an address in it from which it could hand questions on. Give it a VRF and a prefix."
        yield Fault("segment.relay", words, path)
    for family, mark in (("v4", "."), ("v6", ":")):
        if getattr(segment, family) is None and any(mark in server for server in said.servers):
            words = f"Segment {name} has no {family} prefix that a {family} DHCP server could give addresses of. Give it one, or take the server out."
            yield Fault("segment.relay", words, path)


def _shares(brief: Brief, other: str, shares: list[str], path: str) -> Iterator[Fault]:
    theirs = [name for name, segment in brief.segments.items() if segment.vrf == other]
    for at, share in enumerate(shares):
        if "/" not in share and share not in theirs:
            there = f", which has {', '.join(theirs[:4])}" if theirs else ""
            words = f"{share} is no segment of VRF {other}{there}.{nearest(share, theirs)} Name one of its segments, or a prefix."
            yield Fault("vrf.import", words, f"{path}[{at}]")


def contradicting_tenants(
    brief: Brief, numbers: Mapping[str, Mapping[str, Taken]], models: Mapping[str, SwitchModel]
) -> Iterator[Fault]:
    """Faults that show once prefixes are drawn: next hops out of reach, imports that meet the VRF's own prefixes."""
    tenants = Tenants(brief, numbers)
    for name, vrf in brief.vrfs.items():
        links = [
            ip_network(one, strict=False)
            for model in (models.values() if vrf.routes else ())
            for session in model.outside
            if session.vrf == name
            for one in (session.v4, session.v6)
            if one
        ]
        gateways = (
            {str(next(ip_network(one).hosts())): segment for segment, one in tenants.of_vrf(name)} if vrf.routes else {}
        )
        for prefix, hops in vrf.routes.items():
            path = f"vrfs.{name}.routes.{quoted(prefix)}"
            for hop in hops:
                beside = tenants.beside(name, hop)
                if hop in gateways:
                    words = f"{hop} is the gateway of {gateways[hop]} itself. Give {prefix} the address of the host that leads there."
                    yield Fault("vrf.route", words, path)
                elif beside is None and not any(ip_address(hop) in one for one in links):
                    words = f"{hop} is in no segment of VRF {name} and on no link of it to the outside. Give {prefix} a next hop that is."
                    yield Fault("vrf.route", words, path)
                elif beside and ip_network(prefix) in [ip_network(one) for one in tenants.prefixes[beside]]:
                    words = f"{prefix} is the prefix of {beside} itself, and needs no route. Take it out."
                    yield Fault("vrf.route", words, path)
        own = [(segment, ip_network(prefix)) for segment, prefix in tenants.of_vrf(name)]
        for imported in tenants.imports[name]:
            for entry in (*imported.v4, *imported.v6):
                network = ip_network(entry.prefix)
                met = next(
                    (one for one, mine in own if mine.version == network.version and mine.overlaps(network)), None
                )
                if met:
                    words = (
                        f"{name} would import {entry.prefix} from {imported.label}, which meets its own segment {met}. Import what lies beside it, or "
                        "number one of them anew."
                    )
                    yield Fault("vrf.import-meets", words, f"vrfs.{name}.imports.{imported.label}")


def check_tenants(brief: Brief) -> Iterator[Fault]:
    """Findings about VRFs: what would not be answered, and what covers nothing."""
    for name, vrf in brief.vrfs.items():
        for other in vrf.imports:
            if other in brief.vrfs and name not in brief.vrfs[other].imports:
                words = f"{name} imports from {other}, and {other} nothing from {name}: no answer comes back. Import what asks, in {other}."
                yield Fault("vrf.one-way", words, f"vrfs.{name}.imports.{other}")
        if vrf.aggregates and not any(name in link.vrfs for system in brief.outside.values() for link in system.links):
            words = f"The aggregates of VRF {name} are told to nobody: no system outside has a link in it."
            yield Fault("vrf.aggregate", words, f"vrfs.{name}.aggregates")
