"""What the files of one switch must agree on among themselves."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from ipaddress import ip_address, ip_interface, ip_network

from barrio.core.readback.read import FAMILIES, Device, Router, SwitchText

VXLAN_OVERHEAD = 50
"""Bytes that VXLAN over IPv4 adds to a host's packet (RFC 7348, 5)."""
Finding = tuple[str, str]
"""A code without its family, and what is wrong in words."""


def within(switch: SwitchText) -> Iterator[Finding]:
    """Everything that one switch's files contradict themselves in."""
    for check in _CHECKS:
        yield from check(switch)


def _references(switch: SwitchText) -> Iterator[Finding]:
    """A device that is spoken of is there, and of the right kind."""
    devices = switch.devices
    for device in devices.values():
        for attribute, kinds in _POINTS_TO.items():
            for name in device.words(attribute):
                if name not in devices or (kinds and devices[name].kind not in kinds):
                    yield "device", f"{device.name} speaks of {name}, which is no {' or '.join(kinds) or 'device'} here"
    slaves = Counter(name for device in devices.values() for name in device.words("bond-slaves"))
    ports = devices["bridge"].words("bridge-ports") if "bridge" in devices else ()
    for name, times in slaves.items():
        if times > 1 or name in ports:
            yield "device", f"{name} is in two places"
    for block in switch.blocks:
        words = block.split()
        if words[0] in ("interface", "vrf") and words[1] not in devices:
            yield "device", f"frr.conf configures {words[1]}, which no stanza makes"
    for name, device in devices.items():
        for up in device.said.get("up", ()):
            words = up.split()
            target = next((words[at + 1] for at, word in enumerate(words[:-1]) if word in ("dev", "vrf")), "")
            if target and target not in devices and "filter" not in words:
                yield "device", f"{name} sets up {target}, which is not there"


def _ports(switch: SwitchText) -> Iterator[Finding]:
    """What a port runs on itself is about itself, at a speed that there is."""
    for device in switch.devices.values():
        speed = device.one("link-speed")
        if speed and speed not in _SPEEDS:
            yield "port", f"{device.name} would run at {speed} Mbit/s, which no port does"
        if device.kind == "port":
            for up in device.said.get("up", ()):
                words = up.replace(";", "").split()
                for at, word in enumerate(words[:-1]):
                    if word == "dev" and words[at + 1] != device.name:
                        yield "port", f"{device.name} sets up {words[at + 1]}"


_SPEEDS = {str(1000 * speed) for speed in (1, 2, 5, 10, 25, 40, 50, 100, 200, 400, 800, 1600)}


def _filters(switch: SwitchText) -> Iterator[Finding]:
    """The filter names devices that are there, the edge just the host ports, SSH listens where the switch is managed."""
    rules = switch.others.get("etc/nftables.conf", "")
    for name in sorted(set(re.findall(r'"([a-z][a-z0-9./-]*)"', rules)) - switch.devices.keys()):
        yield "filter", f"the packet filter names {name}, which is not there"
    hosts = re.search(r"set hosts \{.*?elements = \{ (.*?) \}", rules, re.DOTALL)
    ports = switch.devices["bridge"].words("bridge-ports") if "bridge" in switch.devices else ()
    guarded = set(re.findall(r'"(.*?)"', hosts[1])) if hosts else set()
    if guarded != {name for name in ports if name in switch.devices and switch.devices[name].kind != "tunnel"}:
        yield "filter", "the edge does not guard just the host ports"
    listens = re.search(r"^ListenAddress (\S+)", switch.others.get("etc/ssh/sshd_config", ""), re.MULTILINE)
    ports_of_management = [one for one in switch.devices.values() if one.kind == "management port"]
    managed = {str(one.ip) for device in ports_of_management for one in device.addresses}
    if listens and {listens[1]} != managed:
        yield (
            "management",
            f"SSH listens on {listens[1]}, and the switch is managed at {', '.join(managed) or 'no address'}",
        )


