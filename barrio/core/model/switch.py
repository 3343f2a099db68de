"""The model of one switch: every value its files print, as plain values.

Templates see one `SwitchModel` as `sw`. Each part of a tuple has a `label`, which names it in the path of its values:
`switches/leaf-r07b/fabric_ports/u5/v4`. `barrio.core.because` says where the value at such a path comes from. Addresses
and prefixes are text, ready to print; MTUs are bytes, speeds Mbit/s, BFD milliseconds, other timers seconds. `shut` holds
the reason why a port is shut, or nothing. What a file may print is of a printed type (`barrio.core.printed`); what is a plain
`str` reaches a file only as plain words.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from barrio.core.model.edge import EdgeLimit, HostLag, HostPort
from barrio.core.printed import (
    Address,
    Device,
    Domain,
    FarPort,
    Host,
    Line,
    Mac,
    Made,
    Name,
    Package,
    Prefix,
    Printed,
    PublicKey,
    UserName,
    VrfName,
    Zone,
)


@dataclass(frozen=True, slots=True)
class FabricPort:
    """One end of a fabric link. `neighbor*` is what BGP speaks to: an address, or the port itself when unnumbered."""

    label: Device
    cable: Made
    peer: Name
    peer_port: Device
    peer_asn: int
    v4: Prefix | None
    v6: Prefix | None
    neighbor: Printed
    neighbor6: Address | None
    forced_speed: int | None
    shut: str | None
    link: str


@dataclass(frozen=True, slots=True)
class PeerPort:
    """A port of the peer link."""

    label: Device
    cable: Made
    peer_port: Device
    shut: str | None


@dataclass(frozen=True, slots=True)
class PairModel:
    """How this leaf and the other of its pair share their hosts. `svi` is where the two route to each other."""

    multihoming: bool
    domain: int
    mac: Mac
    peer: Name
    peer_asn: int
    peer_vtep: Address
    peer_management: Address
    keepalive: str
    first: bool
    priority: int
    ports: tuple[PeerPort, ...]
    vlan: int | None
    svi: Made | None


@dataclass(frozen=True, slots=True)
class OutsidePort:
    """A port with a link to a system outside."""

    label: Device
    cable: Made
    system: Name
    far_port: FarPort
    forced_speed: int | None
    shut: str | None


@dataclass(frozen=True, slots=True)
class OutsideSession:
    """One VRF over a link to the outside: its device, its addresses and the eBGP session over it.

    `accept_*` are the prefixes that the system may tell, `default_in` and `default_out` whether a default route is among what
    it tells or is told.
    """

    label: Printed
    port: Device
    vlan: int | None
    vrf: VrfName
    system: Name
    asn: int
    v4: Prefix | None
    v6: Prefix | None
    neighbor_v4: Address | None
    neighbor_v6: Address | None
    accept_v4: tuple[FilterEntry, ...]
    accept_v6: tuple[FilterEntry, ...]
    default_in: bool
    default_out: bool
    max_prefixes: int
    bfd: bool
    ttl_security: bool
    shut: str | None


@dataclass(frozen=True, slots=True)
class OverlaySession:
    """An iBGP session that carries EVPN to a route reflector, or from one to a client."""

    label: Name
    address: Address
    client: bool
    shut: str | None


@dataclass(frozen=True, slots=True)
class SegmentModel:
    """A segment on this switch. `svi` and `vxlan` are its device names; gateways carry their prefix length, `secondary` are those of its
    further prefixes. `local` says whether its VLAN is the rack's own choice. `mtu` is in bytes, `suppress` says whether the leaf answers ARP and ND for hosts that it knows of, `snoop` whether groups reach those who joined alone,
    `asked_v6` whether a DHCPv6 server is in it that leaves hand questions to.

    `ra` says whether routers advertise themselves there, `slaac` the prefix that hosts may make addresses from.
    """

    label: Name
    vlan: int
    local: bool
    vni: int
    vxlan: Made
    svi: Made
    vrf: VrfName | None
    gateway_v4: Prefix | None
    gateway_v6: Prefix | None
    secondary: tuple[FilterEntry, ...]
    mtu: int
    suppress: bool
    snoop: bool
    asked_v6: bool
    untagged: bool
    ra: bool
    slaac: Prefix | None
    route_target: Made
    rd: Made


@dataclass(frozen=True, slots=True)
class StaticRoute:
    """A prefix that an address leads to."""

    label: Made
    prefix: Prefix
    via: Address


@dataclass(frozen=True, slots=True)
class Imported:
    """What a VRF takes from another, by family."""

    label: VrfName
    v4: tuple[FilterEntry, ...]
    v6: tuple[FilterEntry, ...]


@dataclass(frozen=True, slots=True)
class Relay:
    """DHCP questions that are handed on: those of hosts on `clients`, to servers of one family in one VRF, who are reached by `uplinks`.

    `own` is the device that has the address `source`, `both` are devices on which hosts ask and servers are. `back` is where answers come from other leaves when questions go another way. `tunnels` are those of the segments where hosts ask: no
    question goes on into them, since each leaf hands on what its own hosts ask.
    """

    label: Made
    vrf: VrfName
    v6: bool
    own: Made
    source: Address
    servers: tuple[Address, ...]
    clients: tuple[Made, ...]
    uplinks: tuple[Printed, ...]
    both: tuple[Made, ...]
    back: tuple[Made, ...]
    tunnels: tuple[Made, ...]


@dataclass(frozen=True, slots=True)
class VrfModel:
    """A VRF on this switch. `routes_*` are static ones whose next hop is on a segment or link here; `own_*` are what systems outside are
    told: aggregates, and prefixes that none of them covers. `covers_*` are the aggregates to make, `sources` the addresses from which the
    leaf asks DHCP servers."""

    label: VrfName
    vlan: int
    vni: int
    vxlan: Made
    svi: Made
    rd: Made
    route_target: Made
    has_v4: bool
    has_v6: bool
    routes_v4: tuple[StaticRoute, ...]
    routes_v6: tuple[StaticRoute, ...]
    imports: tuple[Imported, ...]
    sources: tuple[FilterEntry, ...]
    covers_v4: tuple[FilterEntry, ...]
    covers_v6: tuple[FilterEntry, ...]
    own_v4: tuple[FilterEntry, ...]
    own_v6: tuple[FilterEntry, ...]
    sessions: tuple[OutsideSession, ...]


@dataclass(frozen=True, slots=True)
class Management:
    interface: Device
    ip: Address
    address: Prefix
    gateway: Address


@dataclass(frozen=True, slots=True)
class UserModel:
    label: UserName
    admin: bool
    keys: tuple[PublicKey, ...]
    until: Made | None
    groups: tuple[UserName, ...]


@dataclass(frozen=True, slots=True)
class FilterEntry:
    """One permitted prefix: a loopback or VTEP range of the underlay, a segment of a VRF, what a system outside may tell."""

    label: Prefix
    prefix: Prefix


@dataclass(frozen=True, slots=True)
class VariableModel:
    """A variable of one's own and what it is here: nothing where nobody says."""

    label: str
    value: Any


