"""How the command line says what is wrong: `file:line:column: words [code]`, one line a fault, on standard error."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import typer

from barrio.core import Refused


def tell(source: object, error: Refused) -> None:
    """Print every fault of a refusal."""
    for fault in error.faults:
        place = f":{fault.line}" if fault.line else ""
        column = f":{fault.column}" if fault.column else ""
        typer.echo(f"{source}{place}{column}: {fault.message} [{fault.code}]", err=True)


@contextmanager
def told(source: object) -> Iterator[None]:
    """Refusals and files that cannot be read end the command with exit code 2, in words."""
    try:
        yield
    except Refused as error:
        tell(source, error)
        raise typer.Exit(2) from None
    except UnicodeDecodeError:
        typer.echo(f"{source}: This is not UTF-8 text. Save it as UTF-8.", err=True)
        raise typer.Exit(2) from None
    except OSError as error:
        typer.echo(f"{source}: {error.strerror}.", err=True)
        raise typer.Exit(2) from None
