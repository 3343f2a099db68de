"""`barrio stage drain` and its like: switches that are taken out, replaced and moved without anybody noticing."""

from __future__ import annotations

import time
from typing import Annotated, Any

import typer

from barrio.cli.asking import HERE, At, ask, fail

Fabric = Annotated[str, typer.Argument(help="The fabric.")]
Switch = Annotated[str, typer.Argument(help="The switch, by name.")]
_AGAIN = 2.0


def drain(
    fabric: Fabric,
    switch: Annotated[str, typer.Argument(help="The switch, by name; without one, those that are drained are listed.")] = "",
    why: Annotated[str, typer.Option(help="Why; without it, only what goes with it is told.")] = "",
    wait: Annotated[bool, typer.Option("--wait", help="Until its neighbours go another way.")] = False,
    at: At = HERE,
) -> None:  # fmt: skip
    """Have a switch send others another way (RFC 8326), and its neighbours asked whether they do."""
    path = f"/fabrics/{fabric}/staging/drains"
    if not switch:
        for one in ask("GET", at, path).json() or [{}]:
            typer.echo(_line(one) if one else "Nothing is drained.")
        return
    if not why:
        _cost(switch, ask("GET", at, f"{path}/{switch}/cost").json())
        return
    ask("PUT", at, f"{path}/{switch}", json={"why": why})
    typer.echo(f"{switch} is told to be drained as soon as it asks.")
    while wait:
        found = next((one for one in ask("GET", at, path).json() if one["switch"] == switch), None)
        if found is None or found["state"] in ("drained", "kept"):
            typer.echo(_line(found) if found else f"{switch} is no more drained.")
            if not found or found["state"] == "kept":
                raise typer.Exit(1)
            return
        time.sleep(_AGAIN)


def undrain(fabric: Fabric, switch: Switch, at: At = HERE) -> None:
    """Have a switch carry again."""
    ask("DELETE", at, f"/fabrics/{fabric}/staging/drains/{switch}")
    typer.echo(f"{switch} is told to carry again as soon as it asks.")


def page(
    fabric: Fabric, switch: Switch,
    errand: Annotated[str, typer.Argument(help="replace, take-out or move.")] = "replace", at: At = HERE,
) -> None:  # fmt: skip
    """The page for whoever replaces a switch, takes it out or moves it: what to do at the rack, in its order."""
    if errand not in ("replace", "take-out", "move"):
        fail(2, f"There is no page for {errand}. There are: replace, take-out, move.")
    typer.echo(ask("GET", at, f"/fabrics/{fabric}/staging/errands/{errand}/{switch}").text, nl=False)


def _line(one: dict[str, Any]) -> str:
    return f"{one['switch']}: {one['state']}, {one['words']} ({one['why']}; {one['author']})"


def _cost(switch: str, found: dict[str, Any]) -> None:
    typer.echo(f"What goes with {switch}:")
    for words, names in (("hosts without another way", found["dark"]), ("hosts that have one", found["other_way"]), ("switches that nobody would reach", found["cut_off"])):  # fmt: skip
        shown = f": {', '.join(names[:8])}{f' and {len(names) - 8} more' if len(names) > 8 else ''}" if names else ""
        typer.echo(f"  {len(names)} {words}{shown}")
    for one in found["neighbours"][:12]:
        typer.echo(f"  {one['name']} keeps {one['keeps']} of {one['of']} links this way")
    if len(found["neighbours"]) > 12:
        typer.echo(f"  and {len(found['neighbours']) - 12} more neighbours")
    typer.echo("Say why, and it is drained: --why.")