def _policies(switch: SwitchText) -> Iterator[Finding]:
    """Each family with a system outside has filters both ways and a bound; BFD is said whole."""
    for vrf, router in switch.routers.items():
        for session in router.sessions if vrf else ():
            said = session.lines.get("", [])
            if ("bfd" in said) != session.has("bfd profile"):
                yield "policy", f"BFD with {session.name} is said by half"
            for family in FAMILIES:
                lists = sorted(
                    line.split()[-1] for line in session.lines.get(family, []) if line.startswith("prefix-list")
                )
                whole = lists == ["in", "out"] and session.has("maximum-prefix", family)
                if session.has("activate", family) and not whole:
                    yield "policy", f"{session.name} is not filtered both ways, or tells without bound"
                if session.lines.get(family) and not session.has("activate", family):
                    yield "policy", f"{session.name} has a policy for {family}, which it does not carry"


_POINTS_TO: dict[str, tuple[str, ...]] = {
    "vrf": ("VRF",), "vlan-raw-device": (), "bond-slaves": ("port",),
    "bridge-ports": ("bond", "bridge port", "tunnel"),
}  # fmt: skip


def _sizes(switch: SwitchText) -> Iterator[Finding]:
    """No MTU is larger than what it runs over."""
    devices = switch.devices
    fabric = [devices[name].mtu for name in _fabric_ports(switch)]
    for device in devices.values():
        if device.kind == "tunnel" and fabric and device.mtu + VXLAN_OVERHEAD > min(fabric):
            yield "mtu", f"{device.name} carries {device.mtu} bytes, and a fabric port {min(fabric)}: VXLAN adds 50"
        for below in (*device.words("vlan-raw-device"), *device.words("bond-slaves"), *device.words("bridge-ports")):
            other = devices.get(below)
            if other and device.mtu and other.mtu and device.mtu > other.mtu:
                yield "mtu", f"{device.name} carries {device.mtu} bytes over {below}, which carries {other.mtu}"
    if "bridge" not in devices:
        return
    size = devices["bridge"].mtu
    if not size:
        yield "mtu", "the bridge has no MTU of its own, and its gateways 1500"
    for name in devices["bridge"].words("bridge-ports"):
        for port in (name, *(devices[name].words("bond-slaves") if name in devices else ())):
            if port in devices and devices[port].mtu != size:
                yield "mtu", f"{port} carries {devices[port].mtu} bytes, and the bridge {size}"


def _fabric_ports(switch: SwitchText) -> list[str]:
    outside = {name.split(".")[0] for name, device in switch.devices.items() if device.one("vrf")}
    return [name for name, device in switch.devices.items() if device.kind == "port" and name not in outside
            and not any(name in other.words("bond-slaves") for other in switch.devices.values())
            and device.mtu and "link-down" not in device.said]  # fmt: skip


def l3_vlans(switch: SwitchText) -> set[str]:
    """The VLANs that carry VRFs' tunnels."""
    vnis = set(switch.vrf_vnis.values())
    return {device.one("bridge-access") for device in switch.devices.values() if device.one("vxlan-id") in vnis}


def _bridge(switch: SwitchText) -> Iterator[Finding]:
    """Ports of hosts carry segments, no VLAN of a VRF's tunnel, and untagged frames only where a VLAN takes them."""
    bridge = switch.devices.get("bridge")
    if bridge is None:
        return
    routed, all_vlans = l3_vlans(switch), set(bridge.words("bridge-vids"))
    tunnels = {device.one("bridge-access") for device in switch.devices.values() if device.kind == "tunnel"}
    if tunnels != all_vlans:
        yield "vlan", f"the bridge has VLANs {sorted(all_vlans)}, and tunnels are for {sorted(tunnels)}"
    ports = [switch.devices[name] for name in bridge.words("bridge-ports") if name in switch.devices]
    for device in switch.devices.values():
        if device.kind in ("bridge port", "bond", "tunnel") and device not in ports and not _enslaved(switch, device):
            yield "vlan", f"{device.name} has VLANs, and is no port of the bridge"
    for port in ports:
        carried = {*port.words("bridge-vids"), *port.words("bridge-access"), *port.words("bridge-pvid")}
        if not carried <= all_vlans:
            yield "vlan", f"{port.name} carries VLAN {min(carried - all_vlans)}, which the bridge does not have"
        if port.kind == "tunnel":
            continue
        if carried & routed:
            yield "vlan", f"{port.name} carries VLAN {min(carried & routed)}, by which hosts would speak into a VRF"
        if not port.one("bridge-access") and not port.one("bridge-pvid") and port.one("bridge-allow-untagged") != "no":
            yield "vlan", f"{port.name} takes frames without a tag, and no VLAN is for them"
    hosts = [set(one.words("bridge-vids")) | set(one.words("bridge-access")) | set(one.words("bridge-pvid"))
             for one in ports if one.kind != "tunnel"]  # fmt: skip
    if any(one != all_vlans - routed for one in hosts):
        yield "vlan", f"not every host port carries just the VLANs of segments, {', '.join(sorted(all_vlans - routed))}"
    for device in switch.devices.values():
        vids = device.words("bridge-vids")
        if len(set(vids)) < len(vids):
            yield "vlan", f"{device.name} names a VLAN twice"
    yield from _router_mac(switch, bridge, routed)


