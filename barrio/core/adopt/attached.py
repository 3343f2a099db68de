"""What is attached: hosts by what ports are called, and plugs, which are the ways of attaching that many ports have alike."""

from __future__ import annotations

import json
import re
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping
from typing import Any, NamedTuple

from barrio.core.adopt.carried import Carried, _vids
from barrio.core.adopt.found import Findings
from barrio.core.adopt.running import Known
from barrio.core.adopt.shape import Shape, clean
from barrio.core.brief.ranges import contract_names, contract_ports
from barrio.core.exchange.tiers import natural
from barrio.core.targets.linux_frr.readback.read import Device

NFT = "etc/nftables.conf"
_SHUT = ("shut", "")
_Ways = tuple[tuple[str, Any], ...]


class _Seat(NamedTuple):
    """A host on one leaf: by its ports, what they carry, and how."""

    host: str
    ports: tuple[str, ...]
    ways: _Ways


def attached(
    known: Mapping[str, Known], shape: Shape, carried: Carried, host_mtu: int, found: Findings
) -> dict[str, Any]:
    """The edits that say who is attached where."""
    seats: dict[str, list[_Seat]] = {}
    for name, key in shape.keys.items():
        if shape.tier[name] == "leaf":
            hosts = {port.name for port in _host_ports(known[name], shape, key)}
            seats[name] = list(_seats(known[name], hosts, carried, host_mtu))
    racks: dict[str, list[str]] = defaultdict(list)
    for name in sorted(seats, key=lambda name: shape.keys[name]):
        racks[_rack(shape.keys[name])].append(name)
    places: dict[tuple[str, str, tuple[str, ...]], _Ways] = {}
    for rack, members in racks.items():
        places |= _places(rack, members, seats, shape)
    plugs = _plugs(places.values())
    edits: dict[str, Any] = {f"plugs.{name}": dict(ways) for ways, name in plugs.items()}
    for ways, name in plugs.items():
        count = sum(one == ways for one in places.values())
        found.propose(
            "attached",
            f"plug/{name}",
            f"plug {name}",
            {f"plugs.{name}": dict(ways)},
            [f"{count} hosts are attached in this way"],
            "likely",
        )
    for names, entry in _entries(places, plugs):
        edits[f'hosts."{names}"'] = entry
        found.propose(
            "attached",
            f"host/{names}",
            f"host {names}",
            {f'hosts."{names}"': entry},
            [f"what the ports are called at {_joined(entry['at'])}"],
            "likely",
        )
    return edits


def _joined(at: str | list[str]) -> str:
    return at if isinstance(at, str) else ", ".join(at)


def _rack(key: str) -> str:
    return key.split("/")[1]


def _host_ports(one: Known, shape: Shape, key: str) -> Iterator[Device]:
    """The devices of ports where hosts may be: on the front, and no uplink."""
    kind = shape.fronts[key].kind
    return (
        device
        for device in one.devices.values()
        if device.name.split("s")[0] in kind.group_of or device.name in kind.group_of
    )


def _seats(one: Known, hosts: set[str], carried: Carried, host_mtu: int) -> Iterator[_Seat]:
    bonds = {
        slave: device
        for device in one.devices.values()
        if device.kind == "bond"
        for slave in device.words("bond-slaves")
    }
    rules = _rules(one.file(NFT))
    done: set[str] = set()
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
            if bond.one("bond-lacp-rate") in ("0", "slow") and ways["lag"] == "lacp":
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
        yield _Seat(
            _host(leading.one("alias")),
            ports,
            tuple((key, tuple(value) if isinstance(value, list) else value) for key, value in ways.items()),
        )


def _host(alias: str) -> str:
    """The host after what its port is called."""
    said = alias.split(",", maxsplit=1)[0].strip()
    return clean(said) if said and not said.startswith("hosts ") else ""


def _carries(device: Device) -> tuple[int, list[int]]:
    """The VLAN without a tag (0 for none), and those with theirs."""
    if device.one("bridge-access"):
        return int(device.one("bridge-access")), []
    untagged = int(device.one("bridge-pvid") or 0)
    return (0 if untagged == 1 else untagged), [vlan for vlan in _vids(device.words("bridge-vids")) if vlan != untagged]


