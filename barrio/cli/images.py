"""`barrio stage image` and `images`: software for switches."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Annotated, BinaryIO
from urllib.parse import quote

import typer

from barrio.cli.asking import HERE, At, ask, fail
from barrio.core.errors import Refused
from barrio.core.staging.software import of_packages, size

Fabric = Annotated[str, typer.Argument(help="The fabric.")]


def image(
    fabric: Fabric,
    files: Annotated[list[Path], typer.Argument(help="An archive (tar) with a script “install” in it, or Debian packages; for another system, its own image.")],
    version: Annotated[str, typer.Option(help="The version that it is, as the brief says it in services.software.")],
    model: Annotated[str, typer.Option(help="The model that it is for, by id; for any when left out.")] = "",
    at: At = HERE,
) -> None:  # fmt: skip
    """Bring software; a switch that is to run this version and runs another installs it as it is staged."""
    try:
        content: BinaryIO | io.BytesIO
        if all(one.suffix == ".deb" for one in files):
            content, name = io.BytesIO(of_packages({one.name: one.read_bytes() for one in files})), f"{version}.tar"
        elif len(files) == 1:
            content, name = files[0].open("rb"), files[0].name
        else:
            fail(2, "Several files are Debian packages, or one file is an archive.")
    except OSError as error:
        fail(2, f"{error.filename} cannot be read: {error.strerror}.")
    except Refused as error:
        fail(2, str(error))
    with content:
        path = f"/fabrics/{fabric}/staging/images/{quote(version, safe='')}"
        found = ask("PUT", at, path, params={"model": model, "file": name}, content=content).json()
    typer.echo(
        f"{found['version']} for {found['model'] or 'any model'}: {size(found['size'])}, SHA-256 {found['sha256']}"
    )


def images(
    fabric: Fabric,
    drop: Annotated[str, typer.Option(help="Take the software of this version out.")] = "",
    model: Annotated[str, typer.Option(help="The model that it is for.")] = "",
    at: At = HERE,
) -> None:
    """The software that a fabric has for its switches."""
    path = f"/fabrics/{fabric}/staging/images"
    if drop:
        ask("DELETE", at, f"{path}/{quote(drop, safe='')}", params={"model": model})
        typer.echo(f"{drop} for {model or 'any model'} is taken out.")
        return
    found = ask("GET", at, path).json()
    if not found:
        typer.echo("There is no software yet. Bring some: barrio stage image.")
    for one in found:
        typer.echo(
            f"{one['version']:<20} {one['model'] or 'any model':<16} {size(one['size']):>8}  {one['sha256'][:16]}  {one['name']}"
        )
