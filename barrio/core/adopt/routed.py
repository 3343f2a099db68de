"""How a fabric routes: underlay, overlay and what both ends of links agree on, as most switches have it; who has it otherwise is an oddity."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Mapping
from typing import Any, TypeVar

from barrio.core.adopt.found import Findings
from barrio.core.adopt.running import Known
from barrio.core.adopt.shape import Shape
from barrio.core.brief.model import Brief
from barrio.core.targets.linux_frr.readback.read import Device, Router

Far = Mapping[str, Mapping[str, tuple[str, str]]]
_T = TypeVar("_T")
_Ask = Callable[[Known], Any]
_PLAIN = Brief.model_validate({"fabric": "x"})


def routed(known: Mapping[str, Known], shape: Shape, far: Far, found: Findings) -> dict[str, Any]:
    """The edits that say how these switches route."""
    there = {name: known[name] for name in shape.keys}
    leaves = {name: one for name, one in there.items() if shape.tier[name] == "leaf"}
    edits: dict[str, Any] = {}

    def agree(path: str, words: str, ask: _Ask, of: Mapping[str, Known] = there) -> Any:
        """What most say of something, which is proposed where it is not Barrio's own."""
        said = {name: value for name, one in of.items() if (value := ask(one)) is not None}
        if not said:
            return None
        counts = Counter(said.values())
        most, count = counts.most_common(1)[0]
        for name, value in said.items():
            if value != most:
                found.odd(f"{path}/{name}", name, f"{words} is {value} on {name}, and {most} on {count} others")
        if most != _default(path):
            edits[path] = most
            alike = "all" if count == len(said) else f"{count} of {len(said)}"
            found.propose(
                "routing",
                path,
                f"{words}: {most}",
                {path: most},
                [f"{alike} switches have it so"],
                "certain" if count == len(said) else "likely",
            )
        return most

    protocol = agree("underlay.protocol", "the underlay", lambda one: _protocol(one, far[one.name]))
    agree("underlay.addressing", "addresses of links", lambda one: _addressing(one, far[one.name]))
    agree(
        "underlay.mtu",
        "the MTU of links",
        lambda one: _usual(device.mtu for device in _ports(one, far[one.name]) if device.mtu),
    )
    agree("underlay.bfd.interval", "the interval of BFD, in ms,", lambda one: _bfd(one, "transmit-interval", 300))
    agree("underlay.bfd.multiplier", "the multiplier of BFD", lambda one: _bfd(one, "detect-multiplier", 3))
    agree("underlay.timers.keepalive", "the keepalive time of BGP, in s,", lambda one: _timers(one, 0))
    agree("underlay.timers.hold", "the hold time of BGP, in s,", lambda one: _timers(one, 1))
    if protocol in ("ospf", "isis"):
        agree("underlay.hello", "the hello time, in s,", _hello)
    agree(
        "underlay.graceful_restart",
        "waiting for restarts",
        lambda one: bool(one.underlay and one.underlay.has("bgp graceful-restart")) if one.underlay else None,
    )
    agree("underlay.ttl_security", "TTL security", lambda one: _ttl(one, far[one.name]))
    if protocol == "ebgp":
        _asn_plan(leaves, shape, edits, found)
    _overlay(there, shape, edits, found)
    agree("overlay.host_mtu", "the MTU of hosts", _host_mtu, leaves)
    agree("overlay.gateway_mac", "the MAC of gateways", _gateway_mac, leaves)
    agree("overlay.route_target_as", "the first half of route targets", _target, leaves)
    agree("overlay.startup_delay", "the delay of Ethernet segments at a start, in s,", _startup, leaves)
    return edits


def _default(path: str) -> Any:
    value: Any = _PLAIN
    for step in path.split("."):
        value = getattr(value, step)
    return value


def _usual(values: Iterable[_T]) -> _T | None:
    counts = Counter(values)
    return counts.most_common(1)[0][0] if counts else None


def _ports(one: Known, far: Mapping[str, object]) -> Iterator[Device]:
    return (one.devices[port] for port in far if port in one.devices)


def _sessions(one: Known, far: Mapping[str, object]) -> Iterator[tuple[Router, Any]]:
    """The sessions over fabric links: by port, or with the other address of its subnet."""
    router = one.underlay
    if router is None:
        return
    for session in router.sessions:
        beside = None if session.name in one.devices else one.text.beside(session.name)
        if session.name in far or beside is not None:
            yield router, session


def _protocol(one: Known, far: Mapping[str, object]) -> str | None:
    for block in one.text.blocks:
        if block == "router ospf" or block.startswith("router ospf "):
            return "ospf"
        if block.startswith("router isis "):
            return "isis"
    return "ebgp" if any(True for _ in _sessions(one, far)) else None


def _addressing(one: Known, far: Mapping[str, object]) -> str | None:
    families = {
        tuple(sorted({4 if address.version == 4 else 6 for address in device.addresses if not _borrowed(one, address)}))
        for device in _ports(one, far)
    }
    if not families:
        return None
    usual = max(families, key=len)
    return {(4,): "ipv4", (6,): "ipv6", (4, 6): "dual"}.get(usual, "unnumbered")


