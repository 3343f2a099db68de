"""The places of hosts on one leaf: what each port carries, and how."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from typing import Any, NamedTuple

from barrio.core.adopt.carried import Carried, vids
from barrio.core.adopt.running import Known, clean
from barrio.core.adopt.shape import Shape
from barrio.core.exchange.tiers import natural
from barrio.core.targets.linux_frr.readback.read import Device

NFT = "etc/nftables.conf"
Ways = tuple[tuple[str, Any], ...]
"""How something is attached, by the fields of a plug."""


class Seat(NamedTuple):
    """A host on one leaf, without a name where its port is not called after it: its ports, and how they serve it."""

    host: str
    ports: tuple[str, ...]
    ways: Ways


def _host_ports(one: Known, shape: Shape, key: str) -> Iterator[Device]:
    """The devices of ports where hosts may be: on the front, and no uplink."""
    kind = shape.fronts[key].kind
    return (
        device
        for device in one.devices.values()
        if device.name.split("s")[0] in kind.group_of or device.name in kind.group_of
    )


def seats_of(one: Known, shape: Shape, carried: Carried, host_mtu: int) -> Iterator[Seat]:
    """Every port of a leaf that carries something for hosts, bonds as one."""
    bonds = {
        slave: device
        for device in one.devices.values()
        if device.kind == "bond"
        for slave in device.words("bond-slaves")
    }
    rules = _rules(one.file(NFT))
    hosts = {port.name for port in _host_ports(one, shape, shape.keys[one.name])}
    done: set[str] = set()
    found: list[_Raw] = []
    for name in sorted(hosts, key=natural):
        device = one.devices[name]
        bond = bonds.get(name)
        leading = bond or device
        if leading.name in done or device.addresses or (bond is None and device.kind != "bridge port"):
            continue
        if device.one("link-down") == "yes" and bond is None:
            continue
        done.add(leading.name)
        ports = tuple(sorted(bond.words("bond-slaves"), key=natural)) if bond else (name,)
        vlans = _carries(leading)
        ways: dict[str, Any] = {}
        if bond is not None:
            ways["lag"] = "lacp" if bond.one("bond-mode") in ("802.3ad", "4") else "static"
            if bond.one("bond-lacp-rate") in ("0", "slow") or ", slow LACP" in bond.one("alias"):
                ways["rate"] = "slow"
        untagged, tagged = vlans
        name_of = {vlan: carried.segment(one.name, vlan) for vlan in (*tagged, *([untagged] if untagged else []))}
        if untagged and name_of[untagged]:
            ways["untagged"] = name_of[untagged]
        named = sorted(segment for vlan in tagged if (segment := name_of[vlan]))
        if named:
            ways["tagged"] = named
        if device.mtu and device.mtu != host_mtu:
            ways["mtu"] = device.mtu
        if device.one("link-speed"):
            ways["speed"] = int(device.one("link-speed")) // 1000
        if device.one("link-fec") in ("rs", "fc", "none", "baser", "off"):
            ways["fec"] = {"baser": "fc", "off": "none"}.get(device.one("link-fec"), device.one("link-fec"))
        ways |= rules.get(leading.name, {})
        found.append((_host(leading.one("alias")), ports, ways))
    kinds = shape.fronts[shape.keys[one.name]].kind.group_of
    for host, ports, ways in _joined(found):
        share = ways.pop("share", None)
        if share is not None:
            speed = ways.get("speed") or max(kinds[ports[0]].speeds if ports[0] in kinds else [25])
            ways["storm"] = f"{min(100, round(share * 8 / (speed * 1e7 * len(ports)), 2)):g}%"
        frozen = tuple((key, tuple(value) if isinstance(value, list) else value) for key, value in ways.items())
        yield Seat(host, ports, frozen)


_Raw = tuple[str, tuple[str, ...], dict[str, Any]]


def _joined(found: list[_Raw]) -> Iterator[_Raw]:
    """Ports that are not bonded, and carry the same for one host, are places of that host together."""
    at: dict[tuple[str, str], _Raw] = {}
    for place, (host, ports, ways) in enumerate(found):
        key = (host or str(place), repr(sorted(ways.items(), key=str)))
        if host and "lag" not in ways and key in at:
            at[key] = (host, (*at[key][1], *ports), ways)
        else:
            at[key if host and "lag" not in ways else (str(place), "")] = (host, ports, ways)
    yield from at.values()


def _host(alias: str) -> str:
    """The host after what its port is called."""
    said = alias.split(",", maxsplit=1)[0].strip()
    return clean(said) if said and not said.startswith("hosts ") else ""


def _carries(device: Device) -> tuple[int, list[int]]:
    """The VLAN without a tag (0 for none), and those with theirs."""
    if device.one("bridge-access"):
        return int(device.one("bridge-access")), []
    untagged = int(device.one("bridge-pvid") or 0)
    return (0 if untagged == 1 else untagged), [vlan for vlan in vids(device.words("bridge-vids")) if vlan != untagged]


def _rules(text: str) -> dict[str, dict[str, Any]]:
    """What a filter says of single host ports: frames or bytes a second that they may send to all, and addresses behind them."""
    found: dict[str, dict[str, Any]] = defaultdict(dict)
    special = re.search(r"set special \{\s*type ifname\s*elements = \{ (.*?) \}", text)
    for port in re.findall(r'"([^"]+)"', special[1]) if special else ():
        found[port]["storm"] = 0
    sizes = dict(re.findall(r"set (behind_\w+) \{\s*type ether_addr\s*size (\d+)", text))
    elements = re.findall(r"set (only_\w+) \{\s*type ether_addr\s*elements = \{ (.*?) \}", text)
    only = {name: macs.replace(" ", "").split(",") for name, macs in elements}
    for port, name in re.findall(r'iifname "(\S+)" update @(behind_\w+)', text):
        found[port]["macs"] = int(sizes.get(name, 0))
    for port, name in re.findall(r'iifname "(\S+)" ether saddr != @(only_\w+)', text):
        found[port]["only_macs"] = only.get(name, [])
    for port, rate, unit in re.findall(
        r'iifname "(\S+)" meta pkttype [^\n]* limit rate over (\d+)( bytes)?/second', text
    ):
        found[port]["share" if unit else "storm"] = int(rate)
    for said in found.values():
        if "share" in said:
            said.pop("storm", None)
    return found
