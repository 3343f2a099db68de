"""Fabrics and their drafts: list, make, read, edit, undo, redo, weigh options, export."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Request, Response
from pydantic import BaseModel, Field

from barrio.api import views
from barrio.api.downloads import attachment
from barrio.api.people import Who
from barrio.api.problems import Problem
from barrio.core import Compiled, Refused, bundle
from barrio.core.brief.document import read, set_value
from barrio.core.brief.quickline import write_line
from barrio.core.checks.brief import check_brief
from barrio.core.checks.structure import check_structure
from barrio.core.errors import Fault
from barrio.core.exchange.write import FORMATS
from barrio.core.structure.expand import expand
from barrio.core.sums import Sums, add_up
from barrio.store.drafts import Draft, Missing, Revision
from barrio.store.fabrics import Fabrics

router = APIRouter(prefix="/api/fabrics", tags=["fabrics"])
ERRORS: dict[int | str, dict[str, Any]] = {
    404: {"model": Problem}, 409: {"model": Problem}, 422: {"model": Problem},
}  # fmt: skip


def fabrics_of(request: Request) -> Fabrics:
    found: Fabrics = request.app.state.fabrics
    return found


Store = Annotated[Fabrics, Depends(fabrics_of)]


class NewFabric(BaseModel):
    """A new fabric: from the text of a brief, or blank with a name."""

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


class Trial(BaseModel):
    """What edits would come to: sums and findings, or why they cannot be."""

    sums: Sums | None
    findings: list[Fault]
    faults: list[Fault]


def _saved(store: Fabrics, draft: Draft) -> views.FabricView:
    return views.fabric_view(draft, store.compiled(draft))


def _view(store: Fabrics, name: str) -> views.FabricView:
    return _saved(store, store.draft(name))


def _edited(text: str, edits: list[tuple[str, Any]]) -> str:
    for path, value in edits:
        text = set_value(text, path, value)
    return text


@router.get("", operation_id="listFabrics")
def list_fabrics(store: Store) -> list[views.FabricRow]:
    return [_row(draft, found) for draft, found in store.all()]


def _row(draft: Draft, found: Compiled | Refused) -> views.FabricRow:
    row = views.FabricRow(
        name=draft.name, title=draft.title, version=draft.version, saved_at=draft.saved_at,
        line="", sums=None, findings=0, wrong=None,
    )  # fmt: skip
    if isinstance(found, Refused):
        return row.model_copy(update={"wrong": found.faults[0]})
    sums = add_up(found.brief, found.structure)
    return row.model_copy(update={"line": write_line(found.brief), "sums": sums, "findings": len(found.findings)})


@router.post("", operation_id="createFabric", status_code=201, responses=ERRORS)
def create_fabric(new: NewFabric, store: Store, who: Who) -> views.FabricView:
    text = new.text
    if text is None:
        text = set_value("fabric: x\n", "fabric", new.name or "")
        if new.title:
            text = set_value(text, "title", new.title)
    draft = store.create(text, author=who)
    return views.fabric_view(draft, store.compiled(draft))


@router.get("/{name}", operation_id="getFabric", responses=ERRORS)
def get_fabric(name: str, store: Store) -> views.FabricView:
    return _view(store, name)


@router.get("/{name}/version", operation_id="getVersion", responses=ERRORS)
def get_version(name: str, store: Store) -> VersionView:
    return VersionView(version=store.version(name))


@router.post("/{name}/edits", operation_id="editFabric", responses=ERRORS)
def edit_fabric(name: str, edits: Edits, store: Store, who: Who) -> views.FabricView:
    def change(text: str) -> str:
        return _edited(text, edits.edits)

    return _saved(store, store.save(name, edits.version, change, edits.note, who))


@router.get("/{name}/text", operation_id="getText", responses=ERRORS)
def get_text(name: str, store: Store) -> views.TextView:
    """The draft's text, also one that cannot be read as a brief, with what is wrong in it."""
    draft, faults = store.draft(name), []
    try:
        store.compiled(draft)
    except Refused as refusal:
        faults = list(refusal.faults)
    return views.TextView(
        name=name, title=draft.title, version=draft.version, text=draft.text, saved_at=draft.saved_at, note=draft.note,
        undo=draft.undo, faults=faults,
    )  # fmt: skip


@router.put("/{name}/text", operation_id="putText", responses=ERRORS)
def put_text(name: str, new: NewText, store: Store, who: Who) -> views.FabricView:
    return _saved(store, store.save(name, new.version, lambda _: new.text, new.note, who))


