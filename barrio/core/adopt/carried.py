"""What a fabric carries: VRFs and segments, told by the VNIs that leaves have in common."""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, field
from ipaddress import ip_network
from typing import Any

from barrio.core.adopt.found import Findings
from barrio.core.adopt.running import Known
from barrio.core.exchange.tiers import natural
from barrio.core.targets.linux_frr.readback.read import Device, Interface
from barrio.core.targets.linux_frr.readback.services import snooped

_SAID = re.compile(r"^(?:segment|gateway of|routes of|l[23] ?vni|vni|vxlan|vlan|svi)[ :_-]+(?=[a-z])", re.IGNORECASE)
_RELAY = re.compile(r"ip vrf exec (\S+) /usr/sbin/dhcrelay -[46] (.*)")


@dataclass
class Carried:
    """VRFs and segments by name, each with its VNI; the VLAN of each segment on each leaf, and back. `edits` say all of it."""

    vrfs: dict[str, int] = field(default_factory=dict)
    segments: dict[str, int] = field(default_factory=dict)
    vlans: dict[str, dict[str, int]] = field(default_factory=lambda: defaultdict(dict))
    vrf_vlans: dict[str, int] = field(default_factory=dict)
    edits: dict[str, Any] = field(default_factory=dict)

    def segment(self, leaf: str, vlan: int) -> str | None:
        """The segment that a VLAN of a leaf is."""
        return next((name for name, at in self.vlans.items() if at.get(leaf) == vlan), None)


def carried(leaves: Mapping[str, Known], host_mtu: int, found: Findings) -> Carried:
    """What these leaves carry."""
    return _Reading(leaves, host_mtu, found).read()


def called(words: str, otherwise: str) -> str:
    """A name of the brief after what something is called.

    >>> called("segment tide-grid, a VLAN of rack r01", "vni30000"), called("", "vni30000")
    ('tide-grid', 'vni30000')
    """
    said = _SAID.sub("", words.split(",", maxsplit=1)[0].strip())
    name = re.sub(r"[^a-z0-9-]+", "-", said.lower()).strip("-")
    return name if re.fullmatch(r"[a-z][a-z0-9-]{0,40}", name) else otherwise


