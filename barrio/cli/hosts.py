"""`barrio hosts`: who is at which port of a fabric in a running Barrio, and sheets of hosts in and out."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from barrio.cli.asking import HERE, As, At, Format, ask, bytes_of, fail, show, tried

app = typer.Typer(no_args_is_help=True, help="Hosts on ports: list, import, export.")

Fabric = Annotated[str, typer.Option(help="The fabric.")]
WINDOW = 2000


@app.command("list")
def list_hosts(
    fabric: Fabric,
    rack: Annotated[str, typer.Option(help="Only this rack.")] = "",
    segment: Annotated[str, typer.Option(help="Only who carries this segment.")] = "",
    team: Annotated[str, typer.Option(help="Only this team's.")] = "",
    at: At = HERE,
    how: As = Format.TABLE,
) -> None:
    """Who is at which port, and what is carried there."""
    rows: list[list[str]] = []
    while True:
        asked = {"rack": rack, "segment": segment, "team": team, "show": "hosts", "offset": len(rows), "limit": WINDOW}
        found = ask("GET", at, f"/fabrics/{fabric}/carrying", params=asked).json()
        names = [column["name"] for column in found["columns"]]
        for row in found["rows"]:
            untagged = names[row["untagged"]] if row["untagged"] is not None else ""
            tagged = " ".join(names[one] for one in row["tagged"])
            rows.append(
                [row["host"], row["leaf"], row["ports"], row["team"], row["plug"], row["lag"], untagged, tagged]
            )
        if len(rows) >= found["total"] or not found["rows"]:
            break
    show(["host", "leaf", "ports", "team", "plug", "lag", "untagged", "tagged"], rows, how)


@app.command("import")
def import_sheet(
    sheet: Path,
    fabric: Fabric,
    take: Annotated[bool, typer.Option("--take", help="Take it; without this it is only tried.")] = False,
    columns: Annotated[str, typer.Option(help='Which column holds what: {"host": 0, "at": 2}.')] = "",
    at: At = HERE,
) -> None:
    """Try a sheet of hosts (CSV or .xlsx) row by row, and with --take take all of it or nothing."""
    data, asked = bytes_of(sheet), {"columns": columns} if columns else {}
    said = ask("POST", at, f"/fabrics/{fabric}/hosts/preview", content=data, params=asked).json()
    if take and not said["refused"]:
        seen = {**asked, "version": said["version"]}
        ask("POST", at, f"/fabrics/{fabric}/hosts/take", content=data, params=seen)
    tried(sheet, said, take)


@app.command()
def export(
    out: Annotated[Path, typer.Argument(help="A file ending in .csv or .xlsx.")], fabric: Fabric, at: At = HERE
) -> None:
    """Write the hosts as a sheet that can be taken again."""
    kind = out.suffix.removeprefix(".")
    if kind not in ("csv", "xlsx"):
        fail(2, f"{out}: end it in .csv or .xlsx.")
    content = ask("GET", at, f"/fabrics/{fabric}/hosts.{kind}").content
    out.write_bytes(content)
    typer.echo(f"{out}: {len(content):,} bytes.")
