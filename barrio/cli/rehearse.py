"""`barrio rehearse`: a fabric, or the slice that answers for it, on real daemons of this machine, without a server."""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from barrio.cli.briefs import BriefFile, LedgerFile, fail, read_and_compile, read_change
from barrio.cli.faults import told
from barrio.cli.targets import OfficeFolder
from barrio.core.rehearse.slices import Wish
from barrio.paper.change_board import change_board
from barrio.rehearsal.asking.claims import Answer
from barrio.rehearsal.asking.every import chosen
from barrio.rehearsal.drilling import Drilled
from barrio.rehearsal.ground import NoLab
from barrio.rehearsal.report import junit, page
from barrio.rehearsal.run import Rehearsal, Split, rehearse


class Where(StrEnum):
    """The kernel on which it runs."""

    BEST = "best"
    HERE = "here"
    APART = "apart"


def run(
    brief: BriefFile,
    questions: Annotated[str, typer.Option(help="Which questions: all, or some by name with commas between.")] = "all",
    drill: Annotated[
        list[str],
        typer.Option(
            "--drill",
            help="Take it away with flows running: spine, leaf, border, link, daemon, restart, singles, or a name; often, or with + between.",
        ),
    ] = [],  # noqa: B006
    whole: Annotated[bool, typer.Option("--whole", help="The whole fabric, not a slice that answers for it.")] = False,
    spines: Annotated[int | None, typer.Option(help="So many spines of each pod in the slice.")] = None,
    racks: Annotated[
        str, typer.Option(help="The racks of the slice, with commas between; Barrio chooses without.")
    ] = "",
    most: Annotated[int, typer.Option(help="So many switches at most in a slice that Barrio chooses.")] = 12,
    ground: Annotated[
        Where, typer.Option(help="best: this kernel where it has all device kinds, else one of its own; here; apart.")
    ] = Where.BEST,
    split: Annotated[
        int | None,
        typer.Option(
            help="Split it over so many kernels of this machine, each with a processor; as many as serve it without.",
            min=1,
            max=16,
        ),
    ] = None,
    limit: Annotated[int, typer.Option(help="End it after so many minutes, with exit code 3; 0 for never.", min=0)] = 0,
    was: Annotated[
        Path | None,
        typer.Option(
            "--from", help="Boot this brief first, and put the other on it in the order of its Ripple: a change drill."
        ),
    ] = None,
    out_json: Annotated[Path | None, typer.Option("--json", help="Write everything that was found as JSON.")] = None,
    out_junit: Annotated[Path | None, typer.Option("--junit", help="Write it as JUnit's XML, for a pipeline.")] = None,
    out_html: Annotated[
        Path | None, typer.Option("--html", help="Write a report for people, one page that works offline.")
    ] = None,
    out_pdf: Annotated[Path | None, typer.Option("--pdf", help="Write a report on paper, for a change board.")] = None,
    ledger: LedgerFile = None,
    office: OfficeFolder = None,
) -> None:
    """Boot a fabric on real daemons, ask it questions, and break it on purpose. Exit code 1 when one says no or something was not as foretold, 3 when this
    machine cannot."""
    with told(brief):
        asked = chosen(one.strip() for one in questions.split(","))
    becomes = None
    if was is None:
        _, compiled = read_and_compile(brief, ledger, office)
    else:
        compiled, becomes = read_change(was, brief, ledger, office)
    wish = Wish(whole, spines, tuple(one.strip() for one in racks.split(",") if one.strip()), most)
    progress = Progress()
    try:
        with told(brief):
            found = rehearse(
                compiled, wish, asked, ground.value, progress, drill, limit * 60, becomes, Split(split or 0)
            )
    except NoLab as error:
        progress.clear()
        fail(3, str(error))
    progress.clear()
    _say(found)
    values = found.values()
    reports: tuple[tuple[Path | None, Callable[[], bytes]], ...] = (
        (out_json, lambda: json.dumps(values, indent=1).encode()),
        (out_junit, lambda: junit(found)),
        (out_html, lambda: page(values, found.summary()).encode()),
        (
            out_pdf,
            lambda: change_board(
                values, found.summary(), "a brief", f"Rehearsed {datetime.now(UTC):%Y-%m-%d %H:%M} UTC"
            ),
        ),
    )
    for path, made in reports:
        if path is not None:
            with told(path):
                path.write_bytes(made())
    if found.failed or found.other:
        raise typer.Exit(1)


class Progress:
    """A line that says how far it is, where somebody looks on; nothing where a pipeline does."""

    def __init__(self) -> None:
        self._began, self._width = time.monotonic(), 0

    def __call__(self, found: Rehearsal) -> None:
        if not sys.stderr.isatty():
            return
        done, of = found.done
        booting = [one["name"] for one in found.switches.values() if one["words"] == "boots"]
        words = f"{', '.join(booting[:3])} boot{'s' if len(booting) == 1 else ''}" if booting else found.state
        line = f"{done} of {of}, {time.monotonic() - self._began:.0f} s: {words}"[:100]
        typer.echo(f"\r{line.ljust(self._width)}", nl=False, err=True)
        self._width = len(line)

    def clear(self) -> None:
        if self._width:
            typer.echo(f"\r{' ' * self._width}\r", nl=False, err=True)


def _say(found: Rehearsal) -> None:
    slice = found.slice
    size = f"{len(slice.keys)} switches{'' if slice.whole else ', a slice'}"
    typer.echo(
        f"{found.fabric}: {size}, {found.hosts} of {found.of_hosts} hosts, on {found.ground}; up in {found.booted:.0f} s, {found.seconds:.0f} s in all."
    )
    for words in slice.left_out:
        typer.echo(f"  not here: {words}")
    for words in slice.cannot:
        typer.echo(f"  not proven: {words}")
    for one in sorted(found.answers, key=lambda one: ("no", "yes", "not asked").index(one.state)):
        _say_answer(one)
    for drilled in found.drills:
        _say_drill(drilled)
    typer.echo(found.summary() + ".")


def _say_drill(one: Drilled) -> None:
    told = one.brief()
    found = f"{told['touched']} of {told['count']} flows lost {told['lost']:,} packets, {told['longest']:.2f} s at most"
    typer.echo(f"{'OTHER' if one.faults else 'as said':9} {one.words}: {found}")
    for words in one.faults[:10]:
        typer.echo(f"{'':9}   {words}")


def _say_answer(one: Answer) -> None:
    if one.state == "not asked":
        typer.echo(f"{'':9} {one.title}: not asked, {one.why}")
        return
    failed = [claim for claim in one.claims if not claim.holds]
    count = f"{len(failed)} of {len(one.claims)}" if failed else str(len(one.claims))
    typer.echo(f"{one.state.upper() if failed else one.state:9} {one.title} ({count})")
    for claim in failed[:10]:
        typer.echo(f"{'':9}   {claim.words}: {claim.found}; expected: {claim.expected}")
    if len(failed) > 10:
        typer.echo(f"{'':9}   and {len(failed) - 10} more")
