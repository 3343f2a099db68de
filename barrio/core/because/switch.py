"""Why a switch has its name, place, ASN, addresses and management."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.because.chain import Step, ledger_step, rule_step
from barrio.core.because.place import LINKS, Place, asn_steps, numbers_step, presence_steps, rule


@rule("name", "key", "fqdn")
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
    yield from presence_steps(place)


@rule("rack", "unit")
def _rack(place: Place) -> Iterator[Step]:
    if place.switch.role == "spine":
        yield place.brief("spines.racks", f"Spines stand in {place.compiled.brief.spines.racks}, filled in turn")
    else:
        yield from presence_steps(place)


@rule("role", "is_leaf")
def _role(place: Place) -> Iterator[Step]:
    if place.switch.role == "border":
        index = next(i for i, group in enumerate(place.compiled.brief.racks) if place.switch.rack in group.rack_names)
        yield place.brief(f"racks[{index}].role", f"Leaves of rack {place.switch.rack} are border leaves")
    yield from presence_steps(place)


@rule("model")
def _model(place: Place) -> Iterator[Step]:
    switch = place.compiled.switch(place.switch.key)
    assert switch is not None
    group = "spines" if switch.is_spine else switch.origin.removesuffix(".racks")
    yield Step("catalogue", switch.type.title, f"catalogue, {switch.type.id}", {"model": switch.type.id})
    yield place.brief(f"{group}.model", f"The brief chose {switch.type.id}")


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


@rule("vtep")
def _vtep(place: Place) -> Iterator[Step]:
    yield ledger_step(place.compiled, "vtep.v4", place.switch.key)
    yield rule_step("A leaf ends VXLAN tunnels at an address of its own", "RFC 8365, 5")
    yield numbers_step(place, "vtep.v4")
    yield from presence_steps(place)


@rule("max_paths")
def _max_paths(place: Place) -> Iterator[Step]:
    if place.switch.is_leaf:
        yield rule_step("A leaf uses as many equal paths as it has uplinks", "RFC 7938, 6.1")
        yield place.brief("spines.count", f"The brief asks for {place.compiled.brief.spines.count} spines")
    else:
        yield rule_step("A spine reaches a leaf by all the links of their crossing", "RFC 7938, 6.1")
    lanes = place.compiled.brief.uplinks_per_spine
    yield place.brief("uplinks_per_spine", f"{lanes} to each spine")


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
