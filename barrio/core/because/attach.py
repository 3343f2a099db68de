"""Why a leaf is paired as it is, and why it has links to systems outside the fabric."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.because.cables import cable_steps, state_steps
from barrio.core.because.chain import Step, is_pinned, ledger_step, rule_step
from barrio.core.because.place import Place, asn_steps, numbers_step, presence_steps, rule
from barrio.core.brief.routing import OutsideVrf
from barrio.core.ledger.demand import vtep_key
from barrio.core.ledger.vlans import PEER_VLAN
from barrio.core.model.switch import OutsideSession
from barrio.core.structure.parts import OutsideEnd, Switch


def _leaf(place: Place) -> tuple[Switch, str]:
    leaf = place.compiled.structure.by_key[place.switch.key]
    return leaf, leaf.origin.removesuffix(".racks")


def _pairing_step(place: Place) -> Step:
    leaf, path = _leaf(place)
    group = leaf.group
    assert group is not None
    how = {"multihoming": "share hosts by EVPN multihoming", "peer-link": "are joined by a peer link"}
    return place.brief(f"{path}.pairing", f"The leaves of rack {leaf.rack} {how.get(group.pairing, 'are independent')}")


@rule("pair", "pair/(?P<field>multihoming|peer|first|svi|vlan|ports)")
def _pair(place: Place) -> Iterator[Step]:
    if place.words.get("field") in ("svi", "vlan") and place.switch.pair and place.switch.pair.svi:
        yield rule_step("One VLAN of the peer link is for routing between the two leaves", "numbering rule")
        yield ledger_step(place.compiled, "vlan", PEER_VLAN)
    if place.words.get("field") == "first":
        yield rule_step("The leaf named a leads its pair, and b stands by", "pairing rule")
    yield _pairing_step(place)


@rule("pair/peer_asn")
def _peer_asn(place: Place) -> Iterator[Step]:
    assert place.switch.pair is not None
    other = place.compiled.switch(place.switch.pair.peer)
    assert other is not None
    yield from asn_steps(place, other.key)
    yield _pairing_step(place)


@rule("pair/(?P<field>mac|domain)")
def _pair_mac(place: Place) -> Iterator[Step]:
    yield rule_step(
        "Both leaves answer hosts with one system MAC: the first of the brief, counted on by the pair's domain",
        "IEEE 802.1AX, 5.3.2; RFC 7432, 5",
    )
    yield ledger_step(place.compiled, "pair", f"pair/{place.switch.rack}")
    yield place.brief("overlay.pair_mac", f"System MACs count from {place.compiled.brief.overlay.pair_mac}")
    yield numbers_step(place, "pair")


@rule("pair/(?P<field>keepalive|peer_management|priority)")
def _keepalive(place: Place) -> Iterator[Step]:
    leaf, path = _leaf(place)
    assert leaf.group is not None and place.switch.pair is not None
    other = place.compiled.switch(place.switch.pair.peer)
    assert other is not None
    if place.words["field"] == "peer_management":
        yield ledger_step(place.compiled, "management.v4", other.key)
    yield place.brief(f"{path}.keepalive", f"The leaves watch each other over {leaf.group.keepalive}")


@rule("pair/ports/{port}", "pair/ports/{port}/(?P<field>label|cable|peer_port)")
def _peer_port(place: Place) -> Iterator[Step]:
    assert place.switch.pair is not None
    cable = next(port.cable for port in place.switch.pair.ports if port.label == place.words["port"])
    end = next(end for end in place.compiled.ends if end.label == cable)
    yield from cable_steps(place.document, place.compiled, end)


@rule("pair/peer_vtep")
def _peer_vtep(place: Place) -> Iterator[Step]:
    assert place.switch.pair is not None
    other = place.compiled.switch(place.switch.pair.peer)
    assert other is not None
    yield rule_step("The other leaf's tunnel end tells what it has flooded from what others did", "RFC 8365, 8.3.1")
    yield ledger_step(place.compiled, "vtep.v4", vtep_key(other))
    yield _pairing_step(place)


@rule("shared", "shared/{index}", "waiting", "waiting/{index}")
def _edge(place: Place) -> Iterator[Step]:
    words = "Both leaves serve a host on a LAG; which forwards what is for all goes by turns, port by port"
    yield rule_step(words, "RFC 8584, 3; RFC 8365, 8.3.1")
    yield _pairing_step(place)


@rule("host_lags/{lag}/(?P<field>paired|segment_id|odd)")
def _bond(place: Place) -> Iterator[Step]:
    leaf, path = _leaf(place)
    assert leaf.group is not None
    if place.words["field"] == "odd":
        yield rule_step(
            "The first leaf is preferred for odd Ethernet segments, the second for even ones", "pairing rule"
        )
    elif place.words["field"] == "segment_id":
        yield rule_step(
            "A host's Ethernet segment has the same id on both leaves: its place among the LAGs", "RFC 7432, 5"
        )
    else:
        yield rule_step("A host bonds to the same port of both leaves", "IEEE 802.1AX")
    ports = leaf.group.lags or "all host ports"
    yield place.brief(f"{path}.lags", f"LAGs over both leaves: {ports}")
    yield _pairing_step(place)


@rule(
    "outside_ports/{port}/shut",
    "outside/{session}/shut",
    "vrfs/{vrf}/sessions/{session}/shut",
)
def _shut(place: Place) -> Iterator[Step]:
    port = place.words.get("port") or place.words["session"].split(".")[0]
    key = place.switch.key
    keys = (f"{key}:{port}", f"{key}~{port}", key, f"rack/{place.switch.rack}")
    yield from state_steps(place.document, place.compiled, keys)
    yield from presence_steps(place)


@rule("outside_ports/{port}/forced_speed")
def _speed(place: Place) -> Iterator[Step]:
    end = _end(place, place.words["port"])
    yield place.brief(f"{end.origin}.speed", f"The link to {end.system} runs at {end.speed}G")


def _end(place: Place, label: str) -> OutsideEnd:
    port = label.split(".", maxsplit=1)[0]
    return next(end for end in place.compiled.structure.outside if end.key == f"{place.switch.key}~{port}")


@rule("outside_ports", "outside_ports/{port}", "outside_ports/{port}/(?P<field>label|system|far_port|cable)", "outside")
def _outside_port(place: Place) -> Iterator[Step]:
    if "port" not in place.words:
        yield place.brief("outside", f"{len(place.switch.outside_ports)} links lead outside from here")
        return
    end = _end(place, place.words["port"])
    if place.words.get("field") == "cable":
        yield ledger_step(place.compiled, "cable", end.key)
        yield rule_step("Each end's label names both ends", "TIA-606")
    yield place.brief(end.origin, f"The brief links {end.system} to {place.switch.name}, port {end.said.port}")


_POLICY = "accept_v4|accept_v6|default_in|default_out|max_prefixes|bfd|ttl_security"
_SESSION = f"label|port|vlan|vrf|system|asn|v4|v6|neighbor_v4|neighbor_v6|{_POLICY}"


@rule(
    "outside/{session}",
    f"outside/{{session}}/(?P<field>{_SESSION})",
    "vrfs/{vrf}/sessions",
    "vrfs/{vrf}/sessions/{session}",
    f"vrfs/{{vrf}}/sessions/{{session}}/(?P<field>{_SESSION})",
    "outside/{session}/(?P<field>accept_v[46])/(?P<prefix>.+)",
)
def _session(place: Place) -> Iterator[Step]:
    if "session" not in place.words:
        yield place.brief("outside", f"Links to the outside carry VRF {place.words['vrf']}")
        return
    session = next(one for one in place.switch.outside if one.label == place.words["session"])
    end, field = _end(place, session.label), place.words.get("field", "")
    path = f"{end.origin}.vrfs.{session.vrf}"
    yield from _address_steps(place, end, session, field, path)
    if field in _POLICY.split("|"):
        said = f"outside.{end.system}"
        path = (
            f"{said}.accept"
            if field.startswith("accept")
            else f"{said}.{field.removesuffix('_in').removesuffix('_out')}"
        )
        yield rule_step(
            "What a system outside may tell and is told is said in the brief, and nothing else passes", "RFC 8212"
        )
        yield place.brief(path, f"The brief says what passes between the fabric and {end.system}")
        return
    if field == "asn":
        yield place.brief(f"outside.{end.system}.asn", f"{end.system} is AS {end.asn}")
    elif field == "vlan" and session.vlan:
        yield place.brief(f"{path}.vlan", f"VRF {session.vrf} has tag {session.vlan} on this link")
    yield place.brief(path, f"The link to {end.system} carries VRF {session.vrf}")


def _address_steps(place: Place, end: OutsideEnd, session: OutsideSession, field: str, path: str) -> Iterator[Step]:
    family = field[-2:]
    said: OutsideVrf = end.said.vrfs[session.vrf]
    if family not in ("v4", "v6") or not getattr(said, family):
        return
    use, key = f"outside.{family}", f"{end.key}/{session.vrf}"
    yield rule_step("Ours is the lower address of the link, the other system's the next", "numbering rule")
    yield ledger_step(place.compiled, use, key)
    if is_pinned(place.compiled, use, key):
        yield place.brief(f"{path}.{family}", f"The brief names {getattr(said, family)}")
    else:
        yield numbers_step(place, use)
