"""What the files of one switch must agree on among themselves."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from ipaddress import ip_network

from barrio.core.targets.linux_frr.readback.lockout import lockout
from barrio.core.targets.linux_frr.readback.read import Device, Router, SwitchText
from barrio.core.targets.linux_frr.readback.routing import Finding, routing
from barrio.core.targets.linux_frr.readback.services import services

VXLAN_OVERHEAD = 50
"""Bytes that VXLAN over IPv4 adds to a host's packet (RFC 7348, 5)."""


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
        raw = device.one("vlan-raw-device")
        if device.kind == "VLAN" and raw != "bridge":
            if device.name != f"{raw}.{device.one('vlan-id')}":
                yield "port", f"{device.name} is VLAN {device.one('vlan-id')} of {raw}, which is another"
            if raw in switch.devices and switch.devices[raw].mtu != device.mtu:
                yield "mtu", f"{device.name} carries {device.mtu} bytes, and {raw} {switch.devices[raw].mtu}"
        if device.kind == "port":
            for up in device.said.get("up", ()):
                words = up.replace(";", "").split()
                for at, word in enumerate(words[:-1]):
                    if word == "dev" and words[at + 1] != device.name:
                        yield "port", f"{device.name} sets up {words[at + 1]}"


_SPEEDS = {str(1000 * speed) for speed in (1, 2, 5, 10, 25, 40, 50, 100, 200, 400, 800, 1600)}


_POINTS_TO: dict[str, tuple[str, ...]] = {
    "vrf": ("VRF",), "vlan-raw-device": (), "bond-slaves": ("port",),
    "bridge-ports": ("bond", "bridge port", "tunnel"),
}  # fmt: skip


def _sizes(switch: SwitchText) -> Iterator[Finding]:
    """No MTU is larger than what it runs over, and no host's larger than the bridge's."""
    devices = switch.devices
    fabric = [devices[name].mtu for name in _fabric_ports(switch)]
    for device in devices.values():
        if device.kind == "tunnel" and fabric and device.mtu + VXLAN_OVERHEAD > min(fabric):
            yield "mtu", f"{device.name} carries {device.mtu} bytes, and a fabric port {min(fabric)}: VXLAN adds 50"
        for below in (*device.words("vlan-raw-device"), *device.words("bond-slaves")):
            other = devices.get(below)
            if other and device.mtu and other.mtu and device.mtu > other.mtu:
                yield "mtu", f"{device.name} carries {device.mtu} bytes over {below}, which carries {other.mtu}"
    if "bridge" not in devices:
        return
    size = devices["bridge"].mtu
    if not size:
        yield "mtu", "the bridge has no MTU of its own, and its gateways 1500"
    gateways = [name for name, device in devices.items() if device.one("vlan-raw-device") == "bridge"]
    for name in (*gateways, *devices["bridge"].words("bridge-ports")):
        for port in (name, *(devices[name].words("bond-slaves") if name in devices else ())):
            # A host may ask for less than the bridge carries; it says so then.
            less = re.search(r"at most (\d+) bytes$", devices[port].one("alias")) if port in devices else None
            wanted = min(int(less[1]), size) if less else size
            if port in devices and devices[port].mtu != wanted:
                yield "mtu", f"{port} carries {devices[port].mtu} bytes, and the bridge {size}"


def _fabric_ports(switch: SwitchText) -> list[str]:
    outside = {name.split(".")[0] for name, device in switch.devices.items() if device.one("vrf")}
    return [name for name, device in switch.devices.items() if device.kind == "port" and name not in outside
            and name not in switch.slaves
            and device.mtu and "link-down" not in device.said]  # fmt: skip


def vlans_of(device: Device) -> set[str]:
    """The VLANs that a port of the bridge carries, tagged or not."""
    return {*device.words("bridge-vids"), *device.words("bridge-access"), *device.words("bridge-pvid")}


