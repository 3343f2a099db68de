"""Targets of one's own on the command line: the office's folder, and trying templates on a switch."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from barrio.cli.faults import told
from barrio.contained.process import Apart
from barrio.core import Compiled, Refused, compile
from barrio.core.brief.document import locate, read
from barrio.core.errors import refuse
from barrio.core.model.switch import SwitchModel
from barrio.core.office import BARE, SAID, Office, read_office
from barrio.core.render.target import Target
from barrio.core.render.trial import as_data, from_data
from barrio.core.targets.choice import rendered
from barrio.core.targets.own.lesson import learn_from
from barrio.core.targets.own.manifest import read_target
from barrio.core.targets.own.tally import tally
from barrio.core.targets.report import lacking

app = typer.Typer(help=__doc__)
OfficeFolder = Annotated[
    Path | None, typer.Option("--office", help="The folder of the office: its own targets, in targets/<name>/.")
]


def office_from(folder: Path | None) -> Office:
    """The office in a folder. Raises `Refused`, and `OSError` when there is none."""
    return BARE if folder is None else read_office(_texts(folder, "*") | _texts(folder, "*/*/*"), Apart())


def _texts(folder: Path, pattern: str) -> dict[str, str]:
    if not folder.is_dir():
        raise refuse("office.folder", f"{folder} is no folder.")
    files = sorted(path for path in folder.glob(pattern) if path.is_file() and not path.name.startswith("."))
    return {str(path.relative_to(folder)): path.read_text() for path in files}


@app.command("render")
def render(
    folder: Annotated[Path, typer.Argument(metavar="TARGET", help="The folder of a target: target.yaml and its templates.")],
    brief: Annotated[Path | None, typer.Argument(metavar="BRIEF.yaml", help="The brief of a fabric.")] = None,
    switch: Annotated[str, typer.Option(help="The switch to try it on; all of them, in numbers, when left out.")] = "",
    file: Annotated[str, typer.Option(help="Print this file alone, by its path on the switch.")] = "",
    data: Annotated[Path | None, typer.Option(help="Try it on data from this JSON file instead of a brief.")] = None,
    show_data: Annotated[bool, typer.Option("--show-data", help="Print what templates see of the switch, as JSON, and render nothing.")] = False,
) -> None:  # fmt: skip
    """Try the templates of a target on a switch of a brief, or on data from a file; writes nothing."""
    apart = Apart()
    try:
        with told(folder):
            target = read_target(folder.resolve().name, _texts(folder, "*"), apart)
            if data is not None:
                with told(data):
                    _print(from_data(_json(data)), target, file)
                return
            if brief is None:
                raise refuse("render.nothing", "Name a brief, or data from a file with --data.")
            with told(brief):
                compiled = _compiled(brief, _beside(folder))
            if not switch:
                _over_all(compiled, target)
                return
            model = _model(compiled, switch)
            if show_data:
                typer.echo(json.dumps(as_data(model), indent=2))
            else:
                _print(model, target, file)
    finally:
        apart.close()


@app.command("learn")
def learn_template(
    text: Annotated[Path, typer.Argument(metavar="CONFIG", help="A configuration that is known to be good.")],
    brief: Annotated[Path, typer.Argument(metavar="BRIEF.yaml", help="The brief of the fabric.")],
    switch: Annotated[str, typer.Option(help="The switch that the configuration is of.")],
    second: Annotated[str, typer.Option(help="Another switch, to see what the template gives for it.")] = "",
) -> None:
    """Print a template made of a configuration: values found in the model of its switch, loops where blocks repeat."""
    apart = Apart()
    try:
        with told(brief):
            compiled = _compiled(brief, BARE)
        with told(text):
            other = _model(compiled, second) if second else None
            lesson = learn_from(text.read_text(), _model(compiled, switch), other, apart)
    finally:
        apart.close()
    typer.echo(lesson.learned.template, nl=False)
    same = "gives back the same bytes" if lesson.same else "does not give back the same"
    typer.echo(f"{lesson.learned.values} values, {lesson.learned.loops} loops; for {switch} it {same}.", err=True)
    for line in lesson.differs:
        typer.echo(f"  {line}", err=True)
    for choice in lesson.learned.choices:
        typer.echo(
            f"  line {choice.line}: {choice.value} is taken for {choice.taken}; it could be {', '.join(choice.others)}",
            err=True,
        )
    if lesson.second:
        typer.echo(f"For {second}:\n{lesson.second}", err=True)
    if not lesson.same:
        raise typer.Exit(1)


def _model(compiled: Compiled, name: str) -> SwitchModel:
    found = compiled.switch(name)
    if found is None:
        raise refuse("switch.unknown", f"{compiled.brief.fabric} has no switch {name[:60]}.")
    return compiled.models[found.key]


def _beside(folder: Path) -> Office:
    """What the office says that a target's folder stands in, if it stands in one."""
    said = folder.resolve().parents[1] / SAID
    return read_office({SAID: said.read_text()}) if said.is_file() else BARE


def _compiled(brief: Path, office: Office) -> Compiled:
    document = read(brief.read_text())
    # Which targets the brief names is of no matter: it is this one that is tried.
    plain = document.brief.model_copy(update={"target": "linux-frr", "rungs": _without_target(document.brief.rungs)})
    try:
        return compile(plain, office=office)
    except Refused as error:
        raise locate(error, document) from None


def _without_target(rungs: dict[str, dict[str, Any]]) -> dict[str, dict[str, Any]]:
    return {rung: {name: value for name, value in said.items() if name != "target"} for rung, said in rungs.items()}


def _json(path: Path) -> object:
    try:
        return json.loads(path.read_text())
    except ValueError as error:
        raise refuse("data.json", f"This is not JSON: {error}.") from None


def _print(model: SwitchModel, target: Target, file: str) -> None:
    files = rendered(model, target)
    if file and file not in files:
        raise refuse("file.unknown", f"{model.name} has no file {file[:80]}. There are {', '.join(files)}.")
    for path, text in files.items():
        if not file:
            typer.echo(f"=== {path}")
        if not file or path == file:
            typer.echo(text, nl=False)
    for _, what, value in lacking(model, target, files):
        typer.echo(f"{model.name}: {what}, {value}, is in no file.", err=True)


def _over_all(compiled: Compiled, target: Target) -> None:
    """How many switches the templates are good for, and why not for the others."""
    found = tally(((model, {}) for model in compiled.models.values()), target)
    typer.echo(
        f"{target.name}: {found.written} of {found.switches} switches of {compiled.brief.fabric} are written, {found.lines:,} lines."
    )
    for words, count in found.refused.items():
        typer.echo(f"  {count}: {words}", err=True)
    for path, count in found.missing.items():
        typer.echo(f"  {path} is in no file of {count}.", err=True)
    if found.refused or found.missing:
        raise typer.Exit(1)
