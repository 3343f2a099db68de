"""`barrio follow`: the way of a flow from host to host, switch by switch, as the switches' own tables have it."""

from __future__ import annotations

import json
import sys
import time
from typing import Annotated, Any

import typer

from barrio.cli.asking import HERE, At, ask


def follow_flow(
    fabric: Annotated[str, typer.Argument(help="The fabric.")],
    source: Annotated[str, typer.Argument(help="Where it begins: a host's name or its address.")],
    target: Annotated[str, typer.Argument(help="Where it is for: a host's name, its address, or one outside.")],
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
    at: At = HERE,
) -> None:
    """Ask the switches which way a flow takes. Exit code 1 when not all of it arrives, or when that is not known."""
    said = {"source": source, "target": target}
    number = ask("POST", at, f"/fabrics/{fabric}/flows", json=said).json()["number"]
    told = ""
    while True:
        found = ask("GET", at, f"/fabrics/{fabric}/flows/{number}").json()
        if not found["waits"]:
            break
        waits = f"Waits for {len(found['waits_for'])} switches…"
        if waits != told and sys.stderr.isatty():
            typer.echo(waits, err=True)
            told = waits
        time.sleep(0.5)
    if as_json:
        typer.echo(json.dumps(found, indent=2, sort_keys=True))
    else:
        _show(found)
    if found["arrives"] < 1:
        raise typer.Exit(1)


def _show(found: dict[str, Any]) -> None:
    for step in found["steps"]:
        typer.echo(f"{'  ' * step['depth']}{step['switch']} ({step['share']:.0%})")
        edge = "  " * step["depth"] + "  "
        for words in step["words"]:
            typer.echo(f"{edge}{words}")
        for way in step["ways"]:
            typer.echo(
                f"{edge}→ {way['port']} ({way['cable']}) to {found['steps'][way['step']]['switch']}, {way['share']:.0%}"
            )
        if 0 < len(step["ways"]) < step["planned"]:
            typer.echo(f"{edge}{len(step['ways'])} of {step['planned']} planned ways")
        for end in step["ends"]:
            typer.echo(f"{edge}{'arrives: ' if end['arrives'] else 'ends: '}{end['words']}")
        if step["waits"]:
            typer.echo(f"{edge}did not answer")
    typer.echo(found["words"])
    if found["narrowest"] and found["arrives"]:
        typer.echo(f"Packets of up to {found['narrowest']} bytes go through.")
