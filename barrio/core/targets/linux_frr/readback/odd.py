"""The odd one out: what all switches of a kind say alike, and one says otherwise.

Words that belong to one switch (its addresses, ASNs, names, ports) are taken out of each line; what is left is the line's key, and its
numbers its value. A key that several switches of a kind have has one value.
"""

from __future__ import annotations

import re
from collections import Counter, defaultdict
from collections.abc import Iterator, Mapping

from barrio.core.targets.linux_frr.readback.across import Found
from barrio.core.targets.linux_frr.readback.read import Device, SwitchText

_OWN = re.compile(
    r"\b(\d+\.\d+\.\d+\.\d+(/\d+)?|[0-9a-f]*:[0-9a-f:]*:[0-9a-f:]*(/\d+)?|4\d{9}|6[45]\d{3}(:\d+)?)(?![\w.])|"
    r"\b(vlan|vni|bond-h|h|u|p)\d+(s\d+)?(\.\d+)?\b"
)
_FREE = ("alias", "address", "vlan-id", "vxlan-id", "bridge-access", "bridge-vids", "bridge-pvid", "bridge-ports",
         "bond-slaves", "link-speed", "link-down", "hwaddress", "vxlan-local-tunnelip", "gateway", "vlan-raw-device",
         "bond-ad-sys-mac-addr", "vrf", "bridge-allow-untagged")  # fmt: skip
"""Attributes that other checks hold, or that differ from switch to switch by their nature."""
_BY_RUNG = ("log facility ", "evpn mh startup-delay ")
"""Lines that a rung of the Ladder may say otherwise for some switches."""
Kind = tuple[str, str]


def odd_ones(fabric: Mapping[str, SwitchText]) -> Iterator[Found]:
    """Values that one switch has and the others of its kind do not."""
    values: dict[Kind, dict[str, set[str]]] = defaultdict(lambda: defaultdict(set))
    heights = _heights(fabric)
    for name, switch in fabric.items():
        # Switches of a tier have as many sessions, addresses to tell of and ports as each other.
        sessions = switch.underlay.sessions if switch.underlay else []
        ports = sum(device.kind in ("port", "bridge port") for device in switch.devices.values())
        tier = f"{heights.get(name, name)} above hosts, {len(sessions)} sessions, {len(switch.devices['lo'].addresses)} addresses, {ports} ports, {_widest(switch)} to one AS"
        for key, value in _told(switch):
            values[tier if key.startswith("own ") else "any", key][name].add(value)
    for (_, key), said in values.items():
        alike = Counter(tuple(sorted(found)) for found in said.values())
        if len(alike) > 1:
            usual = alike.most_common(1)[0][0]
            for name, found in said.items():
                if tuple(sorted(found)) != usual:
                    yield name, "odd", f"{key}: {' and '.join(sorted(found))} here, {' and '.join(usual)} elsewhere"


def _heights(fabric: Mapping[str, SwitchText]) -> dict[str, int]:
    """How many cables lie between each switch and the nearest that hosts are on; nothing for those that are on the way to none."""
    found = {name: 0 for name, switch in fabric.items() if "bridge" in switch.devices}
    beside = {
        name: {device.one("alias").split(" ")[0] for device in switch.devices.values() if device.kind == "port"}
        for name, switch in fabric.items()
    }
    reached = set(found)
    while reached:
        reached = {far for name in reached for far in beside[name] if far in fabric and far not in found}
        height = max(found.values()) + 1
        found |= dict.fromkeys(reached, height)
    return found


def _widest(switch: SwitchText) -> int:
    """The most sessions to one AS, which are equal ways: what tells a spine from a switch above it that has as many sessions."""
    router = switch.underlay
    return max(Counter(router.of(one, "remote-as") for one in router.sessions).values(), default=0) if router else 0


def _told(switch: SwitchText) -> Iterator[tuple[str, str]]:
    for device in switch.devices.values():
        yield from _of_device(device)
    for block, said in switch.blocks.items():
        for line in said:
            if not line.startswith("evpn mh es-") and not line.startswith(("vni ", "ipv6 nd prefix")):
                where = "own " if line.startswith("maximum-paths") else ""
                yield _keyed(f"{where}{_OWN.sub('*', block)}: ", line)
    for line in switch.plain:
        if not line.startswith(("hostname ", *_BY_RUNG)):
            yield _keyed("frr.conf: ", line)
    for vrf, router in switch.routers.items():
        for family, lines in router.lines.items():
            for line in lines:
                if not line.startswith(
                    ("bgp router-id", "network ", "rd ", "route-target", "maximum-paths", "advertise ipv")
                ):
                    yield _keyed(f"BGP in {vrf or 'the fabric'}, {family}: ", line)
                elif line.startswith("maximum-paths") and not vrf:
                    yield _keyed(f"own BGP, {family}: ", line)
        for neighbor in router.neighbors.values():
            if neighbor.lines.get("") and neighbor.lines[""][0] == "peer-group":
                for family, lines in neighbor.lines.items():
                    for line in lines:
                        if not line.startswith("local-as"):
                            yield _keyed(f"group {neighbor.name}, {family}: ", line)
    for name, entries in switch.lists.items():
        if name.startswith("underlay-") or name.split("-")[-2] == "own":
            yield f"list {name}", "; ".join(entries)


def _of_device(device: Device) -> Iterator[tuple[str, str]]:
    kind = device.kind
    shown = device.name if kind in ("bridge", "loopback") else f"a {kind}"
    for attribute, values in device.said.items():
        if attribute in _FREE or (attribute == "mtu" and kind in ("port", "bridge port", "bond", "VLAN")):
            continue
        if attribute == "bond-lacp-rate" and "slow LACP" in device.one("alias"):
            continue
        for value in values:
            if value.startswith(("bridge vlan", "for address in")):
                continue
            line = _OWN.sub("*", value)
            if device.one("vrf") or kind == "VRF":
                line = line.replace(device.name, "*")
            yield _keyed(f"{shown}, {attribute} ", line)


def _keyed(where: str, line: str) -> tuple[str, str]:
    """A line as (what it is about, its numbers)."""
    own = _OWN.sub("*", line)
    return f"{where}{re.sub(r'[0-9]+', '#', own)}", " ".join(re.findall(r"[0-9]+", own))
