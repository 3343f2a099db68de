"""Text → what it says: the devices of an interfaces file, the blocks of an frr.conf."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from ipaddress import IPv4Interface, IPv4Network, IPv6Address, IPv6Interface, IPv6Network, ip_interface, ip_network

Interface = IPv4Interface | IPv6Interface
Network = IPv4Network | IPv6Network
FAMILIES = ("ipv4 unicast", "ipv6 unicast", "l2vpn evpn")
_ADVERTISE = re.compile(r"advertise ipv[46] unicast( route-map \S+)?|advertise-all-vni")


@dataclass(frozen=True)
class Device:
    """A stanza of an interfaces file: attribute → values, in their order."""

    name: str
    said: Mapping[str, tuple[str, ...]]

    def one(self, attribute: str) -> str:
        """The value of an attribute, or nothing."""
        return self.said.get(attribute, ("",))[0]

    def words(self, attribute: str) -> tuple[str, ...]:
        return tuple(" ".join(self.said.get(attribute, ())).split())

    @cached_property
    def addresses(self) -> tuple[Interface, ...]:
        return tuple(map(ip_interface, self.said.get("address", ())))

    @property
    def mtu(self) -> int:
        """In bytes; a bridge is given its own once it is up. 0 when nothing says so."""
        told = next((up for up in self.said.get("up", ()) if " mtu " in f" {up} "), "")
        return int(self.one("mtu") or (told.split()[-1] if told else 0))

    @cached_property
    def kind(self) -> str:
        """What the device is, by its own attributes."""
        if self.name == "lo":
            return "loopback"
        for attribute, kind in _KINDS.items():
            if attribute in self.said:
                return kind
        return "bridge port" if any(one in self.said for one in _PORT_OF_BRIDGE) else "port"


_KINDS = {
    "vrf-table": "VRF", "vxlan-id": "tunnel", "bond-slaves": "bond", "bridge-ports": "bridge", "vlan-raw-device": "VLAN",
    "gateway": "management port",
}  # fmt: skip
_PORT_OF_BRIDGE = ("bridge-vids", "bridge-access", "bridge-pvid", "bridge-allow-untagged")


class Lines:
    """Lines by address family, and what follows the words that they begin with. Made for lines that are asked many times once all are read."""

    __slots__ = ("_after", "lines")

    def __init__(self) -> None:
        self.lines: dict[str, list[str]] = {}
        self._after: dict[str, dict[str, str]] = {}

    def value(self, words: str, family: str = "") -> str:
        """What follows words, such as `remote-as`, in the first line that begins with them, or nothing."""
        return self._of(family).get(words, "")

    def has(self, words: str, family: str = "") -> bool:
        return words in self._of(family)

    def _of(self, family: str) -> dict[str, str]:
        known = self._after.get(family)
        if known is None:
            known = self._after[family] = {}
            for line in self.lines.get(family, ()):
                at = line.find(" ")
                for _ in range(_MOST_WORDS):
                    if at < 0:
                        break
                    known.setdefault(line[:at], line[at + 1 :].strip())
                    at = line.find(" ", at + 1)
                known.setdefault(line, "")
        return known


_MOST_WORDS = 4
"""As many words as anybody asks for at once."""


class Neighbor(Lines):
    """A BGP session as one end says it. `lines` are what is said of it, by address family."""

    __slots__ = ("name",)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.name = name


class Router(Lines):
    """A `router bgp` block: its AS, its VRF (none for the underlay), what it says by family, its neighbours and VNIs."""

    __slots__ = ("asn", "neighbors", "vnis", "vrf")

    def __init__(self, asn: int, vrf: str) -> None:
        super().__init__()
        self.asn, self.vrf = asn, vrf
        self.neighbors: dict[str, Neighbor] = {}
        self.vnis: dict[str, list[str]] = {}

    def of(self, neighbor: Neighbor, word: str, family: str = "") -> str:
        """What holds for a neighbour: its own word, or that of its peer group."""
        own = neighbor.value(word, family)
        group = self.neighbors.get(self.group(neighbor))
        return own or (group.value(word, family) if group else "")

    def is_active(self, neighbor: Neighbor, family: str) -> bool:
        group = self.neighbors.get(self.group(neighbor))
        return neighbor.has("activate", family) or bool(group and group.has("activate", family))

    @staticmethod
    def group(neighbor: Neighbor) -> str:
        return neighbor.value("peer-group") or neighbor.value("interface peer-group")

    @property
    def sessions(self) -> list[Neighbor]:
        """The neighbours that are no peer groups."""
        return [one for one in self.neighbors.values() if "peer-group" not in one.lines.get("", ())]


@dataclass
class SwitchText:
    """What the files of one switch say."""

    name: str
    devices: dict[str, Device]
    routers: dict[str, Router]
    vrf_vnis: dict[str, str]
    lists: dict[str, list[str]]
    blocks: dict[str, list[str]]
    plain: list[str]
    others: Mapping[str, str]

    @property
    def underlay(self) -> Router | None:
        return self.routers.get("")

    @cached_property
    def l3_vlans(self) -> frozenset[str]:
        """The VLANs that carry VRFs' tunnels."""
        vnis = set(self.vrf_vnis.values())
        return frozenset(one.one("bridge-access") for one in self.devices.values() if one.one("vxlan-id") in vnis)

    @cached_property
    def slaves(self) -> frozenset[str]:
        """The ports that are in bonds."""
        return frozenset(name for device in self.devices.values() for name in device.words("bond-slaves"))

    @cached_property
    def by_network(self) -> dict[tuple[str, int, int, int], Interface]:
        """Our address on each subnet of a table, by IP version, length, and the network as a number; the first where there are several."""
        found: dict[tuple[str, int, int, int], Interface] = {}
        for device in self.devices.values():
            for one in device.addresses:
                network = one.network
                found.setdefault(
                    (device.one("vrf"), network.version, network.prefixlen, int(network.network_address)), one
                )
        return found

    @cached_property
    def lengths(self) -> frozenset[tuple[int, int]]:
        """The lengths of prefixes there are, by IP version: few, however many subnets."""
        return frozenset((version, length) for _, version, length, _ in self.by_network)

    def has_network(self, prefix: str, vrf: str) -> bool:
        """Whether a device of a table has an address of just this subnet. Raises `ValueError`."""
        network = ip_network(prefix)
        return (vrf, network.version, network.prefixlen, int(network.network_address)) in self.by_network

    def beside(self, address: str, vrf: str = "") -> Interface | None:
        """Our own address on the subnet that an address is on, in a table."""
        mine, number = _number(address)
        bits = 32 if mine == 4 else 128
        for version, length in self.lengths:
            if version == mine and length < bits:
                found = self.by_network.get((vrf, version, length, number >> (bits - length) << (bits - length)))
                if found is not None:
                    return found
        return None

    @cached_property
    def by_address(self) -> dict[str, tuple[Device, Interface]]:
        """The device of each address; what several have (a borrowed loopback) is the first's."""
        found: dict[str, tuple[Device, Interface]] = {}
        for device in self.devices.values():
            for one in device.addresses:
                found.setdefault(str(one.ip), (device, one))
        return found


