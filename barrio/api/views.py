"""The shapes that the API answers with, made from the store's and the core's."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Any

from pydantic import BaseModel

from barrio.core import Compiled, because
from barrio.core.because import Step
from barrio.core.brief.compare import changed_paths
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from barrio.core.errors import Fault
from barrio.core.sums import PoolUse, Sums, add_up, numbers_needed
from barrio.store.fabrics import Draft


class FabricRow(BaseModel):
    name: str
    title: str
    version: int
    saved_at: datetime
    sums: Sums
    spines: int
    spine_model: str
    findings: int


class FabricView(BaseModel):
    """A draft with everything that its screens share."""

    name: str
    title: str
    version: int
    text: str
    brief: Brief
    lines: dict[str, int]
    sums: Sums
    numbers: list[PoolUse]
    findings: list[Fault]
    note: str
    changed: list[str]
    saved_at: datetime
    effect: dict[str, int]
    undo: str | None
    redo: str | None


def fabric_view(draft: Draft, compiled: Compiled) -> FabricView:
    brief = draft.document.brief
    return FabricView(
        name=draft.name,
        title=brief.title,
        version=draft.version,
        text=draft.document.text,
        brief=brief,
        lines=dict(draft.document.lines),
        sums=add_up(brief, compiled.structure),
        numbers=numbers_needed(compiled),
        findings=[replace(found, line=draft.document.lines.get(found.path, 0)) for found in compiled.findings],
        note=draft.note,
        changed=changed_paths(read(draft.text_before).brief, brief) if draft.text_before else [],
        saved_at=draft.saved_at,
        effect=draft.effect,
        undo=draft.undo,
        redo=draft.redo,
    )


class SpineThread(BaseModel):
    """A spine as the Weave draws it. `ports` holds, for each port of the front, the leaf plugged into it or null."""

    key: str
    name: str
    model: str
    rack: str
    loopback: str
    asn: int
    rows: int
    ports: list[str | None]


class LeafThread(BaseModel):
    """A leaf as the Weave draws it."""

    key: str
    name: str
    model: str
    rack: str
    role: str
    loopback: str
    asn: int
    host_ports: int
    ports_carrying: int


class WeaveView(BaseModel):
    version: int
    spines: list[SpineThread]
    leaves: list[LeafThread]
    lanes: int
    fresh: list[str]


def weave_view(draft: Draft, compiled: Compiled) -> WeaveView:
    plugged: dict[str, dict[str, str]] = {spine.key: {} for spine in compiled.structure.spines}
    for end in compiled.ends:
        plugged[end.link.upper.key][end.upper_port] = end.link.lower.name
    models = compiled.models
    spines = [
        SpineThread(
            key=spine.key,
            name=spine.name,
            model=spine.type.title,
            rack=spine.rack,
            loopback=models[spine.key].router_id,
            asn=models[spine.key].asn,
            rows=spine.type.groups[0].rows,
            ports=[plugged[spine.key].get(port) for port in (one.name for one in spine.plan.down)],
        )
        for spine in compiled.structure.spines
    ]
    leaves = [
        LeafThread(
            key=leaf.key,
            name=leaf.name,
            model=leaf.type.title,
            rack=leaf.rack,
            role=leaf.role,
            loopback=models[leaf.key].router_id,
            asn=models[leaf.key].asn,
            host_ports=len(models[leaf.key].host_ports),
            ports_carrying=len(models[leaf.key].host_ports) if models[leaf.key].segments else 0,
        )
        for leaf in compiled.structure.leaves
    ]
    return WeaveView(
        version=draft.version,
        spines=spines,
        leaves=leaves,
        lanes=draft.document.brief.uplinks_per_spine,
        fresh=draft.fresh,
    )


class LinkView(BaseModel):
    label: str
    key: str
    spine_port: str
    leaf_port: str
    speed: int
    kind: str
    v4: str | None
    v6: str | None


class Printed(BaseModel):
    """A line of a file that prints a value."""

    switch: str
    file: str
    line: int


class CrossingView(BaseModel):
    """What is at the crossing of a spine and a leaf, with the reasons for its first link."""

    spine: str
    leaf: str
    spine_asn: int
    leaf_asn: int
    links: list[LinkView]
    because_of: str
    because: list[Step]
    printed_on: list[Printed]


def crossing_view(draft: Draft, compiled: Compiled, spine: str, leaf: str) -> CrossingView | None:
    found = [end for end in compiled.ends if end.link.upper.name == spine and end.link.lower.name == leaf]
    if not found:
        return None
    kinds = {cable.label: cable.kind for cable in compiled.cables}
    model = compiled.models[found[0].link.upper.key]
    other = compiled.models[found[0].link.lower.key]
    ports = {port.label: port for port in model.fabric_ports}
    links = [
        LinkView(
            label=end.label,
            key=end.link.key,
            spine_port=end.upper_port,
            leaf_port=end.lower_port,
            speed=end.link.speed,
            kind=kinds[end.label],
            v4=ports[end.upper_port].v4,
            v6=ports[end.upper_port].v6,
        )
        for end in found
    ]
    first = ports[found[0].upper_port]
    value = "v4" if first.v4 else "v6" if first.v6 else "cable"
    chain = because.of_value(draft.document, compiled, f"switches/{spine}/fabric_ports/{first.label}/{value}")
    text = str(getattr(first, value))
    printed = because.printed_on(compiled, (spine, leaf), text.split("/", maxsplit=1)[0])
    return CrossingView(
        spine=spine, leaf=leaf, spine_asn=model.asn, leaf_asn=other.asn, links=links, because_of=text,
        because=list(chain), printed_on=[Printed(switch=name, file=file, line=line) for name, file, line in printed],
    )  # fmt: skip


class Option(BaseModel):
    """One possible value of a field and what it would do; `refusal` says why it cannot be, in words."""

    value: Any
    sums: Sums | None
    refusal: str | None
