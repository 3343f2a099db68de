"""The links to systems outside the fabric: where they are plugged in, and what can be wrong with them."""

from __future__ import annotations

from barrio.core.brief.model import Brief
from barrio.core.errors import Fault
from barrio.core.printed import Name
from barrio.core.structure.parts import OutsideEnd, Structure
from barrio.core.structure.words import one_of


def outside_ends(brief: Brief, structure: Structure, faults: list[Fault]) -> tuple[OutsideEnd, ...]:
    """Every link to the outside, in the order of the brief; what is wrong with one goes to `faults`."""
    ends: list[OutsideEnd] = []
    taken: dict[tuple[str, str], str] = {}
    for name, system in brief.outside.items():
        for index, said in enumerate(system.links):
            path = f"outside.{name}.links[{index}]"
            switch = structure.by_key.get(said.switch)
            if switch is None or switch.role != "border":
                what = f"is a {switch.role}" if switch else "is not in the fabric"
                words = (
                    f"{name} is linked to {said.switch}, which {what}. Link it to a border leaf: {_borders(structure)}."
                )
                faults.append(Fault("outside.switch", words, f"{path}.switch"))
                continue
            port = next((port for port in switch.plan.hosts if port.name == said.port), None)
            if port is None:
                words = (
                    f"{said.port} is no host port of {switch.name} ({switch.type.title}). Choose one of its host ports."
                )
                faults.append(Fault("outside.port", words, f"{path}.port"))
                continue
            owner = taken.setdefault((switch.key, said.port), name)
            if owner != name or any(end.key == f"{switch.key}~{said.port}" for end in ends):
                words = f"Port {said.port} of {switch.name} is taken by {owner}. Choose another."
                faults.append(Fault("outside.port-twice", words, f"{path}.port"))
                continue
            speed = said.speed or max(port.speeds)
            if speed not in port.speeds:
                words = f"Port {said.port} of {switch.type.title} runs at {one_of(port.speeds)}G, not at {speed}G."
                faults.append(Fault("outside.speed", words, f"{path}.speed"))
            faults.extend(_vrf_faults(brief, name, said.vrfs, path))
            ends.append(
                OutsideEnd(f"{switch.key}~{said.port}", Name(name), system.kind, system.asn, switch, said, speed, path)
            )
    return tuple(ends)


def _vrf_faults(brief: Brief, name: str, vrfs: object, path: str) -> list[Fault]:
    faults = []
    assert isinstance(vrfs, dict)
    vlans: dict[int | None, str] = {}
    for vrf, said in vrfs.items():
        if vrf not in brief.vrfs:
            words = f"{name} is linked in VRF {vrf}, which is not under “vrfs”. Add it there."
            faults.append(Fault("outside.vrf", words, f"{path}.vrfs.{vrf}"))
        if said.vlan in vlans or (len(vrfs) > 1 and said.vlan is None):
            words = f"Each VRF over one link needs a tag of its own; give {vrf} another vlan."
            faults.append(Fault("outside.vlan", words, f"{path}.vrfs.{vrf}.vlan"))
        if not said.v4 and not said.v6:
            words = f"The link to {name} in VRF {vrf} has no address. Give it v4 or v6, or auto."
            faults.append(Fault("outside.address", words, f"{path}.vrfs.{vrf}"))
        vlans[said.vlan] = vrf
    return faults


def _borders(structure: Structure) -> str:
    keys = [leaf.key for leaf in structure.leaves if leaf.role == "border"]
    return ", ".join(keys[:6]) or "there is none yet; give a group of racks role: border"
