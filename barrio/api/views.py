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
from barrio.core.brief.quickline import beyond_line, write_line
from barrio.core.errors import Fault, Refused
from barrio.core.sums import PoolUse, Sums, add_up, numbers_needed
from barrio.store.drafts import Draft


class FabricRow(BaseModel):
    name: str
    title: str
    version: int
    saved_at: datetime
    line: str
    sums: Sums | None
    findings: int
    wrong: Fault | None


class TextView(BaseModel):
    """A draft's text by itself, with what is wrong in it: for one that cannot be read as a brief."""

    name: str
    title: str
    version: int
    text: str
    saved_at: datetime
    note: str
    undo: str | None
    faults: list[Fault]


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
    line: str
    beyond_line: list[str]


def fabric_view(draft: Draft, compiled: Compiled) -> FabricView:
    brief = draft.document.brief
    return FabricView(
        name=draft.name,
        title=brief.title,
        version=draft.version,
        text=draft.text,
        brief=brief,
        lines=dict(draft.document.lines),
        sums=add_up(brief, compiled.structure),
        numbers=numbers_needed(compiled),
        findings=[replace(found, line=draft.document.lines.get(found.path, 0)) for found in compiled.findings],
        note=draft.note,
        changed=_changed(draft.text_before, brief),
        saved_at=draft.saved_at,
        effect=draft.effect,
        undo=draft.undo,
        redo=draft.redo,
        line=write_line(brief),
        beyond_line=beyond_line(brief, compiled.catalogue),
    )


def _changed(before: str | None, brief: Brief) -> list[str]:
    """The paths that the last change touched; none when what was there before cannot be read."""
    try:
        return changed_paths(read(before).brief, brief) if before else []
    except Refused:
        return []


class LinkView(BaseModel):
    label: str
    key: str
    upper_port: str
    lower_port: str
    speed: int
    kind: str
    v4: str | None
    v6: str | None
    state: str


class Printed(BaseModel):
    """A line of a file that prints a value."""

    switch: str
    file: str
    line: int


class CrossingView(BaseModel):
    """What is between two switches that are linked, with the reasons for the first of their links."""

    upper: str
    lower: str
    upper_asn: int
    lower_asn: int
    state: str
    links: list[LinkView]
    because_of: str
    because: list[Step]
    printed_on: list[Printed]


def crossing_view(draft: Draft, compiled: Compiled, one: str, other: str) -> CrossingView | None:
    names = {one, other}
    found = [end for end in compiled.ends if {end.link.upper.name, end.link.lower.name} == names]
    if not found:
        return None
    link = found[0].link
    model, below = compiled.models[link.upper.key], compiled.models[link.lower.key]
    kinds = {cable.label: cable.kind for cable in compiled.cables}
    ports = {port.label: port for port in model.fabric_ports}
    links = [
        LinkView(
            label=end.label,
            key=end.link.key,
            upper_port=end.upper_port,
            lower_port=end.lower_port,
            speed=end.link.speed,
            kind=kinds.get(end.label, "not laid yet"),
            v4=ports[end.upper_port].v4 if end.upper_port in ports else None,
            v6=ports[end.upper_port].v6 if end.upper_port in ports else None,
            state=compiled.structure.state_of(end.link)[0],
        )
        for end in found
    ]
    chain: tuple[Step, ...]
    if link.kind == "peer":
        text, chain = found[0].label, because.of_cable(draft.document, compiled, found[0].label)
    else:
        first = ports[found[0].upper_port]
        value = "v4" if first.v4 else "v6" if first.v6 else "cable"
        text = str(getattr(first, value))
        path = f"switches/{link.upper.name}/fabric_ports/{first.label}/{value}"
        chain = because.of_value(draft.document, compiled, path)
    printed = because.printed_on(compiled, (link.upper.name, link.lower.name), text.split("/", maxsplit=1)[0])
    return CrossingView(
        upper=link.upper.name, lower=link.lower.name, upper_asn=model.asn, lower_asn=below.asn,
        state=compiled.structure.state_of(link)[0], links=links, because_of=text, because=list(chain),
        printed_on=[Printed(switch=name, file=file, line=line) for name, file, line in printed],
    )  # fmt: skip


class Option(BaseModel):
    """One possible value of a field and what it would do; `refusal` says why it cannot be, in words."""

    value: Any
    sums: Sums | None
    refusal: str | None
