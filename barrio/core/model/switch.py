"""The model of one switch: every value its files print, as plain values.

Templates see one `SwitchModel` as `sw`. Each part of a tuple has a `label`, which names it in the path of its values:
`switches/leaf-r07b/fabric_ports/u5/v4`. `barrio.core.because` says where the value at such a path comes from. Addresses
and prefixes are text, ready to print; MTUs are bytes, speeds Mbit/s, BFD milliseconds, other timers seconds. `shut` holds
the reason why a port is shut, or nothing. What a file may print is of a printed type (`barrio.core.printed`); what is a plain
`str` reaches a file only as plain words.
"""

from __future__ import annotations

from dataclasses import dataclass

from barrio.core.printed import (
    Address,
    Device,
    Domain,
    FarPort,
    Host,
    Mac,
    Made,
    Name,
    Prefix,
    Printed,
    PublicKey,
    UserName,
    VrfName,
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
class HostPort:
    """A port for hosts, and which host is at it. `bond` is the LAG it is in; what a LAG carries stands there. `tagged` and `untagged` are
    the VLANs on it, `free` says that no host is at it and it is shut for that, `open` that it joins the bridge by itself."""

    label: Device
    host: Name | None
    bond: Made | None
    tagged: tuple[int, ...]
    untagged: int | None
    mtu: int
    forced_speed: int | None
    free: bool
    shut: str | None

    @property
    def open(self) -> bool:
        return self.bond is None and not self.shut


@dataclass(frozen=True, slots=True)
class HostLag:
    """A LAG of a host's ports on this leaf. `segment_id` is its Ethernet segment's when the other leaf of the pair has the rest of it.

    `odd` says whether that id is odd: the first leaf of a pair is the preferred forwarder of odd ones, the second of even ones. `paired`
    says that both leaves answer it as one, `static` that no LACP is spoken, `slow` that it is spoken every 30 s.
    """

    label: Made
    host: Name | None
    members: tuple[Device, ...]
    paired: bool
    segment_id: int | None
    odd: bool
    static: bool
    slow: bool
    tagged: tuple[int, ...]
    untagged: int | None
    mtu: int


@dataclass(frozen=True, slots=True)
class EdgeLimit:
    """What a host has of limits of its own: `storm` is how many frames for all it may send a second (0: as many as it likes; nothing: what
    all may), `macs` how many addresses may stand behind it. `place` counts them from 1."""

    label: Printed
    place: int
    storm: int | None
    macs: int | None


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
    """A segment on this switch. `svi` and `vxlan` are its device names; gateways carry their prefix length.

    `ra` says whether routers advertise themselves there, `slaac` the prefix that hosts may make addresses from.
    """

    label: Name
    vlan: int
    vni: int
    vxlan: Made
    svi: Made
    vrf: VrfName | None
    gateway_v4: Prefix | None
    gateway_v6: Prefix | None
    untagged: bool
    ra: bool
    slaac: Prefix | None
    rd: Made
    route_target: Made


@dataclass(frozen=True, slots=True)
class VrfModel:
    label: VrfName
    vlan: int
    vni: int
    vxlan: Made
    svi: Made
    rd: Made
    route_target: Made
    has_v4: bool
    has_v6: bool
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


@dataclass(frozen=True, slots=True)
class FilterEntry:
    """One permitted prefix: a loopback or VTEP range of the underlay, a segment of a VRF, what a system outside may tell."""

    label: Prefix
    prefix: Prefix


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
    users: tuple[UserModel, ...]
    sign_in_v4: tuple[Prefix, ...]
    sign_in_v6: tuple[Prefix, ...]
    banner: str
    snmp: tuple[UserName, ...]
    snmp_v4: tuple[Prefix, ...]
    snmp_v6: tuple[Prefix, ...]
    storm: int
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
    `special` whose limit of broadcasts is its own; `vlans` are all of its bridge.
    """

    key: str
    name: Name
    fqdn: Domain
    role: Made
    rack: Name
    unit: int
    hardware: str
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
    vlans: tuple[int, ...]
    bridge_ports: tuple[Printed, ...]
    edge_ports: tuple[Printed, ...]
    shared: tuple[Printed, ...]
    waiting: tuple[Printed, ...]
    limits: tuple[EdgeLimit, ...]
    special: tuple[Printed, ...]