def _router_mac(switch: SwitchText, bridge: Device, routed: set[str]) -> Iterator[Finding]:
    """The bridge's MAC is pinned, out of the loopback's octets; where VRFs' tunnels meet their tables it is the same."""
    mac = bridge.one("hwaddress")
    first = next((one.ip for one in switch.devices["lo"].addresses if one.version == 4), None)
    if first is None or mac.split(":") != ["06", "00", *(f"{octet:02x}" for octet in first.packed)]:
        yield "mac", f"the bridge's MAC {mac or 'is left to chance and'} is not the one of loopback {first}"
    for device in switch.devices.values():
        if (
            device.one("vlan-id") in routed
            and device.one("hwaddress") != mac
            and device.one("vlan-raw-device") == "bridge"
        ):
            yield "mac", f"{device.name} answers as {device.one('hwaddress')}, and the switch is {mac}"


def _enslaved(switch: SwitchText, device: Device) -> bool:
    return any(device.name in other.words("bond-slaves") for other in switch.devices.values())


def _tunnels(switch: SwitchText) -> Iterator[Finding]:
    """Each tunnel has its VLAN alone, ends at a loopback that is told, and BGP tells its VNI."""
    router = switch.underlay
    tunnels = [device for device in switch.devices.values() if device.kind == "tunnel"]
    if not tunnels:
        return
    own = {str(one.ip) for one in switch.devices["lo"].addresses}
    vlans = Counter(device.one("bridge-access") for device in tunnels)
    told = set(router.vnis) if router else set()
    l3 = set(switch.vrf_vnis.values())
    for device in tunnels:
        vni, end = device.one("vxlan-id"), device.one("vxlan-local-tunnelip")
        if vlans[device.one("bridge-access")] > 1:
            yield "vni", f"VLAN {device.one('bridge-access')} has two tunnels"
        if device.name != f"vni{vni}":
            yield "vni", f"{device.name} is the tunnel of VNI {vni}"
        if end not in own:
            yield "vtep", f"{device.name} ends at {end}, which is no address of lo"
        if vni not in told | l3:
            yield "vni", f"no routing block tells VNI {vni}"
    for vni in (told | l3) - {device.one("vxlan-id") for device in tunnels}:
        yield "vni", f"VNI {vni} is routed, and has no tunnel"
    if told & l3:
        yield "vni", f"VNI {min(told & l3)} is a segment's and a VRF's"
    for vni, said in (router.vnis if router else {}).items():
        yield from _targets(f"VNI {vni}", said, vni, router, switch)
    for vrf, vni in switch.vrf_vnis.items():
        if vrf not in switch.routers:
            yield "vrf", f"VRF {vrf} has VNI {vni} and no BGP"
            continue
        yield from _targets(
            f"VRF {vrf}", switch.routers[vrf].lines.get("l2vpn evpn", []), vni, switch.routers[vrf], switch
        )


def _targets(thing: str, said: list[str], vni: str, router: Router | None, switch: SwitchText) -> Iterator[Finding]:
    took = {word: line.split()[-1] for line in said for word in ("rd", "route-target import", "route-target export")
            if line.startswith(f"{word} ")}  # fmt: skip
    if set(took) != {"rd", "route-target import", "route-target export"}:
        yield "evpn", f"{thing} lacks a route distinguisher or a route target"
        return
    if took["route-target import"] != took["route-target export"]:
        yield "evpn", f"{thing} takes {took['route-target import']} and tells {took['route-target export']}"
    if took["route-target import"].split(":")[-1] != vni:
        yield "evpn", f"{thing} has the route target {took['route-target import']}, which is another VNI's"
    tunnel = switch.devices.get(f"vni{vni}")
    if tunnel and took["rd"].split(":")[-1] != tunnel.one("bridge-access"):
        yield "evpn", f"{thing} has the route distinguisher {took['rd']}, which is of another VLAN"
    if router and took["rd"].split(":")[0] != router.value("bgp router-id"):
        yield "evpn", f"{thing} has the route distinguisher {took['rd']}, which is another router's"


