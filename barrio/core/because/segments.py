"""Why segments and VRFs are on a switch, with their numbers."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.because.chain import Step, is_pinned, ledger_step, rule_step
from barrio.core.because.place import Place, numbers_step, presence_steps, rule
from barrio.core.brief.reader import quoted
from barrio.core.ledger.pool import Family, family_of, prefix_text
from barrio.core.ledger.prefixes import secondaries
from barrio.core.ledger.vlans import PEER_VLAN, vlan_use


@rule("edge_ports", "edge_ports/{index}")
def _edge_port(place: Place) -> Iterator[Step]:
    yield rule_step(
        "Hosts are guarded where they join the bridge: at their port, or the LAG it is in", "IEEE 802.1Q, 8.6.3"
    )
    yield from presence_steps(place)


@rule("bridge_ports", "bridge_ports/{index}")
def _bridge_port(place: Place) -> Iterator[Step]:
    yield rule_step("The bridge joins the host ports with the tunnels of the rack's segments", "RFC 7348, 4")
    yield from presence_steps(place)


def _segment_brief(place: Place, name: str) -> Iterator[Step]:
    racks = place.compiled.brief.segments[name].racks
    where = f"on racks {racks}" if racks else "on every rack"
    yield place.brief(f"segments.{name}.racks" if racks else f"segments.{name}", f"Segment {name} is {where}")


@rule(
    "segments",
    "segments/{segment}",
    "segments/{segment}/label",
    "segments/{segment}/untagged",
    "segments/{segment}/ra",
    "segments/{segment}/slaac",
    "(?P<list>vlans|snooped|flooded)",
    "(?P<list>vlans|snooped|flooded)/{index}",
)
def _segment(place: Place) -> Iterator[Step]:
    if "segment" in place.words:
        if place.path.endswith(("/ra", "/slaac")):
            segment = place.words["segment"]
            yield place.brief(f"segments.{segment}.ra", "The brief says what router advertisements tell hosts")
        yield from _segment_brief(place, place.words["segment"])
        return
    if "index" not in place.words:
        yield place.brief("segments", f"{len(place.switch.segments)} segments reach rack {place.switch.rack}")
        return
    vlan = getattr(place.switch, place.words["list"])[int(place.words["index"])]
    if place.switch.pair and vlan == place.switch.pair.vlan:
        yield from vlan_or_vni_steps(place, "vlan", PEER_VLAN)
    for part in place.switch.segments:
        if part.vlan == vlan:
            yield from vlan_steps(place, part.label)
    for routed in place.switch.vrfs:
        if routed.vlan == vlan:
            yield from vlan_or_vni_steps(place, "vlan", f"vrf/{routed.label}")


def vlan_or_vni_steps(place: Place, use: str, key: str) -> Iterator[Step]:
    yield ledger_step(place.compiled, use, key)
    if key == PEER_VLAN:
        yield rule_step("One VLAN of the peer links is for routing between the leaves of a pair", "numbering rule")
        yield place.brief("racks", "The brief joins pairs by peer links")
        return
    kind, name = key.split("/", 1)
    if kind == "segment":
        if use.startswith("vlan."):
            yield rule_step("A VLAN is local to a bridge; the VNI is what joins the racks", "RFC 8365, 5.1.2")
            yield place.brief(
                f"segments.{name}.scope", f"The brief lets each rack choose its own VLAN for segment {name}"
            )
        if is_pinned(place.compiled, use, key):
            yield place.brief(f"segments.{name}.{use}", f"The brief pins it for segment {name}")
        yield from _segment_brief(place, name)
    else:
        yield rule_step(
            "Each VRF has an L3 VNI, and a VLAN to carry it, for routes between leaves",
            "RFC 9136, 4.4.1; RFC 9135, 5",
        )
        yield place.brief(f"vrfs.{name}", f"The brief has a VRF {name}")


@rule("segments/{segment}/(?P<field>vlan|svi)", "vrfs/{vrf}/(?P<field>vlan|svi)")
def _vlan(place: Place) -> Iterator[Step]:
    if "segment" in place.words:
        yield from vlan_steps(place, place.words["segment"])
    else:
        yield from vlan_or_vni_steps(place, "vlan", _owner(place))


def vlan_steps(place: Place, name: str) -> Iterator[Step]:
    """The VLAN of a segment on the switch in question."""
    yield from vlan_or_vni_steps(place, vlan_use(place.compiled.brief, name, place.switch.rack), f"segment/{name}")


@rule("segments/{segment}/(?P<field>vni|vxlan)", "vrfs/{vrf}/(?P<field>vni|vxlan)")
def _vni(place: Place) -> Iterator[Step]:
    yield from vlan_or_vni_steps(place, "vni", _owner(place))


def _owner(place: Place) -> str:
    return f"segment/{place.words['segment']}" if "segment" in place.words else f"vrf/{place.words['vrf']}"


@rule("segments/{segment}/rd", "vrfs/{vrf}/rd")
def _rd(place: Place) -> Iterator[Step]:
    yield rule_step(
        "A route distinguisher is the router id and the VLAN, unique to this switch and VLAN",
        "RFC 7432, 7.9; RFC 4364, 4.2",
    )
    yield ledger_step(place.compiled, "loopback.v4", place.switch.key)
    yield from _vlan(place)


@rule("segments/{segment}/route_target", "vrfs/{vrf}/route_target")
def _route_target(place: Place) -> Iterator[Step]:
    yield rule_step(
        "A route target is one AS number and the VNI, the same on every leaf, so that all import it",
        "RFC 8365, 5.1.2.1",
    )
    yield place.brief(
        "overlay.route_target_as", f"Route targets start with {place.compiled.brief.overlay.route_target_as}"
    )
    yield from vlan_or_vni_steps(place, "vni", _owner(place))


@rule("segments/{segment}/vrf")
def _segment_vrf(place: Place) -> Iterator[Step]:
    name = place.words["segment"]
    yield place.brief(f"segments.{name}.vrf", f"Segment {name} is routed in {place.compiled.brief.segments[name].vrf}")


@rule("segments/{segment}/gateway_{family}")
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


@rule("segments/{segment}/local")
def _local(place: Place) -> Iterator[Step]:
    name = place.words["segment"]
    yield place.brief(f"segments.{name}.scope", f"The brief says where the VLAN of segment {name} is the same")


@rule("segments/{segment}/(?P<field>mtu|suppress|snoop|asked_v6)")
def _own_word(place: Place) -> Iterator[Step]:
    name, field = place.words["segment"], place.words["field"]
    if field == "mtu" and place.compiled.brief.segments[name].mtu is None:
        yield place.brief("overlay.host_mtu", f"Hosts may send {place.compiled.brief.overlay.host_mtu} bytes")
        return
    if field == "asked_v6":
        asking = [one for one, said in place.compiled.brief.segments.items() if said.relay]
        where = f"segments.{asking[0]}.relay" if asking else f"segments.{name}"
        yield place.brief(where, "The brief says which DHCP servers hosts ask")
        return
    what = {
        "mtu": "how much a packet of it may hold",
        "suppress": "whether leaves answer ARP and ND for hosts of it",
        "snoop": "who gets what is sent to a group",
    }[field]
    word = "multicast" if field == "snoop" else field
    yield place.brief(f"segments.{name}.{word}", f"Segment {name} says {what}")


@rule("segments/{segment}/secondary", "segments/{segment}/secondary/(?P<prefix>.+)")
def _secondary(place: Place) -> Iterator[Step]:
    name = place.words["segment"]
    yield rule_step("The gateway is the first address of the prefix, the same on every leaf", "RFC 9135, 4.1")
    yield place.brief(f"segments.{name}.secondary", f"Segment {name} has more prefixes than one")


@rule(
    "relays",
    "relays/{relay}",
    "relays/{relay}/(?P<field>.+)",
    "vrfs/{vrf}/sources",
    "vrfs/{vrf}/sources/(?P<source>.+)",
)
def _relay(place: Place) -> Iterator[Step]:
    relay = next((one for one in place.switch.relays if one.label == place.words.get("relay")), None)
    vrf = relay.vrf if relay else place.words.get("vrf", "")
    field = place.words.get("field", "")
    if field == "source" or "source" in place.words:
        v6 = relay.v6 if relay else ":" in place.words["source"]
        yield rule_step(
            "A leaf asks DHCP servers from an address that no other leaf has, so that they answer it", "RFC 3527, 3"
        )
        yield ledger_step(place.compiled, f"relay.{'v6' if v6 else 'v4'}", f"{place.switch.key}~{vrf}")
        yield numbers_step(place, "relay")
    clients = {str(device) for device in (*relay.clients, *relay.both)} if relay else None
    for segment in place.switch.segments:
        said = place.compiled.brief.segments[segment.label]
        if said.relay and (
            segment.svi in clients if clients is not None else not vrf or (said.relay.vrf or said.vrf) == vrf
        ):
            yield place.brief(
                f"segments.{segment.label}.relay", f"Segment {segment.label} says which servers its hosts ask"
            )
            return
    yield place.brief("segments", "No segment here has a DHCP server elsewhere")


@rule("vrfs/{vrf}/routes_v[46]", "vrfs/{vrf}/routes_v[46]/(?P<route>.+)")
def _route(place: Place) -> Iterator[Step]:
    vrf, route = place.words["vrf"], place.words.get("route", "")
    prefix = next((one for one in place.compiled.brief.vrfs[vrf].routes if route.startswith(f"{one} ")), None)
    if prefix is None:
        yield place.brief(f"vrfs.{vrf}.routes", f"VRF {vrf} has no static route over this switch")
        return
    yield rule_step(
        "A static route is on the leaves that have its next hop beside them; they tell the others", "RFC 9136, 4.4"
    )
    yield place.brief(f"vrfs.{vrf}.routes.{quoted(prefix)}", f"The brief says what leads to {prefix}")


@rule("vrfs/{vrf}/imports", "vrfs/{vrf}/imports/{other}", "vrfs/{vrf}/imports/{other}/(?P<field>.+)")
def _imports(place: Place) -> Iterator[Step]:
    vrf, other = place.words["vrf"], place.words.get("other")
    if other is None:
        yield place.brief(f"vrfs.{vrf}.imports", f"VRF {vrf} says what it takes from others")
        return
    yield rule_step("A VRF takes from another what is named, and nothing else", "RFC 4364, 4.3.5")
    yield place.brief(f"vrfs.{vrf}.imports.{other}", f"VRF {vrf} imports from {other}")


@rule("vrfs/{vrf}/covers_v[46]", "vrfs/{vrf}/covers_v[46]/(?P<prefix>.+)")
def _covers(place: Place) -> Iterator[Step]:
    vrf = place.words["vrf"]
    yield rule_step("Systems outside are told one prefix in place of all those within it", "RFC 4632, 5.1")
    yield place.brief(f"vrfs.{vrf}.aggregates", f"The brief says what is told of VRF {vrf}")


@rule("vrfs/{vrf}/own_v[46]", "vrfs/{vrf}/own_(?P<family>v[46])/(?P<prefix>.+)")
def _own(place: Place) -> Iterator[Step]:
    vrf, brief = place.words["vrf"], place.compiled.brief
    yield rule_step("Systems outside are told the prefixes of the VRF's own segments", "RFC 8212; RFC 7454, 6")
    prefix = place.words.get("prefix", "").removesuffix("/prefix").removesuffix("/label")
    said = brief.vrfs[vrf]
    if prefix in said.aggregates:
        yield place.brief(f"vrfs.{vrf}.aggregates", f"{prefix} is told in place of what it covers")
        return
    if prefix in said.routes:
        yield place.brief(f"vrfs.{vrf}.routes.{quoted(prefix)}", f"{prefix} is reached by way of VRF {vrf}")
        return
    family = Family(place.words.get("family", "v4"))
    beside = {value: key for key, value in secondaries(brief, family).items()}
    if prefix in beside:
        name = beside[prefix].removeprefix("segment/").split("~")[0]
        yield place.brief(f"segments.{name}.secondary", f"{prefix} is a further prefix of segment {name}")
        return
    for name, segment in brief.segments.items():
        use, key = f"segment.{place.words.get('family')}", f"segment/{name}"
        taken = place.compiled.allocation.numbers.get(use, {}).get(key)
        if segment.vrf == vrf and taken and prefix_text(family_of(use), *taken) == prefix:
            yield ledger_step(place.compiled, use, key)
            yield place.brief(f"segments.{name}.vrf", f"Segment {name} is routed in {vrf}")
            return
    yield place.brief(f"vrfs.{vrf}", f"The brief has a VRF {vrf}")


@rule("vrfs", "vrfs/{vrf}", "vrfs/{vrf}/label", "vrfs/{vrf}/has_v4", "vrfs/{vrf}/has_v6")
def _vrf(place: Place) -> Iterator[Step]:
    if "vrf" not in place.words:
        yield place.brief("vrfs", f"{len(place.switch.vrfs)} VRFs have a segment in rack {place.switch.rack}")
        return
    name = place.words["vrf"]
    here = [part.label for part in place.switch.segments if part.vrf == name]
    here += [part.system for part in place.switch.outside if part.vrf == name]
    takers = [one.label for one in place.switch.vrfs if any(other.label == name for other in one.imports)]
    if here:
        words = f"A VRF is on a leaf that has a segment or a link of it: {', '.join(here)}"
    elif takers:
        words = f"A VRF is on a leaf where another takes routes from it: {', '.join(takers)}"
    else:
        words = "A VRF is on a leaf whose hosts ask DHCP servers in it"
    yield rule_step(words, "numbering rule")
    yield place.brief(f"vrfs.{name}", f"The brief has a VRF {name}")
