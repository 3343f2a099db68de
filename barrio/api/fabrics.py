"""Fabrics and their drafts: list, make, read, edit, undo, redo, weigh options, copy, delete."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel, Field

from barrio.api import views
from barrio.api.desk import ERRORS, Creating, Deleting, Editing, Looking, Reading, Version
from barrio.api.paging import PAGED, Paged
from barrio.app import drafts, ending, trials
from barrio.app.goingback import NotBack
from barrio.core import Compiled, Refused
from barrio.core.brief.document import apply
from barrio.core.edits.linetext import write_line
from barrio.core.sums import Sums, add_up
from barrio.store.drafts import Draft, Revision

ended_router = APIRouter(prefix="/api/v1/deleted-fabrics", tags=["fabrics"], responses=ERRORS)
router = APIRouter(prefix="/api/v1/fabrics", tags=["fabrics"], responses=ERRORS)


class NewFabric(BaseModel):
    """A new fabric: from the text of a brief, under another name if one is given; or blank with a name."""

    text: str | None = None
    name: str | None = Field(None, max_length=60)
    title: str = Field("", max_length=120)


class Edits(BaseModel):
    """Changes to fields, as path and value, taken together; a null value takes the field out, so its default holds."""

    version: int
    edits: list[tuple[str, Any]] = Field(min_length=1, max_length=50)
    note: str = Field(max_length=200)


class NewText(BaseModel):
    version: int
    text: str
    note: str = Field("edited as text", max_length=200)


class Seen(BaseModel):
    version: int


class Weigh(BaseModel):
    path: str = Field(max_length=300)
    values: list[Any] = Field(max_length=40)


class VersionView(BaseModel):
    version: int


class Checked(BaseModel):
    """Whether a text is a brief that compiles; a refusal comes as a problem document."""

    sums: Sums


class Tried(BaseModel):
    """Edits that are not saved."""

    edits: list[tuple[str, Any]] = Field(min_length=1, max_length=50)


class Copy(BaseModel):
    name: str = Field(max_length=60)


class EndedView(BaseModel):
    """A fabric that was deleted, by whom, and until when it can be brought back."""

    name: str
    title: str
    ended_by: str
    until: datetime


class BackView(BaseModel):
    """The version of a draft after the way back, and the numbers that did not come back as they were."""

    version: int
    not_back: list[NotBack]


@router.get("", operation_id="listFabrics", responses=PAGED)
def list_fabrics(at: Looking, page: Paged) -> list[views.FabricRow]:
    return [row_of(draft, found) for draft, found in page.of(drafts.every(at))]


def row_of(draft: Draft, found: Compiled | Refused) -> views.FabricRow:
    row = views.FabricRow(
        name=draft.name, title=draft.title, version=draft.version, saved_at=draft.saved_at,
        line="", sums=None, findings=0, wrong=None,
    )  # fmt: skip
    if isinstance(found, Refused):
        return row.model_copy(update={"wrong": found.faults[0]})
    sums = add_up(found.brief, found.structure)
    return row.model_copy(update={"line": write_line(found.brief), "sums": sums, "findings": len(found.findings)})


@router.post("", operation_id="createFabric", status_code=201)
def create_fabric(new: NewFabric, at: Creating) -> views.FabricView:
    named = [("fabric", new.name or "")] if new.name or new.text is None else []
    titled = [("title", new.title)] if new.title else []
    text = apply(new.text or "fabric: x\n", [*named, *titled]) if named or titled else new.text or ""
    return views.fabric_view(drafts.create(at, text))


@ended_router.get("", operation_id="listEnded")
def list_ended(at: Looking) -> list[EndedView]:
    """The fabrics that were deleted within a day."""
    return [
        EndedView(name=one.name, title=one.title, ended_by=one.ended_by, until=one.until) for one in ending.ended(at)
    ]


@router.get("/{name}", operation_id="getFabric")
def get_fabric(name: str, at: Reading) -> views.FabricView:
    return views.fabric_view(drafts.load(at, name))


@router.delete("/{name}", operation_id="deleteFabric", status_code=204)
def delete_fabric(name: str, version: Version, at: Deleting) -> None:
    """End a fabric with its draft, history and editions; its numbers rest as long as their pools say. It can be brought back for a day."""
    ending.delete(at, name, version)


@router.get("/{name}/ending", operation_id="getEnding")
def get_ending(name: str, at: Deleting) -> ending.Ending:
    """What deleting the fabric would take away, in numbers."""
    return ending.ending(at, name)


@router.post("/{name}/bring-back", operation_id="bringBack")
def bring_back(name: str, at: Deleting) -> BackView:
    """Bring back a fabric that was deleted within a day; numbers that are not as they were are told."""
    back = ending.bring_back(at, name)
    return BackView(version=back.opened.draft.version, not_back=back.not_back)


@router.get("/{name}/version", operation_id="getVersion")
def get_version(name: str, at: Reading) -> VersionView:
    return VersionView(version=drafts.version(at, name))


@router.post("/{name}/edits", operation_id="editFabric")
def edit_fabric(name: str, edits: Edits, at: Editing) -> views.FabricView:
    """Change fields. Edits of others that changed other fields since `version` stay as they are; of the same field, 409 tells both."""
    paths = [path for path, _ in edits.edits]
    return views.fabric_view(
        drafts.save(at, name, edits.version, lambda text: apply(text, edits.edits), edits.note, paths)
    )


@router.get("/{name}/text", operation_id="getText")
def get_text(name: str, at: Reading) -> views.TextView:
    """The draft's text, also one that cannot be read as a brief, with what is wrong in it."""
    draft, faults = drafts.text(at, name)
    return views.TextView(
        name=name, title=draft.title, version=draft.version, text=draft.text, saved_at=draft.saved_at, note=draft.note,
        undo=draft.undo, redo=draft.redo, faults=list(faults),
    )  # fmt: skip


