"""`barrio stage sztp`: boxes that come by RFC 8572."""

from __future__ import annotations

import base64
from pathlib import Path
from typing import Annotated

import typer

from barrio.cli.asking import HERE, At, ask, fail

Fabric = Annotated[str, typer.Argument(help="The fabric.")]


def sztp(
    fabric: Fabric,
    switch: Annotated[str, typer.Argument(help="The switch, by name; without one, those that may come are listed.")] = "",
    voucher: Annotated[Path | None, typer.Option(help="Its ownership voucher (RFC 8366), as its maker issued it: CMS, in DER.")] = None,
    word: Annotated[bool, typer.Option("--word", help="Make a word that the box says by HTTP, where it has no certificate of its maker. It is shown once.")] = False,
    never: Annotated[bool, typer.Option("--never", help="Let it no longer come so.")] = False,
    at: At = HERE,
) -> None:  # fmt: skip
    """Let the box that is bound to a switch come by RFC 8572 (secure zero touch provisioning), or list those that may."""
    path = f"/fabrics/{fabric}/staging/sztp"
    if not switch:
        _list(ask("GET", at, path).json())
        return
    if never:
        ask("DELETE", at, f"{path}/{switch}")
        typer.echo(f"The box of {switch} no longer comes by RFC 8572.")
        return
    try:
        content = voucher.read_bytes() if voucher else b""
    except OSError as error:
        fail(2, f"{voucher} cannot be read: {error.strerror}.")
    said = {"voucher": base64.b64encode(content).decode(), "word": word}
    made = ask("PUT", at, f"{path}/{switch}", json=said).json()["word"]
    typer.echo(f"The box of {switch} may come by RFC 8572.")
    if made:
        typer.echo(f"It says this word, which is shown only now: {made}")


def _list(found: list[dict[str, str]]) -> None:
    if not found:
        typer.echo("No box may come by RFC 8572 yet.")
    for one in found:
        shows = [name for name in ("word", "voucher") if one[name]] or ["its maker's certificate"]
        at = one["progress"] or ("asked" if one["seen_at"] else "not seen yet")
        typer.echo(f"{one['switch']:<16} {one['serial']:<20} {' and '.join(shows):<24} {at}")
