"""The two ends of every link: where they are plugged in, and the fabric ports of every switch."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from ipaddress import IPv6Address
from typing import NamedTuple

from barrio.core.brief.model import Brief
from barrio.core.ledger.demand import spine_port_use
from barrio.core.ledger.wanted import Taken
from barrio.core.model.switch import FabricPort
from barrio.core.printed import Address, Device, Made, Prefix
from barrio.core.structure.parts import Link, Structure, Switch

Numbers = Mapping[str, Mapping[str, Taken]]


@dataclass(frozen=True, slots=True)
class Ends:
    """Where the two ends of a link are plugged in, and the number on its cable."""

    link: Link
    upper_port: Device
    lower_port: Device
    label: Made


class Position(NamedTuple):
    """What says where an end of a link is plugged in: an entry of the ledger."""

    use: str
    key: str


def positions(link: Link) -> tuple[Position, Position] | None:
    """The ledger entries for the upper and the lower port of a fabric link; a peer link has none."""
    upper, lower, lane = link.upper, link.lower, link.lane
    if link.kind == "peer":
        return None
    if upper.role == "super-spine":
        return Position("port.super", f"pod/{lower.pod}~{lane}"), Position("port.up", f"{upper.slot}~{lane}")
    kind = lower.group.kind if lower.group else None
    use = f"port.leaf.{kind}" if kind else "port.leaf"
    return Position(spine_port_use(lower.pod), f"{lower.key}~{lane}"), Position(use, f"{upper.slot}~{lane}")


def plug(
    brief: Brief, structure: Structure, numbers: Numbers, before: Mapping[str, Ends], settled: Collection[str]
) -> tuple[Ends, ...]:
    """The ports and cable label of every link, in the order of `structure.links`: as `before` (by the key of the link) where its lower end is settled."""
    cables, stem = numbers["cable"], f"{brief.cable_prefix}-"
    ends = []
    for link in structure.links:
        if link.lower.key in settled:
            ends.append(before[link.key])
            continue
        label = Made(f"{stem}{cables[link.key].low:04d}")
        at = positions(link)
        if at is None:
            upper, lower = link.upper.plan.peer[link.lane - 1].name, link.lower.plan.peer[link.lane - 1].name
        else:
            (use, key), (low_use, low_key) = at
            upper = link.upper.plan.down[numbers[use][key].low - 1].name
            lower = link.lower.plan.up[numbers[low_use][low_key].low - 1].name
        ends.append(Ends(link, upper, lower, label))
    return tuple(ends)


class _Side(NamedTuple):
    """One end of a link, before it becomes a port: its addresses are bare, without their length."""

    switch: Switch
    port: Device
    asn: int
    v4: Address | None
    v6: Address | None


def fabric_ports(
    addressing: str,
    structure: Structure,
    numbers: Numbers,
    ends: Iterable[Ends],
    asns: Mapping[str, int],
    ports: dict[str, list[FabricPort]],
) -> dict[str, tuple[FabricPort, ...]]:
    """The fabric ports of the switches named in `ports`, by key, in the order of their fronts: those that are there, and those of all `ends`."""
    v4, v6 = numbers.get("link.v4", {}), numbers.get("link.v6", {})
    marked = bool(structure.marked)
    for end in ends:
        link = end.link
        if link.kind == "peer":
            continue
        four, six = v4.get(link.key), v6.get(link.key)
        low4, high4 = _pair4(four.low) if four else (None, None)
        low6, high6 = (Address(IPv6Address(six.low)), Address(IPv6Address(six.low + 1))) if six else (None, None)
        # The upper switch takes the lower address of a link, the lower switch the upper one.
        upper = _Side(link.upper, end.upper_port, asns[link.upper.key], low4, low6)
        lower = _Side(link.lower, end.lower_port, asns[link.lower.key], high4, high6)
        state = structure.state_of(link) if marked else ("", "")
        for me, peer in ((upper, lower), (lower, upper)):
            shut = shut_reason(structure, me.switch, me.port, state) if marked else None
            ports[me.switch.key].append(_port(addressing, end, me, peer, shut))
    return {key: _in_order(structure.by_key[key], found) for key, found in ports.items()}


def _in_order(switch: Switch, ports: list[FabricPort]) -> tuple[FabricPort, ...]:
    rank = switch.plan.rank
    return tuple(sorted(ports, key=lambda port: rank[port.label]))


def shut_reason(structure: Structure, switch: Switch, port: str, state: tuple[str, str]) -> str | None:
    """Why a port is shut: what stands on it is not in service, or it is marked itself."""
    word, why = structure.marked.get(f"{switch.key}:{port}") or state
    if not word:
        return None
    return f"{word}: {why}" if why else word


def _pair4(low: int) -> tuple[Address, Address]:
    stem = f"{low >> 24}.{low >> 16 & 255}.{low >> 8 & 255}."
    return Address(f"{stem}{low & 255}"), Address(f"{stem}{(low & 255) + 1}")


def _port(addressing: str, end: Ends, me: _Side, peer: _Side, shut: str | None) -> FabricPort:
    speed = end.link.speed
    return FabricPort(
        label=me.port,
        cable=end.label,
        peer=peer.switch.name,
        peer_port=peer.port,
        peer_asn=peer.asn,
        v4=Prefix(f"{me.v4}/31") if me.v4 else None,
        v6=Prefix(f"{me.v6}/127") if me.v6 else None,
        neighbor=me.port if addressing == "unnumbered" else peer.v4 or peer.v6 or me.port,
        neighbor6=peer.v6 if addressing == "dual" else None,
        forced_speed=forced_speed(me.switch, me.port, speed),
        shut=shut,
        link=end.link.key,
    )


def forced_speed(switch: Switch, port: str, speed: int) -> int | None:
    """The speed in Mbit/s that a port must be told, or nothing when it is the port's highest."""
    return speed * 1000 if speed != max(switch.plan.by_name[port].speeds) else None
