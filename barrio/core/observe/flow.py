"""The path of a packet, switch by switch, as the tables of the switches have it: what each does with it, by which cables it goes on, where it ends.

Nothing is taken from the plan but which cable is at which port, and which hosts and systems are behind ports. What a table does not say is
asked for: a walk ends with what it found and with the commands that it still wants answered, and goes on when they are.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from graphlib import CycleError, TopologicalSorter

from barrio.core.model.switch import SwitchModel
from barrio.core.observe import tables
from barrio.core.observe.tables import Device, Ip, Route

MOST_STEPS = 2000
"""Switches that one walk comes to, the same one in another state counted again; more is a network in which packets do not end."""


@dataclass(frozen=True, slots=True)
class State:
    """A packet as it comes to a switch: a frame in a VLAN (`mac`), one to be routed in a VRF, or one within a tunnel (RFC 7348) to `end`."""

    switch: str
    to: Ip | None
    vlan: int | None = None
    mac: str = ""
    vrf: str | None = None
    end: Ip | None = None
    vni: int | None = None


@dataclass(frozen=True, slots=True)
class Onward:
    """One way on: by which port and cable, to which state, and its share of what came (0 to 1)."""

    port: str
    cable: str
    state: State
    share: Fraction


@dataclass(frozen=True, slots=True)
class End:
    """Where a part of it ends: in words, whether that is at the one it is for, and its share of what came (0 to 1)."""

    words: str
    arrives: bool
    share: Fraction


@dataclass(slots=True)
class Step:
    """What a switch does with a packet, by how many links (`depth`) it came: in words, the ways on, and where parts of it end. `narrowest` is the largest
    packet of a host that goes through, in bytes; 0 where it comes through nothing."""

    state: State
    depth: int
    words: list[str] = field(default_factory=list)
    ways: list[Onward] = field(default_factory=list)
    ends: list[End] = field(default_factory=list)
    waits: bool = False
    narrowest: int = 0


class Wanted(Exception):
    """A table says nothing of something yet."""


@dataclass(frozen=True, slots=True)
class Said:
    """What switches answered, by name and command; `wants` is what they were not asked yet, in the order in which it came up."""

    answers: Mapping[tuple[str, str], str]
    wants: dict[tuple[str, str], None] = field(default_factory=dict)
    kept: dict[str, dict[str, Device]] = field(default_factory=dict)

    def of(self, switch: str, command: str) -> str:
        """Raises `Wanted`."""
        if (switch, command) not in self.answers:
            self.wants[switch, command] = None
            raise Wanted
        return self.answers[switch, command]

    def soon(self, switch: str, *commands: str) -> None:
        """Have commands asked that will be wanted, so that one round of asking answers many."""
        for one in commands:
            if (switch, one) not in self.answers:
                self.wants[switch, one] = None

    def devices(self, switch: str) -> dict[str, Device]:
        """Raises `Wanted`."""
        if switch not in self.kept:
            self.kept[switch] = tables.devices(self.of(switch, tables.DEVICES))
        return self.kept[switch]

    def route(self, switch: str, to: Ip, names: frozenset[str]) -> Route | None:
        """Raises `Wanted`."""
        found = tables.routes(self.of(switch, tables.routes_to(to)), to.version == 6)
        return tables.best(found, names)

    def mac(self, switch: str, address: Ip, device: str) -> tuple[str, bool]:
        """The MAC of an address beside a switch, and whether another told of it; nothing where it did not answer. Raises `Wanted`."""
        found = tables.neighbours(self.of(switch, tables.neighbours_of(address)))
        return next(((one.mac, one.told) for one in found if one.device == device and one.mac), ("", False))


def walk(models: Mapping[str, SwitchModel], said: Said, starts: Iterable[State]) -> dict[State, Step]:
    """Every switch that a packet may come to from some starts, the nearest first, with what each does. Models by switch name."""
    found: dict[State, Step] = {}
    waiting = deque((start, 0) for start in starts)
    while waiting and len(found) < MOST_STEPS:
        state, depth = waiting.popleft()
        if state in found:
            continue
        here = found[state] = Step(state, depth)
        try:
            _Here(models[state.switch], said, here).take(state, Fraction(1))
        except Wanted:
            here.waits = True
        waiting += [(one.state, depth + 1) for one in here.ways]
    return found


def shares(steps: Mapping[State, Step], starts: Sequence[State]) -> dict[State, Fraction] | None:
    """How much of what leaves comes to each switch, 0 to 1, where every start sends alike; nothing where it goes around in a circle."""
    before: dict[State, set[State]] = {state: set() for state in steps}
    for state, step in steps.items():
        for one in step.ways:
            before.setdefault(one.state, set()).add(state)
    try:
        order = list(TopologicalSorter(before).static_order())
    except CycleError:
        return None
    part = dict.fromkeys(order, Fraction(0))
    for start in starts:
        part[start] += Fraction(1, len(starts))
    for state in order:
        for one in steps[state].ways if state in steps else ():
            part[one.state] += part[state] * one.share
    return part


class _Here:
    """One switch, while a packet goes through it."""

    def __init__(self, model: SwitchModel, said: Said, step: Step) -> None:
        self.model, self.said, self.step = model, said, step
        self.name = str(model.name)
        of = step.state.end or step.state.to
        said.soon(self.name, *([tables.routes_to(of)] if of else []))
        self.devices = said.devices(self.name)
        self.inside: list[State] = []

    def take(self, state: State, share: Fraction) -> None:
        """A share of what came, in a state that it came to be in here."""
        if state in self.inside:
            self._end("goes around within the switch", share)
            return
        self.inside.append(state)
        if state.end is not None:
            self._tunnel(state, state.end, share)
        elif state.vlan is not None:
            self._frame(state, state.vlan, share)
        else:
            self._packet(state, share)
        self.inside.pop()

    def _say(self, words: str) -> None:
        if words not in self.step.words:
            self.step.words.append(words)

    def _end(self, words: str, share: Fraction, arrives: bool = False) -> None:
        before = next((one for one in self.step.ends if one.words == words), None)
        if before is not None:
            self.step.ends.remove(before)
            share += before.share
        self.step.ends.append(End(words, arrives, share))

    def _through(self, device: Device, end: Ip | None = None) -> None:
        """A packet goes through a device: what is left of its MTU for a host's, after what a tunnel adds (RFC 7348: 50 bytes over IPv4, 70 over IPv6)."""
        left = device.mtu - (0 if end is None else 70 if end.version == 6 else 50)
        self.step.narrowest = min(self.step.narrowest or left, left)

    # A frame in a VLAN

    def _frame(self, state: State, vlan: int, share: Fraction) -> None:
        own = next((one for one in self.devices.values() if one.vlan == vlan and one.mac == state.mac), None)
        if own is not None:
            vrf = own.master if own.master and self.devices[own.master].kind == "vrf" else ""
            self._say(f"the frame is for {own.name} itself: routed in {f'VRF {vrf}' if vrf else 'the main table'}")
            self.take(State(self.name, state.to, vrf=vrf), share)
            return
        bridge = next((one for one in self.devices.values() if one.kind == "bridge"), None)
        if bridge is None:
            self._end(f"has no bridge, so nothing of VLAN {vlan}", share)
            return
        planned = [str(one.vxlan) for one in self.model.segments if one.vlan == vlan]
        planned += [str(one.vxlan) for one in self.model.vrfs if one.vlan == vlan]
        self.said.soon(self.name, *(tables.tunnels_of(one, state.mac) for one in planned if one in self.devices))
        found = tables.entries(self.said.of(self.name, tables.macs_of(bridge.name, vlan, state.mac)))
        if not found:
            self._end(f"does not know where {state.mac} is in VLAN {vlan}: the frame goes to everybody in it", share)
            return
        device = self.devices.get(found[0].device)
        if device is None:
            self._end(f"has {state.mac} at {found[0].device}, which is not there", share)
        elif device.vni is not None:
            self._into(state, device, device.vni, share)
        else:
            self._say(f"has {state.mac} at {device.name}, VLAN {vlan}")
            self._out(state, device, share)

    def _into(self, state: State, device: Device, vni: int, share: Fraction) -> None:
        found = tables.entries(self.said.of(self.name, tables.tunnels_of(device.name, state.mac)))
        ends = [end for one in found for end in self._ends(one)]
        if not ends:
            self._end(f"has {state.mac} behind {device.name}, and no tunnel end for it", share)
        for end in ends:
            self._say(f"has {state.mac} behind {' and '.join(map(str, ends))}: into the tunnel of VNI {vni}")
            self.take(State(self.name, state.to, mac=state.mac, end=end, vni=vni), share / len(ends))

    def _ends(self, entry: tables.Entry) -> Iterator[Ip]:
        yield from entry.ends
        waiting = [entry.group] if entry.group else []
        while waiting:
            for one in tables.group(self.said.of(self.name, tables.group_of(waiting.pop()))):
                if isinstance(one, int):
                    waiting.append(one)
                else:
                    yield one

    def _out(self, state: State, device: Device, share: Fraction) -> None:
        """A frame leaves by a port of the bridge."""
        self._through(device)
        if not device.up:
            self._end(f"{device.name} is down", share)
            return
        pair = self.model.pair
        members = {one.name for one in self.devices.values() if one.master == device.name} | {device.name}
        if pair and any(str(port.label) in members for port in pair.ports):
            port = next(port for port in pair.ports if str(port.label) in members)
            self._go(device.name, str(port.cable), State(str(pair.peer), state.to, state.vlan, state.mac), share)
            return
        host = next((str(one.host) for one in self.model.host_lags if str(one.label) == device.name and one.host), "")
        host = host or next(
            (str(one.host) for one in self.model.host_ports if str(one.label) in members and one.host), ""
        )
        self._end(f"out at {device.name}, to {host or 'whoever is there; no host is planned at it'}", share, True)

    # A packet that is routed

    def _packet(self, state: State, share: Fraction) -> None:
        vrf = self.devices.get(state.vrf or "")
        names = frozenset({"main", "local"} if vrf is None else {vrf.name, str(vrf.table)})
        where = f"VRF {vrf.name}" if vrf else "the main table"
        if state.to is None:
            self._end("routes it, and no address is known that it is for", share)
            return
        route = self.said.route(self.name, state.to, names)
        if route is None:
            self._end(f"has no route to {state.to} in {where}", share)
        elif route.kind == "local":
            self._end(f"{state.to} is an address of its own", share, True)
        elif route.kind == "unreachable" and route.prefix.prefixlen == 0:
            # What ends a VRF's table, so that nothing is looked up in the main one.
            self._end(f"has no route to {state.to} in {where}", share)
        elif route.kind != "unicast":
            self._end(f"has {route.prefix} in {where} as {route.kind}: nothing goes on", share)
        else:
            self._say(f"{route.prefix} in {where}: {_ways(route)}")
            parts = _parts(route)
            for way, part in parts:
                self._by(state, way, share * part)
            if not parts:
                self._end(f"has {route.prefix} in {where}, and no link of it is up", share)

    def _by(self, state: State, way: tables.Way, share: Fraction) -> None:
        """On by one next hop."""
        device = self.devices.get(way.device)
        if device is None:
            self._end(f"routes to {way.device}, which is not there", share)
            return
        self._through(device)
        outside = next((one for one in self.model.outside if str(one.label) == device.name), None)
        if outside is not None:
            self._end(f"out by {device.name}, to {outside.system}", share, True)
            return
        if device.kind == "vrf":
            self._say(f"on in VRF {device.name}")
            self.take(State(self.name, state.to, vrf=device.name), share)
            return
        beside = way.gateway or state.to
        assert beside is not None
        if device.vlan is None:
            self._along(device.name, beside, share, State("", state.to, vrf=state.vrf or ""))
            return
        mac, told = self.said.mac(self.name, beside, device.name)
        if not mac:
            self._end(f"asks on {device.name} who {beside} is, and nobody answers", share)
            return
        self._say(f"{beside} is {mac}{', as another leaf told' if told else ''}")
        self.take(State(self.name, state.to, device.vlan, mac), share)

    def _along(self, port: str, beside: Ip, share: Fraction, on: State) -> None:
        """By a port of the fabric, to whom the plan has at its cable, who must have the address that was meant."""
        cable = next((one for one in self.model.fabric_ports if str(one.label) == port), None)
        if cable is None:
            self._end(f"out by {port}, where the plan has no cable to another switch", share)
            return
        peer = str(cable.peer)
        self.said.soon(self.name, tables.neighbours_of(beside))
        ahead = replace(on, switch=peer)
        of = ahead.end or ahead.to
        self.said.soon(peer, *([tables.routes_to(of)] if of else []))
        far = self.said.devices(peer)
        theirs = any(beside == one.ip for each in far.values() for one in each.addresses)
        # Where links have no addresses, the next hop is one that FRRouting made up, with the MAC of the other end (RFC 8950).
        if not theirs:
            mac, _ = self.said.mac(self.name, beside, port)
            theirs = bool(mac) and any(mac == one.mac for one in far.values())
        if not theirs:
            self._end(f"out by {port} to {beside}, which is not {peer}'s, as the plan has it there", share)
            return
        self._go(port, str(cable.cable), ahead, share)

    def _go(self, port: str, cable: str, state: State, share: Fraction) -> None:
        self.step.ways.append(Onward(port, cable, state, share))

    # A packet within a tunnel

    def _tunnel(self, state: State, end: Ip, share: Fraction) -> None:
        route = self.said.route(self.name, end, frozenset({"main", "local"}))
        if route is None:
            self._end(f"has no route to the tunnel end {end}", share)
        elif route.kind == "local":
            self._unwrapped(state, share)
        elif route.kind != "unicast":
            self._end(f"has {route.prefix} as {route.kind}: nothing goes on", share)
        else:
            self._say(f"tunnel to {end}: {route.prefix}, {_ways(route)}")
            parts = _parts(route)
            if not parts:
                self._end(f"has {route.prefix}, and no link of it is up", share)
            for way, part in parts:
                if way.device in self.devices:
                    self._through(self.devices[way.device], end)
                self._along(way.device, way.gateway or end, share * part, state)

    def _unwrapped(self, state: State, share: Fraction) -> None:
        device = next((one for one in self.devices.values() if one.vni == state.vni), None)
        if device is None:
            self._end(f"is the tunnel's end, and has nothing of VNI {state.vni}", share)
            return
        number = tables.vlan(self.said.of(self.name, tables.vlan_of(device.name)))
        if number is None:
            self._end(f"is the tunnel's end, and {device.name} is in no VLAN", share)
            return
        self._say(f"out of the tunnel: VNI {state.vni} is VLAN {number} here")
        self.take(State(self.name, state.to, number, state.mac), share)


def _parts(route: Route) -> list[tuple[tables.Way, Fraction]]:
    """The next hops that carry something, with their shares."""
    alive = [one for one in route.ways if not one.dead]
    whole = sum(one.weight for one in alive)
    return [(one, Fraction(one.weight, whole)) for one in alive]


def _ways(route: Route) -> str:
    ways = [f"{one.device}{' (down)' if one.dead else ''}" for one in route.ways]
    return f"by {' or '.join(ways[:4])}{f' and {len(ways) - 4} more' if len(ways) > 4 else ''}"
