"""Structure + numbers → one model per switch.

A pure function of its arguments, written for tens of thousands of links: per-fabric parts are built once and shared, and
addresses are turned into text with integer arithmetic.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from ipaddress import IPv6Address
from typing import NamedTuple

from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import expand_names
from barrio.core.catalogue.model import SwitchType
from barrio.core.ledger.allocate import Allocation, Taken
from barrio.core.ledger.demand import asn_key
from barrio.core.ledger.pool import Family, Pool, address_text
from barrio.core.model.switch import (
    Common,
    FabricPort,
    FilterEntry,
    HostPort,
    Management,
    SegmentModel,
    SwitchModel,
    UserModel,
    VrfModel,
)
from barrio.core.structure.expand import Link, Structure, Switch


@dataclass(frozen=True, slots=True)
class Ends:
    """Where the two ends of a link are plugged in, and the number on its cable."""

    link: Link
    spine_port: str
    leaf_port: str
    label: str


def plug(brief: Brief, structure: Structure, numbers: Mapping[str, Mapping[str, Taken]]) -> tuple[Ends, ...]:
    """The ports and cable label of every link, in the order of `structure.links`."""
    if not structure.leaves:
        return ()
    spine_ports = structure.spines[0].type.ports_for("fabric")
    leaf_ports = {leaf.type.id: leaf.type.ports_for("fabric") for leaf in structure.leaves}
    at_spine = {key: spine_ports[taken.low - 1] for key, taken in numbers["port.spine"].items()}
    at_leaf = {key: taken.low - 1 for key, taken in numbers["port.leaf"].items()}
    cables, prefix = numbers["cable"], brief.cable_prefix
    return tuple(
        Ends(
            link,
            at_spine[f"{link.leaf.key}~{link.lane}"],
            leaf_ports[link.leaf.type.id][at_leaf[f"{link.spine.key}~{link.lane}"]],
            f"{prefix}-{cables[link.key].low:04d}",
        )
        for link in structure.links
    )


def build(
    brief: Brief,
    structure: Structure,
    allocation: Allocation,
    pools: Mapping[str, Pool],
    ends: tuple[Ends, ...],
) -> dict[str, SwitchModel]:
    """The model of every switch, by switch key, spines first."""
    numbers = allocation.numbers
    common = _common(brief, pools)
    asns = {
        switch.key: numbers["asn"][asn_key(brief, switch.key)].low for switch in structure.switches if numbers["asn"]
    }
    ports = _fabric_ports(common, structure, numbers, ends, asns)
    services = _Segments(brief, numbers)
    gateways = pools[brief.numbers.management]
    models = {}
    for switch in structure.switches:
        router_id = address_text(Family.V4, numbers["loopback.v4"][switch.key].low)
        v6 = numbers.get("loopback.v6", {}).get(switch.key)
        vtep = numbers["vtep.v4"].get(switch.key)
        segments, vrfs = services.on(switch, router_id)
        mine = ports[switch.key]
        host_ports = () if switch.is_spine else tuple(map(HostPort, switch.type.ports_for("host")))
        models[switch.key] = SwitchModel(
            key=switch.key,
            name=switch.name,
            fqdn=f"{switch.name}.{brief.services.domain}",
            role=switch.role,
            rack=switch.rack,
            unit=switch.unit,
            model=switch.type.title,
            is_leaf=not switch.is_spine,
            asn=asns[switch.key],
            router_id=router_id,
            loopback_v4=f"{router_id}/32",
            loopback_v6=f"{IPv6Address(v6.low)}/128" if v6 else None,
            vtep=address_text(Family.V4, vtep.low) if vtep else None,
            max_paths=brief.uplinks_per_spine if switch.is_spine else max(1, len(mine)),
            management=_management(brief, gateways, numbers["management.v4"][switch.key].low),
            common=common,
            fabric_ports=mine,
            host_ports=host_ports,
            segments=segments,
            vrfs=vrfs,
            vlans=tuple(sorted([part.vlan for part in segments] + [part.vlan for part in vrfs])),
            bridge_ports=tuple(
                [port.label for port in host_ports if segments]
                + [part.vxlan for part in segments]
                + [part.vxlan for part in vrfs]
            ),
            untagged=tuple(part.vlan for part in segments if part.untagged),
        )
    return models


def _common(brief: Brief, pools: Mapping[str, Pool]) -> Common:
    def entries(family: Family, *names: str) -> tuple[FilterEntry, ...]:
        ranges = {part.text for name in names for part in pools[name].of(family)}
        return tuple(FilterEntry(text, text) for text in sorted(ranges))

    underlay, overlay, services = brief.underlay, brief.overlay, brief.services
    return Common(
        fabric=brief.fabric,
        title=brief.title,
        domain=services.domain,
        addressing=underlay.addressing,
        extended_nexthop=underlay.addressing in ("ipv6", "unnumbered"),
        two_families=underlay.addressing == "dual",
        unnumbered=underlay.addressing == "unnumbered",
        mtu=underlay.mtu,
        host_mtu=overlay.host_mtu,
        gateway_mac=overlay.gateway_mac,
        bfd_interval=underlay.bfd.interval,
        bfd_multiplier=underlay.bfd.multiplier,
        keepalive=underlay.timers.keepalive,
        hold=underlay.timers.hold,
        shared_asn=underlay.asn == "per-pair" and any(group.leaves > 1 for group in brief.racks),
        ntp=tuple(services.ntp),
        dns=tuple(services.dns),
        syslog=tuple(services.syslog),
        users=tuple(UserModel(name, tuple(services.users[name].keys)) for name in sorted(services.users)),
        filter_v4=entries(Family.V4, brief.numbers.loopback, brief.numbers.vtep),
        filter_v6=entries(Family.V6, brief.numbers.loopback) if underlay.addressing in ("ipv6", "dual") else (),
    )


class _Side(NamedTuple):
    """One end of a link, before it becomes a port: its addresses are bare, without their length."""

    switch: Switch
    port: str
    asn: int
    v4: str | None
    v6: str | None


def _fabric_ports(
    common: Common,
    structure: Structure,
    numbers: Mapping[str, Mapping[str, Taken]],
    ends: tuple[Ends, ...],
    asns: Mapping[str, int],
) -> dict[str, tuple[FabricPort, ...]]:
    ports: dict[str, list[FabricPort]] = {switch.key: [] for switch in structure.switches}
    fronts = {switch.type.id: _Front(switch.type) for switch in structure.switches}
    v4, v6 = numbers.get("link.v4", {}), numbers.get("link.v6", {})
    for end in ends:
        link = end.link
        four, six = v4.get(link.key), v6.get(link.key)
        low4, high4 = _pair4(four.low) if four else (None, None)
        low6, high6 = (str(IPv6Address(six.low)), str(IPv6Address(six.low + 1))) if six else (None, None)
        # The spine takes the lower address of a link, the leaf the upper one.
        spine = _Side(link.spine, end.spine_port, asns[link.spine.key], low4, low6)
        leaf = _Side(link.leaf, end.leaf_port, asns[link.leaf.key], high4, high6)
        for me, peer in ((spine, leaf), (leaf, spine)):
            top_speed = fronts[me.switch.type.id].top_speed[me.port]
            ports[me.switch.key].append(_port(common, end, me, peer, top_speed))
    return {switch.key: fronts[switch.type.id].in_order(ports[switch.key]) for switch in structure.switches}


class _Front:
    """The fabric ports of a switch model: their order on the front and their highest speeds."""

    def __init__(self, kind: SwitchType) -> None:
        groups = [group for group in kind.groups if group.use == "fabric"]
        self.top_speed = {port: max(group.speeds) for group in groups for port in group.ports}
        self.rank = {port: place for place, port in enumerate(self.top_speed)}

    def in_order(self, ports: list[FabricPort]) -> tuple[FabricPort, ...]:
        return tuple(sorted(ports, key=lambda port: self.rank[port.label]))


def _pair4(low: int) -> tuple[str, str]:
    stem = f"{low >> 24}.{low >> 16 & 255}.{low >> 8 & 255}."
    return f"{stem}{low & 255}", f"{stem}{(low & 255) + 1}"


def _port(common: Common, end: Ends, me: _Side, peer: _Side, top_speed: int) -> FabricPort:
    speed = end.link.speed
    return FabricPort(
        label=me.port,
        cable=end.label,
        peer=peer.switch.name,
        peer_port=peer.port,
        peer_asn=peer.asn,
        v4=f"{me.v4}/31" if me.v4 else None,
        v6=f"{me.v6}/127" if me.v6 else None,
        neighbor=me.port if common.unnumbered else peer.v4 or peer.v6 or me.port,
        neighbor6=peer.v6 if common.two_families else None,
        forced_speed=speed * 1000 if speed != top_speed else None,
        link=end.link.key,
    )


def _management(brief: Brief, pool: Pool, address: int) -> Management:
    part = pool.range_of(Family.V4, address)
    length = 32 - (part.size.bit_length() - 1) if part else 32
    first = address_text(Family.V4, part.low + 1) if part else address_text(Family.V4, address)
    return Management(
        interface=brief.management.interface,
        ip=address_text(Family.V4, address),
        address=f"{address_text(Family.V4, address)}/{length}",
        gateway=brief.management.gateway or first,
    )


class _Segments:
    """Which segments and VRFs each rack carries; shared by the switches of a rack."""

    def __init__(self, brief: Brief, numbers: Mapping[str, Mapping[str, Taken]]) -> None:
        self._brief, self._numbers = brief, numbers
        everywhere = frozenset(brief.rack_names)
        self._racks = {
            name: frozenset(expand_names(segment.racks)) if segment.racks else everywhere
            for name, segment in brief.segments.items()
        }

    def on(self, switch: Switch, router_id: str) -> tuple[tuple[SegmentModel, ...], tuple[VrfModel, ...]]:
        if switch.is_spine:
            return (), ()
        here = [name for name in sorted(self._brief.segments) if switch.rack in self._racks[name]]
        segments = tuple(self._segment(name, router_id) for name in here)
        routed = {self._brief.segments[name].vrf for name in here}
        return segments, tuple(self._vrf(name, router_id, here) for name in sorted(self._brief.vrfs) if name in routed)

    def _segment(self, name: str, router_id: str) -> SegmentModel:
        segment, key = self._brief.segments[name], f"segment/{name}"
        vlan, vni = self._numbers["vlan"][key].low, self._numbers["vni"][key].low
        v4, v6 = (self._numbers.get(f"segment.{family}", {}).get(key) for family in ("v4", "v6"))
        return SegmentModel(
            label=name,
            vlan=vlan,
            vni=vni,
            vxlan=f"vni{vni}",
            svi=f"vlan{vlan}",
            vrf=segment.vrf,
            gateway_v4=_gateway(Family.V4, v4),
            gateway_v6=_gateway(Family.V6, v6),
            untagged=segment.untagged,
            rd=f"{router_id}:{vlan}",
            route_target=f"{self._brief.overlay.route_target_as}:{vni}",
        )

    def _vrf(self, name: str, router_id: str, here: list[str]) -> VrfModel:
        key = f"vrf/{name}"
        vlan, vni = self._numbers["vlan"][key].low, self._numbers["vni"][key].low
        mine = [self._brief.segments[segment] for segment in here if self._brief.segments[segment].vrf == name]
        return VrfModel(
            label=name,
            vlan=vlan,
            vni=vni,
            vxlan=f"vni{vni}",
            svi=f"vlan{vlan}",
            rd=f"{router_id}:{vlan}",
            route_target=f"{self._brief.overlay.route_target_as}:{vni}",
            has_v4=any(segment.v4 for segment in mine),
            has_v6=any(segment.v6 for segment in mine),
        )


def _gateway(family: Family, prefix: Taken | None) -> str | None:
    if prefix is None:
        return None
    width = 32 if family is Family.V4 else 128
    return f"{address_text(family, prefix.low + 1)}/{width - (prefix.size.bit_length() - 1)}"
