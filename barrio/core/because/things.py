"""The chains of things that are no value of a switch's model: cables by label, numbers by use and key."""

from __future__ import annotations

from barrio.core.because.cables import cable_steps
from barrio.core.because.chain import Step, ledger_step
from barrio.core.because.place import Place, asn_steps, numbers_step
from barrio.core.because.segments import vlan_or_vni_steps
from barrio.core.because.values import of_value
from barrio.core.brief.document import Document
from barrio.core.compile import Compiled


def of_cable(document: Document, compiled: Compiled, label: str) -> tuple[Step, ...]:
    """The chain of the cable with this label. Raises `KeyError` when there is none."""
    end = next((end for end in compiled.ends if end.label == label), None)
    if end is None:
        raise KeyError(label)
    return tuple(cable_steps(document, compiled, end))


_NOUN_PATH = {
    "loopback.v4": "loopback_v4", "loopback.v6": "loopback_v6", "vtep.v4": "vtep", "management.v4": "management/address",
}  # fmt: skip


def of_number(document: Document, compiled: Compiled, use: str, key: str) -> tuple[Step, ...]:
    """The chain of a number in the ledger. Raises `KeyError` when the fabric does not hold it."""
    if key not in compiled.allocation.numbers.get(use, {}):
        raise KeyError(f"{use} of {key}")
    if use in _NOUN_PATH:
        switch = compiled.switch(key)
        assert switch is not None
        return of_value(document, compiled, f"switches/{switch.name}/{_NOUN_PATH[use]}")
    if use in ("link.v4", "link.v6"):
        end = next(end for end in compiled.ends if end.link.key == key)
        return of_value(document, compiled, f"switches/{end.link.spine.name}/fabric_ports/{end.spine_port}/{use[-2:]}")
    if use == "cable":
        return tuple(cable_steps(document, compiled, next(end for end in compiled.ends if end.link.key == key)))
    anyone = next(iter(compiled.models.values()))
    place = Place(document, compiled, anyone, {}, "")
    if use == "asn":
        switch_key = key if key.startswith("leaf/") else "spine/1" if key == "spines" else f"leaf/{key[5:]}/a"
        return tuple(asn_steps(place, switch_key))
    if use in ("vlan", "vni"):
        return tuple(vlan_or_vni_steps(place, use, key))
    if use.startswith("segment."):
        name = key.split("/", 1)[1]
        return (
            ledger_step(compiled, use, key),
            place.brief(f"segments.{name}.{use[-2:]}", f"Segment {name} asks for it"),
            numbers_step(place, use),
        )
    steps = [ledger_step(compiled, use, key)]
    steps.append(place.brief("uplinks_per_spine", f"{compiled.brief.uplinks_per_spine} from each leaf to each spine"))
    return tuple(steps)