@dataclass(frozen=True, slots=True)
class Common:
    """What every switch of a fabric shares; one object for all of them."""

    fabric: Name
    title: str
    domain: Domain
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
    gateway_mac: Mac
    bfd_interval: int
    bfd_multiplier: int
    keepalive: int
    hold: int
    hello: int
    dead: int
    graceful_restart: bool
    shared_asn: bool
    ntp: tuple[Host, ...]
    dns: tuple[Address, ...]
    syslog: tuple[Host, ...]
    syslog_over: Made
    syslog_port: int
    syslog_facility: Made
    packages: tuple[Package, ...]
    lldp_interval: int
    software: str
    ssh_ciphers: tuple[Made, ...]
    time_zone: Zone | None
    watchdog: int
    users: tuple[UserModel, ...]
    sign_in_v4: tuple[Prefix, ...]
    sign_in_v6: tuple[Prefix, ...]
    banner: str
    snmp: tuple[UserName, ...]
    snmp_v4: tuple[Prefix, ...]
    snmp_v6: tuple[Prefix, ...]
    storm: int
    variables: tuple[VariableModel, ...]
    added_interfaces: tuple[Line, ...]
    added_frr: tuple[Line, ...]
    added_bgp: tuple[Line, ...]
    added_input: tuple[Line, ...]
    added_sysctl: tuple[Line, ...]
    added_sshd: tuple[Line, ...]
    added_chrony: tuple[Line, ...]
    added_rsyslog: tuple[Line, ...]
    startup_delay: int
    ttl_security: bool
    filter_v4: tuple[FilterEntry, ...]
    filter_v6: tuple[FilterEntry, ...]


@dataclass(frozen=True, slots=True)
class SwitchModel:
    """`asn` is the switch's AS in the underlay, `process_asn` the AS of its BGP process: the overlay's where it has its own.

    `in_overlay` says whether EVPN runs here; `net` is the IS-IS address. `router_mac` is what EVPN calls the switch by (RFC 9135,
    6.1). `max_paths` is the width of ECMP in the underlay, `tenant_paths` in VRFs, where paths differ by their tunnel ends.
    `edge_ports` are the devices by which hosts are on the bridge, `shared` those of hosts that the other
    leaf of the pair serves too, `waiting` those where the other leaf of the pair is meant to forward
    broadcasts. `limits` are those of hosts that have their own, and
    `special` whose limit of broadcasts is its own; `vlans` are all of its bridge, `snooped` those where groups reach those who joined, and
    `flooded` the others.
    """

    key: str
    name: Name
    fqdn: Domain
    role: Made
    rack: Name
    unit: int
    hardware: str
    model: Made
    state: str
    is_leaf: bool
    asn: int
    process_asn: int
    router_id: Address
    loopback_v4: Prefix
    loopback_v6: Prefix | None
    vtep: Address | None
    router_mac: Mac
    net: Made
    max_paths: int
    tenant_paths: int
    in_overlay: bool
    is_reflector: bool
    management: Management
    common: Common
    fabric_ports: tuple[FabricPort, ...]
    host_ports: tuple[HostPort, ...]
    host_lags: tuple[HostLag, ...]
    pair: PairModel | None
    sessions: tuple[OverlaySession, ...]
    outside_ports: tuple[OutsidePort, ...]
    outside: tuple[OutsideSession, ...]
    segments: tuple[SegmentModel, ...]
    vrfs: tuple[VrfModel, ...]
    relays: tuple[Relay, ...]
    vlans: tuple[int, ...]
    snooped: tuple[int, ...]
    flooded: tuple[int, ...]
    bridge_ports: tuple[Printed, ...]
    edge_ports: tuple[Printed, ...]
    shared: tuple[Printed, ...]
    waiting: tuple[Printed, ...]
    limits: tuple[EdgeLimit, ...]
    special: tuple[Printed, ...]
