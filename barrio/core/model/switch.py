"""The model of one switch: every value its files print, as plain values.

Templates see one `SwitchModel` as `sw`. Each part of a tuple has a `label`, which names it in the path of its values:
`switches/leaf-r07b/fabric_ports/u5/v4`. `barrio.core.because` says where the value at such a path comes from. Addresses
and prefixes are text, ready to print; MTUs are bytes, speeds Mbit/s, BFD milliseconds, other timers seconds. `shut` holds
the reason why a port is shut, or nothing.
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
    shut: str | None
    link: str


@dataclass(frozen=True, slots=True)
class HostPort:
    """A port for hosts. `bond` is the LAG it is in, over both leaves of a pair, and `segment_id` its Ethernet segment's."""

    label: str
    bond: str | None
    segment_id: int | None
    forced_speed: int | None
    shut: str | None


@dataclass(frozen=True, slots=True)
class PeerPort:
    """A port of the peer link."""

    label: str
    cable: str
    peer_port: str


@dataclass(frozen=True, slots=True)
class PairModel:
    """How this leaf and the other of its pair share their hosts. `svi` is where the two route to each other."""

    multihoming: bool
    domain: int
    mac: str
    peer: str
    peer_asn: int
    peer_management: str
    keepalive: str
    first: bool
    priority: int
    ports: tuple[PeerPort, ...]
    vlan: int | None
    svi: str | None


@dataclass(frozen=True, slots=True)
class OutsidePort:
    """A port with a link to a system outside."""

    label: str
    cable: str
    system: str
    far_port: str
    forced_speed: int | None
    shut: str | None


@dataclass(frozen=True, slots=True)
class OutsideSession:
    """One VRF over a link to the outside: its device, its addresses and the eBGP session over it."""

    label: str
    port: str
    vlan: int | None
    vrf: str
    system: str
    asn: int
    v4: str | None
    v6: str | None
    neighbor_v4: str | None
    neighbor_v6: str | None
    shut: str | None


@dataclass(frozen=True, slots=True)
class OverlaySession:
    """An iBGP session that carries EVPN to a route reflector, or from one to a client."""

    label: str
    address: str
    client: bool


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
    sessions: tuple[OutsideSession, ...]


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
    ebgp: bool
    ospf: bool
    isis: bool
    ibgp_overlay: bool
    overlay_asn: int | None
    extended_nexthop: bool
    two_families: bool
    unnumbered: bool
    has_v4: bool
    has_v6: bool
    mtu: int
    host_mtu: int
    gateway_mac: str
    bfd_interval: int
    bfd_multiplier: int
    keepalive: int
    hold: int
    hello: int
    dead: int
    graceful_restart: bool
    shared_asn: bool
    ntp: tuple[str, ...]
    dns: tuple[str, ...]
    syslog: tuple[str, ...]
    users: tuple[UserModel, ...]
    filter_v4: tuple[FilterEntry, ...]
    filter_v6: tuple[FilterEntry, ...]


@dataclass(frozen=True, slots=True)
class SwitchModel:
    """`asn` is the switch's AS in the underlay, `process_asn` the AS of its BGP process: the overlay's where it has its own.

    `in_overlay` says whether EVPN runs here; `net` is the IS-IS address.
    """

    key: str
    name: str
    fqdn: str
    role: str
    rack: str
    unit: int
    model: str
    state: str
    is_leaf: bool
    asn: int
    process_asn: int
    router_id: str
    loopback_v4: str
    loopback_v6: str | None
    vtep: str | None
    net: str
    max_paths: int
    in_overlay: bool
    is_reflector: bool
    management: Management
    common: Common
    fabric_ports: tuple[FabricPort, ...]
    host_ports: tuple[HostPort, ...]
    pair: PairModel | None
    sessions: tuple[OverlaySession, ...]
    outside_ports: tuple[OutsidePort, ...]
    outside: tuple[OutsideSession, ...]
    segments: tuple[SegmentModel, ...]
    vrfs: tuple[VrfModel, ...]
    vlans: tuple[int, ...]
    bridge_ports: tuple[str, ...]
    untagged: tuple[int, ...]
