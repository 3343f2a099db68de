"""What the files of all switches must agree on: both ends of every session and link, one map of VLANs, numbers that differ."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from ipaddress import ip_interface

from barrio.core.targets.linux_frr.readback.read import Neighbor, Router, SwitchText
from barrio.core.targets.linux_frr.readback.services import snooped
from barrio.core.targets.linux_frr.readback.tenants import known_alike

Found = tuple[str, str, str]
"""The switch that is concerned, a code without its family, and what is wrong in words."""
Fabric = Mapping[str, SwitchText]


def across(fabric: Fabric, elsewhere: frozenset[str]) -> Iterator[Found]:
    """Everything that the files of several switches contradict each other in; `elsewhere` are switches whose files are not here."""
    yield from _mirrors(fabric, elsewhere)
    yield from _links(fabric, elsewhere)
    for check in (_unique, _segments, _shared, _management):
        yield from check(fabric)


def _mirrors(fabric: Fabric, elsewhere: frozenset[str]) -> Iterator[Found]:
    """Each session has another end, which names the AS that this one is in."""
    owners = {
        str(one.ip): (name, device.name)
        for name, switch in fabric.items()
        for device in switch.devices.values()
        if not device.one("vrf")
        for one in device.addresses
    }
    for name, switch in fabric.items():
        router = switch.underlay
        if router is None:
            continue
        for session in router.sessions:
            told = router.of(session, "description").split()
            far = fabric.get(told[0]) if told else None
            if far is None and (session.has("shutdown") or (told and told[0] in elsewhere)):
                continue
            if far is None or far.underlay is None:
                yield name, "mirror", f"the session with {session.name} is with no switch of this fabric"
                continue
            back = _other_end(switch, far.underlay, session, told)
            owner = owners.get(session.name)
            if owner and owner[0] != far.name:
                yield name, "mirror", f"{session.name} is an address of {owner[0]}, and the session is with {far.name}"
            if back is None:
                yield name, "mirror", f"{far.name} has no session back to {session.name}"
                continue
            yield from _ends(switch, router, session, far, back)


def _other_end(switch: SwitchText, router: Router, session: Neighbor, told: list[str]) -> Neighbor | None:
    """The same session in the other switch's file: by the port that ours names, or by our address on the same subnet."""
    if session.name in switch.devices:
        return router.neighbors.get(told[1]) if len(told) > 1 else None
    beside = switch.beside(session.name)
    ours = (
        [beside]
        if beside
        else [one for one in switch.devices["lo"].addresses if (one.version == 6) == (":" in session.name)]
    )
    return next((router.neighbors[str(one.ip)] for one in ours if str(one.ip) in router.neighbors), None)


def _as_of(router: Router, session: Neighbor) -> str:
    own = router.of(session, "local-as").split()
    return own[0] if own else str(router.asn)


def _ends(switch: SwitchText, router: Router, session: Neighbor, far: SwitchText, back: Neighbor) -> Iterator[Found]:
    other = far.underlay
    assert other is not None
    if router.of(session, "remote-as") != _as_of(other, back):
        words = f"the session with {far.name} names AS {router.of(session, 'remote-as')}, and that end is in {_as_of(other, back)}"
        yield switch.name, "mirror", words
    if session.has("shutdown") != back.has("shutdown"):
        yield switch.name, "mirror", f"the session with {far.name} is shut at one end"
    for family in ("ipv4 unicast", "ipv6 unicast", "l2vpn evpn"):
        if router.is_active(session, family) != other.is_active(back, family):
            yield switch.name, "mirror", f"the session with {far.name} carries {family} at one end"
    for word in ("timers", "bfd", "bfd profile", "ttl-security hops", "capability extended-nexthop"):
        if router.of(session, word) != other.of(back, word):
            yield (
                switch.name,
                "mirror",
                f"the session with {far.name} has {word} {router.of(session, word)} at one end only",
            )


