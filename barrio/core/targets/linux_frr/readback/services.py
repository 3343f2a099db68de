"""What a leaf does for hosts beside carrying them: it asks who listens to which group, and hands DHCP questions on."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator
from pathlib import PurePosixPath

from barrio.core.targets.linux_frr.readback.read import Device, Interface, SwitchText

_ASKS = re.compile(r"bridge vlan global set dev bridge vid (\d+) mcast_snooping (0|1 mcast_querier 1)")
_ROUTER = re.compile(r"bridge vlan set dev (\S+) vid (\d+) mcast_router 2")
_RELAY = re.compile(r"/usr/sbin/ip vrf exec (\S+) /usr/sbin/dhcrelay -([46]) -d -q (?:-I )?--no-pid (.*)")
_LABEL = re.compile(r"for address in (.*?); do ip addrlabel del prefix \$address/128 2>/dev/null; "
                    r"ip addrlabel add prefix \$address/128 label 547; done")  # fmt: skip


def services(switch: SwitchText) -> Iterator[tuple[str, str]]:
    """Everything that listeners and relays of one switch contradict, as (code, words)."""
    yield from _multicast(switch)
    yield from _relays(switch)
    yield from _preferred(switch)


def snooped(switch: SwitchText) -> set[str]:
    """The VLANs where groups reach those who joined."""
    ups = switch.devices["bridge"].said.get("up", ()) if "bridge" in switch.devices else ()
    return {found[1] for up in ups if (found := _ASKS.fullmatch(up)) and found[2] != "0"}


def _multicast(switch: SwitchText) -> Iterator[tuple[str, str]]:
    """Where one VLAN has listeners of its own, each VLAN says whether it has, and tunnels and shared hosts of those that do get all groups."""
    bridge = switch.devices.get("bridge")
    if bridge is None:
        return
    ups = bridge.said.get("up", ())
    said = [found[1] for up in ups if (found := _ASKS.fullmatch(up))]
    odd = [up for up in ups if up.startswith("bridge vlan") and not _ASKS.fullmatch(up) and not _ROUTER.fullmatch(up)]
    own = snooped(switch)
    apart = "ip link set dev bridge type bridge mcast_vlan_snooping 1" in ups
    if odd:
        yield "multicast", f"the bridge is told what it does not know: {odd[0]}"
    if bool(own) != (bridge.one("bridge-mcsnoop") == "yes") or apart != bool(own):
        yield (
            "multicast",
            f"groups in VLANs {', '.join(sorted(own)) or 'none'} have listeners, and the bridge looks at all or none",
        )
    if own and sorted(said) != sorted(bridge.words("bridge-vids")):
        yield "multicast", "not every VLAN of the bridge says, once, whether its groups have listeners"
    wanted = set()
    for name in bridge.words("bridge-ports"):
        device = switch.devices.get(name)
        shared = any(line.startswith("evpn mh es-id") for line in switch.blocks.get(f"interface {name}", ()))
        if device is not None and (device.kind == "tunnel" or shared):
            carried = {*device.words("bridge-vids"), *device.words("bridge-access"), *device.words("bridge-pvid")}
            wanted |= {(name, vlan) for vlan in own & carried}
    told = {(one[1], one[2]) for up in ups if (one := _ROUTER.fullmatch(up))}
    if told != wanted:
        device_name, vlan = min(told ^ wanted)
        yield "multicast", f"{device_name} gets all groups of VLAN {vlan}, or should and does not"


def _relays(switch: SwitchText) -> Iterator[tuple[str, str]]:
    """A relay listens on gateways that are there, and asks from an address that the leaf has alone."""
    labels = [
        found[1].split()
        for device in switch.devices.values()
        for up in device.said.get("up", ())
        if (found := _LABEL.fullmatch(up))
    ]
    spoken: list[list[str]] = []
    for path, text in switch.others.items():
        name = PurePosixPath(path).name
        if not name.startswith("fabric-relay-"):
            continue
        line = next((one.removeprefix("ExecStart=") for one in text.splitlines() if one.startswith("ExecStart=")), "")
        found = _RELAY.fullmatch(line)
        if not found:
            yield "relay", f"{name} begins no relay: {line}"
            continue
        vrf, family, words = found[1], found[2], found[3].split()
        if not name.startswith(f"fabric-relay-{vrf}-v{family}-"):
            yield "relay", f"{name} asks in {vrf} over IPv{family}"
        told = re.search(r"^Description=DHCP(v6)? relay to servers in (\S+), who answer (\S+)$", text, re.MULTILINE)
        if (
            told is None
            or (told[1] is not None) != (family == "6")
            or told[2] != vrf
            or told[3] not in switch.by_address
        ):
            yield "relay", f"{name} says that it is another's"
        if family == "6":
            spoken.append(_of_v6(words))
        elif told and not any(str(one) == f"{told[3]}/32" for one in _owned(switch, words)):
            yield "relay", f"{name} asks from a device without an address of its own"
        for flag, device in _devices(words):
            there = switch.devices.get(device)
            if there is None or (there.one("vrf") != vrf and flag not in ("-id", "-i", "-l")):
                yield "relay", f"{name} listens on {device}, which is not there or not in {vrf}"
            if flag in ("-id", "-l", "-i") and there is not None and not there.addresses:
                yield "relay", f"{name} answers hosts on {device}, which has no address"
        clients = [device for flag, device in _devices(words) if flag in ("-id", "-i", "-l")]
        yield from _kept_here(
            switch, name, family, {*clients} - {device for flag, device in _devices(words) if flag == "-U"}
        )
        for flag, device in _devices(words):
            if flag == "-u" and device in switch.devices:
                yield from _speaks_for_itself(switch.devices[device])
        if not clients or len(set(_devices(words))) < len(_devices(words)):
            yield "relay", f"{name} listens to nobody, or twice"
    asked, preferred = ([tuple(servers) for _, *servers in one] for one in (spoken, labels))
    if sorted(asked) != sorted(preferred) or any(one[0] and one not in labels for one in spoken):
        yield "relay", "the addresses that DHCP servers are asked from are not those that are preferred"
    for own, *servers in labels:
        if own not in switch.by_address:
            yield "relay", f"{own} is preferred towards {', '.join(servers)}, and is no address here"


def _preferred(switch: SwitchText) -> Iterator[tuple[str, str]]:
    """An address that is not to be spoken from is one of the device."""
    for device in switch.devices.values():
        for up in device.said.get("up", ()):
            found = re.fullmatch(r"ip -6 address change (\S+) dev (\S+) preferred_lft 0", up)
            if found and (found[2] != device.name or found[1] not in map(str, device.addresses)):
                yield "relay", f"{device.name} has no {found[1]} that it could keep from speaking"


def _speaks_for_itself(device: Device) -> Iterator[tuple[str, str]]:
    """What a leaf says where a DHCPv6 server is comes from no address that other leaves have too."""
    shared = [one for one in device.addresses if one.version == 6 and one.network.prefixlen < one.max_prefixlen]
    for one in shared if device.one("vlan-raw-device") == "bridge" else ():
        if f"ip -6 address change {one} dev {device.name} preferred_lft 0" not in device.said.get("up", ()):
            yield "relay", f"{device.name} asks a DHCPv6 server from {one.ip}, which every leaf has"


_QUESTIONS = {"4": "meta protocol ip udp sport 68 udp dport 67", "6": "meta protocol ip6 udp sport 546 udp dport 547"}


def _kept_here(switch: SwitchText, name: str, family: str, clients: set[str]) -> Iterator[tuple[str, str]]:
    """The questions that a relay hands on go into no tunnel, where other leaves would hand them on too. Tunnels do not ask each other."""
    bridge = switch.devices.get("bridge")
    ports = [switch.devices.get(one) for one in bridge.words("bridge-ports")] if bridge else []
    if all(one is None or one.kind == "tunnel" for one in ports):
        return
    rules = switch.others.get("etc/nftables.conf", "")
    vlans = {switch.devices[one].one("vlan-id") for one in clients if one in switch.devices} - switch.l3_vlans
    tunnels = [one for one in switch.devices.values() if one.kind == "tunnel" and one.one("bridge-access") in vlans]
    for device in tunnels:
        if f'oifname "{device.name}" {_QUESTIONS[family]} counter drop' not in rules:
            yield "relay", f"questions that {name} hands on go into {device.name} too"


def _devices(words: list[str]) -> list[tuple[str, str]]:
    """The devices of a relay with the flag of each."""
    flags = ("-id", "-iu", "-i", "-l", "-u", "-U")
    pairs = itertools.pairwise(words)
    return [(flag, value.split("%")[-1]) for flag, value in pairs if flag in flags]


def _owned(switch: SwitchText, words: list[str]) -> tuple[Interface, ...]:
    """The addresses of the device that an IPv4 relay asks from."""
    device = switch.devices.get(words[words.index("-U") + 1]) if "-U" in words else None
    return device.addresses if device else ()


def _of_v6(words: list[str]) -> list[str]:
    """The address that an IPv6 relay has answers sent to, when it says one, and whom it asks."""
    pairs = list(itertools.pairwise(words))
    own = next((value.split("%")[0] for flag, value in pairs if flag == "-l" and "%" in value), "")
    return [own, *dict.fromkeys(value.split("%")[0] for flag, value in pairs if flag == "-u")]
