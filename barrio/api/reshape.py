"""Edits made on the picture: racks, marks, ports, and a draft said in a line."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from barrio.api import views
from barrio.api.desk import ERRORS, Editing
from barrio.api.faces import found_in
from barrio.app import catalogue, drafts
from barrio.core.brief.document import Edits, apply, read
from barrio.core.edits import reshape
from barrio.core.edits.linetext import edits_of
from barrio.core.edits.quickline import parse_line
from barrio.core.errors import refuse

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["picture"], responses=ERRORS)


class Reshape(BaseModel):
    """A change made on the picture to racks, or marks on things by key."""

    version: int
    action: Literal["remove", "copy", "change", "mark"]
    racks: list[str] = Field([], max_length=4096)
    keys: list[str] = Field([], max_length=2000)
    fields: dict[str, str | int | None] = Field({}, max_length=12)
    state: Literal["out_of_service", "planned_later", ""] = ""
    why: str = Field("", max_length=120)


class Ports(BaseModel):
    """Ports of a front that get another use, or a breakout."""

    version: int
    switch: str
    ports: list[str] = Field(min_length=1, max_length=2048)
    use: str = Field(max_length=20)
    scope: Literal["switch", "kind"]


class NewLine(BaseModel):
    version: int
    line: str = Field(max_length=4000)


@router.post("/reshape", operation_id="reshape")
def post_reshape(name: str, asked: Reshape, at: Editing) -> views.FabricView:
    def change(text: str) -> str:
        return apply(text, _edits(text, asked))

    return views.fabric_view(drafts.save(at, name, asked.version, change, _note(asked)))


def _edits(text: str, asked: Reshape) -> Edits:
    brief = read(text).brief
    match asked.action:
        case "remove":
            return reshape.remove_racks(brief, asked.racks)
        case "copy":
            return reshape.copy_racks(brief, asked.racks)
        case "change":
            return reshape.change_racks(brief, asked.racks, dict(asked.fields))
        case "mark":
            return reshape.mark(brief, asked.keys, asked.state, asked.why)


def _note(asked: Reshape) -> str:
    things = asked.racks or asked.keys
    named = f"{things[0]} and {len(things) - 1} more" if len(things) > 2 else " and ".join(things)
    if asked.action == "mark":
        word = {"out_of_service": "out of service", "planned_later": "planned later", "": "in service"}[asked.state]
        return f"{named} {word}"
    if asked.action == "change":
        said = ", ".join(f"{field.replace('_', ' ')} {value}" for field, value in asked.fields.items())
        return f"racks {named}: {said}"[:200]
    return f"{ {'remove': 'no', 'copy': 'copies of'}[asked.action] } racks {named}"


@router.post("/ports", operation_id="planPorts")
def plan_ports(name: str, asked: Ports, at: Editing) -> views.FabricView:
    switch = found_in(drafts.load(at, name).compiled, asked.switch)

    def change(text: str) -> str:
        edits = reshape.plan_ports_of(read(text).brief, switch, asked.ports, asked.use, asked.scope)
        if not edits:
            raise refuse("ports.same", "These ports have that use already.", "use")
        return apply(text, edits)

    whose = asked.switch if asked.scope == "switch" else f"all like {asked.switch}"
    note = f"ports {asked.ports[0]}… {asked.use} on {whose}"[:200]
    return views.fabric_view(drafts.save(at, name, asked.version, change, note))


@router.post("/quickline", operation_id="editByLine")
def edit_by_line(name: str, new: NewLine, at: Editing) -> views.FabricView:
    """Make a draft say what the line says; what the line does not speak of stays."""
    said = parse_line(new.line, catalogue.shelf(at).catalogue)
    if said.name not in (None, name):
        raise refuse("fabric.renamed", f"A fabric keeps its name, {name}; leave it out of the line.", column=1)

    def change(text: str) -> str:
        return apply(text, edits_of(said, read(text).brief))

    return views.fabric_view(drafts.save(at, name, new.version, change, "said in a line"))