def _links(fabric: Fabric, elsewhere: frozenset[str]) -> Iterator[Found]:
    """Two ports share each subnet of a link, and carry the same; each names the other."""
    subnets: dict[object, list[tuple[str, str]]] = defaultdict(list)
    named: dict[tuple[str, str], tuple[str, str, str]] = {}
    for name, switch in fabric.items():
        for device in switch.devices.values():
            told = device.one("alias").replace(",", "").split()
            if len(told) == 4 and told[2] == "cable" and told[0] in fabric:
                named[name, device.name] = (told[0], told[1], told[3])
            if device.kind == "port" and not device.one("vrf"):
                for one in device.addresses:
                    if one.network.prefixlen != one.max_prefixlen and not (told and told[0] in elsewhere):
                        subnets[one.network].append((name, device.name))
    for subnet, ends in subnets.items():
        if len(ends) == 1 and "link-down" in fabric[ends[0][0]].devices[ends[0][1]].said:
            continue
        if len(ends) != 2:
            yield ends[0][0], "link", f"{subnet} is on {len(ends)} ports"
        elif named.get(ends[0], ("", "", ""))[:2] != ends[1]:
            yield ends[0][0], "link", f"{ends[0][1]} names another port than the one that shares {subnet} with it"
    for (name, port), (far, far_port, cable) in named.items():
        back = named.get((far, far_port))
        if back != (name, port, cable):
            yield name, "link", f"{port} names {far} {far_port}, cable {cable}, and that port does not name it"
            continue
        ours, theirs = fabric[name].devices[port], fabric[far].devices[far_port]
        if ours.mtu != theirs.mtu or ("link-down" in ours.said) != ("link-down" in theirs.said):
            yield name, "link", f"{port} carries {ours.mtu} bytes or is shut, and {far} {far_port} otherwise"


def _unique(fabric: Fabric) -> Iterator[Found]:
    """What one switch has, no other does: loopbacks, tunnel ends, router ids, ASNs of leaves, route distinguishers, MACs."""
    seen: dict[tuple[str, str], str] = {}
    for name, switch in fabric.items():
        for kind, value in _own(switch):
            first = seen.setdefault((kind, value), name)
            if first != name:
                yield name, "twice", f"{kind} {value} is {first}'s too"


def _own(switch: SwitchText) -> Iterator[tuple[str, str]]:
    for device in switch.devices.values():
        if device.kind in ("loopback", "management port", "port"):
            for one in device.addresses:
                if device.kind != "port" or one.network.prefixlen != one.max_prefixlen:
                    yield "address", str(one.ip)
        if device.kind == "VLAN":
            yield from (
                (f"address in {device.one('vrf')}", str(one.ip))
                for one in device.addresses
                if one.network.prefixlen == one.max_prefixlen
            )
        if device.kind == "bridge":
            yield "MAC", device.one("hwaddress")
    for router in switch.routers.values():
        if not router.vrf:
            yield "router id", router.value("bgp router-id")
        for said in (*router.vnis.values(), router.lines.get("l2vpn evpn", [])):
            yield from (("route distinguisher", line.split()[1]) for line in said if line.startswith("rd "))


def _segments(fabric: Fabric) -> Iterator[Found]:
    """A VNI has one VLAN, one gateway with one MAC, one route target and one MTU, wherever it is; or one VLAN in each rack that says so."""
    known: dict[tuple[str, str], tuple[str, str]] = {}
    for name, switch in fabric.items():
        for thing, what, value in _carried(switch):
            first, there = known.setdefault((thing, what), (name, value))
            if value != there:
                yield name, "map", f"{thing} has {what} {value} here, and {there} on {first}"


def _carried(switch: SwitchText) -> Iterator[tuple[str, str, str]]:
    router = switch.underlay
    tunnels = {device.one("bridge-access"): device for device in switch.devices.values() if device.kind == "tunnel"}
    for vlan, device in tunnels.items():
        thing = f"VNI {device.one('vxlan-id')}"
        name, _, of_rack = device.one("alias").partition(", a VLAN of ")
        inside = f" in {of_rack}" if of_rack else ""
        yield thing, "segment", name
        yield thing, f"VLAN{inside}", vlan
        yield thing, "MTU", str(device.mtu)
        yield f"VLAN {vlan}", f"VNI{inside}", device.one("vxlan-id")
        yield f"VLAN {vlan}", "scope", "one rack" if of_rack else "the fabric"
        yield thing, "scope", "one rack" if of_rack else "the fabric"
        yield thing, "answers to ARP and ND", device.one("bridge-arp-nd-suppress")
        yield thing, "listeners of groups", str(vlan in snooped(switch))
        svi = switch.devices.get(f"vlan{vlan}")
        if svi is not None and vlan not in switch.l3_vlans:
            yield thing, "gateway", " ".join(sorted(map(str, svi.addresses)))
            yield thing, "gateway MAC", svi.one("hwaddress")
            yield thing, "VRF", svi.one("vrf")
            yield thing, "MTU for hosts", f"{svi.mtu} {svi.one('alias')}"
            yield "every gateway", "MAC", svi.one("hwaddress")
            yield thing, "router advertisements", " ".join(sorted(switch.blocks.get(f"interface vlan{vlan}", [])))
    for vni, said in (router.vnis if router else {}).items():
        yield f"VNI {vni}", "route target", next((line for line in said if line.startswith("route-target import")), "")
    for vrf, vni in switch.vrf_vnis.items():
        yield f"VRF {vrf}", "VNI", vni
    yield from known_alike(switch)


