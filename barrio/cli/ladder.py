"""The Ladder on the command line: what can be set, and who says what of it."""

from __future__ import annotations

from typing import Annotated

import typer

from barrio.cli.faults import told
from barrio.cli.shapes import BriefFile, compiled_from
from barrio.cli.targets import OfficeFolder, office_from
from barrio.core.errors import refuse
from barrio.core.heights import OWN, climb_of
from barrio.core.settings.known import known

app = typer.Typer(help=__doc__)


@app.command("ladder")
def ladder(
    brief: BriefFile,
    setting: Annotated[str, typer.Argument(help="One setting, such as services.ntp; all of them when left out.")] = "",
    switch: Annotated[str, typer.Option(help="Say what holds for this switch alone.")] = "",
    office: OfficeFolder = None,
) -> None:
    """Print settings with the rungs that say something of them, from the widest to the closest, and how many switches each is left with."""
    with told(brief):
        compiled = compiled_from(brief, office_from(office))
        settings = compiled.ladder.settings
        names = [known(setting, "setting", settings).name] if setting else list(settings)
        one = compiled.switch(switch) if switch else None
        if switch and one is None:
            raise refuse("switch.unknown", f"{compiled.brief.fabric} has no switch {switch[:60]}.")
    for name in names:
        climb = climb_of(compiled, name)
        typer.echo(f"{name}  {settings[name].words}")
        for rung in climb.rungs:
            if one is not None and rung.rung not in (OWN, *one.standing.rungs):
                continue
            if rung.says or rung.hold:
                typer.echo(f"  {rung.rung:24} {_said(rung.says, rung.adds, rung.why, rung.hold)}")
                typer.echo(f"  {'':24} {_left(rung.wins, rung.on, rung.beaten)}")
        if one is None and len(climb.outcomes) > 1:
            typer.echo("  in the end: " + "; ".join(f"{end.words} on {end.on}" for end in climb.outcomes))


def _said(says: str, adds: bool, why: str, hold: str) -> str:
    words = [
        f"{'adds ' if adds else ''}{says}" if says else "",
        f"({why})" if why else "",
        f"held: {hold}" if hold else "",
    ]
    return "  ".join(word for word in words if word)


def _left(wins: int, on: int, beaten: object) -> str:
    """How many switches are left with what a rung says, and who has it in its place elsewhere."""
    lost = (
        "".join(f", {count} have {rung}’s" for rung, count in dict(beaten).items()) if isinstance(beaten, dict) else ""
    )
    return f"for {wins} of {on} switches{lost}"
