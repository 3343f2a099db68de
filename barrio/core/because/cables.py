"""The chain of a cable: its crossing, its number, its two ports and its kind."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.because.chain import Step, brief_step, ledger_step, resolved_step, rule_step
from barrio.core.because.laid import lying_steps
from barrio.core.brief.document import Document
from barrio.core.cabling.plan import cable_kind
from barrio.core.compiled import Compiled
from barrio.core.model.links import Ends, positions


def meeting_step(document: Document, compiled: Compiled, end: Ends) -> Step:
    """Why the two switches of a link meet."""
    upper, lower = end.link.upper, end.link.lower
    if end.link.kind == "peer":
        return rule_step(f"{upper.name} and {lower.name} are a pair, joined by a peer link", "IEEE 802.1AX")
    if upper.role == "super-spine":
        return rule_step(
            f"Every spine meets every super-spine of its plane: {lower.name} and {upper.name}, plane {upper.plane}",
            "folded Clos of three tiers; RFC 7938, 3.2",
        )
    return rule_step(
        f"Every leaf meets every spine of its pod: {lower.name} and {upper.name}", "folded Clos; RFC 7938, 3.2"
    )


def lanes_step(document: Document, compiled: Compiled, end: Ends) -> Step:
    """The words of the brief that ask for this many links between the two."""
    link = end.link
    this = f"this is link {link.lane}"
    if link.kind == "peer":
        assert link.upper.group is not None
        path = f"{link.upper.origin.removesuffix('.racks')}.peer_links"
        return brief_step(document, path, f"{link.upper.group.peer_links} links between the leaves; {this}")
    if link.upper.role == "super-spine":
        count = compiled.structure.super_links
        return brief_step(document, "super_spines.links", f"{count} from each spine to each super-spine; {this}")
    lanes = link.lower.lanes
    assert lanes is not None
    return resolved_step(document, lanes, f"{lanes.value} from each leaf to each spine; {this}")


def port_steps(document: Document, compiled: Compiled, end: Ends, upper: bool) -> Iterator[Step]:
    """Why an end of a link is in its port: its place in the order of ports, and the plan of the front."""
    at = positions(end.link)
    switch = end.link.upper if upper else end.link.lower
    if at is None:
        yield rule_step("The peer link takes the ports that the plan keeps for it, in their order", "port plan")
    else:
        yield ledger_step(compiled, *at[0 if upper else 1])
    ports = switch.plan.down if upper and end.link.kind == "fabric" else switch.plan.up or switch.plan.peer
    noun = "downlinks" if upper and end.link.kind == "fabric" else "uplinks"
    title = f"{switch.type.title} has {len(ports)} ports for {noun}"
    yield Step("catalogue", title, f"catalogue, {switch.type.id}", {"model": switch.type.id})
    if switch.key in compiled.brief.ports:
        yield brief_step(document, f'ports."{switch.key}"', f"The brief plans the ports of {switch.name} by itself")


def cable_steps(document: Document, compiled: Compiled, end: Ends) -> Iterator[Step]:
    """The chain of a cable: its crossing, number, ports and kind."""
    link, placed = end.link, compiled.laid.placed
    if placed:
        yield from lying_steps(document, compiled, end.label)
    yield meeting_step(document, compiled, end)
    yield lanes_step(document, compiled, end)
    yield ledger_step(compiled, "cable", link.key)
    for upper in (True, False):
        yield from (step for step in port_steps(document, compiled, end, upper) if step.kind != "catalogue")
    if not placed and link.lower.rack == link.upper.rack:
        yield rule_step("Both ends stand in one rack, so it is a DAC", "cabling rule")
    elif not placed:
        kind = cable_kind(compiled.brief, link.lower.rack, link.upper.rack)
        yield brief_step(document, "cabling.kind", f"Between racks the brief uses {kind}")
    yield rule_step("Each end's label names both ends", "TIA-606")


def state_steps(document: Document, compiled: Compiled, keys: tuple[str, ...]) -> Iterator[Step]:
    """The words of the brief that take something out of service, or put it off."""
    for field, word in (("out_of_service", "out of service"), ("planned_later", "planned for later")):
        said: dict[str, str] = getattr(compiled.brief, field)
        for key in keys:
            if key in said:
                why = f": {said[key]}" if said[key] else ""
                yield brief_step(document, f'{field}."{key}"', f"The brief marks {key} {word}{why}")
