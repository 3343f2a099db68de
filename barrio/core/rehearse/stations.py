"""The hosts of a rehearsal: machines as the brief attaches them, with an address in every segment that they carry."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterator
from dataclasses import dataclass
from ipaddress import IPv4Network, ip_interface, ip_network

from barrio.core.attach.attachments import Attachment
from barrio.core.brief.claims import hosts_in
from barrio.core.compiled import Compiled
from barrio.core.ledger.pool import Family, prefix_text
from barrio.core.model.switch import SegmentModel


@dataclass(frozen=True, slots=True)
class Station:
    """A host in one segment. `vlan` is the tag that it uses, or none; addresses carry their length, and `gateway*` are without one. `leaves` are
    the names of those that it hangs on, `vrf` is empty where the segment has no gateway. A `silent` one is in a segment that is paused."""

    host: str
    segment: str
    vrf: str
    leaves: tuple[str, ...]
    vlan: int | None
    v4: str
    v6: str
    gateway4: str
    gateway6: str
    mtu: int
    mac: str
    silent: bool = False

    @property
    def name(self) -> str:
        """How it is called: by its host, and by its segment too where the host may have several."""
        return f"{self.host} in {self.segment}"

    def address(self, v6: bool) -> str:
        """Its address of a family without the length; empty where it has none."""
        return (self.v6 if v6 else self.v4).partition("/")[0]


@dataclass(frozen=True, slots=True)
class Machine:
    """A host with its ports as (leaf's name, port); several are bonded where `lag` is not `none`. MTU is in bytes."""

    host: str
    ports: tuple[tuple[str, str], ...]
    lag: str
    mtu: int
    mac: str
    stations: tuple[Station, ...]


def machines(compiled: Compiled, keys: Collection[str], most: int = 24) -> tuple[tuple[Machine, ...], int]:
    """Hosts that stand for all that hang on these switches, and how many do: one in each segment on each leaf, two on one leaf of each segment, and one
    for each way of being attached; at most so many, and those that the brief's claims name.

    Which addresses they have is the same every time: the highest of each segment's prefix, in the brief's order of hosts.
    """
    names = {one.key: str(one.name) for one in compiled.staged}
    there = [
        one for one in compiled.attachments.hosts.values() if one.ports and all(key in keys for key, _ in one.ports)
    ]
    named = hosts_in(compiled.brief.claims, compiled.attachments.hosts)
    seen: Counter[object] = Counter()
    given: Counter[str] = Counter()
    found: list[Machine] = []
    for one in there:
        places = _places(one)
        way = (one.way.plug, one.way.lag, len({key for key, _ in one.ports}))
        # Two on one leaf of each segment, and one on every other.
        wanted = not seen[way] or any(seen[place] < (1 if seen["twice", place[0]] else 2) for place in places)
        if not places or (one.host not in named and (len(found) >= most or not wanted)):
            continue
        seen.update([way, *places])
        seen.update({("twice", segment) for segment, key in places if seen[segment, key] == 2})
        mac = str(one.way.only[0]) if one.way.only else _mac(len(found) + 1)
        stations = tuple(_stations(compiled, one, names, given, mac))
        mtu = one.way.mtu or compiled.brief.overlay.host_mtu
        ports = tuple((names[key], str(port)) for key, port in one.ports)
        found.append(Machine(str(one.host), ports, one.way.lag, mtu, mac, stations))
    return tuple(found), len(there)


def _places(one: Attachment) -> list[tuple[str, str]]:
    return [(str(segment), key) for segment in one.way.carried for key in {key: None for key, _ in one.ports}]


def _mac(serial: int) -> str:
    """A locally administered address (IEEE 802, 8.2) that no other host of the rehearsal has."""
    return f"02:00:0b:a0:{serial >> 8:02x}:{serial & 255:02x}"


def stranger(compiled: Compiled, keys: Collection[str]) -> Machine | None:
    """A machine that nobody planned, on a port that carries nothing, with an address of a segment that is on its leaf; where there is such a port."""
    for key in keys:
        model = compiled.models[key]
        port = next((str(one.label) for one in model.host_ports if one.free and one.shut), None)
        segment = next((one for one in model.segments if one.gateway_v4), None)
        if port is not None and segment is not None:
            mac, name = _mac(0xFFFF), f"a stranger on {model.name} {port}"
            address, gateway = _high(str(segment.gateway_v4), 99), str(segment.gateway_v4).partition("/")[0]
            mtu = compiled.brief.overlay.host_mtu
            station = Station(
                name,
                str(segment.label),
                str(segment.vrf or ""),
                (str(model.name),),
                None,
                address,
                "",
                gateway,
                "",
                mtu,
                mac,
                True,
            )
            return Machine(name, ((str(model.name), port),), "none", mtu, mac, (station,))
    return None


def _stations(
    compiled: Compiled, one: Attachment, names: dict[str, str], given: Counter[str], mac: str
) -> Iterator[Station]:
    leaves = tuple(dict.fromkeys(names[key] for key, _ in one.ports))
    model = compiled.models[one.ports[0][0]]
    here = {str(segment.label): segment for segment in model.segments}
    for name in one.way.carried:
        tagged = name in one.way.tagged
        segment = here.get(str(name))
        said = compiled.brief.segments[name]
        if said.state == "planned later":
            continue
        serial = given[name] = given[name] + 1
        mtu = min(said.mtu or compiled.brief.overlay.host_mtu, one.way.mtu or compiled.brief.overlay.host_mtu)
        vrf = str(said.vrf or "")
        if segment is None:
            # A paused segment is on no switch; its host speaks all the same, and nobody may hear it.
            if said.state == "paused":
                yield from _paused(compiled, one, str(name), vrf, leaves, tagged, serial, mtu, mac)
            continue
        yield Station(
            str(one.host), str(name), vrf, leaves, segment.vlan if tagged else None,
            _high(segment.gateway_v4, serial) if segment.gateway_v4 else "" if segment.gateway_v6 else _bare(compiled, name, serial),
            _high(segment.gateway_v6, serial) if segment.gateway_v6 else "",
            str(segment.gateway_v4 or "").partition("/")[0], str(segment.gateway_v6 or "").partition("/")[0], mtu, mac,
        )  # fmt: skip


def _paused(
    compiled: Compiled, one: Attachment, name: str, vrf: str, leaves: tuple[str, ...], tagged: bool, serial: int, mtu: int, mac: str
) -> Iterator[Station]:  # fmt: skip
    """A host in a segment that is paused, by the numbers that the segment keeps; none where each rack has a VLAN of its own."""
    numbers, key = compiled.allocation.numbers, f"segment/{name}"
    vlan, v4 = (numbers.get(use, {}).get(key) for use in ("vlan", "segment.v4"))
    if vlan is None:
        return
    network = ip_network(prefix_text(Family.V4, v4.low, v4.size)) if v4 else None
    address = _high(f"{network[1]}/{network.prefixlen}", serial) if network else _bare(compiled, name, serial)
    gateway = str(network[1]) if network else ""
    yield Station(
        str(one.host), name, vrf, leaves, vlan.low if tagged else None, address, "", gateway, "", mtu, mac, True
    )


def _high(gateway: str, serial: int) -> str:
    """An address of a gateway's network, counted down from its end; IPv6 ones from the thousandth."""
    network = ip_interface(gateway).network
    if network.version == 6:
        return f"{network[min(network.num_addresses - 1, 0x1000) - serial]}/{network.prefixlen}"
    return f"{network[-1 - serial]}/{network.prefixlen}"


_BARE = IPv4Network("198.18.0.0/15")
"""What hosts of a segment without a prefix are called by: addresses for trials that nobody routes (RFC 2544, appendix C)."""


def _bare(compiled: Compiled, name: str, serial: int) -> str:
    place = list(compiled.brief.segments).index(name) % 512
    network = list(_BARE.subnets(new_prefix=24))[place]
    return f"{network[-1 - serial]}/24"


def reaches(compiled: Compiled, one: Station, other: Station, v6: bool = False) -> bool:
    """Whether the plan says that two stations reach each other: in one segment, in one VRF with gateways, or where each one's VRF takes the other's."""
    if one.silent or other.silent or not one.address(v6) or not other.address(v6):
        return False
    if one.segment == other.segment:
        return True
    gateways = (one.gateway6, other.gateway6) if v6 else (one.gateway4, other.gateway4)
    if not all(gateways) or not one.vrf or not other.vrf:
        return False
    if one.vrf == other.vrf:
        return True
    return _takes(compiled, one.vrf, other, v6) and _takes(compiled, other.vrf, one, v6)


def _takes(compiled: Compiled, vrf: str, station: Station, v6: bool) -> bool:
    """Whether a VRF imports what a station of another one is in."""
    imports = next((one.imports for name, one in compiled.brief.vrfs.items() if name == vrf), {})
    address = ip_network(station.address(v6))
    for share in next((shares for other, shares in imports.items() if other == station.vrf), ()):
        if share == station.segment:
            return True
        if "/" in share and ip_network(share).version == address.version and address.subnet_of(ip_network(share)):  # type: ignore[arg-type]
            return True
    return False


def segment_on(compiled: Compiled, key: str, name: str) -> SegmentModel | None:
    """A segment as it is on a switch, where it is there."""
    return next((one for one in compiled.models[key].segments if one.label == name), None)