def _borrowed(one: Known, address: Any) -> bool:
    """Whether a port has the loopback's address (RFC 5309, 4)."""
    return address.ip in {own.ip for own in one.loopbacks}


def _bfd(one: Known, word: str, default: int) -> int | None:
    profiles = [lines for block, lines in one.text.blocks.items() if block == "bfd"]
    if not profiles:
        return None
    said = next((line for lines in profiles for line in lines if line.startswith(f"{word} ")), "")
    return int(said.split()[-1]) if said else default


def _timers(one: Known, place: int) -> int | None:
    router = one.underlay
    for session in router.sessions if router else ():
        said = router.of(session, "timers").split() if router else []
        if len(said) == 2:
            return int(said[place])
    return None


def _hello(one: Known) -> int | None:
    for lines in one.text.blocks.values():
        for line in lines:
            found = re.fullmatch(r"(?:ip(?:v6)? ospf6? hello-interval|isis hello-interval) (\d+)", line)
            if found:
                return int(found[1])
    return None


def _ttl(one: Known, far: Mapping[str, object]) -> bool | None:
    said = [bool(router.of(session, "ttl-security")) for router, session in _sessions(one, far)]
    return _usual(said) if said else None


def own_asn(one: Known, far: Mapping[str, object]) -> int | None:
    """The AS that a switch shows its neighbours on fabric links."""
    for router, session in _sessions(one, far):
        local = router.of(session, "local-as").split()
        return int(local[0]) if local else router.asn
    return one.underlay.asn if one.underlay else None


def _asn_plan(leaves: Mapping[str, Known], shape: Shape, edits: dict[str, Any], found: Findings) -> None:
    """An AS for each leaf, or for each rack."""
    racks: dict[str, set[int]] = {}
    sizes: Counter[str] = Counter()
    for name, one in leaves.items():
        rack = shape.keys[name].rsplit("/", 1)[0]
        sizes[rack] += not one.unread
        asn = _local(one)
        if asn is not None:
            racks.setdefault(rack, set()).add(asn)
    pairs = [rack for rack, count in sizes.items() if count > 1]
    if pairs and all(len(racks.get(rack, ())) == 1 for rack in pairs):
        edits["underlay.asn"] = "per-rack"
        found.propose(
            "routing",
            "underlay.asn",
            "an AS for each rack",
            {"underlay.asn": "per-rack"},
            [f"the leaves of {len(pairs)} racks share one each"],
        )


def _local(one: Known) -> int | None:
    router = one.underlay
    if router is None:
        return None
    own = {router.of(session, "local-as").split()[0] for session in router.sessions if router.of(session, "local-as")}
    return int(own.pop()) if own else router.asn


def _overlay(there: Mapping[str, Known], shape: Shape, edits: dict[str, Any], found: Findings) -> None:
    """EVPN over sessions of its own within one AS, or over those of the fabric."""
    reflectors = [name for name, one in there.items() if _reflects(one)]
    inside = [sum(int(one.underlay.of(session, "remote-as") or 0) == one.underlay.asn for session in one.underlay.sessions)
              for name, one in there.items() if shape.tier[name] == "leaf" and one.underlay]  # fmt: skip
    count = max(len(reflectors), *(Counter(inside).most_common(1)[0][:1] if inside else (0,)))
    if count:
        said = {"overlay.protocol": "ibgp", "overlay.reflectors": count}
        edits |= said
        found.propose(
            "routing", "overlay.protocol", f"EVPN by way of {count} route reflectors", said, [", ".join(reflectors[:4])]
        )


def _reflects(one: Known) -> bool:
    """Whether a switch hands routes on within its AS (RFC 4456)."""
    neighbors = one.underlay.neighbors.values() if one.underlay else ()
    return any(session.has("route-reflector-client", "l2vpn evpn") for session in neighbors)


def _host_mtu(one: Known) -> int | None:
    return _usual(device.mtu for device in one.tunnels if device.mtu)


def _gateway_mac(one: Known) -> str | None:
    return _usual(
        device.one("hwaddress").lower().removeprefix("ether ")
        for device in one.devices.values()
        if device.kind == "VLAN"
        and device.one("hwaddress")
        and device.one("vlan-id") not in one.text.l3_vlans
        and device.addresses
    )


def _target(one: Known) -> int | None:
    router = one.underlay
    lines = [line for said in router.vnis.values() for line in said] if router else []
    found = [re.fullmatch(r"route-target (?:import|export|both) (\d+):\d+", line) for line in lines]
    return _usual(int(each[1]) for each in found if each)


def _startup(one: Known) -> int | None:
    found = next(
        (re.fullmatch(r"evpn mh startup-delay (\d+)", line) for line in one.text.plain if "startup-delay" in line), None
    )
    return int(found[1]) if found else None