def _number(address: str) -> tuple[int, int]:
    """An address as its IP version and a number. Raises `ValueError`."""
    if ":" in address:
        return 6, int(IPv6Address(address))
    one, two, three, four = map(int, address.split("."))
    if not (0 <= one < 256 and 0 <= two < 256 and 0 <= three < 256 and 0 <= four < 256):
        raise ValueError(f"{address} is no address")
    return 4, one << 24 | two << 16 | three << 8 | four


def read_switch(name: str, files: Mapping[str, str]) -> SwitchText:
    """What the files of a switch say. Raises `ValueError` for text that is of neither language."""
    switch = SwitchText(name, read_devices(files["etc/network/interfaces"]), {}, {}, {}, {}, [], files)
    _Routing(switch).read(_ours(files["etc/frr/frr.conf"]))
    return switch


def read_devices(text: str) -> dict[str, Device]:
    """The devices of an interfaces file. Raises `ValueError`."""
    return _devices(_ours(text))


_ADDED = re.compile(r"^ *[#!] added:\n(?:.*\n)*? *[#!] end of what was added\n", re.MULTILINE)


def _ours(text: str) -> str:
    """A text without the lines that somebody added: those are held against what the file's own parser says of it."""
    return _ADDED.sub("", text)


def _devices(text: str) -> dict[str, Device]:
    devices: dict[str, dict[str, list[str]]] = {}
    current: dict[str, list[str]] = {}
    raised = ""
    for number, line in enumerate(text.split("\n"), 1):
        words = line.split()
        if not words or words[0].startswith("#"):
            continue
        if words[0] == "auto":
            raised = words[1]
            continue
        if line.startswith("iface "):
            if words[1] != raised:
                raise ValueError(f"interfaces, line {number}: {raised} is brought up, and {words[1]} is what follows")
            if words[1] in devices:
                raise ValueError(f"interfaces, line {number}: {words[1]} has two stanzas")
            current = devices[words[1]] = {}
        elif line.startswith("    "):
            current.setdefault(words[0], []).append(" ".join(words[1:]))
        else:
            raise ValueError(f"interfaces, line {number}: “{line}” begins nothing")
    return {name: Device(name, {key: tuple(values) for key, values in said.items()}) for name, said in devices.items()}


