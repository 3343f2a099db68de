"""`barrio jobs`: long work on a running Barrio, asked for, watched, stopped, and its file taken away."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Annotated, Any

import typer

from barrio.cli.asking import HERE, As, At, Format, ask, fail, show

app = typer.Typer(no_args_is_help=True, help="Long work that can be left: ask, list, show, stop, retry, take.")
Number = Annotated[int, typer.Argument(help="The job's number.")]


@app.command("ask")
def ask_for(
    fabric: Annotated[str, typer.Argument(help="The fabric.")],
    kind: Annotated[str, typer.Argument(help="bundle, “read back”, “deep check” or sheets.")],
    packed: Annotated[str, typer.Option(help="zip or tar.gz, for a bundle.")] = "zip",
    wait: Annotated[bool, typer.Option("--wait", help="Stay until it has ended; exit code 1 when it failed.")] = False,
    out: Annotated[Path | None, typer.Option(help="Wait, and write what came of it to this file.")] = None,
    at: At = HERE,
) -> None:
    """Ask for work on a fabric."""
    job = ask("POST", at, f"/fabrics/{fabric}/jobs", json={"kind": kind, "packed": packed}).json()
    typer.echo(f"Job {job['id']}: {kind} of {fabric}, {job['state']}.")
    if not wait and out is None:
        return
    job = _until_ended(at, job)
    typer.echo(_line(job))
    if job["state"] != "done":
        raise typer.Exit(1)
    if out is not None:
        _take(at, job["id"], out)


def _until_ended(at: str, job: dict[str, Any]) -> dict[str, Any]:
    said = ""
    while job["state"] in ("waiting", "working"):
        if _line(job) != said:
            said = _line(job)
            typer.echo(said, err=True)
        time.sleep(0.3)
        job = ask("GET", at, f"/jobs/{job['id']}").json()
    return job


def _line(job: dict[str, Any]) -> str:
    far = f" {job['done']} of {job['of']}" if job["of"] and job["state"] == "working" else ""
    words = f", {job['words']}" if job["words"] else ""
    return f"Job {job['id']}: {job['state']}{far}{words}."


@app.command("list")
def list_jobs(at: At = HERE, how: As = Format.TABLE) -> None:
    """Your newest jobs; a keeper sees everybody's."""
    rows = [
        [str(one["id"]), one["kind"], one["fabric"], one["state"], f"{one['done']} of {one['of']}" if one["of"] else "", one["author"],
         one["asked_at"][:16].replace("T", " "), one["words"]]
        for one in ask("GET", at, "/jobs").json()
    ]  # fmt: skip
    show(["job", "kind", "fabric", "state", "done", "by", "asked", "words"], rows, how)


@app.command("show")
def show_job(job: Number, at: At = HERE) -> None:
    """A job with its log."""
    found = ask("GET", at, f"/jobs/{job}").json()
    typer.echo(_line(found))
    for line in found["log"]:
        typer.echo(f"  {line}")


@app.command("stop")
def stop(job: Number, at: At = HERE) -> None:
    """Stop a job."""
    typer.echo(_line(ask("POST", at, f"/jobs/{job}/stop").json()))


@app.command("retry")
def retry(job: Number, at: At = HERE) -> None:
    """Try a job again that failed or was stopped."""
    typer.echo(_line(ask("POST", at, f"/jobs/{job}/retry").json()))


@app.command("take")
def take(job: Number, out: Annotated[Path, typer.Argument(help="Where to write it.")], at: At = HERE) -> None:
    """Write the file that came of a job."""
    _take(at, job, out)


def _take(at: str, job: int, out: Path) -> None:
    content = ask("GET", at, f"/jobs/{job}/result").content
    try:
        out.write_bytes(content)
    except OSError as error:
        fail(3, f"{out}: {error.strerror}.")
    typer.echo(f"{out}: {len(content):,} bytes.")
