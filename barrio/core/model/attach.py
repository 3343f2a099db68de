"""What hangs on a leaf beside hosts: the other leaf of its pair, and the systems outside the fabric."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from barrio.core.brief.model import Brief
from barrio.core.ledger.demand import vtep_key
from barrio.core.ledger.pool import Family, address_text
from barrio.core.ledger.vlans import PEER_VLAN
from barrio.core.ledger.wanted import Taken
from barrio.core.model.devices import Devices
from barrio.core.model.links import Ends, Numbers, forced_speed, shut_reason
from barrio.core.model.switch import FilterEntry, OutsidePort, OutsideSession, PairModel, PeerPort
from barrio.core.printed import Address, Mac, Made, Prefix, VrfName
from barrio.core.structure.parts import OutsideEnd, Structure


def pairs(
    brief: Brief,
    structure: Structure,
    numbers: Numbers,
    ends: tuple[Ends, ...],
    asns: Mapping[str, int],
    devices: Devices,
    settled: Collection[str],
) -> dict[str, PairModel]:
    """How each paired leaf stands to the other, by its key; but for those that are settled."""
    cables: dict[str, list[Ends]] = {}
    for end in ends:
        if end.link.kind == "peer":
            cables.setdefault(end.link.upper.rack, []).append(end)
    models = {}
    for one, two in structure.pairs:
        group = one.group
        assert group is not None
        if one.key in settled:
            continue
        domain = numbers["pair"][f"pair/{one.rack}"].low
        linked = group.pairing == "peer-link"
        vlan = numbers["vlan"][PEER_VLAN].low if linked else None
        for me, other, first in ((one, two, True), (two, one, False)):
            ports = tuple(
                PeerPort(
                    end.upper_port if first else end.lower_port,
                    end.label,
                    end.lower_port if first else end.upper_port,
                    _peer_shut(structure, end, first),
                )
                for end in cables.get(one.rack, ())
            )
            models[me.key] = PairModel(
                multihoming=not linked,
                domain=domain,
                mac=pair_mac(brief, domain),
                peer=other.name,
                peer_asn=asns[other.key],
                peer_vtep=address_text(Family.V4, numbers["vtep.v4"][vtep_key(other)].low),
                peer_management=address_text(Family.V4, numbers["management.v4"][other.key].low),
                keepalive=group.keepalive,
                first=first,
                priority=100 if first else 200,
                ports=ports,
                vlan=vlan,
                svi=devices.svi(vlan) if vlan else None,
            )
    return models


def _peer_shut(structure: Structure, end: Ends, first: bool) -> str | None:
    """Why the port of a peer link on one of its two leaves is shut, or nothing."""
    if not structure.marked:
        return None
    leaf, port = (end.link.upper, end.upper_port) if first else (end.link.lower, end.lower_port)
    return shut_reason(structure, leaf, port, structure.state_of(end.link))


def pair_mac(brief: Brief, domain: int) -> Mac:
    """The system MAC of a pair: the first one of the brief, counted on by the pair's domain."""
    value = int(brief.overlay.pair_mac.replace(":", ""), 16) + domain
    digits = f"{value & 0xFFFFFFFFFFFF:012x}"
    return Mac(":".join(digits[at : at + 2] for at in range(0, 12, 2)))


def outside_ports(
    brief: Brief, structure: Structure, numbers: Numbers, devices: Devices
) -> dict[str, tuple[tuple[OutsidePort, ...], tuple[OutsideSession, ...]]]:
    """The ports and sessions to the outside of each switch that has any, by its key."""
    found: dict[str, tuple[list[OutsidePort], list[OutsideSession]]] = {}
    for end in structure.outside:
        ports, sessions = found.setdefault(end.switch.key, ([], []))
        shut = shut_reason(structure, end.switch, end.said.port, structure.state_of_outside(end))
        label = Made(f"{brief.cable_prefix}-{numbers['cable'][end.key].low:04d}")
        speed = forced_speed(end.switch, end.said.port, end.speed)
        ports.append(OutsidePort(end.said.port, label, end.system, end.said.far_port, speed, shut))
        sessions += [_session(brief, end, VrfName(vrf), numbers, shut, devices) for vrf in end.said.vrfs]
    return {key: (tuple(ports), tuple(sessions)) for key, (ports, sessions) in found.items()}


def _session(
    brief: Brief, end: OutsideEnd, vrf: VrfName, numbers: Numbers, shut: str | None, devices: Devices
) -> OutsideSession:
    key, vlan = f"{end.key}/{vrf}", end.said.vrfs[vrf].vlan
    v4, n4 = _addresses(Family.V4, numbers.get("outside.v4", {}).get(key))
    v6, n6 = _addresses(Family.V6, numbers.get("outside.v6", {}).get(key))
    port = end.said.port
    said = brief.outside[end.system]
    return OutsideSession(
        label=devices.tagged(port, vlan) if vlan else port,
        port=port,
        vlan=vlan,
        vrf=vrf,
        system=end.system,
        asn=end.asn,
        v4=v4,
        v6=v6,
        neighbor_v4=n4,
        neighbor_v6=n6,
        accept_v4=tuple(FilterEntry(prefix, prefix) for prefix in said.accept if ":" not in prefix),
        accept_v6=tuple(FilterEntry(prefix, prefix) for prefix in said.accept if ":" in prefix),
        default_in=said.default == "in",
        default_out=said.default == "out",
        max_prefixes=said.max_prefixes,
        bfd=said.bfd,
        ttl_security=said.ttl_security,
        shut=shut,
    )


def _addresses(family: Family, taken: Taken | None) -> tuple[Prefix | None, Address | None]:
    """Ours with its length, and theirs: the first two of the prefix that are for hosts."""
    if taken is None:
        return None, None
    first = taken.low if taken.size == 2 else taken.low + 1
    length = (32 if family is Family.V4 else 128) - (taken.size.bit_length() - 1)
    return Prefix(f"{address_text(family, first)}/{length}"), address_text(family, first + 1)