def _rules(text: str) -> dict[str, dict[str, Any]]:
    """What a filter says of single host ports: frames a second, addresses behind it."""
    found: dict[str, dict[str, Any]] = defaultdict(dict)
    sizes = dict(re.findall(r"set (behind_\w+) \{\s*type ether_addr\s*size (\d+)", text))
    named = {
        name: macs.replace(" ", "").split(",")
        for name, macs in re.findall(r"set (only_\w+) \{\s*type ether_addr\s*elements = \{ (.*?) \}", text)
    }
    for port, name in re.findall(r'iifname "(\S+)" update @(behind_\w+)', text):
        found[port]["macs"] = int(sizes.get(name, 0))
    for port, name in re.findall(r'iifname "(\S+)" ether saddr != @(only_\w+)', text):
        found[port]["only_macs"] = named.get(name, [])
    for port, rate in re.findall(r'iifname "(\S+)" meta pkttype [^\n]* limit rate over (\d+)/second', text):
        found[port]["storm"] = int(rate)
    return found


def _places(
    rack: str, members: list[str], seats: Mapping[str, list[_Seat]], shape: Shape
) -> dict[tuple[str, str, tuple[str, ...]], _Ways]:
    """Hosts by name, place and ports. One that the same ports of all leaves of a rack are called after is plugged into the rack."""
    by_host: dict[tuple[str, tuple[str, ...], _Ways], list[str]] = defaultdict(list)
    for name in members:
        for seat in seats[name]:
            by_host[seat.host or f"{name}-{seat.ports[0]}", seat.ports, seat.ways].append(name)
    found: dict[tuple[str, str, tuple[str, ...]], _Ways] = {}
    for (host, ports, ways), leaves in by_host.items():
        if len(leaves) == len(members):
            found[host, rack, ports] = ways
        else:
            for leaf in leaves:
                side = shape.keys[leaf].rsplit("/", 1)[1]
                found[host, f"{rack}/{side}" if len(members) > 1 else rack, ports] = ways
    return found


def _plugs(all_ways: Iterable[_Ways]) -> dict[_Ways, str]:
    """A plug for each way that several hosts have, named after what it carries."""
    counts = Counter(all_ways)
    plugs: dict[_Ways, str] = {}
    taken: set[str] = set()
    for ways, count in sorted(counts.items(), key=lambda one: (-one[1], json.dumps(one[0]))):
        if count < 2 or not ways:
            continue
        said = dict(ways)
        base = said.get("untagged") or (said["tagged"][0] if said.get("tagged") else "bare")
        name, number = base, 2
        while name in taken or name in ("every", "shut"):
            name, number = f"{base}-{number}", number + 1
        taken.add(name)
        plugs[ways] = name
    return plugs


def _entries(
    places: Mapping[tuple[str, str, tuple[str, ...]], _Ways], plugs: Mapping[_Ways, str]
) -> Iterator[tuple[str, dict[str, Any]]]:
    """Entries of the brief: hosts whose names and ports run on are one. A host in several places is one entry of its own."""
    at: dict[str, list[tuple[str, tuple[str, ...]]]] = defaultdict(list)
    ways_of: dict[str, _Ways] = {}
    for (host, place, ports), ways in places.items():
        at[host].append((place, ports))
        ways_of[host] = ways
    run: list[str] = []
    for host in [*sorted(at, key=lambda host: (natural(at[host][0][0]), natural(host))), ""]:
        if run and not (host and _runs_on(run[-1], host, at, ways_of)):
            yield _entry(run, at, ways_of, plugs)
            run = []
        run.append(host)


def _runs_on(
    before: str, host: str, at: Mapping[str, list[tuple[str, tuple[str, ...]]]], ways_of: Mapping[str, _Ways]
) -> bool:
    if len(at[before]) != 1 or len(at[host]) != 1 or ways_of[before] != ways_of[host]:
        return False
    (place, ports), (here, mine) = at[before][0], at[host][0]
    run = contract_names((before, host))
    return place == here and len(ports) == len(mine) and "," not in run and "," not in contract_ports((*ports, *mine))


def _entry(
    hosts: list[str],
    at: Mapping[str, list[tuple[str, tuple[str, ...]]]],
    ways_of: Mapping[str, _Ways],
    plugs: Mapping[_Ways, str],
) -> tuple[str, dict[str, Any]]:
    by_place: dict[str, list[str]] = defaultdict(list)
    for host in hosts:
        for place, ports in at[host]:
            by_place[place] += ports
    texts = [f"{place} {contract_ports(ports)}" for place, ports in by_place.items()]
    entry: dict[str, Any] = {"at": texts[0] if len(texts) == 1 else texts}
    ways = ways_of[hosts[0]]
    if ways in plugs:
        entry["plug"] = plugs[ways]
    else:
        entry |= {key: list(value) if isinstance(value, tuple) else value for key, value in ways}
    return contract_names(tuple(hosts)), entry
