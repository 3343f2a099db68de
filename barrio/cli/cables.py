"""`barrio cables`: cables of a brief with their lengths and parts, what to order, what to print, and neighbour tables held against the plan.

Exit codes: 0 all is as planned; 1 something is not (check); 2 the brief, a table or the arguments are wrong.
"""

from __future__ import annotations

from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from barrio.cli import ledgerfile
from barrio.cli.asking import As, Format, fail, show
from barrio.cli.faults import told
from barrio.cli.shapes import BriefFile
from barrio.core import Compiled, Refused, Stock, compile
from barrio.core.brief.document import locate, read
from barrio.core.cabling.compared import Compared, compare
from barrio.core.cabling.heard import Port, read_heard, table_of
from barrio.core.cabling.materials import materials, read_stock
from barrio.core.cabling.moves import Mend
from barrio.core.exchange.sheet import read_sheet
from barrio.core.place.elevation import elevations
from barrio.paper import labels, pages

app = typer.Typer(no_args_is_help=True, help=__doc__)
LedgerFile = Annotated[Path | None, typer.Option("--ledger", help="The JSON file that keeps numbers between runs.")]


class What(StrEnum):
    COVER, RACKS, BUNDLES, LABELS = "cover", "racks", "bundles", "labels"


def _compiled(brief: Path, ledger: Path | None) -> Compiled:
    document = read(brief.read_text())
    stock = ledgerfile.load(ledger).stock(document.brief.fabric) if ledger else Stock()
    try:
        return compile(document.brief, stock)
    except Refused as error:
        raise locate(error, document) from None


@app.command("list")
def list_cables(
    brief: BriefFile,
    rack: Annotated[str, typer.Option(help="Only the cables that end in this rack.")] = "",
    ledger: LedgerFile = None,
    how: As = Format.TABLE,
) -> None:
    """Every cable with both ends, its length and its part."""
    with told(brief):
        cables = _compiled(brief, ledger).cables
    rows = [
        [
            cable.label, cable.a.text, cable.b.text, "" if cable.length is None else f"{cable.length:g}",
            "" if cable.stock is None else f"{cable.stock:g}", cable.part or f"{cable.kind} {cable.speed}G",
        ]
        for cable in cables
        if not rack or rack in (cable.a.rack, cable.b.rack)
    ]  # fmt: skip
    show(["cable", "from", "to", "length_m", "take_m", "part"], rows, how)


@app.command()
def order(
    brief: BriefFile,
    stock: Annotated[Path | None, typer.Option(help="A sheet of what is in stock: part, length, count.")] = None,
    ledger: LedgerFile = None,
    how: As = Format.TABLE,
) -> None:
    """What to order, by part and length, with spares and against what is in stock."""
    with told(brief):
        laid = _compiled(brief, ledger).laid
    have = {}
    if stock is not None:
        with told(stock):
            sheet = read_sheet(stock.read_bytes())
            have = read_stock(sheet.columns, sheet.rows, sheet.lines, laid.parts)
    rows = [
        [
            one.item.part, one.name, "" if one.item.length is None else f"{one.item.length:g}", str(one.needed), str(one.spare),
            str(one.stocked), str(one.order), "" if one.price is None else f"{one.price:g}",
        ]
        for one in materials(laid, have)
    ]  # fmt: skip
    show(["part", "what", "length_m", "needed", "spare", "stocked", "order", "price"], rows, how)


