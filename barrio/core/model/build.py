"""Structure + numbers → one model per switch.

A pure function of its arguments, written for tens of thousands of links: per-fabric parts are built once and shared, and
addresses are turned into text with integer arithmetic.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from ipaddress import IPv6Address

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.ledger.demand import asn_key, vtep_key
from barrio.core.ledger.pool import Family, Pool, address_text
from barrio.core.ledger.wanted import Allocation
from barrio.core.model.attach import outside_ports, pairs
from barrio.core.model.carried import Carried
from barrio.core.model.devices import Devices
from barrio.core.model.kept import NOTHING, Kept
from barrio.core.model.links import Ends, Numbers, fabric_ports, plug
from barrio.core.model.shared import Origins, Shares
from barrio.core.model.switch import (
    FabricPort,
    Management,
    OverlaySession,
    SwitchModel,
)
from barrio.core.printed import Domain, Mac, Made, Prefix
from barrio.core.settings.ladder import Ladder
from barrio.core.structure.parts import Structure, Switch

__all__ = ["Ends", "build", "plug", "shared_anew"]


def build(
    ladder: Ladder,
    structure: Structure,
    allocation: Allocation,
    pools: Mapping[str, Pool],
    ends: tuple[Ends, ...],
    devices: Devices,
    attachments: Attachments,
    kept: Kept = NOTHING,
) -> tuple[dict[str, SwitchModel], dict[str, Origins]]:
    """The model of every switch, by switch key, top tier first, and where the values it shares stand.

    Devices are called as Linux takes them. What is `kept` of before is not made anew.
    """
    brief, numbers = ladder.whole, allocation.numbers
    shares = Shares(ladder, pools, numbers)
    asns = {switch.key: numbers["asn"][asn_key(brief, switch)].low for switch in structure.switches}
    fresh = [end for end in ends if end.link.lower.key not in kept.settled]
    reached = kept.shrunk | {end.link.upper.key for end in fresh}
    still = {key for key in kept.settled if key not in reached}
    there = {switch.key: _standing(switch, kept) for switch in structure.switches if switch.key not in still}
    ports = fabric_ports(brief.underlay.addressing, structure, numbers, fresh, asns, there)
    paired = pairs(brief, structure, numbers, ends, asns, devices, kept.same)
    outside = outside_ports(brief, structure, numbers, devices)
    carried = Carried(brief, structure, numbers, devices, attachments)
    gateways = pools[brief.numbers.management]
    sessions = _overlay_sessions(brief, structure, numbers)
    lanes = max((brief.lanes_of(group) for group in brief.racks), default=1)
    models, origins = {}, {}
    for switch in structure.switches:
        common, origins[switch.key] = shares.of(switch)
        was = kept.models[switch.key] if switch.key in still else None
        width = brief.underlay.max_paths or _width(
            switch, len(was.fabric_ports if was else ports[switch.key]), lanes, structure
        )
        if was and was.max_paths == width and was.sessions == sessions.get(switch.key, ()):
            models[switch.key] = shares.put_into(was, common)
            continue
        router_id = address_text(Family.V4, numbers["loopback.v4"][switch.key].low)
        v6 = numbers.get("loopback.v6", {}).get(switch.key)
        vtep = numbers["vtep.v4"].get(vtep_key(switch)) if switch.is_leaf else None
        out_ports, out_sessions = outside.get(switch.key, ((), ()))
        mine = ports[switch.key] if was is None else was.fabric_ports
        pair = paired.get(switch.key)
        reflects = any(session.client for session in sessions.get(switch.key, ()))
        models[switch.key] = SwitchModel(
            key=switch.key,
            name=switch.name,
            fqdn=Domain(f"{switch.name}.{brief.services.domain}"),
            role=Made(switch.role),
            rack=switch.rack,
            unit=switch.unit,
            hardware=switch.type.title,
            model=Made(switch.type.id),
            state=switch.state,
            is_leaf=switch.is_leaf,
            asn=asns[switch.key],
            process_asn=(common.overlay_asn if common.ibgp_overlay else None) or asns[switch.key],
            router_id=router_id,
            loopback_v4=Prefix(f"{router_id}/32"),
            loopback_v6=Prefix(f"{IPv6Address(v6.low)}/128") if v6 else None,
            vtep=address_text(Family.V4, vtep.low) if vtep else None,
            router_mac=_router_mac(router_id),
            net=_net(router_id),
            max_paths=width,
            tenant_paths=switch.type.tables.ecmp,
            in_overlay=not common.ibgp_overlay or switch.key in sessions,
            is_reflector=reflects,
            management=_management(brief, gateways, numbers["management.v4"][switch.key].low),
            common=common,
            fabric_ports=mine,
            pair=pair,
            sessions=sessions.get(switch.key, ()),
            outside_ports=out_ports,
            outside=out_sessions,
            **carried.of(switch, router_id, out_sessions, pair),
        )
    return models, origins


def _standing(switch: Switch, kept: Kept) -> list[FabricPort]:
    """The fabric ports of a switch above the leaves that are as they were."""
    was = kept.models.get(switch.key) if switch.key in kept.settled else None
    return [port for port in was.fabric_ports if port.link not in kept.gone] if was else []


def shared_anew(
    ladder: Ladder, structure: Structure, numbers: Numbers, pools: Mapping[str, Pool], models: Mapping[str, SwitchModel]
) -> tuple[dict[str, SwitchModel], dict[str, Origins]]:
    """The models of a fabric of which nothing but what all switches share has changed, and where that stands."""
    shares, domain = Shares(ladder, pools, numbers), ladder.whole.services.domain
    found, origins = {}, {}
    for switch in structure.switches:
        common, origins[switch.key] = shares.of(switch)
        found[switch.key] = replace(models[switch.key], common=common, fqdn=Domain(f"{switch.name}.{domain}"))
    return found, origins


def _width(switch: Switch, ports: int, lanes: int, structure: Structure) -> int:
    """How many equal paths there can be: by all uplinks, or down by the parallel links to one switch."""
    if switch.is_leaf:
        return max(1, ports)
    if switch.role == "super-spine":
        return structure.super_links
    above = len(structure.planes.get(switch.plane, ())) * structure.super_links
    return max(lanes, above)


def reflectors(brief: Brief, structure: Structure) -> tuple[Switch, ...]:
    """The switches that reflect EVPN routes: the first of the top tier, spread over planes, those in service first."""
    top = structure.supers or structure.spines
    return tuple(sorted(top, key=lambda switch: (bool(switch.state), switch.slot, switch.plane)))[
        : brief.overlay.reflectors
    ]


def _overlay_sessions(brief: Brief, structure: Structure, numbers: Numbers) -> dict[str, tuple[OverlaySession, ...]]:
    """The iBGP sessions of every switch that has any (RFC 4456).

    Every leaf is a client of every reflector, so reflectors have nothing to tell each other, and no session. Under eBGP they
    could have none: they share an ASN, and so never learn the way to each other.
    """
    if brief.overlay.protocol != "ibgp":
        return {}
    top = reflectors(brief, structure)

    def to(me: Switch, other: Switch, client: bool) -> OverlaySession:
        address = address_text(Family.V4, numbers["loopback.v4"][other.key].low)
        idle = next((end for end in (other, me) if end.state), None)
        return OverlaySession(other.name, address, client, f"{idle.name} is {idle.state}" if idle else None)

    leaves = sorted(structure.leaves, key=lambda leaf: leaf.key)
    found = {leaf.key: tuple(to(leaf, reflector, False) for reflector in top) for leaf in structure.leaves}
    for reflector in top:
        found[reflector.key] = tuple(to(reflector, leaf, True) for leaf in leaves)
    return found


def _router_mac(router_id: str) -> Mac:
    """The switch's own MAC: locally administered, and the four octets of the loopback (IEEE 802, 8.4.4.2).

    >>> _router_mac("10.60.0.7")
    '06:00:0a:3c:00:07'
    """
    return Mac("06:00:" + ":".join(f"{int(part):02x}" for part in router_id.split(".")))


def _net(router_id: str) -> Made:
    """The IS-IS network entity title: one area, and the digits of the loopback as system id (RFC 1195, 5.2).

    >>> _net("10.60.0.7")
    '49.0001.0100.6000.0007.00'
    """
    digits = "".join(f"{int(part):03d}" for part in router_id.split("."))
    return Made(f"49.0001.{digits[:4]}.{digits[4:8]}.{digits[8:]}.00")


def _management(brief: Brief, pool: Pool, address: int) -> Management:
    part = pool.range_of(Family.V4, address)
    length = 32 - (part.size.bit_length() - 1) if part else 32
    first = address_text(Family.V4, part.low + 1) if part else address_text(Family.V4, address)
    return Management(
        interface=brief.management.interface,
        ip=address_text(Family.V4, address),
        address=Prefix(f"{address_text(Family.V4, address)}/{length}"),
        gateway=brief.management.gateway or first,
    )
