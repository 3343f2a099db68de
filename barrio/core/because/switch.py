"""Why a switch has its name, place, ASN, addresses and management."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.because.cables import state_steps
from barrio.core.because.chain import Step, ledger_step, resolved_step, rule_step
from barrio.core.because.place import LINKS, Place, asn_steps, numbers_step, presence_steps, rule
from barrio.core.ledger.demand import vtep_key


@rule("name", "key", "fqdn")
def _name(place: Place) -> Iterator[Step]:
    key, called = place.switch.key, place.compiled.structure.by_key[place.switch.key].called
    if called.path:
        yield place.brief(called.path, f"The brief calls {key} {place.switch.name}; its key, and so its numbers, stay")
    else:
        yield rule_step(f"A switch is called after its role and place: {key} is {place.switch.name}", "naming rule")
    if place.path == "fqdn":
        yield place.brief("services.domain", f"The domain is {place.switch.common.domain}")
    yield from presence_steps(place)


@rule("rack", "unit")
def _rack(place: Place) -> Iterator[Step]:
    brief = place.compiled.brief
    if place.switch.role == "spine":
        yield place.brief("spines.racks", f"Spines stand in {brief.spines.racks}, filled in turn")
    elif place.switch.role == "super-spine" and brief.super_spines:
        yield place.brief("super_spines.racks", f"Super-spines stand in {brief.super_spines.racks}, filled in turn")
    else:
        yield from presence_steps(place)


@rule("role", "is_leaf")
def _role(place: Place) -> Iterator[Step]:
    if place.switch.role == "border":
        group = place.compiled.structure.by_key[place.switch.key].origin.removesuffix(".racks")
        yield place.brief(f"{group}.role", f"Leaves of rack {place.switch.rack} are border leaves")
    yield from presence_steps(place)


@rule("hardware", "model")
def _model(place: Place) -> Iterator[Step]:
    switch = place.compiled.switch(place.switch.key)
    assert switch is not None
    yield Step("catalogue", switch.type.title, f"catalogue, {switch.type.id}", {"model": switch.type.id})
    yield resolved_step(place.document, switch.chosen, f"The brief chose {switch.type.id}")


@rule("process_asn")
def _process_asn(place: Place) -> Iterator[Step]:
    common = place.switch.common
    if common.ibgp_overlay and common.ebgp:
        yield rule_step("BGP runs in the overlay's AS, and fabric sessions show the switch's own", "RFC 7705, 3.3")
        yield ledger_step(place.compiled, "asn", "overlay")
        yield place.brief("overlay.protocol", "The overlay is iBGP")
        yield numbers_step(place, "asn")
    else:
        yield from asn_steps(place, place.switch.key)


@rule("asn")
def _asn(place: Place) -> Iterator[Step]:
    yield from asn_steps(place, place.switch.key)


@rule("router_id", "loopback_v4")
def _loopback(place: Place) -> Iterator[Step]:
    if place.path == "router_id":
        yield rule_step("The router id is the IPv4 loopback, which is unique in the site", "RFC 6286, 2.1")
    yield ledger_step(place.compiled, "loopback.v4", place.switch.key)
    yield numbers_step(place, "loopback.v4")
    yield from presence_steps(place)


@rule("loopback_v6")
def _loopback6(place: Place) -> Iterator[Step]:
    if place.switch.loopback_v6:
        yield ledger_step(place.compiled, "loopback.v6", place.switch.key)
        yield numbers_step(place, "loopback.v6")
    yield place.brief("underlay.addressing", LINKS[place.switch.common.addressing])


@rule("router_mac")
def _router_mac(place: Place) -> Iterator[Step]:
    yield rule_step(
        "A switch has a MAC of its own, out of the four octets of its loopback", "RFC 9135, 6.1; IEEE 802, 8.4.4.2"
    )
    yield ledger_step(place.compiled, "loopback.v4", place.switch.key)
    yield numbers_step(place, "loopback.v4")


@rule("tenant_paths")
def _tenant_paths(place: Place) -> Iterator[Step]:
    yield rule_step(
        "In a VRF paths differ by their tunnel ends, not by spines: as many as the chip holds", "RFC 9136, 4.4"
    )
    switch = place.compiled.structure.by_key[place.switch.key]
    yield Step(
        "catalogue",
        f"{switch.type.title}, ECMP {switch.type.tables.ecmp}",
        f"catalogue, {switch.type.id}",
        {"model": switch.type.id},
    )


@rule("vtep")
def _vtep(place: Place) -> Iterator[Step]:
    switch = place.compiled.structure.by_key[place.switch.key]
    key = vtep_key(switch)
    yield ledger_step(place.compiled, "vtep.v4", key)
    if key == switch.key:
        yield rule_step("A leaf ends VXLAN tunnels at an address of its own", "RFC 8365, 5")
    else:
        yield rule_step(
            "Both leaves of a pair end tunnels at one address, so that either can serve a host", "RFC 8365, 8"
        )
    yield numbers_step(place, "vtep.v4")
    yield from presence_steps(place)


@rule("max_paths")
def _max_paths(place: Place) -> Iterator[Step]:
    brief = place.compiled.brief
    if brief.underlay.max_paths:
        yield place.brief("underlay.max_paths", f"The brief bounds ECMP at {brief.underlay.max_paths} paths")
        return
    if place.switch.is_leaf:
        yield rule_step("A leaf uses as many equal paths as it has uplinks", "RFC 7938, 6.1")
        yield place.brief("spines.count", f"The brief asks for {brief.spines.count} spines")
    elif brief.super_spines:
        yield rule_step(
            "A spine uses all its links up to its plane, a super-spine all links to one spine", "RFC 7938, 6.1"
        )
        yield place.brief("super_spines.per_plane", f"{brief.super_spines.per_plane} super-spines in each plane")
    else:
        yield rule_step("A spine reaches a leaf by all the links of their crossing", "RFC 7938, 6.1")
    yield place.brief("uplinks_per_spine", f"{brief.uplinks_per_spine} to each spine")


@rule("state")
def _state(place: Place) -> Iterator[Step]:
    keys = (place.switch.key, f"rack/{place.switch.rack}")
    yield from state_steps(place.document, place.compiled, keys)
    yield from presence_steps(place)


@rule("net")
def _net(place: Place) -> Iterator[Step]:
    yield rule_step("The IS-IS address is one area and the digits of the loopback", "RFC 1195, 5.2")
    yield ledger_step(place.compiled, "loopback.v4", place.switch.key)
    yield place.brief("underlay.protocol", "The underlay is IS-IS")


@rule(
    "in_overlay", "is_reflector", "sessions", "sessions/{peer}", "sessions/{peer}/(?P<field>label|address|client|shut)"
)
def _overlay(place: Place) -> Iterator[Step]:
    brief = place.compiled.brief
    if brief.overlay.protocol == "ebgp":
        yield rule_step("EVPN runs over the fabric's own sessions, on every switch", "RFC 8365, 5; RFC 7938, 5")
        yield place.brief("overlay.protocol", "The overlay is eBGP")
        return
    yield rule_step("Leaves speak EVPN to every route reflector, which tells it to the other leaves", "RFC 4456, 6")
    if place.words.get("field") == "address":
        peer = place.compiled.switch(place.words["peer"])
        assert peer is not None
        yield ledger_step(place.compiled, "loopback.v4", peer.key)
    yield place.brief("overlay.reflectors", f"{brief.overlay.reflectors} switches of the top tier reflect")
    yield place.brief("overlay.protocol", "The overlay is iBGP")


@rule("management/{field}")
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
