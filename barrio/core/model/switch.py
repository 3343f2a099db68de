"""The model of one switch: every value its files print, as plain values.

Templates see one `SwitchModel` as `sw`. Each part of a tuple has a `label`, which names it in the path of its values:
`switches/leaf-r07b/fabric_ports/u5/v4`. `barrio.core.because` says where the value at such a path comes from. Addresses
and prefixes are text, ready to print; MTUs are bytes, speeds Mbit/s, BFD milliseconds, BGP timers seconds.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class FabricPort:
    """One end of a fabric link. `neighbor*` is what BGP speaks to: an address, or the port itself when unnumbered."""

    label: str
    cable: str
    peer: str
    peer_port: str
    peer_asn: int
    v4: str | None
    v6: str | None
    neighbor: str
    neighbor6: str | None
    forced_speed: int | None
    link: str


@dataclass(frozen=True, slots=True)
class HostPort:
    label: str


@dataclass(frozen=True, slots=True)
class SegmentModel:
    """A segment on this switch. `svi` and `vxlan` are its device names; gateways carry their prefix length."""

    label: str
    vlan: int
    vni: int
    vxlan: str
    svi: str
    vrf: str | None
    gateway_v4: str | None
    gateway_v6: str | None
    untagged: bool
    rd: str
    route_target: str


@dataclass(frozen=True, slots=True)
class VrfModel:
    label: str
    vlan: int
    vni: int
    vxlan: str
    svi: str
    rd: str
    route_target: str
    has_v4: bool
    has_v6: bool


@dataclass(frozen=True, slots=True)
class Management:
    interface: str
    ip: str
    address: str
    gateway: str


@dataclass(frozen=True, slots=True)
class UserModel:
    label: str
    keys: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class FilterEntry:
    """One permitted prefix of the underlay: host routes out of a loopback or VTEP range."""

    label: str
    prefix: str


@dataclass(frozen=True, slots=True)
class Common:
    """What every switch of a fabric shares; one object for all of them."""

    fabric: str
    title: str
    domain: str
    addressing: str
    extended_nexthop: bool
    two_families: bool
    unnumbered: bool
    mtu: int
    host_mtu: int
    gateway_mac: str
    bfd_interval: int
    bfd_multiplier: int
    keepalive: int
    hold: int
    shared_asn: bool
    ntp: tuple[str, ...]
    dns: tuple[str, ...]
    syslog: tuple[str, ...]
    users: tuple[UserModel, ...]
    filter_v4: tuple[FilterEntry, ...]
    filter_v6: tuple[FilterEntry, ...]


@dataclass(frozen=True, slots=True)
class SwitchModel:
    key: str
    name: str
    fqdn: str
    role: str
    rack: str
    unit: int
    model: str
    is_leaf: bool
    asn: int
    router_id: str
    loopback_v4: str
    loopback_v6: str | None
    vtep: str | None
    max_paths: int
    management: Management
    common: Common
    fabric_ports: tuple[FabricPort, ...]
    host_ports: tuple[HostPort, ...]
    segments: tuple[SegmentModel, ...]
    vrfs: tuple[VrfModel, ...]
    vlans: tuple[int, ...]
    bridge_ports: tuple[str, ...]
    untagged: tuple[int, ...]
