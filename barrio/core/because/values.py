"""Why a value is what it is: one rule for each kind of path below `switches/<name>/`, found by pattern."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from barrio.core.because.cables import cable_steps
from barrio.core.because.chain import Step, brief_step, is_pinned, ledger_step, pool_of, rule_step
from barrio.core.brief.document import Document
from barrio.core.compile import Compiled
from barrio.core.ledger.demand import asn_key
from barrio.core.model.build import Ends
from barrio.core.model.switch import SwitchModel


@dataclass(frozen=True, slots=True)
class Place:
    """What a rule gets: everything compiled, the switch, and the words its pattern caught."""

    document: Document
    compiled: Compiled
    switch: SwitchModel
    words: dict[str, str]
    path: str

    def brief(self, path: str, title: str) -> Step:
        return brief_step(self.document, path, title)

    def end(self) -> Ends:
        port = next(port for port in self.switch.fabric_ports if port.label == self.words["port"])
        return next(end for end in self.compiled.ends if end.link.key == port.link)


_Rule = Callable[[Place], Iterator[Step]]
_RULES: list[tuple[re.Pattern[str], _Rule]] = []


def _rule(*patterns: str) -> Callable[[_Rule], _Rule]:
    """Register a rule for paths below `switches/<name>/`; `{x}` in a pattern catches one step as `x`."""

    def register(rule: _Rule) -> _Rule:
        for pattern in patterns:
            _RULES.append((re.compile(re.sub(r"\{(\w+)\}", r"(?P<\1>[^/]+)", pattern)), rule))
        return rule

    return register


def of_value(document: Document, compiled: Compiled, path: str) -> tuple[Step, ...]:
    """The chain of reasons for the value at a path, nearest reason first.

    Raises `KeyError` when no value has this path.
    """
    found = re.fullmatch(r"switches/([^/]+)/(.+)", path)
    switch = compiled.switch(found[1]) if found else None
    if found is None or switch is None:
        raise KeyError(path)
    model = compiled.models[switch.key]
    for pattern, rule in _RULES:
        match = pattern.fullmatch(found[2])
        if match:
            try:
                return tuple(rule(Place(document, compiled, model, match.groupdict(), found[2])))
            except StopIteration:
                raise KeyError(path) from None
    raise KeyError(path)


def numbers_step(place: Place, use: str) -> Step:
    _, name = pool_of(place.compiled, use)
    return place.brief(f"numbers.{name}", f"The brief draws these from {getattr(place.compiled.brief.numbers, name)}")


def _presence(place: Place) -> Iterator[Step]:
    """Why the switch itself is there."""
    switch = place.compiled.switch(place.switch.key)
    assert switch is not None
    brief = place.compiled.brief
    if switch.is_spine:
        yield place.brief("spines.count", f"The brief asks for {brief.spines.count} spines; this is {switch.key}")
    else:
        group = switch.origin.removesuffix(".racks")
        leaves = "a pair of leaves" if switch.key.endswith("/b") or _is_pair(place, group) else "one leaf"
        yield place.brief(switch.origin, f"The brief puts {leaves} in rack {switch.rack}")


def _is_pair(place: Place, group: str) -> bool:
    return place.compiled.brief.racks[int(group[6:-1])].leaves == 2


# The switch


@_rule("name", "key", "fqdn")
def _name(place: Place) -> Iterator[Step]:
    key = place.switch.key
    if key in place.compiled.brief.names:
        yield place.brief(
            f'names."{key}"', f"The brief calls {key} {place.switch.name}; its key, and so its numbers, stay"
        )
    else:
        yield rule_step(f"A switch is called after its role and place: {key} is {place.switch.name}", "naming rule")
    if place.path == "fqdn":
        yield place.brief("services.domain", f"The domain is {place.switch.common.domain}")
    yield from _presence(place)


@_rule("rack", "unit")
def _rack(place: Place) -> Iterator[Step]:
    if place.switch.role == "spine":
        yield place.brief("spines.racks", f"Spines stand in {place.compiled.brief.spines.racks}, filled in turn")
    else:
        yield from _presence(place)


@_rule("role", "is_leaf")
def _role(place: Place) -> Iterator[Step]:
    if place.switch.role == "border":
        index = next(i for i, group in enumerate(place.compiled.brief.racks) if place.switch.rack in group.rack_names)
        yield place.brief(f"racks[{index}].role", f"Leaves of rack {place.switch.rack} are border leaves")
    yield from _presence(place)


@_rule("model")
def _model(place: Place) -> Iterator[Step]:
    switch = place.compiled.switch(place.switch.key)
    assert switch is not None
    group = "spines" if switch.is_spine else switch.origin.removesuffix(".racks")
    yield Step("catalogue", switch.type.title, f"catalogue, {switch.type.id}", {"model": switch.type.id})
    yield place.brief(f"{group}.model", f"The brief chose {switch.type.id}")


@_rule("asn")
def _asn(place: Place) -> Iterator[Step]:
    yield from asn_steps(place, place.switch.key)


def asn_steps(place: Place, switch_key: str) -> Iterator[Step]:
    key = asn_key(place.compiled.brief, switch_key)
    yield ledger_step(place.compiled, "asn", key)
    if key == "spines":
        yield rule_step("The spines share one ASN, so that no path leads through two of them", "RFC 7938, 5.2.1")
    else:
        plan = place.compiled.brief.underlay.asn
        yield place.brief("underlay.asn", f"The ASN plan is {plan}")
        yield rule_step("Private ASNs are for use inside one network", "RFC 6996; RFC 7938, 5.2.2")
    yield numbers_step(place, "asn")


@_rule("router_id", "loopback_v4")
def _loopback(place: Place) -> Iterator[Step]:
    if place.path == "router_id":
        yield rule_step("The router id is the IPv4 loopback, which is unique in the site", "RFC 6286, 2.1")
    yield ledger_step(place.compiled, "loopback.v4", place.switch.key)
    yield numbers_step(place, "loopback.v4")
    yield from _presence(place)


@_rule("loopback_v6")
def _loopback6(place: Place) -> Iterator[Step]:
    if place.switch.loopback_v6:
        yield ledger_step(place.compiled, "loopback.v6", place.switch.key)
        yield numbers_step(place, "loopback.v6")
    yield place.brief("underlay.addressing", _LINKS[place.switch.common.addressing])


@_rule("vtep")
def _vtep(place: Place) -> Iterator[Step]:
    yield ledger_step(place.compiled, "vtep.v4", place.switch.key)
    yield rule_step("A leaf ends VXLAN tunnels at an address of its own", "RFC 8365, 5")
    yield numbers_step(place, "vtep.v4")
    yield from _presence(place)


@_rule("max_paths")
def _max_paths(place: Place) -> Iterator[Step]:
    if place.switch.is_leaf:
        yield rule_step("A leaf uses as many equal paths as it has uplinks", "RFC 7938, 6.1")
        yield place.brief("spines.count", f"The brief asks for {place.compiled.brief.spines.count} spines")
    else:
        yield rule_step("A spine reaches a leaf by all the links of their crossing", "RFC 7938, 6.1")
    lanes = place.compiled.brief.uplinks_per_spine
    yield place.brief("uplinks_per_spine", f"{lanes} to each spine")


@_rule("management/{field}")
def _management(place: Place) -> Iterator[Step]:
    field_name, brief = place.words["field"], place.compiled.brief
    if field_name == "interface":
        yield place.brief("management.interface", f"The out-of-band port is {brief.management.interface}")
    elif field_name == "gateway":
        if brief.management.gateway:
            yield place.brief("management.gateway", f"The brief names the gateway {brief.management.gateway}")
        else:
            yield rule_step(
                "The gateway is the first address of the management range",
                "numbering rule; reserved in the pool",
            )
            yield numbers_step(place, "management.v4")
    else:
        yield ledger_step(place.compiled, "management.v4", place.switch.key)
        yield numbers_step(place, "management.v4")


# What all switches share

_LINKS = {
    "ipv4": "Links are numbered with /31s",
    "ipv6": "Links are numbered with /127s",
    "dual": "Links are numbered with /31s and /127s",
    "unnumbered": "Links are unnumbered",
}

_COMMON = {
    "fabric": ("fabric", "The fabric is called {value}"),
    "title": ("title", "The fabric is titled {value}"),
    "domain": ("services.domain", "The domain is {value}"),
    "addressing": ("underlay.addressing", "{links}"),
    "extended_nexthop": ("underlay.addressing", "{links}"),
    "two_families": ("underlay.addressing", "{links}"),
    "unnumbered": ("underlay.addressing", "{links}"),
    "mtu": ("underlay.mtu", "Fabric links carry {value} bytes"),
    "host_mtu": ("overlay.host_mtu", "Hosts may send {value} bytes"),
    "gateway_mac": ("overlay.gateway_mac", "Every gateway answers with {value}"),
    "bfd_interval": ("underlay.bfd.interval", "A BFD packet every {value} ms"),
    "bfd_multiplier": ("underlay.bfd.multiplier", "{value} missed packets end a session"),
    "keepalive": ("underlay.timers.keepalive", "BGP keepalive every {value} s"),
    "hold": ("underlay.timers.hold", "BGP hold time {value} s"),
    "shared_asn": ("underlay.asn", "The ASN plan is {asn}"),
    "users": ("services.users", "The brief names who may sign in"),
}
_SOURCES = {
    "mtu": ("VXLAN adds 50 bytes to what hosts send", "RFC 7348, 5"),
    "host_mtu": ("VXLAN adds 50 bytes, which fabric links have room for", "RFC 7348, 5"),
    "gateway_mac": ("One gateway MAC on all leaves, so that a host may move", "RFC 9135, 4.1"),
    "bfd_interval": ("BFD finds a dead link before BGP's hold time does", "RFC 5880; RFC 5882, 4"),
    "bfd_multiplier": ("Detection time is interval × multiplier", "RFC 5880, 6.8.4"),
    "keepalive": ("A third of the hold time or less", "RFC 4271, 4.4"),
    "hold": ("Both ends use the lower of what they propose", "RFC 4271, 4.2"),
    "extended_nexthop": ("IPv4 routes with IPv6 next hops", "RFC 8950"),
}


@_rule("common/{field}")
def _common(place: Place) -> Iterator[Step]:
    name = place.words["field"]
    path, title = _COMMON[name]
    common = place.switch.common
    words = title.format(
        value=getattr(common, name), links=_LINKS[common.addressing], asn=place.compiled.brief.underlay.asn
    )
    if name in _SOURCES:
        yield rule_step(*_SOURCES[name])
    yield place.brief(path, words)


@_rule("common/(?P<kind>ntp|dns|syslog)/{index}")
def _server(place: Place) -> Iterator[Step]:
    kind, index = place.words["kind"], place.words["index"]
    noun = {"ntp": "time", "dns": "name", "syslog": "log"}[kind]
    yield place.brief(f"services.{kind}[{index}]", f"The brief names this {noun} server")


@_rule(
    "common/users/{user}",
    "common/users/{user}/label",
    "common/users/{user}/keys",
    "common/users/{user}/keys/{index}",
)
def _user(place: Place) -> Iterator[Step]:
    user, index = place.words["user"], place.words.get("index")
    path = f"services.users.{user}" + (f".keys[{index}]" if index else "")
    yield place.brief(
        path, f"The brief lets {user} sign in, by this key" if index else f"The brief lets {user} sign in"
    )


@_rule(
    "common/(?P<kind>filter_v[46])/(?P<prefix>.+)/prefix",
    "common/(?P<kind>filter_v[46])/(?P<prefix>[^/]+/\\d+)",
)
def _filter(place: Place) -> Iterator[Step]:
    prefix, brief = place.words["prefix"], place.compiled.brief
    yield rule_step("The underlay carries loopbacks and VTEP addresses, and nothing else", "RFC 7938, 5.2.3; RFC 8212")
    for name in ("loopback", "vtep"):
        pool = getattr(brief.numbers, name)
        if any(part.text == prefix for part in place.compiled.pools[pool].ranges):
            yield place.brief(f"numbers.{name}", f"{prefix} is a range of pool {pool}, which {name}s are drawn from")
            if pool in brief.pools:
                yield place.brief(f"pools.{pool}", f"The brief gives {pool} its ranges")


# Fabric ports


@_rule(
    "fabric_ports",
    "fabric_ports/{port}",
    "fabric_ports/{port}/label",
    "fabric_ports/{port}/peer",
    "fabric_ports/{port}/peer_port",
)
def _port(place: Place) -> Iterator[Step]:
    if "port" not in place.words:
        yield place.brief(
            "uplinks_per_spine",
            f"{place.compiled.brief.uplinks_per_spine} links from each leaf to each spine",
        )
        return
    link = place.end().link
    at_peer = place.path.endswith("peer_port")
    on_spine = (place.switch.key == link.spine.key) != at_peer
    lane = (
        f", link {link.lane} of {place.compiled.brief.uplinks_per_spine}"
        if place.compiled.brief.uplinks_per_spine > 1
        else ""
    )
    yield rule_step(
        f"Every leaf meets every spine: {link.leaf.name} and {link.spine.name}{lane}",
        "folded Clos; RFC 7938, 3.2",
    )
    if on_spine:
        yield ledger_step(place.compiled, "port.spine", f"{link.leaf.key}~{link.lane}")
    else:
        yield ledger_step(place.compiled, "port.leaf", f"{link.spine.key}~{link.lane}")
    switch = link.spine if on_spine else link.leaf
    yield Step("catalogue", f"{switch.type.title} has {len(switch.type.ports_for('fabric'))} fabric ports", f"catalogue, {switch.type.id}", {"model": switch.type.id})  # fmt: skip
    yield place.brief("uplinks_per_spine", f"{place.compiled.brief.uplinks_per_spine} from each leaf to each spine")


@_rule("fabric_ports/{port}/cable")
def _cable(place: Place) -> Iterator[Step]:
    yield from cable_steps(place.document, place.compiled, place.end())


@_rule("fabric_ports/{port}/peer_asn")
def _peer_asn(place: Place) -> Iterator[Step]:
    link = place.end().link
    peer = link.leaf if place.switch.key == link.spine.key else link.spine
    yield rule_step(f"The session is with {peer.name}, so it names that switch's ASN", "RFC 4271, 4.2")
    yield from asn_steps(place, peer.key)


@_rule(
    "fabric_ports/{port}/neighbor",
    "fabric_ports/{port}/neighbor6",
    "fabric_ports/{port}/v4",
    "fabric_ports/{port}/v6",
)
def _link_address(place: Place) -> Iterator[Step]:
    link = place.end().link
    addressing = place.switch.common.addressing
    name = place.path.rsplit("/", 1)[-1]
    if name == "neighbor" and addressing == "unnumbered":
        yield rule_step(
            "The session speaks to whatever router is on this port, by its link-local address",
            "RFC 4861; RFC 8950",
        )
        yield from _port(place)
        return
    six = name in ("v6", "neighbor6") or (name == "neighbor" and addressing == "ipv6")
    use = "link.v6" if six else "link.v4"
    if link.key in place.compiled.allocation.numbers.get(use, {}):
        mine = name in ("v4", "v6")
        lower = (place.switch.key == link.spine.key) == mine
        yield rule_step("The spine has the lower address of a link" if lower else "The leaf has the upper address of a link", "numbering rule")  # fmt: skip
        yield ledger_step(place.compiled, use, link.key)
        yield rule_step("A point-to-point link needs two addresses", "RFC 6164" if six else "RFC 3021")
        yield numbers_step(place, use)
    yield place.brief("underlay.addressing", _LINKS[addressing])


@_rule("fabric_ports/{port}/forced_speed")
def _speed(place: Place) -> Iterator[Step]:
    link = place.end().link
    yield Step(
        "catalogue",
        f"{link.speed}G is the highest speed that {link.leaf.type.title} and {link.spine.type.title} share",
        "catalogue",
    )
    yield place.brief("spines.model", f"The spines are {link.spine.type.title}")


# Hosts, segments, VRFs


@_rule("host_ports", "host_ports/{port}", "host_ports/{port}/label")
def _host_port(place: Place) -> Iterator[Step]:
    switch = place.compiled.switch(place.switch.key)
    assert switch is not None
    count = len(switch.type.ports_for("host"))
    yield Step(
        "catalogue",
        f"{switch.type.title} has {count} host ports",
        f"catalogue, {switch.type.id}",
        {"model": switch.type.id},
    )
    yield from _presence(place)


@_rule("bridge_ports/{index}")
def _bridge_port(place: Place) -> Iterator[Step]:
    yield rule_step("The bridge joins the host ports with the tunnels of the rack's segments", "RFC 7348, 4")
    yield from _presence(place)


def _segment_brief(place: Place, name: str) -> Iterator[Step]:
    racks = place.compiled.brief.segments[name].racks
    where = f"on racks {racks}" if racks else "on every rack"
    yield place.brief(f"segments.{name}.racks" if racks else f"segments.{name}", f"Segment {name} is {where}")


@_rule(
    "segments",
    "segments/{segment}",
    "segments/{segment}/label",
    "segments/{segment}/untagged",
    "vlans/{index}",
    "untagged/{index}",
)
def _segment(place: Place) -> Iterator[Step]:
    if "segment" in place.words:
        yield from _segment_brief(place, place.words["segment"])
        return
    if "index" not in place.words:
        yield place.brief("segments", f"{len(place.switch.segments)} segments reach rack {place.switch.rack}")
        return
    vlans = place.switch.vlans if place.path.startswith("vlans") else place.switch.untagged
    vlan = vlans[int(place.words["index"])]
    for part in place.switch.segments:
        if part.vlan == vlan:
            yield from vlan_or_vni_steps(place, "vlan", f"segment/{part.label}")
    for routed in place.switch.vrfs:
        if routed.vlan == vlan:
            yield from vlan_or_vni_steps(place, "vlan", f"vrf/{routed.label}")


def vlan_or_vni_steps(place: Place, use: str, key: str) -> Iterator[Step]:
    yield ledger_step(place.compiled, use, key)
    kind, name = key.split("/", 1)
    if kind == "segment":
        if is_pinned(place.compiled, use, key):
            yield place.brief(f"segments.{name}.{use}", f"The brief pins it for segment {name}")
        yield from _segment_brief(place, name)
    else:
        yield rule_step(
            "Each VRF has an L3 VNI, and a VLAN to carry it, for routes between leaves",
            "RFC 9136, 4.4.1; RFC 9135, 5",
        )
        yield place.brief(f"vrfs.{name}", f"The brief has a VRF {name}")


@_rule("segments/{segment}/(?P<field>vlan|svi)", "vrfs/{vrf}/(?P<field>vlan|svi)")
def _vlan(place: Place) -> Iterator[Step]:
    yield from vlan_or_vni_steps(place, "vlan", _owner(place))


@_rule("segments/{segment}/(?P<field>vni|vxlan)", "vrfs/{vrf}/(?P<field>vni|vxlan)")
def _vni(place: Place) -> Iterator[Step]:
    yield from vlan_or_vni_steps(place, "vni", _owner(place))


def _owner(place: Place) -> str:
    return f"segment/{place.words['segment']}" if "segment" in place.words else f"vrf/{place.words['vrf']}"


@_rule("segments/{segment}/rd", "vrfs/{vrf}/rd")
def _rd(place: Place) -> Iterator[Step]:
    yield rule_step(
        "A route distinguisher is the router id and the VLAN, unique to this switch and VLAN",
        "RFC 7432, 7.9; RFC 4364, 4.2",
    )
    yield ledger_step(place.compiled, "loopback.v4", place.switch.key)
    yield from vlan_or_vni_steps(place, "vlan", _owner(place))


@_rule("segments/{segment}/route_target", "vrfs/{vrf}/route_target")
def _route_target(place: Place) -> Iterator[Step]:
    yield rule_step(
        "A route target is one AS number and the VNI, the same on every leaf, so that all import it",
        "RFC 8365, 5.1.2.1",
    )
    yield place.brief(
        "overlay.route_target_as", f"Route targets start with {place.compiled.brief.overlay.route_target_as}"
    )
    yield from vlan_or_vni_steps(place, "vni", _owner(place))


@_rule("segments/{segment}/vrf")
def _segment_vrf(place: Place) -> Iterator[Step]:
    name = place.words["segment"]
    yield place.brief(f"segments.{name}.vrf", f"Segment {name} is routed in {place.compiled.brief.segments[name].vrf}")


@_rule("segments/{segment}/gateway_{family}")
def _gateway(place: Place) -> Iterator[Step]:
    name, family = place.words["segment"], place.words["family"]
    key = f"segment/{name}"
    if key in place.compiled.allocation.numbers.get(f"segment.{family}", {}):
        yield rule_step("The gateway is the first address of the prefix, the same on every leaf", "RFC 9135, 4.1")
        yield ledger_step(place.compiled, f"segment.{family}", key)
    yield place.brief(
        f"segments.{name}.{family}",
        f"Segment {name} has {'an IPv4' if family == 'v4' else 'an IPv6'} gateway",
    )


@_rule("vrfs", "vrfs/{vrf}", "vrfs/{vrf}/label", "vrfs/{vrf}/has_v4", "vrfs/{vrf}/has_v6")
def _vrf(place: Place) -> Iterator[Step]:
    if "vrf" not in place.words:
        yield place.brief("vrfs", f"{len(place.switch.vrfs)} VRFs have a segment in rack {place.switch.rack}")
        return
    name = place.words["vrf"]
    here = [part.label for part in place.switch.segments if part.vrf == name]
    yield rule_step(f"A VRF is on a leaf that has a segment of it: {', '.join(here)}", "numbering rule")
    yield place.brief(f"vrfs.{name}", f"The brief has a VRF {name}")