class _Reading:
    def __init__(self, leaves: Mapping[str, Known], host_mtu: int, found: Findings) -> None:
        self.leaves, self.host_mtu, self.found = leaves, host_mtu, found
        self.out = Carried()

    def read(self) -> Carried:
        self._vrfs()
        tunnels: dict[int, dict[str, Device]] = defaultdict(dict)
        for name, one in self.leaves.items():
            l3 = {int(vni) for vni in one.text.vrf_vnis.values()}
            for device in one.tunnels:
                vni = int(device.one("vxlan-id") or 0)
                if vni not in l3:
                    tunnels[vni][name] = device
            self._vlans_without(name, one)
        for vni, at in sorted(tunnels.items()):
            self._segment(vni, at)
        self._imports()
        return self.out

    def _vrfs(self) -> None:
        vnis: dict[str, Counter[int]] = defaultdict(Counter)
        for name, one in self.leaves.items():
            for vrf, told in one.text.vrf_vnis.items():
                vnis[vrf][int(told)] += 1
                for device in one.tunnels:
                    if device.one("vxlan-id") == told and device.one("bridge-access"):
                        self.out.vrf_vlans.setdefault(_name(vrf), int(device.one("bridge-access")))
            tables = {device.name for device in one.devices.values() if device.kind == "VRF"}
            for table in sorted(tables - set(one.text.vrf_vnis) - {"mgmt"}):
                self.found.odd(f"vrf/{table}/{name}", name, f"VRF {table} has no VNI, so it reaches no other leaf")
        for vrf, counts in sorted(vnis.items()):
            vni, count = counts.most_common(1)[0]
            name = _name(vrf)
            self.out.vrfs[name] = vni
            edits: dict[str, Any] = {f"vrfs.{name}": {}}
            self.out.edits |= edits
            self.found.propose("carried", f"vrf/{name}", f"VRF {name}", edits, [f"VNI {vni} on {count} leaves"])

    def _segment(self, vni: int, at: Mapping[str, Device]) -> None:
        svis: dict[str, Device] = {}
        for leaf, device in at.items():
            vlan = device.one("bridge-access")
            svi = next(
                (
                    one
                    for one in self.leaves[leaf].devices.values()
                    if one.kind == "VLAN" and one.one("vlan-id") == vlan
                ),
                None,
            )
            if svi is not None:
                svis[leaf] = svi
        name = self._named(vni, at, svis)
        self.out.segments[name] = vni
        for leaf, device in at.items():
            if device.one("bridge-access"):
                self.out.vlans[name][leaf] = int(device.one("bridge-access"))
        said: dict[str, Any] = {}
        local = any(", a VLAN of rack" in device.one("alias") for device in at.values())
        if local or len(set(self.out.vlans[name].values())) > 1:
            said["scope"] = "leaf"
        vrfs = Counter(svi.one("vrf") for svi in svis.values() if svi.one("vrf"))
        if vrfs:
            said["vrf"] = _name(vrfs.most_common(1)[0][0])
        said |= self._prefixes(name, svis)
        mtus = Counter(svi.mtu for svi in svis.values() if svi.mtu)
        if mtus and mtus.most_common(1)[0][0] != self.host_mtu:
            said["mtu"] = mtus.most_common(1)[0][0]
        if not any("bridge-arp-nd-suppress" in device.said for device in at.values()):
            said["suppress"] = False
        said |= self._announced(svis)
        if any(str(self.out.vlans[name].get(leaf)) in snooped(self.leaves[leaf].text) for leaf in at):
            said["multicast"] = "snoop"
        relay = self._relay(svis)
        if relay:
            said["relay"] = relay
        edits = {f"segments.{name}": said}
        self.out.edits |= edits
        vlans = sorted(set(self.out.vlans[name].values()))
        told = f"VNI {vni}, VLAN {vlans[0]}" if len(vlans) == 1 else f"VNI {vni}, a VLAN for each rack"
        self.found.propose("carried", f"segment/{name}", f"segment {name}", edits, [f"{told} on {len(at)} leaves"])

    def _named(self, vni: int, at: Mapping[str, Device], svis: Mapping[str, Device]) -> str:
        words = Counter(called(device.one("alias"), "") for device in (*at.values(), *svis.values()))
        words.pop("", None)
        name = words.most_common(1)[0][0] if words else f"vni{vni}"
        return name if name not in self.out.segments else f"{name}-{vni}"

    def _prefixes(self, name: str, svis: Mapping[str, Device]) -> dict[str, Any]:
        """The prefixes whose first address its gateways have."""
        counts: Counter[tuple[Interface, ...]] = Counter(tuple(svi.addresses) for svi in svis.values())
        if not counts:
            return {}
        usual = counts.most_common(1)[0][0]
        for leaf, svi in svis.items():
            if tuple(svi.addresses) != usual:
                here = ", ".join(map(str, svi.addresses)) or "no address"
                self.found.odd(
                    f"gateway/{name}/{leaf}",
                    leaf,
                    f"the gateway of {name} has {here}, and {', '.join(map(str, usual))} elsewhere",
                )
        said: dict[str, Any] = {}
        for one in usual:
            first = next(iter(one.network.hosts()), one.network.network_address)
            if one.ip != first:
                self.found.odd(
                    f"gateway/{name}/{one}",
                    next(iter(svis)),
                    f"the gateway of {name} is {one.ip}, and Barrio's is the first address, {first}",
                )
            field = "v4" if one.version == 4 else "v6"
            if field in said:
                said.setdefault("secondary", []).append(str(one.network))
            else:
                said[field] = str(one.network)
        return said

    def _announced(self, svis: Mapping[str, Device]) -> dict[str, Any]:
        """What router advertisements tell hosts (RFC 4861, 4.2)."""
        modes: Counter[str] = Counter()
        for leaf, svi in svis.items():
            if any(one.version == 6 for one in svi.addresses):
                lines = self.leaves[leaf].text.blocks.get(f"interface {svi.name}", [])
                sent = "no ipv6 nd suppress-ra" in lines
                modes["off" if not sent else "managed" if "ipv6 nd managed-config-flag" in lines else "slaac"] += 1
        usual = modes.most_common(1)[0][0] if modes else "slaac"
        return {"ra": usual} if usual != "slaac" else {}

    def _relay(self, svis: Mapping[str, Device]) -> dict[str, Any] | None:
        """Where DHCP questions go (the relay of ISC)."""
        for leaf, svi in svis.items():
            servers: list[str] = []
            vrf = ""
            for path, text in self.leaves[leaf].running.files.items():
                found = _RELAY.search(text) if path.endswith(".service") else None
                if found and re.search(rf"-(?:id|l) {re.escape(svi.name)}(?:\s|$)", found[2]):
                    vrf = found[1]
                    asked = re.sub(r"-l \S+", "", found[2])
                    servers += [
                        word.partition("%")[0]
                        for word in asked.split()
                        if re.fullmatch(r"(\d+\.){3}\d+|[0-9a-f]*:[0-9a-f:]+", word.partition("%")[0])
                    ]
            if servers:
                return {"servers": list(dict.fromkeys(servers))} | (
                    {"vrf": _name(vrf)} if vrf != svi.one("vrf") else {}
                )
        return None

    def _vlans_without(self, name: str, one: Known) -> None:
        bridged = {
            int(word)
            for device in one.devices.values()
            if device.kind == "bridge"
            for word in vids(device.words("bridge-vids"))
        }
        tunnelled = {int(device.one("bridge-access")) for device in one.tunnels if device.one("bridge-access")}
        for vlan in sorted(bridged - tunnelled - {1}):
            self.found.odd(f"vlan/{vlan}/{name}", name, f"VLAN {vlan} has no VNI, so it ends at this leaf")

    def _imports(self) -> None:
        """What VRFs take from each other, and the prefixes that they tell as one."""
        prefixes = {
            path[9:]: [str(one) for one in (said.get("v4"), said.get("v6"), *said.get("secondary", ())) if one]
            for path, said in self.out.edits.items()
            if path.startswith("segments.")
        }
        for one in self.leaves.values():
            for vrf, router in one.text.routers.items():
                if not vrf or _name(vrf) not in self.out.vrfs:
                    continue
                said = self.out.edits[f"vrfs.{_name(vrf)}"]
                _routes(one, vrf, said)
                for family in ("ipv4 unicast", "ipv6 unicast"):
                    for line in router.lines.get(family, ()):
                        if line.startswith("aggregate-address "):
                            aggregates = said.setdefault("aggregates", [])
                            if line.split()[1] not in aggregates:
                                aggregates.append(line.split()[1])
                        found = re.fullmatch(r"import vrf route-map (\S+)", line)
                        if found:
                            self._taken(one, found[1], said)
        for vrf in self.out.vrfs:
            imports = self.out.edits[f"vrfs.{vrf}"].get("imports", {})
            for source, taken in imports.items():
                imports[source] = _by_segment(taken, prefixes)

    @staticmethod
    def _taken(one: Known, name: str, said: dict[str, Any]) -> None:
        for block, lines in one.text.blocks.items():
            if not re.fullmatch(rf"route-map {re.escape(name)} permit \d+", block):
                continue
            source = next((line.split()[-1] for line in lines if line.startswith("match source-vrf ")), "")
            listed = next((line.split()[-1] for line in lines if "match ip" in line and "prefix-list" in line), "")
            for entry in sorted(one.text.lists.get(listed, ()), key=natural):
                found = re.search(r"permit (\S+/\d+)", entry)
                if found and source:
                    share = str(ip_network(found[1]))
                    taken = said.setdefault("imports", {}).setdefault(_name(source), [])
                    if share not in taken:
                        taken.append(share)


