"""The office over HTTP: its files and their history, its targets, and templates tried while they are written."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter
from pydantic import BaseModel, Field

from barrio.api.desk import ERRORS, KeepingOffice, Looking, Reading
from barrio.app import office, officesecrets
from barrio.app.office import OfficeEffect
from barrio.core.errors import Fault
from barrio.core.office import MOST_FILES
from barrio.core.render.filters import FILTERS
from barrio.core.render.paths import Said, paths
from barrio.core.targets.own.learn import Choice
from barrio.core.targets.own.manifest import MOST_TEMPLATE

router = APIRouter(prefix="/api/v1", tags=["office"], responses=ERRORS)
Files = Annotated[
    dict[Annotated[str, Field(max_length=200)], Annotated[str, Field(max_length=MOST_TEMPLATE)]],
    Field(max_length=MOST_FILES),
]


class TargetRow(BaseModel):
    """A target: what it writes, whether it is the office's own, and which fabrics use it for how many switches."""

    name: str
    title: str
    own: bool
    writes: list[str]
    users: dict[str, int]


class OfficeNow(BaseModel):
    """The office at its newest edition."""

    number: int
    files: dict[str, str]
    targets: list[TargetRow]


class OfficeEdition(BaseModel):
    number: int
    author: str
    note: str
    saved_at: datetime
    files: int


class OfficeFiles(BaseModel):
    """Files of an office, by path."""

    files: Files


class OfficeChange(BaseModel):
    """Files to save after the edition that was seen, and why."""

    number: int = Field(ge=0, le=2**31)
    files: Files
    note: str = Field("", max_length=200)


class TemplateTrial(BaseModel):
    """A target's own files, by name, to be tried on a switch; or on data of one, as `getSwitchData` has them, changed by hand."""

    target: str = Field(max_length=31)
    files: Files
    switch: str = Field(max_length=120)
    data: dict[str, Any] | None = None


class TemplateTried(BaseModel):
    switch: str
    files: dict[str, str]
    before: dict[str, str]
    faults: list[Fault]
    missing: list[str]
    took: float


class TemplateTally(BaseModel):
    switches: int
    written: int
    same: int
    lines: int
    refused: dict[str, int]
    missing: dict[str, int]


class KnownGood(BaseModel):
    """A configuration, the switch that it is of, and perhaps another to see what comes of it."""

    switch: str = Field(min_length=1, max_length=120)
    text: str = Field(min_length=1, max_length=500_000)
    second: str = Field("", max_length=120)


class TemplateLearned(BaseModel):
    """The template, how much was found, what is to be decided, and whether it gives back the same text; `differs` are lines that are other,
    `second` what the other switch gets, or why it gets nothing."""

    template: str
    values: int
    loops: int
    choices: list[Choice]
    same: bool
    differs: list[str]
    second: str


class SecretRow(BaseModel):
    name: str
    author: str
    saved_at: datetime


class SecretValue(BaseModel):
    value: str = Field(min_length=1, max_length=500)


class TemplateWords(BaseModel):
    """What a template may say of a switch, and the filters that there are beside Jinja2's own."""

    paths: list[Said]
    filters: dict[str, str]


@router.get("/office", operation_id="getOffice")
def get_office(at: Looking) -> OfficeNow:
    found = office.standing(at)
    rows = [
        TargetRow(
            name=one.name, title=one.title, own=not one.templates.package, writes=[kind.path for kind in one.files],
            users=dict(found.users.get(one.name, {})),
        )
        for one in found.targets
    ]  # fmt: skip
    return OfficeNow(number=found.number, files=dict(found.files), targets=rows)


@router.get("/office/editions", operation_id="getOfficeEditions")
def get_editions(at: Looking) -> list[OfficeEdition]:
    return [OfficeEdition.model_validate(one, from_attributes=True) for one in office.history(at)]


@router.get("/office/editions/{number}", operation_id="getOfficeEdition")
def get_edition(number: Annotated[int, Field(ge=0, le=2**31)], at: Looking) -> OfficeFiles:
    return OfficeFiles(files=dict(office.files_at(at, number)))


@router.post("/office/preview", operation_id="previewOffice")
def preview_office(new: OfficeFiles, at: KeepingOffice) -> list[OfficeEffect]:
    """What files would do to each fabric. 422 with a fault for each thing that is wrong with them."""
    return office.preview(at, new.files)


@router.put("/office", operation_id="putOffice")
def put_office(new: OfficeChange, at: KeepingOffice) -> OfficeNow:
    """Save the office's files as a new edition, all of them or nothing."""
    office.save(at, new.number, new.files, new.note)
    return get_office(at)


@router.get("/office/secrets", operation_id="getSecrets")
def get_secrets(at: Looking) -> list[SecretRow]:
    """Which secrets are kept, and who set them; none of what they are."""
    return [SecretRow.model_validate(one, from_attributes=True) for one in officesecrets.kept(at)]


@router.put("/office/secrets/{secret}", operation_id="putSecret", status_code=204)
def put_secret(secret: str, new: SecretValue, at: KeepingOffice) -> None:
    """Keep a secret; it is never shown again."""
    officesecrets.put(at, secret, new.value)


@router.delete("/office/secrets/{secret}", operation_id="dropSecret", status_code=204)
def drop_secret(secret: str, at: KeepingOffice) -> None:
    officesecrets.drop(at, secret)


@router.get("/office/words", operation_id="getTemplateWords")
def get_words(at: Looking) -> TemplateWords:
    variables = [Said(f"vars.{one}", "sw", kind, words) for one, kind, words in office.variables(at)]
    filters = {name: (one.__doc__ or "").split("\n")[0] for name, one in FILTERS.items()}
    return TemplateWords(paths=[*paths(), *variables], filters=filters)


@router.get("/fabrics/{name}/switches/{switch}/data", operation_id="getSwitchData")
def get_data(name: str, switch: str, at: Reading) -> dict[str, Any]:
    """What templates see of a switch."""
    return office.data_of(at, name, switch)


@router.post("/fabrics/{name}/templates/try", operation_id="tryTemplate")
def try_template(name: str, asked: TemplateTrial, at: Reading) -> TemplateTried:
    """A target's files tried on one switch; nothing is saved. What a template does wrong is among the faults."""
    return TemplateTried.model_validate(
        office.tried(at, name, asked.target, asked.files, asked.switch, asked.data), from_attributes=True
    )


@router.post("/fabrics/{name}/templates/learn", operation_id="learnTemplate")
def learn_template(name: str, asked: KnownGood, at: Reading) -> TemplateLearned:
    """A template made of a configuration that is known to be good, with what it gives back for its switch and for another; nothing is saved."""
    found = office.learned(at, name, asked.switch, asked.text, asked.second)
    return TemplateLearned(
        template=found.learned.template, values=found.learned.values, loops=found.learned.loops, choices=list(found.learned.choices),
        same=found.same, differs=list(found.differs), second=found.second,
    )  # fmt: skip


@router.post("/fabrics/{name}/templates/tally", operation_id="tallyTemplate")
def tally_template(name: str, asked: TemplateTrial, at: Reading) -> TemplateTally:
    """A target's files tried on every switch of a fabric, in numbers."""
    found = office.tallied(at, name, asked.target, asked.files)
    return TemplateTally.model_validate(found, from_attributes=True)
