"""Long work that can be left: asked for, looked at, stopped, tried again, and its file taken away."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Path, Response
from pydantic import BaseModel

from barrio.api.desk import ERRORS, Looking, Reading
from barrio.api.downloads import attachment, download
from barrio.jobs import queue
from barrio.store.jobs import Job

router = APIRouter(prefix="/api/v1", tags=["jobs"], responses=ERRORS)
Id = Annotated[int, Path(ge=0, lt=2**63)]


class NewJob(BaseModel):
    """Work on a fabric: its bundle, packed as named; all its files read back, or held by the programs that they are for; everything else
    that can be taken away of it."""

    kind: Literal["bundle", "read back", "deep check", "sheets"]
    packed: Literal["zip", "tar.gz"] = "zip"


@router.post("/fabrics/{name}/jobs", operation_id="askForJob", status_code=202)
def ask_for_job(name: str, new: NewJob, at: Reading) -> Job:
    return queue.ask(at, new.kind, name, {"as": new.packed} if new.kind == "bundle" else {})


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
    **download("application/zip", "application/gzip", "application/json"),
)
def get_job_result(job: Id, at: Looking) -> Response:
    """The file that came of it, for a week."""
    name, media, content = queue.result(at, job)
    return attachment(content, media, name)