def _by_segment(taken: list[str], prefixes: Mapping[str, list[str]]) -> list[str]:
    """What a VRF takes from another, by the name of a segment where all of its prefixes are taken."""
    whole = {one: name for name, mine in prefixes.items() if mine and set(mine) <= set(taken) for one in mine}
    return list(dict.fromkeys(whole.get(one, one) for one in taken))


def _routes(one: Known, vrf: str, said: dict[str, Any]) -> None:
    """The static routes of a VRF, each with the addresses that lead to it."""
    lines = [
        *one.text.blocks.get(f"vrf {vrf}", ()),
        *(line.removesuffix(f" vrf {vrf}") for line in one.text.plain if line.endswith(f" vrf {vrf}")),
    ]
    for line in lines:
        found = re.fullmatch(r"ipv?6? route (\S+/\d+) ([0-9a-f.:]+)", line)
        if found:
            hops = said.setdefault("routes", {}).setdefault(found[1], [])
            if found[2] not in hops:
                hops.append(found[2])


def _name(vrf: str) -> str:
    return called(vrf, f"vrf-{re.sub(r'[^a-z0-9]+', '-', vrf.lower()).strip('-')}")


def vids(words: tuple[str, ...]) -> list[int]:
    """VLANs, of which some are written as spans."""
    found: list[int] = []
    for word in words:
        low, _, high = word.partition("-")
        if low.isdigit() and (not high or high.isdigit()):
            found += range(int(low), int(high or low) + 1)
    return found