@app.command("print")
def print_pages(
    brief: BriefFile,
    out: Annotated[Path, typer.Option("--out", help="A file ending in .pdf; labels may end in .csv.")],
    what: Annotated[What, typer.Option(help="What to print.")] = What.RACKS,
    size: Annotated[str, typer.Option(help=f"The sheet of labels: {', '.join(labels.SIZES)}.")] = "a4-70x37",
    at: Annotated[str, typer.Option(help="The address of the fabric's pages, for the codes on labels.")] = "",
    ledger: LedgerFile = None,
) -> None:
    """Pages for the hall: the cover with what to order, a page for each rack or bundle, or labels."""
    if out.suffix != ".pdf" and not (what is What.LABELS and out.suffix == ".csv"):
        fail(2, f"{out}: end it in .pdf{' or .csv' if what is What.LABELS else ''}.")
    with told(brief):
        compiled = _compiled(brief, ledger)
        content = _drawn(compiled, what, size, at, out.suffix)
    try:
        out.write_bytes(content)
    except OSError as error:
        fail(3, f"{error.filename or out}: {error.strerror}.")
    typer.echo(f"{out}: {len(content):,} bytes.")


def _drawn(compiled: Compiled, what: What, size: str, at: str, suffix: str) -> bytes:
    laid, title = compiled.laid, compiled.brief.title or str(compiled.brief.fabric)
    subtitle = f"{len(laid.cables):,} cables"
    match what:
        case What.COVER:
            return pages.cover(laid, materials(laid), title, subtitle)
        case What.BUNDLES:
            return pages.bundle_pages(laid, title, subtitle)
        case What.LABELS:
            return (
                labels.as_csv(laid.cables, at).encode()
                if suffix == ".csv"
                else labels.as_pdf(laid.cables, at, size, title)
            )
        case What.RACKS:
            stood = elevations(compiled.brief, compiled.structure)
            return pages.rack_pages(laid, stood, list(stood), title, subtitle)


@app.command()
def check(
    brief: BriefFile,
    tables: Annotated[
        list[Path], typer.Argument(help="Neighbour tables: lldpd's JSON named after its switch, CSV, or lines.")
    ],
    ledger: LedgerFile = None,
) -> None:
    """Hold what switches hear of each other against the plan, and print the smallest set of moves that puts all right."""
    with told(brief):
        cables = _compiled(brief, ledger).cables
    whole = table_of(())
    for table in tables:
        with told(table):
            whole += read_heard(table.read_bytes(), table.stem)
    with told(tables[0]):
        found = compare(cables, whole)
    counts = ", ".join(f"{count} {state}" for state, count in sorted(found.counts.items(), key=lambda one: -one[1]))
    typer.echo(f"{brief}: {counts}")
    _tell(found, {Port(end.switch, end.port): cable.label for cable in cables for end in (cable.a, cable.b)})
    if found.counts.get("right", 0) + found.counts.get("not heard of", 0) < len(found.cables) or found.faults:
        raise typer.Exit(1)


def _tell(found: Compared, labels_at: dict[Port, str]) -> None:
    for fault in found.faults:
        typer.echo(f"  {fault.message}", err=True)
    for one in found.cables:
        if one.state == "wrong speed":
            typer.echo(f"  {one.label} runs at {one.speed}G")
    for port, far in found.unknown:
        typer.echo(f"  {port.text} hears {far.text}, and no cable is planned there")
    for mend in found.mends:
        for line in told_mend(mend, labels_at):
            typer.echo(f"  {line}")


def told_mend(mend: Mend[Port], labels_at: dict[Port, str]) -> list[str]:
    """What a person does, a plug at a time."""
    lines = [f"pull the cable from {one.text} to {other.text}" for one, other in mend.pull]
    loose = [move for move in mend.moves if move.loose]
    for move in mend.moves:
        name = labels_at.get(move.stays, "the cable")
        where = f"{name} (its other end is in {move.stays.text})"
        if move.loose:
            lines.append(f"take {where} out of {move.out.text} and let it hang")
        else:
            lines.append(f"move {where} from {move.out.text} to {move.into.text}")
    lines += [f"put {labels_at.get(move.stays, 'the cable')}, which hangs, into {move.into.text}" for move in loose]
    lines += [f"lay {labels_at.get(one, 'a cable')} from {one.text} to {other.text}" for one, other in mend.lay]
    return lines
