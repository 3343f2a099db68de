"""Briefs as the command line is given them: files that are read and compiled, without a server."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, NoReturn

import typer

from barrio.cli import ledgerfile
from barrio.cli.faults import tell, told
from barrio.cli.targets import office_from
from barrio.core import Compiled, Refused, Stock, compile
from barrio.core.brief.document import MOST_BYTES, Document, locate, read
from barrio.core.errors import refuse
from barrio.core.ledger.wanted import Holdings
from barrio.core.office import Office

BriefFile = Annotated[Path, typer.Argument(metavar="BRIEF.yaml", help="The brief of one fabric.")]
LedgerFile = Annotated[Path | None, typer.Option("--ledger", help="Keep numbers between runs in this JSON file.")]


def read_and_compile(brief: Path, ledger: Path | None, office: Path | None) -> tuple[Document, Compiled]:
    """A brief from a file, compiled with a ledger and an office from files. What is wrong is told, and ends the command with exit code 2."""
    try:
        document = read(_text(brief))
        book = Stock()
        if ledger is not None:
            book = ledgerfile.load(ledger).stock(document.brief.fabric)
        try:
            return document, compile(document.brief, book, office=_office(office))
        except Refused as error:
            raise locate(error, document) from None
    except Refused as error:
        tell(brief, error)
        raise typer.Exit(2) from None


def read_change(was: Path, brief: Path, ledger: Path | None, office: Path | None) -> tuple[Compiled, Compiled]:
    """Two briefs of one fabric, the second compiled as a draft after the first: what both ask for keeps its numbers. As `read_and_compile`."""
    _, before = read_and_compile(was, ledger, office)
    try:
        document = read(_text(brief))
        held = Holdings(held=before.allocation.numbers)
        try:
            return before, compile(document.brief, Stock(before.pools, held), office=_office(office))
        except Refused as error:
            raise locate(error, document) from None
    except Refused as error:
        tell(brief, error)
        raise typer.Exit(2) from None


def _office(folder: Path | None) -> Office:
    with told(folder):
        return office_from(folder)


def _text(brief: Path) -> str:
    try:
        size = brief.stat().st_size
        if size > MOST_BYTES:
            raise refuse(
                "yaml.too-large",
                f"This is {size / 1e6:.1f} MB; a brief is {MOST_BYTES // 1024} KB at most. Use ranges such as r01..r64.",
            )
        return brief.read_text()
    except UnicodeDecodeError:
        raise refuse("yaml.encoding", "This is not UTF-8 text. Save it as UTF-8.") from None
    except OSError as error:
        fail(2, f"{brief}: {error.strerror}.")


def fail(code: int, message: str) -> NoReturn:
    """End the command with words on standard error."""
    typer.echo(message, err=True)
    raise typer.Exit(code)
