"""Every path of the model that a template may say, with what is there, for those who write templates."""

from __future__ import annotations

import types
from collections.abc import Iterator
from dataclasses import dataclass, fields, is_dataclass
from functools import cache
from typing import Any, Union, get_args, get_origin, get_type_hints

from barrio.core.model import switch as _names
from barrio.core.model.switch import SwitchModel


@dataclass(frozen=True, slots=True)
class Said:
    """One path: in which loops it stands (`port` for one of `sw.fabric_ports`), what kind of value, and what it is in words."""

    path: str
    of: str
    kind: str
    words: str


LOOPS = {
    "fabric_ports": "port", "host_ports": "port", "outside_ports": "port", "host_lags": "lag", "segments": "segment", "vrfs": "vrf",
    "sessions": "session", "outside": "session", "relays": "relay", "users": "user", "limits": "limit", "ports": "port",
}  # fmt: skip
"""What one of several is called in the templates that ship."""


@cache
def paths() -> tuple[Said, ...]:
    """All of them, in the order of the model."""
    return tuple(_paths(SwitchModel, "sw", "sw", 0))


def _paths(kind: type, before: str, of: str, depth: int) -> Iterator[Said]:
    hints = get_type_hints(kind, vars(_names))
    about = " ".join((kind.__doc__ or "").split())
    for one in fields(kind):
        inner, many, words = _kind(hints[one.name])
        path = f"{before}.{one.name}"
        yield Said(path, of, words, WORDS.get(f"{kind.__name__}.{one.name}", "") or _sentence(about, one.name))
        if is_dataclass(inner) and isinstance(inner, type) and depth < 3:
            if many:
                loop = LOOPS.get(one.name, "one")
                yield from _paths(inner, loop, path, depth + 1)
            else:
                yield from _paths(inner, path, of, depth + 1)


def _kind(hint: Any) -> tuple[Any, bool, str]:
    origin = get_origin(hint)
    if origin in (Union, types.UnionType):
        inner, many, words = _kind(next(one for one in get_args(hint) if one is not type(None)))
        return inner, many, f"{words}, or none"
    if origin is tuple:
        inner, _, words = _kind(get_args(hint)[0])
        return inner, True, "one for each" if is_dataclass(inner) else f"list of {words}"
    if hint is Any:
        return hint, False, "whatever was said"
    return hint, False, "its parts" if is_dataclass(hint) else _CALLED.get(hint.__name__, hint.__name__.lower())


def _sentence(about: str, name: str) -> str:
    """What a docstring says of a field: the sentence, or the part of one, that names it in code marks."""
    for sentence in about.replace(": ", ". ").split(". "):
        if f"`{name}`" in sentence:
            return sentence.replace("`", "").strip().rstrip(".")
    return ""


_CALLED = {
    "int": "number", "bool": "yes or no", "str": "text", "Made": "word", "Printed": "word", "Device": "port", "Name": "name", "VrfName": "name",
    "UserName": "name", "Prefix": "address/length", "Address": "address", "Mac": "MAC", "Host": "host", "Domain": "domain", "Zone": "time zone",
    "PublicKey": "SSH key", "FarPort": "port",
}  # fmt: skip
WORDS = {
    "SwitchModel.name": "The switch's name",
    "SwitchModel.role": "leaf, border, spine or super-spine",
    "SwitchModel.rack": "The rack that it stands in",
    "SwitchModel.hardware": "Its maker and model, for people; print it through the filter plain",
    "SwitchModel.model": "Its model's id in the catalogue",
    "SwitchModel.router_id": "Its router id, which is its loopback's address",
    "SwitchModel.loopback_v4": "Its loopback, /32",
    "SwitchModel.loopback_v6": "Its IPv6 loopback, /128",
    "SwitchModel.vtep": "The end of its VXLAN tunnels",
    "SwitchModel.fabric_ports": "Its ports with links to other switches",
    "SwitchModel.host_ports": "Its ports for hosts",
    "SwitchModel.host_lags": "LAGs of hosts' ports",
    "SwitchModel.segments": "The segments that it carries",
    "SwitchModel.vrfs": "The VRFs that it routes in",
    "SwitchModel.outside": "Sessions with systems outside, one for each VRF",
    "SwitchModel.sessions": "iBGP sessions that carry EVPN",
    "SwitchModel.pair": "The other leaf of its pair, and how they share hosts",
    "SwitchModel.relays": "DHCP questions that it hands on",
    "SwitchModel.management": "Its management port",
    "SwitchModel.common": "What all switches share, as its rungs of the Ladder have it",
    "FabricPort.label": "The port's name",
    "FabricPort.cable": "The label of its cable",
    "FabricPort.peer": "The switch at the other end",
    "FabricPort.peer_port": "The port there",
    "FabricPort.peer_asn": "The AS there",
    "FabricPort.v4": "Its address with the length of the link's subnet",
    "FabricPort.v6": "Its IPv6 address with the length",
    "FabricPort.neighbor6": "The IPv6 neighbour of a link with both families",
    "FabricPort.forced_speed": "Mbit/s, where it is not the port's own",
    "FabricPort.shut": "Why it is shut, or none",
    "HostPort.host": "The host at it",
    "HostPort.mtu": "Bytes that it carries",
    "HostPort.shut": "Why it is shut, or none",
    "SegmentModel.label": "The segment's name",
    "SegmentModel.vlan": "Its VLAN here",
    "SegmentModel.vni": "Its VNI",
    "SegmentModel.vrf": "The VRF that it is routed in",
    "SegmentModel.gateway_v4": "The gateway's address with the prefix length, the same on every leaf",
    "SegmentModel.gateway_v6": "The gateway's IPv6 address with the length",
    "SegmentModel.route_target": "Its route target",
    "SegmentModel.rd": "Its route distinguisher here",
    "VrfModel.label": "The VRF's name",
    "VrfModel.vni": "Its VNI for routed traffic",
    "VrfModel.rd": "Its route distinguisher here",
    "VrfModel.route_target": "Its route target",
    "Management.address": "Its address with the length",
    "Management.gateway": "The way out of the management network",
    "Common.ntp": "Time servers",
    "Common.dns": "Name servers",
    "Common.syslog": "Log servers",
    "Common.users": "Who may sign in",
    "Common.mtu": "Bytes that fabric links carry",
    "Common.gateway_mac": "The MAC that every gateway answers with",
    "Common.ebgp": "Whether the underlay is eBGP",
    "UserModel.admin": "Whether the user may change the switch",
    "UserModel.keys": "Public keys",
    "UserModel.until": "The day after which the user may not sign in",
}
"""What a field is, where neither its name nor the model's docstring says it."""