def _gateways(switch: SwitchText) -> Iterator[Finding]:
    """A gateway is on the VLAN that it is named after, in a VRF with an end, and advertised as what it is."""
    for device in switch.devices.values():
        if device.kind == "VLAN" and device.one("vlan-raw-device") == "bridge":
            vlan = device.one("vlan-id")
            if device.name != f"vlan{vlan}" or vlan not in switch.devices["bridge"].words("bridge-vids"):
                yield "gateway", f"{device.name} is on VLAN {vlan}, which is not its own or not of the bridge"
            for command in (*device.said.get("pre-up", ()), *device.said.get("up", ())):
                if any(f".{device.name}." not in word for word in command.split() if word.startswith("net.")):
                    yield "gateway", f"{device.name} sets what is another device's: {command}"
        if device.name == "mgmt" and device.said.get("address") != ("127.0.0.1/8",):
            yield "vrf", "the management table has no loopback of its own, which services there bind to"
        if device.kind == "VRF":
            ups = " ".join(device.said.get("up", ()))
            table = f"table {device.one('vrf-table')}" if device.one("vrf-table").isdigit() else f"vrf {device.name}"
            for family in ("-4", "-6"):
                if f"ip {family} route replace {table} unreachable default metric 4278198272" not in ups:
                    yield (
                        "vrf",
                        f"what {device.name} has no route for goes on into the fabric's own table (IPv{family[1]})",
                    )
    for block, said in switch.blocks.items():
        prefix = next((line.split()[-1] for line in said if line.startswith("ipv6 nd prefix ")), None)
        device_name = block.removeprefix("interface ")
        if prefix and device_name in switch.devices:
            networks = [one.network for one in switch.devices[device_name].addresses]
            if ip_network(prefix) not in networks:
                yield "gateway", f"{device_name} advertises {prefix}, and is in {', '.join(map(str, networks))}"


def _sessions(switch: SwitchText) -> Iterator[Finding]:
    """A neighbour is on a link of the right table; the members of a peer group are all inside or all outside."""
    if len({router.asn for router in switch.routers.values()}) > 1:
        yield "session", "BGP of the VRFs and of the fabric are in different ASes"
    for vrf, router in switch.routers.items():
        groups: dict[str, set[bool]] = {}
        reach = [
            one for device in switch.devices.values() if (device.one("vrf") or "") == vrf for one in device.addresses
        ]
        for session in router.sessions:
            group = router.group(session)
            remote = router.of(session, "remote-as")
            if not remote:
                yield "session", f"the session with {session.name} names no AS"
                continue
            own = router.of(session, "local-as").split()
            groups.setdefault(group, set()).add(int(remote) == int(own[0] if own else router.asn))
            if group and group not in router.neighbors:
                yield "session", f"the session with {session.name} is in group {group}, which is not there"
            yield from _place(switch, router, session.name, reach, router.of(session, "update-source"))
            families = [family for family in FAMILIES if router.is_active(session, family)]
            if not families:
                yield "session", f"the session with {session.name} carries no family"
        for group, inside in groups.items():
            if group and len(inside) > 1:
                yield "session", f"group {group} has neighbours of the own AS and of others, which bgpd refuses"
        if router.value("bgp router-id") not in {str(one.ip) for one in switch.devices["lo"].addresses}:
            yield "session", f"the router id {router.value('bgp router-id')} is no address of lo"


def _place(switch: SwitchText, router: Router, name: str, reach: list, source: str) -> Iterator[Finding]:  # type: ignore[type-arg]
    if name in switch.devices:
        if "link-down" in switch.devices[name].said and not router.neighbors[name].has("shutdown"):
            yield "session", f"the session over {name} waits for a port that is shut"
        return
    try:
        address = ip_address(name)
    except ValueError:
        yield "session", f"{name} is neither a port nor an address"
        return
    if not source and not any(address in one.network and address != one.ip for one in reach):
        yield "session", f"no link of {router.vrf or 'the fabric'} leads to {name}"