class _Routing:
    """Reads an frr.conf block by block; indentation tells what belongs to what."""

    def __init__(self, switch: SwitchText) -> None:
        self.switch = switch
        self.router: Router | None = None
        self.family = self.vni = self.block = ""

    def read(self, text: str) -> None:
        for line in text.split("\n"):
            said = line.strip()
            if not said or said.startswith("!") or said in ("end", "exit-vrf", "exit"):
                if said.startswith("exit"):
                    self.router, self.block = (None, "") if not line.startswith(" ") else (self.router, self.block)
                continue
            if said == "exit-address-family":
                self.family = ""
            elif said == "exit-vni":
                self.vni = ""
            elif not line.startswith(" "):
                self._begin(said)
            elif self.router is not None:
                self._bgp(said)
            else:
                self._in_block(said)

    def _begin(self, said: str) -> None:
        self.router, self.family, self.vni, self.block = None, "", "", said
        found = re.fullmatch(r"router bgp (\d+)(?: vrf (\S+))?", said)
        if found:
            self.router = self.switch.routers[found[2] or ""] = Router(int(found[1]), found[2] or "")
            return
        listed = re.fullmatch(r"(ipv?6? prefix-list \S+) (.*)", said)
        if listed:
            self.switch.lists.setdefault(listed[1].split()[-1], []).append(listed[2])
            return
        if said.split(maxsplit=1)[0] in ("interface", "vrf", "bfd", "router", "route-map"):
            self.switch.blocks.setdefault(said, [])
        else:
            self.switch.plain.append(said)

    def _in_block(self, said: str) -> None:
        self.switch.blocks.setdefault(self.block, []).append(said)
        found = re.fullmatch(r"vni (\d+)", said)
        if found and self.block.startswith("vrf "):
            self.switch.vrf_vnis[self.block.split()[1]] = found[1]

    def _bgp(self, said: str) -> None:
        router = self.router
        assert router is not None
        if said.startswith("address-family "):
            self.family = said.removeprefix("address-family ")
            if self.family not in FAMILIES:
                raise ValueError(f"frr.conf: there is no family {self.family}")
        elif re.fullmatch(r"vni \d+", said):
            self.vni = said.split()[1]
            router.vnis[self.vni] = []
        elif self.vni:
            router.vnis[self.vni].append(said)
        elif said.startswith("neighbor "):
            _, name, rest = said.split(" ", 2)
            router.neighbors.setdefault(name, Neighbor(name)).lines.setdefault(self.family, []).append(rest)
        elif said.startswith("advertise ") and not _ADVERTISE.fullmatch(said):
            raise ValueError(f"frr.conf: “{said}” is no word of EVPN")
        else:
            router.lines.setdefault(self.family, []).append(said)