@router.post("/{name}/check", operation_id="checkText", responses=ERRORS)
def check_text(name: str, new: NewText, store: Store) -> Checked:
    compiled = store.preview(name, lambda _: new.text)
    return Checked(sums=add_up(compiled.brief, compiled.structure))


@router.post("/{name}/undo", operation_id="undo", responses=ERRORS)
def undo(name: str, seen: Seen, store: Store, who: Who) -> views.FabricView:
    return _saved(store, store.undo(name, seen.version, who))


@router.post("/{name}/redo", operation_id="redo", responses=ERRORS)
def redo(name: str, seen: Seen, store: Store, who: Who) -> views.FabricView:
    return _saved(store, store.redo(name, seen.version, who))


@router.get("/{name}/history", operation_id="getHistory", responses=ERRORS)
def get_history(name: str, store: Store) -> list[Revision]:
    return store.history(name)


@router.post("/{name}/options", operation_id="weighOptions", responses=ERRORS)
def weigh_options(name: str, weigh: Weigh, store: Store) -> list[views.Option]:
    """What each value of a field would do to the sums. Numbers are not drawn, so that this stays quick."""
    text, catalogue = store.draft(name).text, store.catalogue().catalogue
    options = []
    for value in weigh.values:
        try:
            brief = read(set_value(text, weigh.path, value)).brief
            sums = add_up(brief, expand(brief, catalogue))
            options.append(views.Option(value=value, sums=sums, refusal=None))
        except Refused as error:
            options.append(views.Option(value=value, sums=None, refusal=error.faults[0].message))
    return options


@router.post("/{name}/try", operation_id="tryEdits", responses=ERRORS)
def try_edits(name: str, tried: Tried, store: Store) -> Trial:
    """The sums of a draft with edits that are not saved: for what is being typed. No number is drawn for it."""
    text = store.draft(name).text
    try:
        brief = read(_edited(text, tried.edits)).brief
        structure = expand(brief, store.catalogue().catalogue)
    except Refused as error:
        return Trial(sums=None, findings=[], faults=list(error.faults))
    findings = check_brief(brief) + check_structure(brief, structure)
    return Trial(sums=add_up(brief, structure), findings=list(findings), faults=[])


@router.get("/{name}/topology.{kind:path}", operation_id="getTopology", responses=ERRORS, response_class=Response)
def get_topology(name: str, kind: str, store: Store) -> Response:
    """The structure as RFC 8345 JSON (`rfc8345.json`), `graphml`, `dot` or `svg`."""
    if kind not in FORMATS:
        raise Missing(f"A structure comes as {', '.join(FORMATS)}, not as {kind[:20]}.")
    write, media = FORMATS[kind]
    return attachment(write(store.compiled(store.draft(name))).encode(), media, f"{name}.{kind}")


@router.get("/{name}/crossing", operation_id="getCrossing", responses=ERRORS)
def get_crossing(name: str, store: Store, one: str, other: str) -> views.CrossingView:
    draft = store.draft(name)
    found = views.crossing_view(draft, store.compiled(draft), one, other)
    if found is None:
        raise Missing(f"{one} and {other} do not meet in {name}.")
    return found


@router.get("/{name}/bundle.{kind}", operation_id="getBundle", responses=ERRORS, response_class=Response)
def get_bundle(name: str, kind: str, store: Store) -> Response:
    draft = store.draft(name)
    files = bundle.bundle_files(draft.document, store.compiled(draft))
    if kind == "zip":
        return attachment(bundle.as_zip(files), "application/zip", f"{name}.zip")
    if kind == "tar.gz":
        return attachment(bundle.as_tar_gz(files), "application/gzip", f"{name}.tar.gz")
    raise Missing(f"A bundle comes as zip or tar.gz, not as {kind[:20]}.")


@router.get("/{name}/cabling.csv", operation_id="getCablingCsv", responses=ERRORS, response_class=Response)
def get_cabling_csv(name: str, store: Store) -> Response:
    text = bundle.cabling_csv(store.compiled(store.draft(name)))
    return attachment(text.encode(), "text/csv; charset=utf-8; header=present", f"{name}-cabling.csv")


@router.get("/{name}/numbers.csv", operation_id="getNumbersCsv", responses=ERRORS, response_class=Response)
def get_numbers_csv(name: str, store: Store) -> Response:
    text = bundle.numbers_csv(store.compiled(store.draft(name)))
    return attachment(text.encode(), "text/csv; charset=utf-8; header=present", f"{name}-numbers.csv")


@router.get("/{name}/brief.yaml", operation_id="getBriefYaml", responses=ERRORS, response_class=Response)
def get_brief_yaml(name: str, store: Store) -> Response:
    return attachment(store.draft(name).text.encode(), "application/yaml", f"{name}.yaml")
