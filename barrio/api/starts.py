"""Ways to begin, and ways to say a shape: the quick line, proposals, fat trees, imports, copies."""

from __future__ import annotations

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from barrio.api import views
from barrio.api.fabrics import ERRORS, Store
from barrio.api.people import Who
from barrio.core.brief.document import read, set_value
from barrio.core.brief.quickline import complete, edits_of, parse_line
from barrio.core.catalogue.model import Catalogue
from barrio.core.errors import Refused, refuse
from barrio.core.exchange.links import read_links
from barrio.core.exchange.understand import understand
from barrio.core.proposals import Failure, Need, Proposal, fat_tree, propose
from barrio.core.structure.expand import expand
from barrio.core.sums import Sums, add_up
from barrio.store.fabrics import Fabrics

router = APIRouter(prefix="/api", tags=["starts"])


class Line(BaseModel):
    line: str = Field(max_length=4000)


class Completion(BaseModel):
    """The words that may follow, and what is wrong so far with the column (from 1) of the word; sums when nothing is."""

    words: list[str]
    wrong: str
    column: int
    sums: Sums | None
    text: str


class NewLine(BaseModel):
    version: int
    line: str = Field(max_length=4000)


class Asked(BaseModel):
    """A need, as `Need` of the core has it."""

    need: Need
    name: str = Field("proposal", max_length=31)


class Proposals(BaseModel):
    proposals: list[Proposal]
    weighed: int
    met: int
    failures: list[Failure]


class FatTree(BaseModel):
    k: int
    model: str = Field("cantera-c48", max_length=60)
    name: str = Field("fat-tree", max_length=31)


class Started(BaseModel):
    """A brief to begin with: its text and sums, and notes for the person who will look it over."""

    text: str
    sums: Sums
    notes: list[str]


class Copy(BaseModel):
    name: str = Field(max_length=60)


def _started(text: str, catalogue: Catalogue, notes: tuple[str, ...] = ()) -> Started:
    brief = read(text).brief
    return Started(text=text, sums=add_up(brief, expand(brief, catalogue)), notes=list(notes))


def _from_line(line: str, catalogue: Catalogue) -> str:
    said = parse_line(line, catalogue)
    text = set_value("fabric: x\n", "fabric", said.name or "new-fabric")
    for path, value in edits_of(said, None):
        text = set_value(text, path, value)
    return text


@router.post("/quickline", operation_id="startFromLine", responses=ERRORS)
def start_from_line(new: Line, store: Store) -> Started:
    """The brief that a quick line says."""
    catalogue = store.catalogue().catalogue
    return _started(_from_line(new.line, catalogue), catalogue)


@router.post("/quickline/complete", operation_id="completeLine")
def complete_line(new: Line, store: Store) -> Completion:
    """How a line may go on, and whether it says a fabric already."""
    catalogue = store.catalogue().catalogue
    words = complete(new.line, catalogue)[:24]
    try:
        started = _started(_from_line(new.line, catalogue), catalogue)
        return Completion(words=words, wrong="", column=0, sums=started.sums, text=started.text)
    except Refused as error:
        fault = error.faults[0]
        return Completion(words=words, wrong=fault.message, column=fault.column, sums=None, text="")


@router.post("/fabrics/{name}/quickline", operation_id="editByLine", responses=ERRORS)
def edit_by_line(name: str, new: NewLine, store: Store, who: Who) -> views.FabricView:
    """Make a draft say what the line says; what the line does not speak of stays."""
    catalogue = store.catalogue().catalogue
    said = parse_line(new.line, catalogue)
    if said.name not in (None, name):
        raise refuse("fabric.renamed", f"A fabric keeps its name, {name}; leave it out of the line.", column=1)

    def change(text: str) -> str:
        for path, value in edits_of(said, read(text).brief):
            text = set_value(text, path, value)
        return text

    draft = store.save(name, new.version, change, "said in a line", who)
    return views.fabric_view(draft, store.compiled(draft))


@router.post("/proposals", operation_id="propose", responses=ERRORS)
def get_proposals(asked: Asked, store: Store) -> Proposals:
    found = propose(asked.need, store.catalogue().catalogue, asked.name)
    return Proposals(
        proposals=list(found.proposals), weighed=found.weighed, met=found.met, failures=list(found.failures)
    )


@router.post("/fat-tree", operation_id="startFatTree", responses=ERRORS)
def start_fat_tree(asked: FatTree, store: Store) -> Started:
    catalogue = store.catalogue().catalogue
    return _started(fat_tree(asked.k, asked.model, catalogue, asked.name), catalogue)


@router.post("/imports", operation_id="startFromImport", responses=ERRORS)
async def start_from_import(request: Request, store: Store, name: str = "imported") -> Started:
    """What was understood of a sheet of links (CSV) or an RFC 8345 document, in the body as it is."""
    content = await request.body()
    return await run_in_threadpool(_imported, content, name, store)


def _imported(content: bytes, name: str, store: Fabrics) -> Started:
    catalogue = store.catalogue().catalogue
    found = understand(read_links(content), name, catalogue)
    counts = f"{found.links} links between {found.leaves} leaves and {found.spines} spines"
    if found.tiers == 3:
        counts += f" in {found.pods} pods, under {found.super_spines} super-spines"
    return _started(found.text, catalogue, (f"{counts}.", *found.notes))


@router.post("/fabrics/{name}/copy", operation_id="copyFabric", status_code=201, responses=ERRORS)
def copy_fabric(name: str, copy: Copy, store: Store, who: Who) -> views.FabricView:
    """A new fabric with the same brief; numbers that only one may have are drawn anew."""
    draft = store.draft(name)
    text, brief = set_value(draft.document.text, "fabric", copy.name), draft.document.brief
    text = set_value(text, "cabling.prefix", None)
    for segment, said in brief.segments.items():
        for family in ("v4", "v6"):
            if not (getattr(said, family) or "auto").startswith("auto"):
                text = set_value(text, f"segments.{segment}.{family}", "auto")
        if said.vni is not None:
            text = set_value(text, f"segments.{segment}.vni", None)
    for vrf, routed in brief.vrfs.items():
        if routed.vni is not None:
            text = set_value(text, f"vrfs.{vrf}.vni", None)
    for system, outside in brief.outside.items():
        for index, link in enumerate(outside.links):
            for vrf, carried in link.vrfs.items():
                for family in ("v4", "v6"):
                    if not (getattr(carried, family) or "auto").startswith("auto"):
                        text = set_value(text, f"outside.{system}.links[{index}].vrfs.{vrf}.{family}", "auto")
    made = store.create(text, f"copied from {name}", who)
    return views.fabric_view(made, store.compiled(made))
