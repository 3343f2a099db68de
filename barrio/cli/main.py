"""The command line: `barrio build`, `check`, `serve`, those that say, weigh and exchange a shape, and those that ask the ledger.

Exit codes: 0 done; 1 findings (check only); 2 the brief or the arguments are wrong; 3 the machine would not let us.
"""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
from pathlib import Path
from tomllib import TOMLDecodeError
from typing import Annotated, Any

import typer

from barrio.cli import (
    adopting,
    cables,
    drift,
    editions,
    following,
    hosts,
    jobs,
    ladder,
    ledgerfile,
    numbers,
    people,
    questions,
    rehearse,
    shapes,
    simulate,
    stage,
    targets,
)
from barrio.cli.briefs import BriefFile, LedgerFile, fail, read_and_compile
from barrio.cli.targets import OfficeFolder
from barrio.core import Compiled
from barrio.core.bundle import as_tar_gz, as_zip, bundle_files, modes_of
from barrio.core.sums import add_up

app = typer.Typer(add_completion=False, no_args_is_help=True, help=__doc__, pretty_exceptions_enable=False)
app.registered_commands += shapes.app.registered_commands
app.registered_commands += ladder.app.registered_commands
app.registered_commands += targets.app.registered_commands
app.command()(numbers.whois)
app.add_typer(numbers.app, name="numbers")
app.add_typer(hosts.app, name="hosts")
app.add_typer(cables.app, name="cables")
app.registered_commands += people.entry.registered_commands
app.add_typer(drift.app, name="drift")
app.add_typer(adopting.app, name="adopt")
app.command("ask")(questions.ask_switches)
app.command("follow")(following.follow_flow)
app.add_typer(people.app, name="people")
app.add_typer(people.tokens, name="token")
app.add_typer(jobs.app, name="jobs")
app.command()(editions.ripple)
app.command("rehearse")(rehearse.run)
app.add_typer(editions.app, name="editions")
app.add_typer(stage.app, name="stage")
app.command("simulate")(simulate.simulate)


@app.command()
def build(
    brief: BriefFile,
    out: Annotated[Path, typer.Option("--out", help="A folder, or a file ending in .zip or .tar.gz.")],
    ledger: LedgerFile = None,
    office: OfficeFolder = None,
) -> None:
    """Write every file of a fabric: configurations, cabling, numbers, inventory, manifest."""
    document, compiled = read_and_compile(brief, ledger, office)
    files = bundle_files(document, compiled)
    try:
        _write(out, files)
        if ledger is not None:
            ledgerfile.save(ledger, ledgerfile.load(ledger), compiled)
    except OSError as error:
        fail(3, f"{error.filename or out}: {error.strerror}.")
    allocation = compiled.allocation
    typer.echo(
        f"{out}: {len(files)} files for {compiled.extent}; "
        f"{len(allocation.added)} numbers new, {len(allocation.given_back)} given back."
    )
    _tell(brief, compiled)


@app.command()
def check(
    brief: BriefFile,
    ledger: LedgerFile = None,
    office: OfficeFolder = None,
    deep: Annotated[
        bool, typer.Option("--deep", help="Have every file read by the program that it is for, too.")
    ] = False,
) -> None:
    """Read a brief, compile it, and say what is wrong with it; writes nothing."""
    _, compiled = read_and_compile(brief, ledger, office)
    sums = add_up(compiled.brief, compiled.structure)
    typer.echo(
        f"{brief}: {compiled.extent}; {sums.oversubscription:.2f} : 1, "
        f"{sums.spine_ports_used} of {sums.spine_ports} spine ports used."
    )
    found = _tell(brief, compiled)
    if deep:
        found = _read_by_programs(brief, compiled) or found
    if found:
        raise typer.Exit(1)


@app.command()
def serve(
    port: Annotated[int | None, typer.Option(help="The port on 127.0.0.1; 0 takes a free one.")] = None,
    demo: Annotated[bool, typer.Option("--demo", help="Load the demo world when the database is empty.")] = False,
    data: Annotated[Path | None, typer.Option(help="The private folder for the database.")] = None,
) -> None:
    """Start PostgreSQL and Barrio on this machine; Ctrl+C stops both. Settings also come from BARRIO_… and barrio.toml."""
    from barrio.api.serve import run

    sys.exit(run(_config({"port": port, "demo": demo or None, "data": data})))


@app.command()
def work(
    data: Annotated[Path | None, typer.Option(help="The folder that the key file stands in.")] = None,
) -> None:
    """Do jobs for servers on the same database (BARRIO_DATABASE), on this machine or another; Ctrl+C ends it."""
    from barrio.api.serve import work as do

    sys.exit(do(_config({"data": data})))


def _config(said: dict[str, Any]) -> Any:
    """The settings, with what the command line says before all others."""
    from pydantic import ValidationError

    from barrio.config import Config

    try:
        return Config(**{name: value for name, value in said.items() if value is not None})
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        why = first["msg"].removeprefix("Value error, ")
        fail(2, f"The setting {where} cannot be so: {why}." if where else f"The settings cannot be so: {why}.")
    except TOMLDecodeError as error:
        fail(2, f"barrio.toml is not TOML: {error}.")


def _write(out: Path, files: dict[str, bytes]) -> None:
    """A bundle, whole or not at all: written beside its place, then moved there."""
    out.parent.mkdir(parents=True, exist_ok=True)
    if out.name.endswith((".zip", ".tar.gz")):
        beside = out.with_name(f".{out.name}.{os.getpid()}")
        beside.write_bytes(as_zip(files) if out.suffix == ".zip" else as_tar_gz(files))
        beside.replace(out)
        return
    if out.exists() and any(out.iterdir()) and not (out / "manifest.json").exists():
        fail(3, f"{out} is not empty and holds no earlier bundle. Name another folder.")
    beside_folder = Path(tempfile.mkdtemp(prefix=f".{out.name}.", dir=out.parent))
    beside_folder.chmod(0o755)
    for path, content in files.items():
        place = beside_folder / path
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(content)
    for path, mode in modes_of(files).items():
        (beside_folder / path).chmod(mode)
    if out.exists():
        old = out.with_name(f".{out.name}.old.{os.getpid()}")
        out.rename(old)
        beside_folder.rename(out)
        shutil.rmtree(old)
    else:
        beside_folder.rename(out)


def _read_by_programs(brief: Path, compiled: Compiled) -> bool:
    """Have every file read by its own program; whether there was anything. What is not installed here is named."""
    from barrio.rehearsal.parsers import parsers

    complaints = files = 0
    with parsers() as programs:
        for switch in compiled.staged:
            if switch.key in compiled.without_files:
                continue
            texts = compiled.files(switch.key)
            files += sum(programs.reads(path) for path in texts)
            for one in programs.complaints(texts):
                complaints += 1
                typer.echo(f"{brief}: {switch.name}, {one.path}: {one.program} says: {one.words}", err=True)
        missing = programs.missing
    typer.echo(
        f"{files:,} files of {len(compiled.staged)} switches were read by their own programs: {complaints or 'no'} complaints."
    )
    if missing:
        typer.echo(f"Not installed here, so not asked: {', '.join(missing)}.", err=True)
    return bool(complaints or missing)


def _tell(brief: Path, compiled: Compiled) -> bool:
    """Say what was found in the brief, and by reading the files back; whether there was anything."""
    findings = compiled.noticed + compiled.read_back()
    for finding in findings:
        typer.echo(f"{brief}: {finding.message} [{finding.code}]", err=True)
    return bool(findings)


if __name__ == "__main__":
    app()
