"""Every place for a host in a fabric, in order: ports one by one, those that a host bonds joined to one, and ports that are for something else."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from barrio.core.attach.attachments import Attachment, Attachments
from barrio.core.attach.ways import Way
from barrio.core.printed import Device, Name
from barrio.core.structure.parts import Structure, Switch

Ports = tuple[tuple[str, str], ...]
Show = Literal["all", "hosts", "free"]


@dataclass(frozen=True, slots=True)
class Seat:
    """One place: the leaf and port that name it, all ports that are joined to it, who is at it, and how.

    `use` is `host`, or what the port is for: `uplink`, `peer`, `outside`, `reserved`. A seat of the use `host` without a host is free, or has
    the default plug; `shut` says why it passes nothing.
    """

    leaf: Switch
    port: str
    ports: Ports
    use: str
    host: Attachment | None
    way: Way | None
    shut: str

    @property
    def key(self) -> str:
        return f"{self.leaf.key}:{self.port}"

    @property
    def carried(self) -> tuple[str, ...]:
        return self.way.carried if self.way else ()

    def has(self, words: Sequence[str]) -> bool:
        """Whether all of these words, in small letters, are in what is said of this seat."""
        said = [self.leaf.name, self.leaf.rack, self.port]
        said += [self.host.host, self.host.team, self.host.note, self.host.way.plug or ""] if self.host else []
        text = " ".join(said).lower()
        return all(word in text for word in words)


class Seats:
    """All seats of a fabric, in order; how many hosts and seats carry each segment, and how many seats are free.

    Seats are made leaf by leaf, when they are first looked at; counts are taken from the hosts.
    """

    def __init__(self, structure: Structure, attachments: Attachments) -> None:
        self._structure, self._attachments = structure, attachments
        self._outside = {(end.switch.key, end.said.port): end.system for end in structure.outside}
        self._of: dict[str, tuple[Seat, ...]] = {}
        self._racks: dict[str, list[Switch]] = {}
        for leaf in structure.leaves:
            self._racks.setdefault(leaf.rack, []).append(leaf)
        of_hosts: Counter[Way] = Counter(one.way for one in attachments.hosts.values())
        ways: Counter[Way] = Counter()
        for one in attachments.hosts.values():
            ways[one.way] += 1 if one.bonded else len(one.ports)
        self.free = 0
        led_out = Counter(key for key, _ in self._outside)
        for leaf in structure.leaves:
            idle = len(leaf.plan.hosts) - len(attachments.at.get(leaf.key, ())) - led_out[leaf.key]
            way, _ = attachments.default[leaf.key]
            self.free += idle
            if way is not None:
                ways[way] += idle
        self.hosts, self.carrying = _by_segment(of_hosts), _by_segment(ways)

    @cached_property
    def all(self) -> tuple[Seat, ...]:
        """Every seat, rack by rack and in the order of ports."""
        return tuple(seat for leaf in self._structure.leaves for seat in self._on(leaf))

    def of_rack(self, rack: str) -> list[Seat]:
        """The seats of one rack; none when there is no such rack."""
        return [seat for leaf in self._racks.get(rack, ()) for seat in self._on(leaf)]

    def shown(
        self, rack: str = "", host: str = "", segment: str = "", team: str = "", find: str = "", show: Show = "all"
    ) -> list[Seat]:
        """The seats of one rack, of one host, that carry one segment, of one team, with all words to find, or only those with or without a host."""
        words = find.lower().split()
        return [
            seat
            for seat in (self.of_rack(rack) if rack else self.all)
            if (not host or (seat.host is not None and seat.host.host == host))
            and (not team or (seat.host is not None and seat.host.team == team))
            and (not segment or segment in seat.carried)
            and (show == "all" or (show == "hosts") == (seat.host is not None))
            and (show != "free" or seat.use == "host")
            and (not words or seat.has(words))
        ]

    def _on(self, leaf: Switch) -> tuple[Seat, ...]:
        if leaf.key not in self._of:
            self._of[leaf.key] = tuple(_of_leaf(self._structure, self._attachments, self._outside, leaf))
        return self._of[leaf.key]


def _by_segment(ways: Mapping[Way, int]) -> Mapping[str, int]:
    """How often each segment is carried, when each way is there so often."""
    found: Counter[str] = Counter()
    for way, times in ways.items():
        found.update(dict.fromkeys(way.carried, times))
    return found


def _of_leaf(
    structure: Structure, attachments: Attachments, outside: Mapping[tuple[str, Device], Name], leaf: Switch
) -> Iterator[Seat]:
    at = attachments.at.get(leaf.key, {})
    way, _ = attachments.default[leaf.key]
    for port in leaf.plan.hosts:
        name = port.name
        system = outside.get((leaf.key, name))
        if system:
            yield Seat(leaf, name, ((leaf.key, name),), "outside", None, None, f"leads outside, to {system}")
            continue
        marked = structure.marked.get(f"{leaf.key}:{name}") or (leaf.state, leaf.why)
        word = f"{marked[0]}: {marked[1]}" if marked[1] else marked[0]
        host = at.get(name)
        if host is None:
            yield Seat(
                leaf, name, ((leaf.key, name),), "host", None, way, word or ("" if way else "no host is attached")
            )
        elif not host.bonded:
            yield Seat(leaf, name, ((leaf.key, name),), "host", host, host.way, word)
        elif host.ports[0] == (leaf.key, name):
            # A LAG is one seat, at its first port; its other ports are that seat too.
            yield Seat(leaf, name, host.ports, "host", host, host.way, word)
    for ports, use in ((leaf.plan.up, "uplink"), (leaf.plan.peer, "peer"), (leaf.plan.reserved, "reserved")):
        for port in ports:
            yield Seat(leaf, port.name, ((leaf.key, port.name),), use, None, None, "")
