"""Saying a shape on the command line: lines, needs, sheets of links, and structures in open formats."""

from __future__ import annotations

import dataclasses
import json
from pathlib import Path
from typing import Annotated

import typer

from barrio.cli.faults import told
from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import locate, read
from barrio.core.catalogue.made import MADE
from barrio.core.edits.linetext import text_of_line, write_line
from barrio.core.exchange.drawing import read_drawing
from barrio.core.exchange.understand import understand
from barrio.core.exchange.write import FORMATS
from barrio.core.office import BARE, Office
from barrio.core.proposals import Need, Rule, fat_tree, propose
from barrio.core.structure.expand import expand
from barrio.core.sums import add_up

app = typer.Typer(help=__doc__)
BriefFile = Annotated[Path, typer.Argument(metavar="BRIEF.yaml", help="The brief of one fabric.")]
Name = Annotated[str, typer.Option("--name", help="The fabric's name.")]


def compiled_from(brief: Path, office: Office = BARE) -> Compiled:
    """The fabric of a brief, its numbers drawn from nothing. Raises `Refused` with lines."""
    document = read(brief.read_text())
    try:
        return compile(document.brief, office=office)
    except Refused as error:
        raise locate(error, document) from None


@app.command("from-line")
def from_line(line: Annotated[str, typer.Argument(help="Such as “4 spines, 12 racks of leaf pairs”.")]) -> None:
    """Print the brief that a line says."""
    with told("line"):
        text = text_of_line(line, MADE)
        expand(read(text).brief, MADE)
    typer.echo(text, nl=False)


@app.command("to-line")
def to_line(brief: BriefFile) -> None:
    """Print a brief's shape and routing as a line."""
    with told(brief):
        typer.echo(write_line(read(brief.read_text()).brief))


@app.command()
def sums(brief: BriefFile) -> None:
    """Print every sum of a brief as JSON: ports, oversubscription, losses, growth, racks, cables, tables."""
    with told(brief):
        document = read(brief.read_text())
        try:
            found = add_up(document.brief, expand(document.brief, MADE))
        except Refused as error:
            raise locate(error, document) from None
    typer.echo(json.dumps(dataclasses.asdict(found), indent=2, default=dict))


@app.command("propose")
def propose_designs(
    hosts: Annotated[int, typer.Option(help="How many hosts.")],
    host_speed: Annotated[int, typer.Option(help="Gbit/s of each host port.")] = 25,
    homes: Annotated[int, typer.Option(help="Leaves that each host is on, 1 or 2.")] = 2,
    racks: Annotated[int, typer.Option(help="Racks; 0 for as many as needed.")] = 0,
    oversubscription: Annotated[float, typer.Option(help="At most this, to 1.")] = 3.0,
    growth: Annotated[float, typer.Option(help="Share of racks to come, 0.25 for a quarter.")] = 0.0,
    model: Annotated[list[str] | None, typer.Option(help="A model allowed; may be said several times.")] = None,
    rule: Annotated[str, typer.Option(help="fewest switches, fewest cables, least power, least oversubscribed, most room.")] = "fewest switches",
    keep: Annotated[int, typer.Option(help="Print the brief of this proposal, from 1, and nothing else.")] = 0,
    name: Name = "proposal",
) -> None:  # fmt: skip
    """Weigh every design over the catalogue, and print those that meet the need, best first."""
    rules = Rule.__args__  # type: ignore[attr-defined]
    if rule not in rules:
        typer.echo(f"“{rule}” is no rule. Use one of: {', '.join(rules)}.", err=True)
        raise typer.Exit(2)
    need = Need(hosts, host_speed, homes, racks, oversubscription, growth, tuple(model or ()), rule)  # type: ignore[arg-type]
    with told("need"):
        found = propose(need, MADE, name)
    if keep:
        if keep > len(found.proposals):
            typer.echo(f"There are {len(found.proposals)} proposals; keep one of those.", err=True)
            raise typer.Exit(2)
        typer.echo(found.proposals[keep - 1].text, nl=False)
        return
    typer.echo(f"{found.weighed:,} designs weighed, {found.met:,} meet the need.")
    for number, proposal in enumerate(found.proposals, 1):
        one = proposal.design
        tiers = f"{one.spines * max(1, one.pods)} × {one.spine}"
        tiers += f", {one.supers * one.spines} × {one.super_spine}" if one.pods else ""
        typer.echo(
            f"{number}. {one.racks * one.leaves_per_rack} × {one.leaf} in {one.racks} racks, {tiers}, {one.lanes} per spine: "
            f"{one.switches:,} switches, {one.cables:,} cables, {one.power / 1000:.1f} kW, {one.oversubscription:.2f} : 1, "
            f"room for {one.room:,} leaves"
        )
    for failure in found.failures:
        typer.echo(f"   {failure.models}: {failure.reason}", err=True)
    raise typer.Exit(0 if found.proposals else 1)


@app.command("fat-tree")
def make_fat_tree(
    k: Annotated[int, typer.Argument(help="Ports of each switch, even, 4 to 48.")],
    model: Annotated[str, typer.Option(help="The model of all switches.")] = "cantera-c48",
    name: Name = "fat-tree",
) -> None:
    """Print the brief of a k-ary fat tree."""
    with told("fat-tree"):
        typer.echo(fat_tree(k, model, MADE, name), nl=False)


@app.command("import-links")
def import_links(
    sheet: Annotated[
        Path, typer.Argument(metavar="LINKS", help="CSV (switch, port, switch, port), RFC 8345 JSON, GraphML or DOT.")
    ],
    name: Name = "imported",
) -> None:
    """Print the brief that a list of links or a drawing makes; what was guessed or not understood is said on standard error."""
    with told(sheet):
        drawing = read_drawing(sheet.read_bytes())
        models = {node.name: node.model for node in drawing.nodes.values() if node.model}
        found = understand(list(drawing.links), name, MADE, models)
    typer.echo(found.text, nl=False)
    for note in (*drawing.notes, *found.notes):
        typer.echo(note, err=True)


@app.command()
def topology(
    brief: BriefFile,
    kind: Annotated[str, typer.Option("--format", help=", ".join(FORMATS))] = "rfc8345.json",
) -> None:
    """Print the structure as RFC 8345 JSON, GraphML, DOT or SVG."""
    if kind not in FORMATS:
        typer.echo(f"“{kind}” is no format. Use one of: {', '.join(FORMATS)}.", err=True)
        raise typer.Exit(2)
    with told(brief):
        compiled = compiled_from(brief)
    typer.echo(FORMATS[kind][0](compiled), nl=False)
