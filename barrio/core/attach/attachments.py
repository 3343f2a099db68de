"""Hosts on ports: which host is at each port of each leaf, what it carries there, and what bonds with what."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from barrio.core.attach.places import Slot, deal, slots
from barrio.core.attach.ways import Way, WayMaker, default_plug
from barrio.core.brief.hosts import HostEntry
from barrio.core.brief.model import Brief
from barrio.core.brief.ranges import contract_ports, expand_names
from barrio.core.brief.reader import quoted
from barrio.core.errors import Fault, Refused
from barrio.core.printed import Device, Name
from barrio.core.structure.parts import Structure, Switch

MOST_FAULTS = 40


@dataclass(frozen=True, slots=True)
class Attachment:
    """One host: its name, the entry of the brief that names it, how it is attached, and its ports as (leaf's key, port)."""

    host: Name
    entry: str
    team: str
    note: str
    way: Way
    ports: tuple[tuple[str, Device], ...]

    @property
    def path(self) -> str:
        return f"hosts.{quoted(self.entry)}"

    @property
    def bonded(self) -> bool:
        return self.way.lag != "none"

    def beside(self, leaf: str, port: Device) -> tuple[Device, ...]:
        """Its ports on the leaf where it has this one: as a rule that one alone, with another on the other leaf of a pair."""
        if len(self.ports) == 2 and self.ports[0][0] != self.ports[1][0]:
            return (port,)
        return self.on(leaf)

    def on(self, leaf: str) -> tuple[Device, ...]:
        """Its ports on one leaf."""
        return tuple(port for key, port in self.ports if key == leaf)


@dataclass(frozen=True)
class Attachments:
    """All hosts by name, who is at which port of which leaf, and what the ports without a host carry."""

    hosts: Mapping[str, Attachment] = field(default_factory=dict)
    at: Mapping[str, Mapping[str, Attachment]] = field(default_factory=dict)
    default: Mapping[str, tuple[Way | None, str]] = field(default_factory=dict)
    carried: Mapping[str, frozenset[str]] = field(default_factory=dict)


def attach(brief: Brief, structure: Structure, before: tuple[Brief, Attachments] | None = None) -> Attachments:
    """Every host on its ports. Raises `Refused` with all faults (`host.*`, `range.*`), each with the entry that it is in.

    `before` is what was attached to the very same structure; entries that say the same in the same way are where they were.
    """
    faults: list[Fault] = []
    makes = WayMaker(brief, faults)
    racks: dict[str, list[Switch]] = {}
    for leaf in structure.leaves:
        racks.setdefault(leaf.rack, []).append(leaf)
    placed = _Placed(brief, structure, racks, faults)
    hosts: dict[str, Attachment] = {}
    known: dict[str, list[Attachment]] = {}
    for one in before[1].hosts.values() if before else ():
        known.setdefault(one.entry, []).append(one)
    for entry, said in brief.hosts.items():
        way = makes.of_host(said, f"hosts.{quoted(entry)}")
        there = known.get(entry)
        same = before is not None and there is not None and there[0].way == way and before[0].hosts[entry] == said
        for one in placed.again(there) if same and there is not None else placed.entry(entry, said, way):
            if one.host in hosts:
                words = f"{one.host} is named twice: under {hosts[one.host].entry} and under {entry}. Give one of the two another name."
                faults.append(Fault("host.twice", words, one.path))
            hosts[one.host] = one
    default = {leaf.key: makes.default(leaf) for leaf in structure.leaves}
    if not faults:
        faults += _misplaced(brief, makes.within, hosts.values())
        faults += _default_misplaced(brief, structure, makes.within, default)
    if faults:
        raise Refused(faults[:MOST_FAULTS])
    return Attachments(hosts, placed.at, default, _carried(brief, structure, placed.at, default))


def differing(before: Attachments, now: Attachments, leaves: Iterable[str] | None = None) -> frozenset[str]:
    """The leaves (by key, of all that are there now, or of those named) where another host is, or one is attached otherwise, or ports without one carry
    something else."""
    nothing: Mapping[str, Attachment] = {}
    return frozenset(
        key
        for key in (now.default if leaves is None else leaves)
        if now.carried[key] != before.carried[key]
        or now.default[key][0] != before.default[key][0]
        or not _alike(before.at.get(key, nothing), now.at.get(key, nothing))
    )


def _alike(before: Mapping[str, Attachment], now: Mapping[str, Attachment]) -> bool:
    """Whether the same hosts are at the same ports in the same way; which entry names them is no matter."""
    return before.keys() == now.keys() and all(
        one is now[port] or (one.host == now[port].host and one.ports == now[port].ports and one.way == now[port].way)
        for port, one in before.items()
    )


def _carried(
    brief: Brief,
    structure: Structure,
    at: Mapping[str, Mapping[str, Attachment]],
    default: Mapping[str, tuple[Way | None, str]],
) -> dict[str, frozenset[str]]:
    """The segments on each leaf that carry something now."""
    active = frozenset(name for name, segment in brief.segments.items() if segment.state == "active")
    outside: dict[str, int] = {}
    for end in structure.outside:
        outside[end.switch.key] = outside.get(end.switch.key, 0) + 1
    found = {}
    for leaf in structure.leaves:
        taken = at.get(leaf.key, {})
        ways = {one.way for one in taken.values()}
        free = len(leaf.plan.hosts) - len(taken) - outside.get(leaf.key, 0)
        way = default[leaf.key][0]
        if way is not None and free > 0:
            ways.add(way)
        found[leaf.key] = active.intersection(name for one in ways for name in one.carried)
    return found


class _Placed:
    """Puts hosts on ports; what is wrong goes to `faults`."""

    def __init__(
        self, brief: Brief, structure: Structure, racks: Mapping[str, Sequence[Switch]], faults: list[Fault]
    ) -> None:
        self._brief, self._racks, self._faults = brief, racks, faults
        self._outside: dict[tuple[str, str], str] = {
            (end.switch.key, end.said.port): end.system for end in structure.outside
        }
        self._paired = {leaf.rack for pair in structure.pairs for leaf in pair}
        self._hosts = {leaf.plan.front: frozenset(port.name for port in leaf.plan.hosts) for leaf in structure.leaves}
        self.at: dict[str, dict[str, Attachment]] = {}

    def entry(self, entry: str, said: HostEntry, way: Way) -> Iterator[Attachment]:
        """The hosts of one entry of the brief."""
        names = expand_names(entry)
        path = f"hosts.{quoted(entry)}"
        try:
            dealt = [deal(slots(place, f"{path}.at"), names, f" in “{place}”", f"{path}.at") for place in said.at]
        except Refused as error:
            self._faults += error.faults
            return
        for name in names:
            ports = self._ports([slot for part in dealt for slot in part[name]], way, path)
            if ports is None:
                return
            one = Attachment(Name(name), entry, said.team, said.note, way, ports)
            if one.bonded and not self._bonds(one, path):
                return
            if not self._put(one):
                return
            yield one

    def again(self, known: Iterable[Attachment]) -> Iterator[Attachment]:
        """Hosts of an entry that are where they were."""
        return (one for one in known if self._put(one))

    def _put(self, one: Attachment) -> bool:
        """Put a host on its ports, if nobody else is there."""
        for key, port in one.ports:
            taken = self.at.setdefault(key, {}).setdefault(port, one)
            if taken is not one:
                words = f"Port {port} of {self._name(key)} would have both {taken.host} and {one.host}. Give one of them another port."
                self._tell("host.port-twice", words, f"hosts.{quoted(one.entry)}")
                return False
        return True

    def _ports(self, mine: Sequence[Slot], way: Way, path: str) -> tuple[tuple[str, Device], ...] | None:
        found: list[tuple[str, Device]] = []
        for slot in mine:
            leaves = [leaf for leaf in self._racks.get(slot.rack, ()) if leaf.key[-1] == (slot.side or leaf.key[-1])]
            if not leaves:
                side = f"leaf {slot.side} in rack" if slot.rack in self._racks else "rack of leaves"
                self._tell("host.rack", f"There is no {side} {slot.rack}. Name one that stands under “racks”.", path)
                return None
            for leaf in leaves:
                why = self._why_not(leaf, slot.port, way)
                if why:
                    self._tell("host.port", why, path)
                    return None
                found.append((leaf.key, leaf.plan.by_name[slot.port].name))
        return tuple(found)

    def _why_not(self, leaf: Switch, port: str, way: Way) -> str:
        """Why no host can be at a port, with what the port is for; nothing when one can."""
        plan = leaf.plan
        if port not in self._hosts[plan.front]:
            return f"{_use(leaf, port)} Choose a host port: {_some(plan.hosts)}."
        system = self._outside.get((leaf.key, port))
        if system:
            return f"Port {port} of {leaf.name} leads outside, to {system}. Choose another for this host."
        speeds = plan.by_name[port].speeds
        wanted = way.speed or (leaf.group.host_speed if leaf.group else None)
        if way.speed and way.speed not in speeds:
            can = " or ".join(f"{speed}G" for speed in speeds)
            return f"Port {port} of {leaf.name} runs at {can}, not at {wanted}G. Ask for one of these, or choose another port."
        return ""

    def _bonds(self, one: Attachment, path: str) -> bool:
        """Whether the ports of a host can be one LAG: on one leaf, or on both of a pair alike."""
        leaves = list(dict.fromkeys(key for key, _ in one.ports))
        if len(leaves) == 1:
            return True
        racks = {key.split("/")[1] for key in leaves}
        if len(racks) == 1 and racks <= self._paired:
            if len(one.ports) == 2 and one.ports[0][1] == one.ports[1][1]:
                return True
            if one.on(leaves[0]) == one.on(leaves[1]):
                return True
            words = f"{one.host} would bond over other ports of {self._name(leaves[0])} than of {self._name(leaves[1])}. Give it the same on both."
            self._tell("host.ports-differ", words, path)
            return False
        names = " and ".join(self._name(key) for key in leaves[:3])
        (rack, *_) = sorted(racks)
        pair = (
            f"Set pairing on rack {rack}, name one leaf (such as {rack}/a)"
            if len(racks) == 1
            else "Name ports of one rack"
        )
        self._tell(
            "host.no-pair", f"{one.host} would bond over {names}, which are no pair. {pair}, or set lag: none.", path
        )
        return False

    def _name(self, key: str) -> str:
        return next(leaf.name for leaves in self._racks.values() for leaf in leaves if leaf.key == key)

    def _tell(self, code: str, words: str, path: str) -> None:
        self._faults.append(Fault(code, words, f"{path}.at"))


def _use(leaf: Switch, port: str) -> str:
    """What a port that is not for hosts is for."""
    plan, title = leaf.plan, leaf.type.title
    uses = ((plan.up, "an uplink"), (plan.peer, "of the peer link"), (plan.reserved, "reserved"))
    for ports, word in uses:
        if any(one.name == port for one in ports):
            return f"Port {port} of {leaf.name} is {word}."
    if port in plan.dark:
        return f"Port {port} of {leaf.name} is used up by a breakout."
    if port in leaf.type.group_of:
        lanes = [one.name for one in plan.by_name.values() if one.parent == port]
        return (
            f"Port {port} of {leaf.name} is broken out into {lanes[0]} to {lanes[-1]}."
            if lanes
            else f"Port {port} of {leaf.name} is not for hosts."
        )
    return f"{leaf.name} ({title}) has no port {port}."


def _some(ports: Sequence[object]) -> str:
    names = [str(getattr(port, "name", port)) for port in ports]
    return f"{names[0]} to {names[-1]}" if len(names) > 1 else (names[0] if names else "it has none")


def _misplaced(brief: Brief, within: Mapping[str, frozenset[str]], hosts: Iterable[Attachment]) -> Iterator[Fault]:
    """Hosts whose segments are kept to other racks."""
    told: set[tuple[str, str]] = set()
    right: set[tuple[str, int]] = set()
    for one in hosts:
        for rack in dict.fromkeys(key.split("/")[1] for key, _ in one.ports):
            # Hosts of one plug are alike: what is right for one in a rack is for the others.
            if (rack, id(one.way)) in right:
                continue
            if all(rack in within[name] for name in one.way.carried):
                right.add((rack, id(one.way)))
                continue
            for name in one.way.carried:
                if rack not in within[name] and (one.entry, name) not in told:
                    told.add((one.entry, name))
                    words = (
                        f"{one.host} in rack {rack} carries {name}, which is kept to racks {brief.segments[name].racks}. "
                        f"Add {rack} to them, or take {name} from the host."
                    )
                    yield Fault("host.elsewhere", words, one.path)


def _default_misplaced(
    brief: Brief,
    structure: Structure,
    within: Mapping[str, frozenset[str]],
    default: Mapping[str, tuple[Way | None, str]],
) -> Iterator[Fault]:
    """Plugs of ports without a host, whose segments are kept to other racks."""
    told: set[tuple[str, str]] = set()
    for leaf in structure.leaves:
        way, path = default[leaf.key]
        for name in way.carried if way else ():
            if leaf.rack not in within[name] and (path, name) not in told:
                told.add((path, name))
                words = (
                    f"Ports without a host in rack {leaf.rack} would carry {name}, which is kept to racks {brief.segments[name].racks}. Add "
                    f"{leaf.rack} to them, or give these ports another plug."
                )
                yield Fault("host.elsewhere", words, path)


def at_of(one: Attachment) -> str:
    """Where a host is, in words."""
    racks: dict[str, list[str]] = {}
    for key, port in one.ports:
        racks.setdefault(key.removeprefix("leaf/"), []).append(port)
    return ", ".join(f"{leaf} {contract_ports(ports)}" for leaf, ports in racks.items())


__all__ = ["Attachment", "Attachments", "Way", "at_of", "attach", "default_plug", "differing"]
