"""`barrio build` and `barrio check`: a brief on this machine, compiled, and what is wrong with it."""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path
from typing import Annotated

import typer

from barrio.cli import ledgerfile
from barrio.cli.briefs import BriefFile, LedgerFile, fail, read_and_compile
from barrio.cli.targets import OfficeFolder
from barrio.core import Compiled
from barrio.core.bundle import as_tar_gz, as_zip, bundle_files, modes_of
from barrio.core.sums import add_up

app = typer.Typer(help=__doc__)


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