def _shared(fabric: Fabric) -> Iterator[Found]:
    """An Ethernet segment is on two leaves, with two preferences and the same VLANs; each marks what the other flooded."""
    segments: dict[tuple[str, str], list[tuple[str, str, str, tuple[str, ...]]]] = defaultdict(list)
    ends = {name: {str(one.ip) for one in switch.devices["lo"].addresses} for name, switch in fabric.items()}
    marks: dict[str, set[str]] = {}
    macs: dict[str, set[str]] = defaultdict(set)
    for name, switch in fabric.items():
        ups = " ".join(up for device in switch.devices.values() for up in device.said.get("up", ())).split()
        marks[name] = {ups[at + 1] for at, word in enumerate(ups) if word == "src_ip"}
        for block, said in switch.blocks.items():
            mh = dict(line.removeprefix("evpn mh ").split() for line in said if line.startswith("evpn mh es-"))
            if "es-id" in mh:
                device = switch.devices[block.split()[1]]
                vlans = (
                    *device.words("bridge-vids"),
                    "untagged",
                    *device.words("bridge-pvid"),
                    *device.words("bridge-access"),
                )
                segments[mh["es-sys-mac"], mh["es-id"]].append((name, device.name, mh["es-df-pref"], vlans))
                macs[mh["es-sys-mac"]].add(name)
    for (mac, number), found in segments.items():
        if len(found) > 2 or len({pref for *_, pref, _ in found}) < len(found):
            yield (
                found[0][0],
                "segment",
                f"Ethernet segment {mac} {number} is on {len(found)} leaves, or none of them is preferred",
            )
        if len({(port, vlans) for _, port, _, vlans in found}) > 1:
            yield (
                found[0][0],
                "segment",
                f"Ethernet segment {mac} {number} is on other ports or VLANs of its two leaves",
            )
    prefs = {pref for found in segments.values() for *_, pref, _ in found}
    if len(prefs) > 2:
        yield (
            next(iter(fabric)),
            "segment",
            f"preferences are {', '.join(sorted(prefs))}; a first and a second are enough",
        )
    for (mac, number), found in segments.items():
        for other in macs[mac] - {name for name, *_ in found}:
            if found[0][1] in fabric[other].devices:
                words = f"Ethernet segment {mac} {number} is not on {other}, which has {found[0][1]} too"
                yield found[0][0], "segment", words
    for names in macs.values():
        for name in names:
            others = set().union(*(ends[other] for other in names if other != name))
            if names - {name} and not (len(marks[name]) == 1 and marks[name] <= others):
                yield (
                    name,
                    "segment",
                    f"{name} marks what {', '.join(sorted(marks[name])) or 'nobody'} flooded, which is not the other leaf",
                )


def _management(fabric: Fabric) -> Iterator[Found]:
    """A management gateway is in reach, and the port has one name and one length of prefix wherever the gateway is one."""
    ports = {(device.name, device.one("gateway"), device.addresses[0].network)
             for switch in fabric.values() for device in switch.devices.values() if device.kind == "management port"}  # fmt: skip
    if len({name for name, *_ in ports}) > 1 or len({gateway for _, gateway, _ in ports}) < len(
        {net for *_, net in ports}
    ):
        yield next(iter(fabric)), "management", "management ports have several names or prefixes behind one gateway"
    for name, switch in fabric.items():
        for device in switch.devices.values():
            if device.kind == "management port":
                gateway, network = ip_interface(device.one("gateway")), device.addresses[0].network
                if gateway.ip not in network or gateway.ip == device.addresses[0].ip:
                    yield name, "management", f"the gateway {gateway.ip} is not in {network}"
