"""Every number that runs, under the key that it belongs to, and the pools that hold them."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping
from ipaddress import ip_interface

from barrio.core.adopt.carried import Carried
from barrio.core.adopt.found import Findings, Pin
from barrio.core.adopt.routed import own_asn
from barrio.core.adopt.running import Known
from barrio.core.adopt.shape import Shape
from barrio.core.compiled import Asked
from barrio.core.ledger.wanted import Taken
from barrio.core.observe.tables import address_of
from barrio.core.structure.parts import Link, Switch
from barrio.core.targets.linux_frr.readback.read import Device

Far = Mapping[str, Mapping[str, tuple[str, str]]]


def _told_of(known: Mapping[str, Known]) -> Iterator[tuple[tuple[str, int], str]]:
    """The loopbacks of those that could not be read, by name and version: where sessions that are called after them lead, beyond the links of whoever holds
    them."""
    unread = {name for name, one in known.items() if one.unread}
    told: dict[tuple[str, int], Counter[str]] = defaultdict(Counter)
    for one in known.values():
        sessions = one.underlay.sessions if one.underlay and unread else ()
        beside = [address.network for device in one.devices.values() for address in device.addresses]
        for session in sessions:
            far = address_of(session.name)
            name = session.value("description").strip()
            if (
                far is not None
                and name in unread
                and not any(far in net for net in beside if net.version == far.version)
            ):
                told[name, far.version][str(far)] += 1
    for key, addresses in told.items():
        yield key, min(addresses, key=lambda address: (-addresses[address], address))


class Numbers:
    """The numbers of what runs, asked by use and key as the ledger has them."""

    def __init__(self, known: Mapping[str, Known], shape: Shape, far: Far, carried: Carried, found: Findings) -> None:
        self.known, self.shape, self.far, self.carried, self.found = known, shape, far, carried, found
        self.by_key = {key: known[name] for name, key in shape.keys.items()}
        self.name_of = {key: name for name, key in shape.keys.items()}
        self.crossings = self._crossings()
        self.told_of = dict(_told_of(known))

    def _crossings(self) -> dict[tuple[str, str], list[tuple[str, str]]]:
        """The parallel links of each crossing, as (port, port), in the order of the lower switch's ports."""
        found: dict[tuple[str, str], list[tuple[str, str]]] = defaultdict(list)
        for name, ports in self.far.items():
            key = self.shape.keys.get(name)
            for port, (far, far_port) in ports.items():
                if key and far in self.shape.keys:
                    found[key, self.shape.keys[far]].append((port, far_port))
        for (key, _), links in found.items():
            front = list(self.shape.fronts[key].kind.group_of)
            links.sort(key=lambda link: front.index(link[0]) if link[0] in front else len(front))
        return found

    def link(self, lower: str, upper: str, lane: int) -> tuple[str, str] | None:
        """The two ports of a link, the lower switch's first."""
        links = self.crossings.get((lower, upper), [])
        return links[lane - 1] if lane <= len(links) else None

    def pins(self, asked: Asked) -> list[Pin]:
        """A pin for every number that is wanted and runs. Uses and keys are those of `demands_of`."""
        found: list[Pin] = []
        links = {link.key: link for link in asked.structure.links}
        switches = asked.structure.by_key
        for demand in asked.demands:
            thing = demand.use.split(".", maxsplit=1)[0]
            for key in demand.keys:
                if key in demand.pins:
                    continue
                number = self._number(thing, demand.use, key, links, switches)
                if number is not None:
                    found.append(Pin(demand.use, key, number))
        return found

    def _number(
        self, thing: str, use: str, key: str, links: Mapping[str, Link], switches: Mapping[str, Switch]
    ) -> Taken | None:
        version = 6 if use.endswith(".v6") else 4
        match thing:
            case "loopback":
                return self._loopback(key, version)
            case "vtep":
                return _address(self.by_key[key].vtep) if key in self.by_key else None
            case "management":
                return self._management(key)
            case "link":
                return self._link(links[key], version)
            case "asn":
                return self._asn(key, switches)
            case "pair":
                return self._pair(key.removeprefix("pair/"))
            case "vlan" | "vni":
                return self._tag(thing, use, key)
            case "relay":
                return self._relay(key, version)
            case "port":
                position = self._position(use, key, switches)
                return Taken(position, 1) if position else None
            case "cable":
                return self._cable(links.get(key))
        return None

    def _loopback(self, key: str, version: int) -> Taken | None:
        one = self.by_key.get(key)
        if one is None:
            return None
        there = [address for address in one.loopbacks if address.version == version and str(address.ip) != one.vtep]
        own = one.underlay.value("bgp router-id") if one.underlay else ""
        found = next((address for address in there if str(address.ip) == own), there[0] if there else None)
        told = self.told_of.get((one.name, version)) if one.unread else None
        return Taken(int(found.ip), 1) if found else _address(told) if told else None

    def _management(self, key: str) -> Taken | None:
        one = self.by_key.get(key)
        return Taken(int(one.management.addresses[0].ip), 1) if one and one.management else None

    def _link(self, link: Link, version: int) -> Taken | None:
        for device in self._devices(link):
            for one in device.addresses:
                if one.version == version:
                    return Taken(int(one.network.network_address), one.network.num_addresses)
        return None

    def _devices(self, link: Link) -> Iterator[Device]:
        """The ports of a link, of those of its two switches that could be read."""
        ends = self.link(link.lower.key, link.upper.key, link.lane)
        for key, port in zip((link.lower.key, link.upper.key), ends or (), strict=False):
            if port in self.by_key[key].devices:
                yield self.by_key[key].devices[port]

    def _asn(self, key: str, switches: Mapping[str, Switch]) -> Taken | None:
        if key == "overlay":
            said = {one.underlay.asn for one in self.by_key.values() if one.underlay}
        else:
            of_key = [self.by_key[one] for one in self._of(key, switches)]
            said = {asn for one in of_key if (asn := own_asn(one, self.far[one.name])) is not None}
            said = said or {asn for one in of_key for asn in self._told(one)}
        return Taken(Counter(said).most_common(1)[0][0], 1) if said else None

    def _told(self, one: Known) -> Iterator[int]:
        """The AS in which neighbours expect a switch that could not be read."""
        for far, far_port in self.far[one.name].values():
            text = self.known[far].text
            port, router = text.devices.get(far_port), text.underlay
            for session in router.sessions if router and port else ():
                ours = text.beside(session.name) if session.name not in text.devices else None
                if router and port and (session.name == far_port or ours in port.addresses):
                    yield int(router.of(session, "remote-as"))

    def _of(self, key: str, switches: Mapping[str, Switch]) -> Iterator[str]:
        """The switches whose AS a key is."""
        for one, switch in switches.items():
            if one in self.by_key and (
                key in (one, "fabric", f"rack/{switch.rack}" if switch.is_leaf else "")
                or (key == "super-spines" and switch.role == "super-spine")
                or (switch.role == "spine" and key == (f"spines/{switch.pod}" if switch.pod else "spines"))
            ):
                yield one

    def _pair(self, rack: str) -> Taken | None:
        one = self.by_key.get(f"leaf/{rack}/a")
        mac = pair_mac(one) if one else None
        return Taken(mac - self.base, 1) if mac is not None and mac >= self.base else None

    base = 0x02005E100000
    """The first system MAC of pairs, from which their numbers count."""

    def _tag(self, thing: str, use: str, key: str) -> Taken | None:
        kind, name = key.split("/", 1) if "/" in key else (key, "")
        if thing == "vni":
            number = (self.carried.segments if kind == "segment" else self.carried.vrfs).get(name)
        elif kind == "vrf":
            number = self.carried.vrf_vlans.get(name)
        else:
            at = self.carried.vlans.get(name, {})
            rack = use.partition(".rack-")[2]
            there = [vlan for leaf, vlan in at.items() if not rack or self.shape.keys[leaf].split("/")[1] == rack]
            number = Counter(there).most_common(1)[0][0] if there else None
        return Taken(number, 1) if number else None

    def _relay(self, key: str, version: int) -> Taken | None:
        leaf, _, vrf = key.partition("~")
        one, vlan = self.by_key.get(leaf), self.carried.vrf_vlans.get(vrf)
        svi = (
            next(
                (
                    device
                    for device in one.devices.values()
                    if device.kind == "VLAN" and device.one("vlan-id") == str(vlan)
                ),
                None,
            )
            if one
            else None
        )
        found = next((address for address in svi.addresses if address.version == version), None) if svi else None
        return Taken(int(found.ip), 1) if found else None

    def _position(self, use: str, key: str, switches: Mapping[str, Switch]) -> int | None:
        """The place of a port on the front, counted from 1 among those of its use: what most have, and the others are told."""
        thing, _, lane = key.rpartition("~")
        found: Counter[int] = Counter()
        who: dict[int, list[str]] = defaultdict(list)
        for lower, upper, near in self._ends(use, thing, switches):
            ends = self.link(lower, upper, int(lane))
            if ends is None:
                continue
            switch, port = (switches[lower], ends[0]) if near else (switches[upper], ends[1])
            ports: list[str] = [one.name for one in (switch.plan.up if near else switch.plan.down)]
            if port in ports:
                place = ports.index(port) + 1
                found[place] += 1
                who[place].append(f"{self.name_of[switch.key]} {port}")
        if not found:
            return None
        place, _ = found.most_common(1)[0]
        for other, ends_there in who.items():
            for end in ends_there if other != place else ():
                self.found.odd(
                    f"cable/{use}/{key}/{end}",
                    end.split(" ")[0],
                    f"a cable breaks the pattern: {end} is plugged where others have another",
                )
        return place

    def _ends(self, use: str, thing: str, switches: Mapping[str, Switch]) -> Iterator[tuple[str, str, bool]]:
        """The crossings whose ports share a position, and whether it is the lower switch's port."""
        if use.startswith("port.spine"):
            pod = switches[thing].pod
            yield from (
                (thing, one.key, False)
                for one in switches.values()
                if one.role == "spine" and one.pod == pod and thing in self.by_key
            )
            return
        number = thing.rsplit("/", 1)[-1]
        kind = use.partition("port.leaf.")[2]
        for one in switches.values():
            if use.startswith("port.leaf") and one.is_leaf and ((one.group.kind if one.group else None) or "") == kind:
                yield one.key, f"spine/{one.pod}/{number}" if one.pod else f"spine/{number}", True
            elif use == "port.up" and one.role == "spine":
                yield one.key, f"super/{one.plane}/{number}", True
            elif use == "port.super" and one.role == "spine" and one.pod == thing.removeprefix("pod/"):
                yield from (
                    (one.key, above.key, False)
                    for above in switches.values()
                    if above.role == "super-spine" and above.plane == one.plane
                )

    def _cable(self, link: Link | None) -> Taken | None:
        found = next((label for device in self._devices(link) if (label := cable_of(device))), None) if link else None
        return Taken(found[1], 1) if found else None


def cable_of(device: Device | None) -> tuple[str, int] | None:
    """The label of a cable, by what its port is called: its letters and its number."""
    found = re.search(r"\bcable ([A-Z][A-Z0-9]{0,7})-(\d+)\b", device.one("alias")) if device else None
    return (found[1], int(found[2])) if found else None


def pair_mac(one: Known) -> int | None:
    """The system MAC that a leaf has together with the other of its pair."""
    for lines in one.text.blocks.values():
        for line in lines:
            if line.startswith("evpn mh es-sys-mac "):
                return int(line.split()[-1].replace(":", ""), 16)
    return None


def _address(text: str) -> Taken | None:
    return Taken(int(ip_interface(text).ip), 1) if text else None
