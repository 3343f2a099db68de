"""Nothing left out: every number and name that a switch's model has for its files must be in one of them.

The text is looked at as words alone, in whatever language it is, so that this holds for targets that nobody here has seen. An address may
stand with its length or without, a MAC in any notation, numbers within ranges. What a target leaves out on purpose it says, with a reason.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from fnmatch import fnmatchcase
from functools import lru_cache
from ipaddress import ip_interface

from barrio.core.model.switch import SwitchModel

_BLANKS = {
    code: " " for code in range(256) if not (chr(code).isascii() and (chr(code).isalnum() or chr(code) in "_.:@/+=-"))
}
_RANGE = re.compile(r"(\d{1,5})(?:-|\.\.)(\d{1,5})")
_SPOKEN = re.compile(r"(?<![\w.:])(\d{1,5}) to (\d{1,5})(?![\w.:])")
_MAC = re.compile(r"(?:[0-9a-fA-F]{2,6}[:.-]){1,5}[0-9a-fA-F]{2,6}")

Wanted = tuple[str, str, str]
"""A path of the model, what it is in words, and the value that is wanted."""


def missing(
    switch: SwitchModel, files: Mapping[str, str], left_out: Mapping[str, str]
) -> Iterator[tuple[str, str, str]]:
    """What a switch should carry and no file of it says: (path, what it is, value). `left_out` are patterns of paths with a reason."""
    there = frozenset[str]().union(*map(words_of, files.values()))
    for path, what, value in wanted(switch):
        if not _said(value, there) and not any(fnmatchcase(path, one) for one in left_out):
            yield path, what, value


def _said(value: str, there: frozenset[str]) -> bool:
    """Whether a value stands there: as it is, or an address with its length or mask elsewhere."""
    if value in there:
        return True
    address, slash, length = value.partition("/")
    if not slash or address not in there:
        return False
    alone = (":" in value and length == "128") or length == "32"
    return alone or length in there or str(ip_interface(value).network.netmask) in there


@lru_cache(maxsize=64)
def words_of(text: str) -> frozenset[str]:
    """Every word of a text, whole and in its parts, with numbers of ranges one by one, and MACs as they are usually written. Many switches
    have the same text in many files."""
    found: set[str] = set()
    for word in set(text.translate(_BLANKS).split()):
        found.update(_parts(word))
    if " to " in text:
        for low, high in _SPOKEN.findall(text):
            found.update(_between(low, high))
    return frozenset(found)


@lru_cache(maxsize=131_072)
def _parts(long: str) -> tuple[str, ...]:
    word = long.strip(".:-/")
    if word.isalnum():
        return (word,)
    also: list[str] = []
    if ranged := _RANGE.fullmatch(word):
        also += _between(ranged[1], ranged[2])
    elif _MAC.fullmatch(word):
        digits = re.sub(r"[^0-9a-f]", "", word.lower())
        if len(digits) == 12:
            also.append(":".join(digits[at : at + 2] for at in range(0, 12, 2)))
    return (
        word,
        long.rstrip(".:-"),
        word.partition(".")[0],
        *(part.rstrip(".:") for part in re.split(r"[/=@]", word)),
        *also,
    )


def _between(low: str, high: str) -> list[str]:
    return list(map(str, range(int(low), min(int(high), int(low) + 5000) + 1)))


def wanted(switch: SwitchModel) -> Iterator[Wanted]:
    """What the files of a switch must say."""
    yield "name", "its name", switch.name
    yield "loopback_v4", "its loopback", switch.loopback_v4
    if switch.loopback_v6:
        yield "loopback_v6", "its IPv6 loopback", switch.loopback_v6
    yield "management/interface", "its management port", switch.management.interface
    yield "management/address", "its management address", switch.management.address
    yield "management/gateway", "the gateway of its management port", switch.management.gateway
    if switch.common.ebgp or switch.in_overlay:
        yield "process_asn", "its AS", str(switch.process_asn)
    if switch.vtep:
        yield "vtep", "the end of its tunnels", switch.vtep
    yield from _fabric(switch)
    yield from _carried(switch)
    yield from _services(switch)


def _fabric(switch: SwitchModel) -> Iterator[Wanted]:
    for port in switch.fabric_ports:
        at, called = f"fabric_ports/{port.label}", f"port {port.label}"
        yield f"{at}/label", called, port.label
        yield f"{at}/peer", f"the switch at the other end of {called}", port.peer
        if port.shut:
            continue
        for field in ("v4", "v6"):
            if value := getattr(port, field):
                yield f"{at}/{field}", f"the address of {called}", value
        if switch.common.ebgp:
            yield f"{at}/neighbor", f"the neighbour on {called}", str(port.neighbor)
            yield f"{at}/peer_asn", f"the AS at the other end of {called}", str(port.peer_asn)
    for session in switch.sessions:
        yield f"sessions/{session.label}/address", f"the session with {session.label}", session.address
    for link in switch.outside_ports:
        yield f"outside_ports/{link.label}/label", f"port {link.label}", link.label
    if switch.pair:
        for end in switch.pair.ports:
            yield f"pair/ports/{end.label}/label", f"port {end.label} of the peer link", end.label
    for outside in switch.outside:
        if outside.shut:
            continue
        at, called = f"outside/{outside.label}", f"the session with {outside.system} in {outside.vrf}"
        yield f"{at}/asn", f"the AS of {called}", str(outside.asn)
        for field in ("v4", "v6", "neighbor_v4", "neighbor_v6"):
            if value := getattr(outside, field):
                yield f"{at}/{field}", f"an address of {called}", value
        if outside.vlan:
            yield f"{at}/vlan", f"the VLAN of {called}", str(outside.vlan)


def _carried(switch: SwitchModel) -> Iterator[Wanted]:
    for segment in switch.segments:
        at, called = f"segments/{segment.label}", f"segment {segment.label}"
        yield f"{at}/vlan", f"the VLAN of {called}", str(segment.vlan)
        yield f"{at}/vni", f"the VNI of {called}", str(segment.vni)
        yield f"{at}/route_target", f"the route target of {called}", segment.route_target
        for field in ("gateway_v4", "gateway_v6"):
            if value := getattr(segment, field):
                yield f"{at}/{field}", f"the gateway of {called}", value
    for vrf in switch.vrfs:
        at, called = f"vrfs/{vrf.label}", f"VRF {vrf.label}"
        yield f"{at}/label", called, vrf.label
        yield f"{at}/vni", f"the VNI of {called}", str(vrf.vni)
        yield f"{at}/vlan", f"the VLAN of {called}", str(vrf.vlan)
        yield f"{at}/route_target", f"the route target of {called}", vrf.route_target
    for port in switch.host_ports:
        yield f"host_ports/{port.label}/label", f"port {port.label}", port.label
        if port.host:
            yield f"host_ports/{port.label}/host", f"the host at port {port.label}", port.host
    if switch.segments and any(one.gateway_v4 or one.gateway_v6 for one in switch.segments):
        yield "common/gateway_mac", "the MAC of every gateway", switch.common.gateway_mac


def _services(switch: SwitchModel) -> Iterator[Wanted]:
    common = switch.common
    for field, called in (("ntp", "the time server"), ("dns", "the name server"), ("syslog", "the log server")):
        for server in getattr(common, field):
            yield f"common/{field}", f"{called} {server}", server
    for user in common.users:
        yield f"common/users/{user.label}/label", f"user {user.label}", user.label
        for key in user.keys:
            yield f"common/users/{user.label}/keys", f"a key of {user.label}", str(key).split()[1]
