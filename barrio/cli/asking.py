"""Asking a running Barrio: where it is, who asks, and how answers are printed.

Who asks shows a token: the one in BARRIO_TOKEN, or the one that `barrio login` kept for this address, in a file that only its owner
can read.
"""

from __future__ import annotations

import csv
import io
import json
import os
import tempfile
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any, NoReturn

import typer

if TYPE_CHECKING:
    import httpx2

At = Annotated[str, typer.Option("--at", envvar="BARRIO_AT", help="Where Barrio runs.")]
HERE = "http://127.0.0.1:8710"


class Format(StrEnum):
    TABLE = "table"
    CSV = "csv"
    JSON = "json"


As = Annotated[Format, typer.Option("--as", help="How to print it.")]


def _kept() -> Path:
    return Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config") / "barrio" / "tokens.json"


def token_for(at: str) -> str:
    """The token to show there; empty when there is none."""
    if os.environ.get("BARRIO_TOKEN"):
        return os.environ["BARRIO_TOKEN"]
    try:
        return str(json.loads(_kept().read_text()).get(at, ""))
    except (OSError, ValueError):
        return ""


def keep_token(at: str, token: str) -> Path:
    """Keep a token for an address, or forget it when it is empty; returns where."""
    place = _kept()
    try:
        known = json.loads(place.read_text())
    except (OSError, ValueError):
        known = {}
    known[at] = token
    place.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    descriptor, beside = tempfile.mkstemp(dir=place.parent)
    with os.fdopen(descriptor, "w") as out:
        json.dump({address: kept for address, kept in known.items() if kept}, out, indent=1)
    Path(beside).replace(place)
    return place


def ask(method: str, at: str, path: str, **more: Any) -> httpx2.Response:
    """Call the API; a refusal is told and ends the command with exit code 2, silence with 3."""
    answer = call(method, at, path, **more)
    if answer.is_error:
        try:
            said = answer.json()
            words = "\n".join(fault["message"] for fault in said.get("faults") or []) or said["detail"]
        except ValueError:
            fail(3, f"{at} answered {answer.status_code}.")
        if answer.status_code == 401:
            words = f"{at} wants to know who asks: say “barrio login --at {at}”, or set BARRIO_TOKEN. ({words})"
        fail(2, words)
    return answer


def call(method: str, at: str, path: str, **more: Any) -> httpx2.Response:
    """Call the API by the token that is kept; silence ends the command with exit code 3."""
    # It takes a tenth of a second to load, which commands that ask nobody need not wait for.
    import httpx2

    token = token_for(at)
    headers = {"Authorization": f"Bearer {token}"} if token else {}
    # Where nothing is enciphered, whom to trust need not be loaded, which takes another tenth.
    told = {"timeout": 60, "headers": headers, "verify": not at.lower().startswith("http:"), **more}
    try:
        return httpx2.request(method, f"{at}/api/v1{path}", **told)
    except httpx2.HTTPError as error:
        fail(3, f"No Barrio answers at {at} ({error}). Start one with “barrio serve”, or say where it runs with --at.")


def fail(code: int, message: str) -> NoReturn:
    typer.echo(message, err=True)
    raise typer.Exit(code)


def show(columns: list[str], rows: list[list[str]], how: Format) -> None:
    """Print rows in columns, as CSV, or as JSON objects."""
    if how is Format.JSON:
        typer.echo(json.dumps([dict(zip(columns, row, strict=True)) for row in rows], indent=1))
    elif how is Format.CSV:
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(columns)
        # Compiling is not needed to print what was answered otherwise.
        from barrio.core.bundle import harmless

        writer.writerows([harmless(cell) for cell in row] for row in rows)
        typer.echo(out.getvalue(), nl=False)
    else:
        widths = [max(map(len, column)) for column in zip(columns, *rows, strict=True)]
        for row in [columns, *rows]:
            typer.echo("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())


def tried(sheet: Path, said: dict[str, Any], take: bool) -> None:
    """Tell what a sheet came to, row by row where one cannot be taken; ends with 1 when one cannot."""
    for row in said["rows"]:
        if row["outcome"] == "refused":
            typer.echo(f"{sheet}:{row['line']}: {row['reason']}", err=True)
    counts = ", ".join(f"{count} {outcome}" for outcome, count in sorted(said["counts"].items()))
    hint = "" if take or said["refused"] else " Nothing is taken yet; add --take."
    typer.echo(f"{said['total']} rows: {counts}.{hint}")
    if said["refused"]:
        raise typer.Exit(1)


def bytes_of(path: Path) -> bytes:
    """What is in a file; ends with 2 when it cannot be read."""
    try:
        return path.read_bytes()
    except OSError as error:
        fail(2, f"{path}: {error.strerror}.")
