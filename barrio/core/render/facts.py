"""What the files of switches say, whatever language they are in, and what switches must agree on all the same.

A reader of each language gathers facts; here they are held against each other, so that two ends of a link are compared even where one
is written in another language than the other.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from ipaddress import IPv4Interface, IPv6Interface, ip_address

Found = tuple[str, str, str]
"""The switch that is concerned, a code without its family, and what is wrong in words."""


@dataclass(slots=True)
class Facts:
    """What one switch's files say of the underlay, and of what it carries.

    `tells_sessions` says whether its language has words for BGP at all. `addresses` go by port. `sessions` are from a neighbour's address to
    the AS that it must be in, `by_port` the same with whoever is at the other end of a port; those that are kept down are not among them.
    `shows` is the AS that a neighbour is shown, by its address or port, where it is not `asn`. `ends` is, for a port, the switch and port that it
    names as its other end, and `shut` are the ports that are kept down. `carried` are the VLANs of segments, `on_ports` those that ports
    carry; `ports` are those that are set up, `members` those that a LAG takes. `shared` is what a thing is said to be, such as the VLAN of a VNI.
    """

    name: str = ""
    tells_sessions: bool = True
    asn: int = 0
    router_id: str = ""
    addresses: dict[str, list[IPv4Interface | IPv6Interface]] = field(default_factory=dict)
    sessions: dict[str, int] = field(default_factory=dict)
    by_port: dict[str, int] = field(default_factory=dict)
    shows: dict[str, int] = field(default_factory=dict)
    mtus: dict[str, int] = field(default_factory=dict)
    ends: dict[str, tuple[str, str]] = field(default_factory=dict)
    carried: list[str] = field(default_factory=list)
    ports: list[str] = field(default_factory=list)
    members: set[str] = field(default_factory=set)
    on_ports: dict[str, set[str]] = field(default_factory=dict)
    shut: set[str] = field(default_factory=set)
    shared: dict[tuple[str, str], str] = field(default_factory=dict)

    @property
    def owned(self) -> set[str]:
        """Every address, without its length."""
        return {str(one.ip) for found in self.addresses.values() for one in found}


def agree(fabric: Mapping[str, Facts], whole: bool = True) -> Iterator[Found]:
    """Everything in which switches contradict each other; by the name of the switch that the files were made for. Without the `whole` fabric,
    nothing is said of far ends that are not among them."""
    owners: dict[str, str] = {}
    for name, facts in fabric.items():
        if facts.name and facts.name != name:
            yield name, "name", f"the switch calls itself {facts.name}"
        yield from ((name, "within", words) for words in _within(facts))
        for address in facts.owned:
            if owners.setdefault(address, name) != name:
                yield name, "twice", f"the address {address} is {owners[address]}'s too"
    yield from _twice(fabric)
    yield from _sessions(fabric, owners, whole)
    yield from _links(fabric, whole)
    known: dict[tuple[str, str], tuple[str, str]] = {}
    for name, facts in fabric.items():
        for (thing, what), value in facts.shared.items():
            first, there = known.setdefault((thing, what), (name, value))
            if value != there:
                yield name, "map", f"{thing} has {what} {value} here, and {there} on {first}"


def _within(facts: Facts) -> Iterator[str]:
    """In what one switch contradicts itself."""
    if facts.router_id and facts.owned and facts.router_id not in facts.owned:
        yield f"the router id {facts.router_id} is no address of it"
    for kind, said in (("port", facts.ports), ("VLAN", facts.carried)):
        for one in {one for one in said if said.count(one) > 1}:
            yield f"{kind} {one} is set up twice"
    for port, vlans in facts.on_ports.items():
        if vlans - set(facts.carried):
            yield f"{port} carries VLAN {', '.join(sorted(vlans - set(facts.carried)))}, which is no segment's here"
    if facts.ports and facts.members - set(facts.ports):
        yield f"a LAG takes {', '.join(sorted(facts.members - set(facts.ports)))}, which is not set up"


def _twice(fabric: Mapping[str, Facts]) -> Iterator[Found]:
    seen: dict[str, str] = {}
    for name, facts in fabric.items():
        if facts.router_id and seen.setdefault(facts.router_id, name) != name:
            yield name, "twice", f"the router id {facts.router_id} is {seen[facts.router_id]}'s too"


def _sessions(fabric: Mapping[str, Facts], owners: Mapping[str, str], whole: bool) -> Iterator[Found]:
    for name, facts in fabric.items():
        for peer, asn in facts.sessions.items():
            far = owners.get(peer)
            if far is None:
                if whole:
                    yield name, "mirror", f"the session with {peer} is with no switch of this fabric"
                continue
            other = fabric[far]
            if not other.tells_sessions:
                continue
            back = facts.owned & other.sessions.keys()
            shown = {other.shows.get(one, other.asn) for one in back}
            if back and asn not in shown:
                yield (
                    name,
                    "mirror",
                    f"the session with {far} names AS {asn}, and {far} is in {' and '.join(map(str, sorted(shown)))}",
                )
            if not back:
                yield name, "mirror", f"{far} has no session back to {peer}"


def _links(fabric: Mapping[str, Facts], whole: bool) -> Iterator[Found]:
    subnets: dict[object, list[tuple[str, str]]] = defaultdict(list)
    for name, facts in fabric.items():
        for port, addresses in facts.addresses.items():
            for one in addresses:
                if one.network.num_addresses == 2:
                    subnets[one.network].append((name, port))
    for subnet, ends in subnets.items():
        name, port = ends[0]
        if len(ends) == 1 and (not whole or port in fabric[name].shut):
            continue
        if len(ends) != 2:
            yield name, "link", f"{subnet} is on {len(ends)} ports"
            continue
        for here, there in (ends, reversed(ends)):
            named = fabric[here[0]].ends.get(here[1])
            if named and named != there:
                yield (
                    here[0],
                    "link",
                    f"{here[1]} names {' '.join(named)} as its other end, and shares {subnet} with {' '.join(there)}",
                )
    for name, facts in fabric.items():
        for port, (far, far_port) in facts.ends.items():
            if far in fabric:
                yield from _ends(name, port, facts, far, far_port, fabric[far])


def _ends(name: str, port: str, facts: Facts, far: str, far_port: str, other: Facts) -> Iterator[Found]:
    """What the two ends of a cable say of each other."""
    if other.ends.get(far_port) != (name, port):
        yield name, "link", f"{port} names {far} {far_port} as its other end, and that port does not name it"
    ours, theirs = facts.mtus.get(port), other.mtus.get(far_port)
    if ours != theirs and None not in (ours, theirs):
        yield name, "link", f"{port} carries {ours} bytes, and {far} {far_port} carries {theirs}"
    asn = facts.by_port.get(port)
    if asn is None or not other.tells_sessions:
        return
    shown = other.shows.get(far_port, other.asn)
    if asn != shown:
        yield name, "mirror", f"the session over {port} names AS {asn}, and {far} is in {shown}"
    if far_port not in other.by_port:
        yield name, "mirror", f"{far} has no session back over {far_port}"


def is_address(text: str) -> bool:
    """Whether a text is an address, and no name of a port.

    >>> is_address("10.64.0.1"), is_address("u1")
    (True, False)
    """
    try:
        ip_address(text)
    except ValueError:
        return False
    return True
