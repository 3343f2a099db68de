"""Checks of what is attached: segments that nobody carries, plugs and sets that nobody uses, and leaves that carry more than they hold."""

from __future__ import annotations

from collections.abc import Iterator

from barrio.core.attach.attachments import Attachments
from barrio.core.brief.model import Brief
from barrio.core.errors import Fault
from barrio.core.structure.parts import Structure, Switch


def check_attached(brief: Brief, structure: Structure, attachments: Attachments) -> Iterator[Fault]:
    """Findings about what leaves carry (`tables.vnis`), and about hosts, once one is named (`segment.nobody`, `plug.unused`, `set.unused`)."""
    yield from _tables(brief, structure, attachments)
    if not brief.hosts:
        return
    carried = frozenset[str]().union(*attachments.carried.values()) if attachments.carried else frozenset[str]()
    for name, segment in brief.segments.items():
        if segment.state == "active" and name not in carried:
            words = (
                f"No host carries segment {name}, so it is on no switch. Attach a host to it, mark it “planned later”, or take it out; its "
                "numbers are kept for it meanwhile."
            )
            yield Fault("segment.nobody", words, f"segments.{name}")
    said = [*brief.hosts.values(), *brief.plugs.values()]
    plugs = {host.plug for host in brief.hosts.values()} | {brief.default_plug, *brief.leaf_plugs.values()}
    plugs |= {group.default_plug for group in brief.racks}
    for name in brief.plugs:
        if name not in plugs:
            yield Fault("plug.unused", f"No host uses plug {name}. Take it out, or give it to one.", f"plugs.{name}")
    sets = {one for ways in said for one in ways.tagged or ()}
    for name in brief.sets:
        if name not in sets:
            yield Fault(
                "set.unused", f"No host and no plug carries the set {name}. Take it out, or let one.", f"sets.{name}"
            )


def _tables(brief: Brief, structure: Structure, attachments: Attachments) -> Iterator[Fault]:
    """VNIs against what the forwarding chips hold: of each model, the leaf that carries the most."""
    most: dict[str, tuple[int, Switch]] = {}
    for leaf in structure.leaves:
        segments = attachments.carried[leaf.key]
        vnis = len(segments) + len({brief.segments[name].vrf for name in segments} - {None})
        if vnis > most.get(leaf.type.id, (leaf.type.tables.vnis, leaf))[0]:
            most[leaf.type.id] = vnis, leaf
    for vnis, leaf in most.values():
        words = (
            f"{leaf.name} carries {vnis:,} VNIs; {leaf.type.title} holds {leaf.type.tables.vnis:,}. Attach fewer segments there, or use "
            "another leaf."
        )
        yield Fault("tables.vnis", words, "segments")
