"""Long work that can be left: asked for, looked at, stopped, tried again, and its file taken away."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Path, Request, Response
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Looking, Reading
from barrio.api.downloads import attachment, download
from barrio.api.paper import base_of
from barrio.jobs import queue
from barrio.store.jobs import Job

router = APIRouter(prefix="/api/v1", tags=["jobs"], responses=ERRORS)
Id = Annotated[int, Path(ge=0, lt=2**63)]


class NewJob(BaseModel):
    """Work on a fabric: its bundle, packed as named; all its files read back, or held by the programs that they are for; everything else
    that can be taken away of it, or pages to print: `what` of its cables, labels on sheets of a `size`."""

    kind: Literal["bundle", "read back", "deep check", "sheets", "pages"]
    packed: Literal["zip", "tar.gz"] = "zip"
    what: Literal["cover", "racks", "bundles", "labels"] = "racks"
    size: Literal["a4-70x37", "a4-48x25", "a4-38x21", "letter-67x25"] = "a4-70x37"


@router.post("/fabrics/{name}/jobs", operation_id="askForJob", status_code=202)
def ask_for_job(name: str, new: NewJob, request: Request, at: Reading) -> Job:
    wishes: dict[str, Any] = {}
    if new.kind == "bundle":
        wishes = {"as": new.packed}
    elif new.kind == "pages":
        wishes = {"what": new.what, "size": new.size, "base": base_of(request, name)}
    return queue.ask(at, new.kind, name, wishes)


@router.get("/jobs", operation_id="listJobs")
def list_jobs(at: Looking) -> list[Job]:
    """One's own newest hundred; a keeper's are everybody's."""
    return queue.mine(at)


@router.get("/jobs/{job}", operation_id="getJob")
def get_job(job: Id, at: Looking) -> Job:
    return queue.of(at, job)


@router.post("/jobs/{job}/stop", operation_id="stopJob")
def stop_job(job: Id, at: Looking) -> Job:
    return queue.stop(at, job)


@router.post("/jobs/{job}/retry", operation_id="retryJob")
def retry_job(job: Id, at: Looking) -> Job:
    return queue.retry(at, job)


@router.get(
    "/jobs/{job}/result",
    operation_id="getJobResult",
    **download("application/zip", "application/gzip", "application/json", "application/pdf"),
)
def get_job_result(job: Id, at: Looking) -> Response:
    """The file that came of it, for a week."""
    name, media, content = queue.result(at, job)
    return attachment(content, media, name)
