"""What a structure is made of: switches, links, the systems outside, and the state each is in.

A structure holds no numbers and no port assignments; those come from the ledger, so that growing never moves them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from barrio.core.brief.hardware import RackGroup
from barrio.core.brief.routing import OutsideLink
from barrio.core.catalogue.model import SwitchType
from barrio.core.printed import Name
from barrio.core.settings.ladder import Standing
from barrio.core.settings.resolved import Resolved
from barrio.core.structure.ports import Plan

OUT, LATER = "out of service", "planned later"


@dataclass(frozen=True, slots=True)
class Switch:
    """`origin` is the brief path that caused it; `unit` its lowest U.

    `pod` is empty in two tiers; `plane` is the super-spines' plane, and a spine's place in its pod. `state` is empty, or
    one of `OUT` and `LATER`, and `why` its reason. `slot` is the key without its pod or plane: switches
    of different pods in the same place share one. `chosen` says where the brief chose its model, `called` where its name
    stands, and a leaf's `lanes` how many links it has to each spine. `group` is what its kind of rack says, and not which racks
    are of it: more of them are no other leaf.
    """

    key: str
    name: Name
    role: str
    rack: Name
    unit: int
    type: SwitchType
    origin: str
    plan: Plan
    chosen: Resolved[str]
    called: Resolved[str]
    lanes: Resolved[int] | None = None
    pod: str = ""
    plane: int = 0
    state: str = ""
    why: str = ""
    slot: str = ""
    group: RackGroup | None = None

    @property
    def standing(self) -> Standing:
        """Where it stands on the Ladder."""
        kind = (self.group.kind if self.group else None) or ""
        return Standing(self.role, self.type.id, self.pod, kind, self.rack, self.key)

    @property
    def tier(self) -> str:
        """`leaf`, `spine` or `super-spine`."""
        return self.role if self.role in ("spine", "super-spine") else "leaf"

    @property
    def is_leaf(self) -> bool:
        return self.group is not None

    @property
    def is_spine(self) -> bool:
        """A spine or super-spine: a switch without hosts."""
        return self.group is None


@dataclass(frozen=True, slots=True)
class Link:
    """One cable's worth of a crossing. `lane` counts the parallel links of the crossing from 1; `kind` is `fabric` or `peer`.

    The upper end is nearer the top of the fabric; of a peer link it is the first leaf of the pair.
    """

    key: str
    upper: Switch
    lower: Switch
    lane: int
    speed: int
    kind: str = "fabric"


@dataclass(frozen=True, slots=True)
class OutsideEnd:
    """A link to a system outside, with the name and ASN of that system."""

    key: str
    system: Name
    kind: str
    asn: int
    switch: Switch
    said: OutsideLink
    speed: int
    origin: str


@dataclass(frozen=True)
class Structure:
    """All switches, tier by tier. Links are made when they are asked for, since the sums do without them.

    `plans` are the port plans by what they are made of, and `links_before` the links up from each switch in a structure before this one:
    where it and those above it are the very same, so are the links.
    """

    supers: tuple[Switch, ...]
    spines: tuple[Switch, ...]
    leaves: tuple[Switch, ...]
    super_links: int = 1
    outside: tuple[OutsideEnd, ...] = ()
    marked: Mapping[str, tuple[str, str]] = field(default_factory=dict)
    plans: Mapping[tuple[str, str, str, bool, int], Plan] = field(default_factory=dict, repr=False, compare=False)
    links_before: Mapping[str, tuple[Link, ...]] = field(default_factory=dict, repr=False, compare=False)

    @cached_property
    def switches(self) -> tuple[Switch, ...]:
        return self.supers + self.spines + self.leaves

    @cached_property
    def by_key(self) -> dict[str, Switch]:
        return {switch.key: switch for switch in self.switches}

    @cached_property
    def places(self) -> dict[str, int]:
        """The place of each switch in the whole fabric, counted from 0, by its key."""
        return {switch.key: place for place, switch in enumerate(self.switches)}

    @cached_property
    def pods(self) -> dict[str, tuple[Switch, ...]]:
        """The spines of each pod."""
        found: dict[str, list[Switch]] = {}
        for spine in self.spines:
            found.setdefault(spine.pod, []).append(spine)
        return {pod: tuple(spines) for pod, spines in found.items()}

    @cached_property
    def planes(self) -> dict[int, tuple[Switch, ...]]:
        """The super-spines of each plane."""
        found: dict[int, list[Switch]] = {}
        for switch in self.supers:
            found.setdefault(switch.plane, []).append(switch)
        return {plane: tuple(switches) for plane, switches in found.items()}

    @cached_property
    def pairs(self) -> tuple[tuple[Switch, Switch], ...]:
        """The two leaves of each rack whose leaves are paired."""
        racks: dict[str, list[Switch]] = {}
        for leaf in self.leaves:
            if leaf.group is not None and leaf.group.pairing != "independent":
                racks.setdefault(leaf.rack, []).append(leaf)
        return tuple((leaves[0], leaves[1]) for leaves in racks.values())

    def lanes_of(self, leaf: Switch) -> int:
        """Parallel links from a leaf to each spine of its pod."""
        return leaf.lanes.value if leaf.lanes else 0

    @cached_property
    def links(self) -> tuple[Link, ...]:
        """Leaf by leaf and spine by spine, then spines to super-spines, then the peer links of pairs."""
        up = [link for links in self.links_up.values() for link in links]
        return tuple(up + self._peer_links())

    @cached_property
    def links_up(self) -> dict[str, tuple[Link, ...]]:
        """The links from each leaf to its spines, and from each spine to its super-spines, by the key of the lower end."""
        found: dict[str, tuple[Link, ...]] = {}
        for leaf in self.leaves:
            found[leaf.key] = self._links_from(leaf, self.pods.get(leaf.pod, ()), self.lanes_of(leaf))
        for spine in self.spines:
            found[spine.key] = self._links_from(spine, self.planes.get(spine.plane, ()), self.super_links)
        return found

    def _links_from(self, lower: Switch, above: tuple[Switch, ...], lanes: int) -> tuple[Link, ...]:
        before = self.links_before.get(lower.key, ())
        if before and before[0].lower is lower and _lead_to(before, above, lanes):
            return before
        links: list[Link] = []
        for upper in above:
            speed, stem = link_speed(upper.plan, lower.plan), f"{lower.key}~{upper.key}~"
            links += [Link(f"{stem}{lane}", upper, lower, lane, speed) for lane in range(1, lanes + 1)]
        return tuple(links)

    def _peer_links(self) -> list[Link]:
        links: list[Link] = []
        for one, two in self.pairs:
            if one.group is None or one.group.pairing != "peer-link":
                continue
            speed = max(one.plan.peer[0].speeds)
            for lane in range(1, one.group.peer_links + 1):
                links.append(Link(f"{one.key}~{two.key}~{lane}", one, two, lane, speed, "peer"))
        return links

    def state_of(self, link: Link) -> tuple[str, str]:
        """The state of a link and its reason: its own, or that of an end of it."""
        if not self.marked:
            return "", ""
        own = self.marked.get(link.key)
        if own:
            return own
        ends = [end for end in (link.upper, link.lower) if end.state]
        ends.sort(key=lambda end: end.state == OUT)
        return (ends[0].state, ends[0].why or f"{ends[0].name} is {ends[0].state}") if ends else ("", "")

    def state_of_outside(self, end: OutsideEnd) -> tuple[str, str]:
        """The state of a link to the outside and its reason: that of its port, or of its switch."""
        return self.marked.get(f"{end.switch.key}:{end.said.port}") or (end.switch.state, end.switch.why)


def _lead_to(links: tuple[Link, ...], above: tuple[Switch, ...], lanes: int) -> bool:
    """Whether links lead to just these switches, by so many lanes each."""
    return len(links) == len(above) * lanes and all(
        link.upper is upper for link, upper in zip(links[::lanes], above, strict=True)
    )


def link_speed(upper: Plan, lower: Plan) -> int:
    """The highest speed in Gbit/s that both ends support; 0 when there is none."""
    known, speed = upper.met.get(id(lower), (None, 0))
    if known is not lower:
        speed = max(upper.down_speeds & lower.up_speeds, default=0)
        upper.met[id(lower)] = lower, speed
    return speed