def _told(switch: SwitchText) -> Iterator[Finding]:
    """Lists that are used are there; what is told passes them; ECMP is as wide as there are sessions."""
    for router in switch.routers.values():
        for neighbor in router.neighbors.values():
            for family in FAMILIES:
                for line in neighbor.lines.get(family, []):
                    words = line.split()
                    if words[0] == "prefix-list" and words[1] not in switch.lists:
                        yield "filter", f"{neighbor.name} is filtered by {words[1]}, which is not there"
                    elif words[0] == "prefix-list" and words[2] == "out" and not router.vrf:
                        yield from _passes(router, family, words[1], switch.lists[words[1]])
    underlay = switch.underlay
    own = {str(one) for one in switch.devices["lo"].addresses}
    networks = {line.split()[1] for family in FAMILIES for line in (underlay.lines.get(family, []) if underlay else [])
                if line.startswith("network ")}  # fmt: skip
    if networks and networks != own:
        yield "filter", f"told are {', '.join(sorted(networks))}, and lo has {', '.join(sorted(own))}"
    if underlay and any(device.kind == "tunnel" for device in switch.devices.values()):
        wide = underlay.value("maximum-paths", "ipv4 unicast")
        sessions = {underlay.group(one): 0 for one in underlay.sessions}
        for one in underlay.sessions:
            sessions[underlay.group(one)] += underlay.is_active(one, "ipv4 unicast")
        if wide and int(wide) < max(sessions.values(), default=0):
            yield "ecmp", f"traffic spreads over {wide} paths, and there are {max(sessions.values())} sessions"


def _tenant_paths(switch: SwitchText) -> Iterator[Finding]:
    """Paths of VRFs differ by their tunnel ends: their number is one, whatever the family or kind of session, and over one."""
    wide = {
        line.split()[-1]
        for router in switch.routers.values()
        for lines in router.lines.values()
        for line in lines
        if router.vrf and line.startswith("maximum-paths")
    }
    if len(wide) > 1 or wide & {"0", "1"}:
        yield "ecmp", f"traffic in VRFs spreads over {' or '.join(sorted(wide))} paths"


def _passes(router: Router, family: str, name: str, entries: list[str]) -> Iterator[Finding]:
    for line in router.lines.get(family, []):
        if line.startswith("network "):
            prefix = ip_interface(line.split()[1]).network
            if not any(_permits(entry, prefix) for entry in entries):
                yield "filter", f"{prefix} is told, and filtered by {name}"


def _permits(entry: str, prefix) -> bool:  # type: ignore[no-untyped-def]
    words = entry.split()
    if "permit" not in words:
        return False
    wide = ip_network(words[words.index("permit") + 1])
    low = int(words[words.index("ge") + 1]) if "ge" in words else wide.prefixlen
    return bool(wide.version == prefix.version and prefix.subnet_of(wide) and prefix.prefixlen >= low)


def _segments(switch: SwitchText) -> Iterator[Finding]:
    """Ethernet segments stand on bonds that say the same system MAC; each has an id of its own."""
    ids: Counter[str] = Counter()
    for block, said in switch.blocks.items():
        number = next((line.split()[-1] for line in said if line.startswith("evpn mh es-id ")), None)
        if number is None:
            continue
        ids[number] += 1
        name = block.removeprefix("interface ")
        mac = next((line.split()[-1] for line in said if line.startswith("evpn mh es-sys-mac ")), "")
        device = switch.devices.get(name)
        if device is None or device.kind != "bond":
            yield "segment", f"Ethernet segment {number} is on {name}, which is no bond"
        elif device.one("bond-ad-sys-mac-addr") != mac:
            yield "segment", f"{name} bonds as {device.one('bond-ad-sys-mac-addr')}, and its Ethernet segment is {mac}"
    for number, times in ids.items():
        if times > 1:
            yield "segment", f"two Ethernet segments have the id {number}"


def _names(switch: SwitchText) -> Iterator[Finding]:
    if f"hostname {switch.name}" not in switch.plain:
        yield "name", "frr.conf calls it by another name"


_CHECKS = (
    _references, _ports, _filters, _policies, _sizes, _bridge, _tunnels, _gateways, _sessions, _told, _tenant_paths,
    _segments, _names,
)  # fmt: skip