def _bridge(switch: SwitchText) -> Iterator[Finding]:
    """Ports of hosts carry segments, no VLAN of a VRF's tunnel, and untagged frames only where a VLAN takes them."""
    bridge = switch.devices.get("bridge")
    if bridge is None:
        return
    routed, all_vlans = switch.l3_vlans, set(bridge.words("bridge-vids"))
    tunnels = {device.one("bridge-access") for device in switch.devices.values() if device.kind == "tunnel"}
    if tunnels != all_vlans:
        yield "vlan", f"the bridge has VLANs {sorted(all_vlans)}, and tunnels are for {sorted(tunnels)}"
    members = set(bridge.words("bridge-ports"))
    ports = [switch.devices[name] for name in bridge.words("bridge-ports") if name in switch.devices]
    for device in switch.devices.values():
        if (
            device.kind in ("bridge port", "bond", "tunnel")
            and device.name not in members
            and device.name not in switch.slaves
        ):
            yield "vlan", f"{device.name} has VLANs, and is no port of the bridge"
    for port in ports:
        carried = vlans_of(port)
        if not carried <= all_vlans:
            yield "vlan", f"{port.name} carries VLAN {min(carried - all_vlans)}, which the bridge does not have"
        if port.kind == "tunnel":
            continue
        if carried & routed:
            yield "vlan", f"{port.name} carries VLAN {min(carried & routed)}, by which hosts would speak into a VRF"
        if not port.one("bridge-access") and not port.one("bridge-pvid") and port.one("bridge-allow-untagged") != "no":
            yield "vlan", f"{port.name} takes frames without a tag, and no VLAN is for them"
    hosts = {one.name: vlans_of(one) for one in ports if one.kind != "tunnel"}
    unused = all_vlans - routed - set[str]().union(*hosts.values())
    if hosts and unused:
        yield "vlan", f"VLAN {min(unused)} is on the bridge and on no host port"
    nobodys = {
        frozenset(hosts[one.name]) for one in ports if one.name in hosts and one.one("alias").startswith("hosts ")
    }
    if len(nobodys) > 1:
        yield "vlan", "ports for whatever host comes carry different VLANs"
    for device in switch.devices.values():
        vids = device.words("bridge-vids")
        if len(set(vids)) < len(vids) or (device.kind != "bridge" and set(vids) & set(device.words("bridge-pvid"))):
            yield "vlan", f"{device.name} names a VLAN twice"
    yield from _router_mac(switch, bridge, routed)


def _router_mac(switch: SwitchText, bridge: Device, routed: frozenset[str]) -> Iterator[Finding]:
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
        yield from _families(switch, vrf)
        yield from _targets(
            f"VRF {vrf}", switch.routers[vrf].lines.get("l2vpn evpn", []), vni, switch.routers[vrf], switch
        )


def _families(switch: SwitchText, vrf: str) -> Iterator[Finding]:
    """BGP in a VRF is of the families that have addresses there, and spreads over as many paths as in the others."""
    router = switch.routers[vrf]
    there = {
        f"ipv{one.version} unicast"
        for device in switch.devices.values()
        if device.one("vrf") == vrf
        for one in device.addresses
    }
    told = {family for family in router.lines if family.endswith("unicast")}
    if there and told != there:
        yield (
            "vrf",
            f"VRF {vrf} has {' and '.join(sorted(there))} addresses, and BGP of {' and '.join(sorted(told)) or 'none'}",
        )
    paths = {
        line.split()[-1]
        for name, one in switch.routers.items()
        if name
        for lines in one.lines.values()
        for line in lines
        if line.startswith("maximum-paths ")
    }
    if len(paths) > 1:
        yield "vrf", f"VRFs spread unalike: {', '.join(sorted(paths))}"


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
        elif device.one("bond-mode") == "802.3ad" and device.one("bond-ad-sys-mac-addr") != mac:
            yield "segment", f"{name} bonds as {device.one('bond-ad-sys-mac-addr')}, and its Ethernet segment is {mac}"
    for number, times in ids.items():
        if times > 1:
            yield "segment", f"two Ethernet segments have the id {number}"


def _names(switch: SwitchText) -> Iterator[Finding]:
    if f"hostname {switch.name}" not in switch.plain:
        yield "name", "frr.conf calls it by another name"


_CHECKS = (_references, _ports, _sizes, _bridge, _tunnels, _gateways, _segments, _names, routing, services, lockout)
