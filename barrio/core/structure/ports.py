"""The port plan: which ports of a front are uplinks, downlinks, peer link and hosts, by rule or as the brief says.

The rule. A leaf uses its fabric ports as uplinks, the last of them for a peer link if it has one, and its host ports for
hosts; a front of like ports is halved, hosts first, and lanes of a breakout serve hosts. A spine uses all its ports for leaves or, under super-spines, the second
half for those. A port that is broken out gives its lanes in its place; those of a leaf's fabric port serve hosts. What the brief says wins over the rule, port by port.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property

from barrio.core.brief.hardware import PortPlan
from barrio.core.brief.ranges import expand_ports
from barrio.core.catalogue.model import PortGroup, SwitchType
from barrio.core.errors import refuse
from barrio.core.printed import Device


@dataclass(frozen=True, slots=True)
class Port:
    """A port as it can be used: a whole one, or a lane of one. `parent` is the hole on the front."""

    name: Device
    speeds: tuple[int, ...]
    connector: str
    parent: str


@dataclass(frozen=True)
class Plan:
    """The ports of one front by what they serve, each in the order in which it fills. `dark` ports are used up by a breakout.

    `front` tells the fronts of one structure apart: its place among them, from 0.
    """

    up: tuple[Port, ...]
    down: tuple[Port, ...]
    peer: tuple[Port, ...]
    hosts: tuple[Port, ...]
    reserved: tuple[Port, ...]
    dark: tuple[str, ...]
    front: int = field(default=0, compare=False)

    @cached_property
    def met(self) -> dict[int, tuple[Plan, int]]:
        """The speed of links down to other fronts, by the identity of their plans (which are held, so that it stays theirs). It is asked for a
        thousand leaves, and there are a few kinds."""
        return {}

    @cached_property
    def longest(self) -> int:
        """How many characters its longest name of a port has."""
        return max(map(len, self.by_name), default=0)

    @cached_property
    def up_speeds(self) -> frozenset[int]:
        """Speeds in Gbit/s that every uplink can run at."""
        return common_speeds(self.up)

    @cached_property
    def down_speeds(self) -> frozenset[int]:
        return common_speeds(self.down)

    @cached_property
    def rank(self) -> dict[str, int]:
        """The place of each port that carries fabric links, from the left of the front."""
        return {port.name: place for place, port in enumerate(self.down + self.up + self.peer)}

    @cached_property
    def lanes_at(self) -> Counter[str]:
        """How many ports stand at each hole of the front: one, or the lanes that it is broken out into."""
        return Counter(port.parent for port in self.by_name.values())

    @cached_property
    def by_name(self) -> dict[str, Port]:
        return {port.name: port for port in self.up + self.down + self.peer + self.hosts + self.reserved}

    def host_bandwidth(self, wanted: int | None) -> int:
        """Gbit/s of all host ports, at the speed wanted or each at its highest."""
        return sum(wanted or max(port.speeds) for port in self.hosts)

    def host_speed(self, wanted: int | None) -> int:
        """The speed of the host ports: the one wanted, or the highest they all have (0 without host ports)."""
        return wanted or max(common_speeds(self.hosts), default=0)


def common_speeds(ports: Sequence[Port]) -> frozenset[int]:
    """The speeds that all of these ports have; none when there is no port."""
    kinds = {port.speeds for port in ports}
    return frozenset.intersection(*map(frozenset, kinds)) if kinds else frozenset()


def plan_ports(kind: SwitchType, tier: str, said: PortPlan, *, has_upper: bool = True, peer_links: int = 0) -> Plan:
    """The plan of one front. `tier` is `leaf`, `spine` or `super-spine`.

    Raises `Refused` (`ports.unknown`, `ports.breakout`, `ports.claimed-twice`); paths are relative to the plan.
    """
    live, dark = _break_out(kind, said)
    names: dict[str, Port] = {port.name: port for port in live}
    claims = {
        field: _ports_called(names, kind, getattr(said, field), field)
        for field in ("uplinks", "downlinks", "peer", "hosts", "reserved")
    }
    reserved = [names[name] for name in kind.reserved if name in names] + (claims["reserved"] or [])
    _claimed_once(claims)
    spoken = {port.name for claimed in claims.values() for port in claimed or ()} | {port.name for port in reserved}
    free = [port for port in live if port.name not in spoken]
    use = {port: group.use for port, group in kind.group_of.items()}
    if tier != "leaf":
        up, down = claims["uplinks"], claims["downlinks"]
        usable = [port for port in free if use[port.parent] != "host"]
        if not has_upper:
            return Plan((), tuple(down if down is not None else usable), (), (), tuple(reserved), dark)
        if up is None and down is None:
            half = len(usable) // 2
            down, up = usable[:half], usable[half:]
        up, down = (usable if up is None else up), (usable if down is None else down)
        return Plan(tuple(up), tuple(down), (), (), tuple(reserved), dark)
    alike = all(group.use == "any" for group in kind.groups)
    half = sum(1 for port in live if port.name not in {one.name for one in reserved}) // 2
    fabric = [
        port
        for port in free
        if port.name == port.parent and (use[port.parent] == "fabric" or (not alike and use[port.parent] == "any"))
    ]
    hosts = [port for port in free if use[port.parent] == "host" or port.name != port.parent]
    if alike:
        first = half - len(claims["hosts"] or ())
        hosts, fabric = (free, free) if claims["uplinks"] or claims["hosts"] else (free[:first], free[first:])
    peer = claims["peer"] or []
    if peer_links and claims["peer"] is None:
        fabric, peer = fabric[: len(fabric) - peer_links], fabric[len(fabric) - peer_links :]
    up, leaf_hosts = claims["uplinks"], claims["hosts"]
    return Plan(
        tuple(fabric if up is None else up), (), tuple(peer), tuple(hosts if leaf_hosts is None else leaf_hosts),
        tuple(reserved), dark,
    )  # fmt: skip


def _break_out(kind: SwitchType, said: PortPlan) -> tuple[list[Port], tuple[str, ...]]:
    chosen: dict[str, tuple[str, PortGroup]] = {}
    for ports, mode in said.breakouts.items():
        for name in expand_ports(ports, "breakouts"):
            group = kind.group_of.get(name)
            if group is None:
                raise refuse("ports.unknown", f"{kind.title} has no port {name} to break out.", "breakouts")
            if mode not in {breakout.text for breakout in group.breakouts}:
                can = ", ".join(breakout.text for breakout in group.breakouts) or "nothing"
                raise refuse(
                    "ports.breakout", f"Port {name} of {kind.title} breaks out into {can}, not {mode}.", "breakouts"
                )
            chosen[name] = (mode, group)
    dark = dict(_darkened(kind, chosen))
    clash = next((name for name in dark if name in chosen), None)
    if clash:
        raise refuse(
            "ports.breakout",
            f"Port {clash} of {kind.title} cannot be broken out: the breakout of {dark[clash]} uses it up.",
            "breakouts",
        )
    live: list[Port] = []
    for name, group in kind.group_of.items():
        if name in chosen:
            breakout = next(one for one in group.breakouts if one.text == chosen[name][0])
            live += [
                Port(Device(lane), (breakout.speed,), group.connector, name) for lane in group.lanes(name, breakout)
            ]
        elif name not in dark:
            live.append(Port(Device(name), tuple(group.speeds), group.connector, name))
    return live, tuple(dark)


def _darkened(kind: SwitchType, chosen: dict[str, tuple[str, PortGroup]]) -> Iterator[tuple[str, str]]:
    for name, (mode, group) in chosen.items():
        breakout = next(one for one in group.breakouts if one.text == mode)
        at = group.ports.index(name)
        for neighbour in group.ports[at + 1 : at + 1 + breakout.uses_up]:
            yield neighbour, name


def _ports_called(names: dict[str, Port], kind: SwitchType, text: str | None, field: str) -> list[Port] | None:
    if text is None:
        return None
    wanted = expand_ports(text, field)
    missing = next((name for name in wanted if name not in names), None)
    if missing:
        why = "is broken out; name its lanes" if missing in kind.group_of else "is not on the front"
        raise refuse("ports.unknown", f"Port {missing} of {kind.title} {why}.", field)
    return [names[name] for name in wanted]


def _claimed_once(claims: dict[str, list[Port] | None]) -> None:
    owner: dict[str, str] = {}
    for side, ports in claims.items():
        for port in ports or ():
            if port.name in owner:
                raise refuse(
                    "ports.claimed-twice",
                    f"Port {port.name} is under both “{owner[port.name]}” and “{side}”. Take it out of one.",
                    side,
                )
            owner[port.name] = side


def names_of(ports: Iterable[Port]) -> tuple[str, ...]:
    return tuple(port.name for port in ports)
