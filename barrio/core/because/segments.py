"""Why segments and VRFs are on a switch, with their numbers."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.because.chain import Step, is_pinned, ledger_step, rule_step
from barrio.core.because.place import Place, presence_steps, rule
from barrio.core.ledger.demand import PEER_VLAN
from barrio.core.ledger.pool import family_of, prefix_text


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
    "vlans",
    "vlans/{index}",
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
    vlan = place.switch.vlans[int(place.words["index"])]
    if place.switch.pair and vlan == place.switch.pair.vlan:
        yield from vlan_or_vni_steps(place, "vlan", PEER_VLAN)
    for part in place.switch.segments:
        if part.vlan == vlan:
            yield from vlan_or_vni_steps(place, "vlan", f"segment/{part.label}")
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
    yield from vlan_or_vni_steps(place, "vlan", _owner(place))


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
    yield from vlan_or_vni_steps(place, "vlan", _owner(place))


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


@rule("vrfs/{vrf}/own_v[46]", "vrfs/{vrf}/own_(?P<family>v[46])/(?P<prefix>.+)")
def _own(place: Place) -> Iterator[Step]:
    vrf, brief = place.words["vrf"], place.compiled.brief
    yield rule_step("Systems outside are told the prefixes of the VRF's own segments", "RFC 8212; RFC 7454, 6")
    prefix = place.words.get("prefix", "").removesuffix("/prefix")
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
    yield rule_step(f"A VRF is on a leaf that has a segment or a link of it: {', '.join(here)}", "numbering rule")
    yield place.brief(f"vrfs.{name}", f"The brief has a VRF {name}")
