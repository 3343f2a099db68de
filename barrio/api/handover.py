"""Hand-over records: for each switch what it is, what is on it, and what was looked at."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from fastapi import APIRouter, Path, Response
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Reading
from barrio.api.downloads import attachment, download
from barrio.app import handover
from barrio.app.handover import Record
from barrio.paper.handover import paper

router = APIRouter(prefix="/api/v1/fabrics/{name}/staging/records", tags=["staging"], responses=ERRORS)
Name = Annotated[str, Path(max_length=64)]


class RanThen(BaseModel):
    command: str
    code: int | None
    seconds: float | None


class StepTaken(BaseModel):
    step: str
    began: datetime
    ended: datetime
    words: str
    ran: list[RanThen]


class CableThere(BaseModel):
    port: str
    switch: str
    far_port: str
    cable: str


class HandedOver(BaseModel):
    """A switch as it was handed over; `files` are its files' SHA-256 by path, `key` the agent's public key."""

    fabric: str
    edition: int
    staging: int
    switch: str
    rack: str
    role: str
    model: str
    management: str
    serial: str
    mac: str
    software: str
    key: str
    admitted_by: str
    staged_by: str
    handed_over: datetime
    cables: list[CableThere]
    files: dict[str, str]
    steps: list[StepTaken]


def plain(one: Record) -> HandedOver:
    """A record in plain values."""
    return HandedOver(
        fabric=one.fabric, edition=one.edition, staging=one.staging.id, switch=one.switch.name, rack=one.switch.rack,
        role=one.role, model=one.model, management=one.management, serial=one.serial, mac=one.mac, software=one.software,
        key=one.key, admitted_by=one.admitted_by, staged_by=one.staging.author, handed_over=one.switch.since,
        cables=[CableThere(port=a, switch=b, far_port=c, cable=d) for a, b, c, d in one.cables], files=one.files,
        steps=[
            StepTaken(
                step=each.step, began=each.began, ended=each.ended, words=each.words,
                ran=[RanThen(command=line.command, code=line.code, seconds=line.seconds) for line in each.lines if line.command],
            )
            for each in one.steps
        ],
    )  # fmt: skip


@router.get("/{switch}", operation_id="getHandover")
def get_handover(name: str, switch: Name, at: Reading) -> HandedOver:
    """The record of a switch's newest hand-over."""
    return plain(handover.record(at, name, switch))


@router.get("/{switch}/paper", operation_id="getHandoverPaper", **download("application/pdf"))
def get_handover_paper(name: str, switch: Name, at: Reading) -> Response:
    """The record of a switch's newest hand-over, on paper."""
    found: dict[str, Any] = plain(handover.record(at, name, switch)).model_dump(mode="json")
    return attachment(paper(found), "application/pdf", f"{name}-{switch}-handover.pdf")
