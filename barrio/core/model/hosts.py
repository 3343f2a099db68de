"""The host ports of a leaf: which host is at each, the VLANs on it, and the LAGs that hosts bond to."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from barrio.core.attach.attachments import Attachments
from barrio.core.attach.ways import Way
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import expand_ports
from barrio.core.ledger.vlans import vlan_of
from barrio.core.ledger.wanted import Taken
from barrio.core.model.devices import Devices
from barrio.core.model.edge import EdgeLimit, HostLag, HostPort
from barrio.core.model.links import forced_speed, shut_reason
from barrio.core.printed import Device, Made, Printed
from barrio.core.structure.parts import Structure, Switch

Hosts = tuple[tuple[HostPort, ...], tuple[HostLag, ...]]
BEYOND = 10_000
"""From where Ethernet segments count that are outside the ports which a rack names for LAGs."""


_FEC = {"rs": "rs", "fc": "baser", "none": "off"}
"""Kinds of forward error correction, as Linux calls them (ethtool(8))."""


def _burst(share: int) -> int:
    """How many bytes may come at once: a tenth of a second's, ten large packets at least, and a GiB at most."""
    return min(max(share // 10, 10 * 9216), 2**30)


def _limits(way: Way) -> bool:
    """Whether a way has limits of its own at the edge."""
    return way.storm is not None or way.share is not None or way.macs is not None or bool(way.only)


class HostPorts:
    """Answers for one leaf at a time; leaves that are alike share what is said of their ports."""

    def __init__(
        self,
        brief: Brief,
        structure: Structure,
        attachments: Attachments,
        numbers: Mapping[str, Mapping[str, Taken]],
        devices: Devices,
    ) -> None:
        self._brief, self._structure, self._attachments, self._devices = brief, structure, attachments, devices
        self._numbers = numbers
        active = {name: segment.scope for name, segment in brief.segments.items() if segment.state == "active"}
        self._vlans = {
            name: numbers["vlan"][f"segment/{name}"].low for name, scope in active.items() if scope == "fabric"
        }
        self._of_racks = active.keys() - self._vlans.keys()
        self._of_way: dict[tuple[int, str], tuple[tuple[int, ...], int | None]] = {}
        self._alike: dict[tuple[int, str, int, str], Hosts] = {}
        self._places: dict[str, dict[str, int]] = {}
        self._idle: dict[tuple[int, str], HostPort] = {}
        self._outside = {(end.switch.key, end.said.port) for end in structure.outside}
        self._leading_out = {key for key, _ in self._outside}

    def of(self, leaf: Switch) -> Hosts:
        """The host ports of a leaf that no link to the outside takes, and the LAGs of them."""
        own = leaf.key in self._attachments.at or leaf.key in self._leading_out or bool(self._structure.marked)
        if own:
            return self._make(leaf)
        way = self._attachments.default[leaf.key][0]
        kind = (leaf.plan.front, leaf.origin, id(way), leaf.rack if way and self._differs(way) else "")
        if kind not in self._alike:
            self._alike[kind] = self._make(leaf)
        return self._alike[kind]

    def _make(self, leaf: Switch) -> Hosts:
        group = leaf.group
        assert group is not None
        paired = group.pairing != "independent"
        places = self._places_of(leaf) if paired else {}
        at = self._attachments.at.get(leaf.key, {})
        way, _ = self._attachments.default[leaf.key]
        state = (leaf.state, leaf.why)
        ports, lags = [], []
        for place, port in enumerate(leaf.plan.hosts):
            if (leaf.key, port.name) in self._outside:
                continue
            host = at.get(port.name)
            if host is None and way is None and not self._structure.marked:
                ports.append(self._idle_port(leaf, port.name))
                continue
            how = host.way if host else way
            shut = shut_reason(self._structure, leaf, port.name, state) if self._structure.marked else None
            carries = bool(host) or (how is not None and bool(how.carried))
            if not shut and not carries:
                shut = "no host is attached" if how is None else f"no segment is in {leaf.rack}"
            members: tuple[Device, ...] = ()
            if host and host.bonded:
                members = host.beside(leaf.key, port.name)
            elif not host and how is not None and how.lag != "none" and port.name in places:
                members = (port.name,)
            bond = self._devices.lag(members[0]) if members else None
            tagged, untagged = self._vlans_of(how, leaf.rack)
            mtu = (how.mtu if how else None) or self._brief.overlay.host_mtu
            wanted = (how.speed if how else None) or group.host_speed
            speed = forced_speed(leaf, port.name, wanted) if wanted else None
            fec = Made(_FEC[how.fec]) if how and how.fec else None
            name = host.host if host else None
            free = host is None and how is None
            ports.append(HostPort(port.name, name, bond, tagged, untagged, mtu, speed, fec, free, shut))
            if bond is None or how is None or shut or not carries:
                continue
            live = members if len(members) == 1 else self._live(leaf, members)
            if live[0] == port.name:
                over = paired and (host is None or any(key != leaf.key for key, _ in host.ports))
                number = places.get(members[0]) or BEYOND + place
                shared = number if over and group.pairing == "multihoming" else None
                mtu = how.mtu or self._brief.overlay.host_mtu
                lags.append(
                    HostLag(bond, name, live, over, shared, bool((shared or 0) % 2), how.lag == "static", how.slow, tagged, untagged, mtu)
                )  # fmt: skip
        return tuple(ports), tuple(lags)

    def _live(self, leaf: Switch, members: tuple[Device, ...]) -> tuple[Device, ...]:
        """The ports of a LAG that are not out of service or planned for later."""
        marked = self._structure.marked
        return tuple(name for name in members if f"{leaf.key}:{name}" not in marked) if marked else members

    def _places_of(self, leaf: Switch) -> dict[str, int]:
        """The place of each port among those that a rack bonds over both leaves, from 1."""
        assert leaf.group is not None
        if leaf.origin not in self._places:
            lags = leaf.group.lags
            names = expand_ports(lags) if lags else tuple(port.name for port in leaf.plan.hosts)
            self._places[leaf.origin] = {name: place for place, name in enumerate(names, 1)}
        return self._places[leaf.origin]

    def _idle_port(self, leaf: Switch, name: Device) -> HostPort:
        """A port where nobody is, the same on every leaf of a front."""
        assert leaf.group is not None
        key = (leaf.plan.front, f"{leaf.origin} {name}")
        if key not in self._idle:
            wanted = leaf.group.host_speed
            speed = forced_speed(leaf, name, wanted) if wanted else None
            mtu = self._brief.overlay.host_mtu
            self._idle[key] = HostPort(name, None, None, (), None, mtu, speed, None, True, "no host is attached")
        return self._idle[key]

    def limits(self, leaf: Switch, edge: Sequence[Printed]) -> tuple[EdgeLimit, ...]:
        """The hosts of a leaf that have limits of their own, by the device by which they are on the bridge."""
        at = self._attachments.at.get(leaf.key, {})
        way, _ = self._attachments.default[leaf.key]
        ways = {id(host.way): host.way for host in at.values()}
        if not any(map(_limits, ways.values())) and (way is None or not _limits(way)):
            return ()
        bonds = {self._devices.lag(name): (host.way, name) for name, host in at.items() if host.bonded}
        found: list[EdgeLimit] = []
        for device in edge:
            how, port = bonds.get(Made(device)) or (at[device].way if device in at else way, device)
            if how is not None and _limits(how):
                share = self._bytes(leaf, how, port, len(at[port].on(leaf.key)) if port in at else 1)
                macs = None if how.only else how.macs
                found.append(
                    EdgeLimit(device, len(found) + 1, how.storm, share, share and _burst(share), macs, how.only)
                )
        return tuple(found)

    def _bytes(self, leaf: Switch, way: Way, port: str, links: int) -> int | None:
        """How many bytes a second the share of its speed is that a way gives to what is for all."""
        if way.share is None:
            return None
        speeds = leaf.plan.by_name[port].speeds if port in leaf.plan.by_name else (0,)
        speed = way.speed or (leaf.group.host_speed if leaf.group else None) or max(speeds)
        return round(way.share * speed * links * 10**9 / 8 / 100)

    def _differs(self, way: Way) -> bool:
        """Whether the VLANs of a way are others in another rack."""
        return bool(self._of_racks) and not self._of_racks.isdisjoint(way.carried)

    def _vlans_of(self, way: Way | None, rack: str) -> tuple[tuple[int, ...], int | None]:
        """The VLANs of a way in a rack: those that are tagged, in order, and the one that is not."""
        if way is None:
            return (), None
        key = (id(way), rack if self._differs(way) else "")
        found = self._of_way.get(key)
        if found is None:
            vlans = self._vlans
            if self._differs(way):
                own = self._of_racks.intersection(way.carried)
                vlans = vlans | {name: vlan_of(self._brief, self._numbers, name, rack) for name in own}
            tagged = tuple(sorted(vlans[name] for name in way.tagged if name in vlans))
            found = self._of_way[key] = (tagged, vlans.get(way.untagged) if way.untagged else None)
        return found
