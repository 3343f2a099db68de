"""Editions: seal, list, look into, compile again, go back, discard."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Path, Response
from pydantic import BaseModel, Field

from barrio.api import views
from barrio.api.desk import ERRORS, Editing, Reading, Sealing
from barrio.api.fabrics import BackView, Seen
from barrio.api.paging import PAGED, Paged
from barrio.app import editions, goingback, reviews
from barrio.core.bundle import as_tar_gz, as_zip
from barrio.store.editions import Edition

router = APIRouter(prefix="/api/v1/fabrics/{name}", tags=["editions"], responses=ERRORS)
Number = Annotated[int, Path(ge=1, lt=2**31)]


class EditionView(BaseModel):
    """One edition: what it is for, who asked, who agreed and who sealed it, and what it changed in counts."""

    number: int
    version: int
    title: str
    why: str
    sealed_by: str
    sealed_at: datetime
    asked_by: str
    agreed: list[dict[str, str]]
    counts: dict[str, int]
    findings: list[dict[str, Any]]
    program: str
    despite: str


class Seal(BaseModel):
    """The version of the draft that is to be sealed. `title` and `why` are those of the offer when they are left out; `despite` says
    why it is sealed though its change drill showed more than its Ripple said."""

    version: int = Field(ge=0, lt=2**63)
    title: str = Field("", max_length=200)
    why: str = Field("", max_length=4000)
    despite: str = Field("", max_length=1000)


@router.get("/editions", operation_id="listEditions", responses=PAGED)
def list_editions(name: str, at: Reading, page: Paged) -> list[EditionView]:
    """The editions of a fabric, newest first."""
    return [edition_view(one) for one in page.of(editions.every(at, name))]


@router.post("/editions", operation_id="sealEdition", status_code=201)
def seal_edition(name: str, seal: Seal, at: Sealing) -> EditionView:
    """Make the draft an edition, once its rule is met."""
    editions.seal(at, name, seal.version, seal.title.strip(), seal.why.strip(), seal.despite.strip())
    return edition_view(editions.every(at, name)[0])


@router.get("/editions/{number}", operation_id="getEdition")
def get_edition(name: str, number: Number, at: Reading) -> EditionView:
    return edition_view(editions.one(at, name, number))


@router.get("/editions/{number}/bundle.zip", operation_id="getEditionZip", response_class=Response)
def get_zip(name: str, number: Number, at: Reading) -> Response:
    """The files of an edition as they left, in one archive."""
    return _archive(f"{name}-edition-{number}.zip", as_zip(editions.files(at, name, number)), "application/zip")


@router.get("/editions/{number}/bundle.tar.gz", operation_id="getEditionTar", response_class=Response)
def get_tar(name: str, number: Number, at: Reading) -> Response:
    """The files of an edition as they left, in one archive."""
    return _archive(f"{name}-edition-{number}.tar.gz", as_tar_gz(editions.files(at, name, number)), "application/gzip")


def _archive(called: str, content: bytes, media: str) -> Response:
    return Response(content, media_type=media, headers={"Content-Disposition": f'attachment; filename="{called}"'})


class RecordView(BaseModel):
    """All that is on record of how an edition came about: its offers, what was said of each, and the comments."""

    edition: EditionView
    offers: list[reviews.Told]


@router.get("/editions/{number}/record.json", operation_id="getEditionRecord")
def get_record(name: str, number: Number, at: Reading) -> RecordView:
    """How an edition came about, to keep elsewhere: who asked, who said what of it, and when."""
    return RecordView(edition=edition_view(editions.one(at, name, number)), offers=reviews.told(at, name, number))


@router.post("/editions/{number}/again", operation_id="compileAgain")
def compile_again(name: str, number: Number, at: Reading) -> editions.Again:
    """Compile an edition once more from what it keeps, and say whether the same bytes come out."""
    return editions.compile_again(at, name, number)


@router.post("/editions/{number}/back", operation_id="goBack")
def go_back(name: str, number: Number, seen: Seen, at: Editing) -> BackView:
    """Make the brief of an older edition the draft; numbers that are not as they were are told."""
    back = goingback.go_back(at, name, number, seen.version)
    return BackView(version=back.opened.draft.version, not_back=back.not_back)


@router.post("/history/{revision}/back", operation_id="takeBack")
def take_back(name: str, revision: Annotated[int, Path(ge=1, lt=2**63)], seen: Seen, at: Editing) -> views.FabricView:
    """Take one change of the draft back and leave those after it as they are."""
    return views.fabric_view(goingback.take_back(at, name, revision, seen.version))


@router.post("/discard", operation_id="discardDraft")
def discard(name: str, seen: Seen, at: Editing) -> views.FabricView:
    """Give the draft up for the newest edition."""
    return views.fabric_view(editions.discard(at, name, seen.version))


def edition_view(one: Edition) -> EditionView:
    return EditionView(
        number=one.number, version=one.version, title=one.title, why=one.why, sealed_by=one.author, sealed_at=one.sealed_at,
        asked_by=one.asked_by, agreed=one.agreed, counts=one.counts, findings=one.findings, program=one.program, despite=one.despite,
    )  # fmt: skip
