"""The Ladder over HTTP: what can be set, who says what of it from the widest rung to the closest, and what a change would reach."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, Reading
from barrio.app import drafts
from barrio.core import Compiled
from barrio.core.brief.document import apply
from barrio.core.brief.reader import quoted
from barrio.core.errors import Fault, Refused, refuse
from barrio.core.heights import Climb, Reach, climb_of, reach_of
from barrio.core.settings.known import Setting, known

router = APIRouter(prefix="/api/v1/fabrics/{name}/settings", tags=["ladder"], responses=ERRORS)


class SettingRow(BaseModel):
    """A setting: its sentence, type and unit, the columns of a table with their kinds, the files that it is in, and its rungs."""

    name: str
    words: str
    kind: str
    unit: str
    many: bool
    columns: dict[str, str]
    files: list[str]
    climb: Climb


class SettingChange(BaseModel):
    """A rung, and what it is to say of a setting: a value, or `add`, `why` and `hold` as in the brief; nothing takes it out."""

    rung: str = Field(max_length=80)
    value: Any = None


class SettingTried(BaseModel):
    """What a change would do, and what would be found beside what is found already. `path` is the field of the brief that it writes."""

    path: str
    reach: Reach
    findings: list[Fault]


@router.get("", operation_id="getSettings")
def get_settings(name: str, at: Reading) -> list[SettingRow]:
    """Every setting with its rungs, as one picture."""
    compiled = drafts.load(at, name).compiled
    return [
        SettingRow(
            name=one.name, words=one.words, kind=one.kind, unit=one.unit, many=one.many, columns=dict(one.columns), files=[*one.files, *_templates(compiled, one)], climb=climb_of(compiled, one.name),
        )
        for one in compiled.ladder.settings.values()
    ]  # fmt: skip


@router.post("/{setting}/try", operation_id="trySetting")
def try_setting(name: str, setting: str, asked: SettingChange, at: Reading) -> SettingTried:
    """What a value on a rung would do, before it is saved. 422 with a fault for what cannot be said."""
    before = drafts.load(at, name).compiled
    known(setting, "setting", before.ladder.settings)
    if asked.rung == "office":
        raise refuse(
            "setting.office", "What the office says is changed in the Office, for all its fabrics at once.", "rung"
        )
    path = (
        setting
        if asked.rung == "fabric" and not _holds(asked.value)
        else f"rungs.{quoted(asked.rung)}.{quoted(setting)}"
    )
    try:
        after = drafts.preview(at, name, lambda text: apply(text, [(path, asked.value)]))
    except Refused as refusal:
        # The lines are those of a text that nobody has seen.
        raise Refused([replace(fault, line=0, column=0) for fault in refusal.faults]) from None
    fresh = [one for one in after.findings if one not in before.findings]
    return SettingTried(path=path, reach=reach_of(before, after, setting, asked.rung), findings=fresh)


def _templates(compiled: Compiled, setting: Setting) -> list[str]:
    """The templates that use a variable."""
    used = re.compile(rf"\b{re.escape(setting.name)}\b")
    targets = {target.name: target for target in compiled.targets.values()}
    return [
        f"{target.name}/{name}"
        for target in targets.values()
        for name, text in target.templates.own.items()
        if used.search(text)
    ]


def _holds(value: object) -> bool:
    return isinstance(value, dict) and "hold" in value
