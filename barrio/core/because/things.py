"""The chains of things that are no value of a switch's model: cables by label, numbers by use and key."""

from __future__ import annotations

from barrio.core.because.cables import cable_steps
from barrio.core.because.chain import Step, ledger_step
from barrio.core.because.laid import further_steps
from barrio.core.because.place import Place, asn_steps, numbers_step
from barrio.core.because.segments import vlan_or_vni_steps
from barrio.core.because.values import of_value
from barrio.core.brief.document import Document
from barrio.core.compiled import Compiled
from barrio.core.ledger.demand import asn_key


def of_cable(document: Document, compiled: Compiled, label: str) -> tuple[Step, ...]:
    """The chain of the cable with this label. Raises `KeyError` when there is none."""
    end = next((end for end in compiled.ends if end.label == label), None)
    if end is None:
        place = compiled.laid.by_label.get(label)
        if place is not None and compiled.laid.cables[place].use not in ("fabric", "outside"):
            return tuple(further_steps(document, compiled, place))
        key = compiled.laid.cables[place].link if place is not None else ""
        return of_number(document, compiled, "cable", key)
    return tuple(cable_steps(document, compiled, end))


_NOUN_PATH = {
    "loopback.v4": "loopback_v4", "loopback.v6": "loopback_v6", "vtep.v4": "vtep", "management.v4": "management/address",
}  # fmt: skip


def of_number(document: Document, compiled: Compiled, use: str, key: str) -> tuple[Step, ...]:
    """The chain of a number in the ledger. Raises `KeyError` when the fabric does not hold it."""
    if key not in compiled.allocation.numbers.get(use, {}):
        raise KeyError(f"{use} of {key}")
    if use in _NOUN_PATH:
        switch = compiled.switch(f"leaf/{key[5:]}/a" if key.startswith("pair/") else key)
        assert switch is not None
        return of_value(document, compiled, f"switches/{switch.name}/{_NOUN_PATH[use]}")
    if use in ("link.v4", "link.v6"):
        end = next(end for end in compiled.ends if end.link.key == key)
        return of_value(document, compiled, f"switches/{end.link.upper.name}/fabric_ports/{end.upper_port}/{use[-2:]}")
    if use == "cable":
        away = next((end for end in compiled.structure.outside if end.key == key), None)
        if away is not None:
            return of_value(document, compiled, f"switches/{away.switch.name}/outside_ports/{away.said.port}/cable")
        return tuple(cable_steps(document, compiled, next(end for end in compiled.ends if end.link.key == key)))
    anyone = next(iter(compiled.models.values()))
    place = Place(document, compiled, anyone, {}, "")
    if use == "asn":
        if key == "overlay":
            return of_value(document, compiled, f"switches/{anyone.name}/common/overlay_asn")
        brief = compiled.brief
        owner = next(one for one in compiled.structure.switches if asn_key(brief, one) == key)
        return tuple(asn_steps(place, owner.key))
    if use == "pair":
        return of_value(document, compiled, f"switches/{_first_leaf(compiled, key[5:])}/pair/mac")
    if use.startswith("outside."):
        link, vrf = key.rsplit("/", 1)
        out = next(end for end in compiled.structure.outside if end.key == link)
        session = next(
            one for one in compiled.models[out.switch.key].outside if one.port == out.said.port and one.vrf == vrf
        )
        return of_value(document, compiled, f"switches/{out.switch.name}/outside/{session.label}/{use[-2:]}")
    if use.partition(".")[0] in ("vlan", "vni"):
        return tuple(vlan_or_vni_steps(place, use, key))
    if use.startswith("segment."):
        name = key.split("/", 1)[1]
        return (
            ledger_step(compiled, use, key),
            place.brief(f"segments.{name}.{use[-2:]}", f"Segment {name} asks for it"),
            numbers_step(place, use),
        )
    steps = [ledger_step(compiled, use, key)]
    steps.append(
        place.brief("uplinks_per_spine", "Each position serves one other switch, in the order in which they came")
    )
    return tuple(steps)


def _first_leaf(compiled: Compiled, rack: str) -> str:
    return next(leaf.name for leaf in compiled.structure.leaves if leaf.rack == rack)
