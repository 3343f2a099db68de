"""The shapes that the API answers with, made from the store's and the core's."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from pydantic import BaseModel

from barrio.app.drafts import Opened
from barrio.core.brief.compare import changed_paths
from barrio.core.brief.document import read
from barrio.core.brief.model import Brief
from barrio.core.edits.linetext import beyond_line, write_line
from barrio.core.errors import Fault, Refused
from barrio.core.sums import PoolUse, Sums, add_up, numbers_needed


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
    redo: str | None
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


def fabric_view(found: Opened) -> FabricView:
    draft, compiled = found.draft, found.compiled
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