@router.put("/{name}/text", operation_id="putText")
def put_text(name: str, new: NewText, at: Editing) -> views.FabricView:
    return views.fabric_view(drafts.save(at, name, new.version, lambda _: new.text, new.note))


@router.post("/{name}/check", operation_id="checkText")
def check_text(name: str, new: NewText, at: Reading) -> Checked:
    compiled = drafts.preview(at, name, lambda _: new.text)
    return Checked(sums=add_up(compiled.brief, compiled.structure))


@router.post("/{name}/undo", operation_id="undo")
def undo(name: str, seen: Seen, at: Editing) -> views.FabricView:
    return views.fabric_view(drafts.undo(at, name, seen.version))


@router.post("/{name}/redo", operation_id="redo")
def redo(name: str, seen: Seen, at: Editing) -> views.FabricView:
    return views.fabric_view(drafts.redo(at, name, seen.version))


@router.get("/{name}/history", operation_id="getHistory", responses=PAGED)
def get_history(name: str, at: Reading, page: Paged) -> list[Revision]:
    """The states of a draft, newest first."""
    return list(page.of(drafts.history(at, name)))


@router.post("/{name}/copy", operation_id="copyFabric", status_code=201)
def copy_fabric(name: str, copy: Copy, at: Creating) -> views.FabricView:
    """A new fabric with the same brief; numbers that only one may have are drawn anew."""
    return views.fabric_view(drafts.copy(at, name, copy.name))


@router.post("/{name}/options", operation_id="weighOptions")
def weigh_options(name: str, weigh: Weigh, at: Reading) -> list[trials.Option]:
    """What each value of a field would do to the sums. Numbers are not drawn, so that this stays quick."""
    return trials.weigh(at, name, weigh.path, weigh.values)


@router.post("/{name}/try", operation_id="tryEdits")
def try_edits(name: str, tried: Tried, at: Reading) -> trials.Trial:
    """The sums of a draft with edits that are not saved: for what is being typed. No number is drawn for it."""
    return trials.attempt(at, name, tried.edits)
