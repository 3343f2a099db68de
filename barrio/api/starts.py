"""Ways to begin, and ways to say a shape: the quick line, proposals, fat trees, imports."""

from __future__ import annotations

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field
from starlette.concurrency import run_in_threadpool

from barrio.api.desk import ERRORS, Looking
from barrio.api.downloads import upload
from barrio.app.catalogue import shelf
from barrio.app.desk import Desk
from barrio.core.brief.document import read
from barrio.core.catalogue.model import Catalogue
from barrio.core.edits.linetext import text_of_line
from barrio.core.edits.quickline import complete
from barrio.core.errors import Refused
from barrio.core.exchange.drawing import read_drawing
from barrio.core.exchange.understand import understand
from barrio.core.proposals import Failure, Need, Proposal, fat_tree, propose
from barrio.core.structure.expand import expand
from barrio.core.sums import Sums, add_up

router = APIRouter(prefix="/api/v1", tags=["starts"], responses={422: ERRORS[422]})


class Line(BaseModel):
    line: str = Field(max_length=4000)


class Completion(BaseModel):
    """The words that may follow, and what is wrong so far with the column (from 1) of the word; sums when nothing is."""

    words: list[str]
    wrong: str
    column: int
    sums: Sums | None
    text: str


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


def _started(text: str, catalogue: Catalogue, notes: tuple[str, ...] = ()) -> Started:
    brief = read(text).brief
    return Started(text=text, sums=add_up(brief, expand(brief, catalogue)), notes=list(notes))


@router.post("/quickline", operation_id="startFromLine")
def starttext_of_line(new: Line, at: Looking) -> Started:
    """The brief that a quick line says."""
    catalogue = shelf(at).catalogue
    return _started(text_of_line(new.line, catalogue), catalogue)


@router.post("/quickline/complete", operation_id="completeLine")
def complete_line(new: Line, at: Looking) -> Completion:
    """How a line may go on, and whether it says a fabric already."""
    catalogue = shelf(at).catalogue
    words = complete(new.line, catalogue)[:24]
    try:
        started = _started(text_of_line(new.line, catalogue), catalogue)
        return Completion(words=words, wrong="", column=0, sums=started.sums, text=started.text)
    except Refused as error:
        fault = error.faults[0]
        return Completion(words=words, wrong=fault.message, column=fault.column, sums=None, text="")


@router.post("/proposals", operation_id="propose")
def get_proposals(asked: Asked, at: Looking) -> Proposals:
    found = propose(asked.need, shelf(at).catalogue, asked.name)
    return Proposals(
        proposals=list(found.proposals), weighed=found.weighed, met=found.met, failures=list(found.failures)
    )


@router.post("/fat-tree", operation_id="startFatTree")
def start_fat_tree(asked: FatTree, at: Looking) -> Started:
    catalogue = shelf(at).catalogue
    return _started(fat_tree(asked.k, asked.model, catalogue, asked.name), catalogue)


@router.post(
    "/imports",
    operation_id="startFromImport",
    openapi_extra=upload("text/csv", "application/yang-data+json", "application/graphml+xml", "text/vnd.graphviz"),
)
async def start_from_import(request: Request, at: Looking, name: str = "imported") -> Started:
    """What was understood of a sheet of links (CSV), an RFC 8345 document or a drawing (GraphML, DOT), in the body as it is."""
    content = await request.body()
    return await run_in_threadpool(_imported, content, name, at)


def _imported(content: bytes, name: str, at: Desk) -> Started:
    catalogue = shelf(at).catalogue
    drawing = read_drawing(content)
    models = {node.name: node.model for node in drawing.nodes.values() if node.model}
    found = understand(list(drawing.links), name, catalogue, models)
    counts = f"{found.links} links between {found.leaves} leaves and {found.spines} spines"
    if found.tiers == 3:
        counts += f" in {found.pods} pods, under {found.super_spines} super-spines"
    return _started(found.text, catalogue, (f"{counts}.", *drawing.notes, *found.notes))
