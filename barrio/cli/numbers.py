"""`barrio whois` and `barrio numbers`: the ledger of a running Barrio, asked and changed through its API.

`--at` says where it runs (default: the address that `barrio serve` uses). With `--ledger`, whois and list read the JSON file
that `barrio build` keeps instead.
"""

from __future__ import annotations

import json
import sys
from ipaddress import ip_network
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from barrio.cli import ledgerfile
from barrio.cli.asking import HERE, As, At, Format, ask, bytes_of, fail, show, tried
from barrio.core.book import Entry
from barrio.core.errors import Refused
from barrio.core.ledger.pool import Family, family_of, parse_range, prefix_text

if TYPE_CHECKING:
    pass

app = typer.Typer(
    no_args_is_help=True, help="Ask the ledger: list, find free, history, import, export, pin, renumber, audit."
)

LedgerFile = Annotated[Path | None, typer.Option("--ledger", help="Read this JSON ledger instead of a running Barrio.")]


def whois(number: str, at: At = HERE, ledger: LedgerFile = None, how: As = Format.TABLE) -> None:
    """Whose is this address, prefix, ASN, VLAN or VNI?"""
    if ledger is not None:
        _whois_in_file(number, ledger)
        return
    said = ask("GET", at, "/whois", params={"q": number}).json()
    if how is Format.JSON:
        typer.echo(json.dumps(said, indent=1))
        return
    typer.echo(said["says"])
    for owner in said["owners"]:
        pinned = ", pinned" if owner["pinned"] else ""
        note = f" ({owner['note']})" if owner["note"] else ""
        typer.echo(
            f"  {owner['number']}  {owner['use']} of {owner['key']} in {owner['fabric']}, {owner['state']}{pinned}{note}, "
            f"pool {owner['pool']}, since {owner['since'][:10]}"
        )
    for home in said["pools"]:
        kept = f", reserved: {home['reserved']}" if home["reserved"] else ""
        typer.echo(f"  in {home['range']} of pool {home['pool']}{kept}")
    if not said["owners"]:
        raise typer.Exit(1)


def _whois_in_file(number: str, path: Path) -> None:
    try:
        book, part = ledgerfile.load(path), parse_range(_as_prefix(number))
    except Refused as error:
        fail(2, str(error))
    found = [
        entry
        for entry in book.all()
        if family_of(entry.use) is part.family and entry.taken.low <= part.low and part.high <= entry.taken.high
        and entry.use.partition(".")[0] not in ("port", "cable")
    ]  # fmt: skip
    for entry in found:
        text = prefix_text(part.family, *entry.taken)
        typer.echo(f"{text} is {entry.use} of {entry.key} in {entry.fabric}, {entry.life.state}, pool {entry.pool}.")
    if not found:
        typer.echo(f"{number} is nobody's.")
        raise typer.Exit(1)


def _as_prefix(number: str) -> str:
    """An address or a prefix as the prefix around it."""
    try:
        return number if number.isdigit() else str(ip_network(number, strict=False))
    except ValueError:
        return number


@app.command("list")
def list_numbers(
    fabric: Annotated[str, typer.Option(help="The fabric.")],
    of: Annotated[str, typer.Option(help="Only what this rack, switch or segment owns, such as r07.")] = "",
    use: Annotated[str, typer.Option(help="Only this use, such as loopback or link.v4.")] = "",
    at: At = HERE,
    ledger: LedgerFile = None,
    how: As = Format.TABLE,
) -> None:
    """The numbers that a fabric holds."""
    if ledger is not None:
        rows = [_row(entry) for entry in _file_entries(ledger, fabric) if _matches(entry, of, use)]
    else:
        found = ask("GET", at, f"/fabrics/{fabric}/numbers", params={"of": of, "use": use}).json()
        rows = [[one["number"], one["use"], one["key"], one["pool"] or ""] for one in found]
    show(["number", "use", "owner", "pool"], rows, how)


def _file_entries(path: Path, fabric: str) -> list[Entry]:
    try:
        return [entry for entry in ledgerfile.load(path).entries.get(fabric, ()) if entry.life.current]
    except Refused as error:
        fail(2, str(error))


def _matches(entry: Entry, of: str, use: str) -> bool:
    return (not use or use in (entry.use, entry.use.partition(".")[0])) and (
        not of or any(of in part.split("/") or of == part for part in entry.key.split("~"))
    )


def _row(entry: Entry) -> list[str]:
    return [prefix_text(family_of(entry.use), *entry.taken), entry.use, entry.key, entry.pool]


@app.command()
def free(
    length: Annotated[str, typer.Argument(help="The prefix length wanted, such as /22.")],
    pool: Annotated[str, typer.Option(help="Only in this pool.")] = "",
    family: Annotated[Family, typer.Option(help="v4 or v6.")] = Family.V4,
    at: At = HERE,
    how: As = Format.TABLE,
) -> None:
    """Where a prefix of this length is free, the best fit first."""
    asked = {"length": length.removeprefix("/"), "family": family.value} | ({"pool": pool} if pool else {})
    found = ask("GET", at, "/numbers/free", params=asked).json()
    show(["prefix", "pool", "in a hole of"], [[one["prefix"], one["pool"], one["hole"]] for one in found], how)
    if not found:
        raise typer.Exit(1)


@app.command()
def history(number: str, space: str = "", at: At = HERE, how: As = Format.TABLE) -> None:
    """All that ever was at a number, how it is now first."""
    found = ask("GET", at, "/numbers/history", params={"number": number, "space": space}).json()
    rows = [
        [one["number"], "leaving" if one["leaving"] else one["state"], f"{one['use']} of {one['key']}", one["fabric"],
         one["since"][:19], (one["until"] or "")[:19], one["author"], one["act"]]
        for one in found
    ]  # fmt: skip
    show(["number", "state", "as", "fabric", "since", "until", "by", "act"], rows, how)


@app.command("import")
def import_sheet(
    sheet: Annotated[Path, typer.Argument(metavar="PLAN.csv")],
    fabric: Annotated[str, typer.Option(help="The fabric that rows speak of when they name none.")],
    take: Annotated[bool, typer.Option("--take", help="Take it; without this it is only tried.")] = False,
    columns: Annotated[str, typer.Option(help='Which column holds what: {"number": 0, "owner": 2}.')] = "",
    at: At = HERE,
) -> None:
    """Try a numbering plan row by row, and with --take pin all of it or nothing."""
    path = f"/fabrics/{fabric}/numbers/{'take' if take else 'preview'}"
    params = {"columns": columns} if columns else {}
    tried(sheet, ask("POST", at, path, content=bytes_of(sheet), params=params).json(), take)


@app.command()
def export(
    out: Annotated[Path, typer.Argument(help="A file ending in .csv, .xlsx, .hosts or .zip (DNS zones).")],
    fabric: Annotated[str, typer.Option(help="Only this fabric; needed for .hosts and .zip.")] = "",
    pool: Annotated[str, typer.Option(help="Only this pool.")] = "",
    at: At = HERE,
) -> None:
    """Write the numbering plan as a sheet, or a fabric's address records."""
    kind = out.suffix.removeprefix(".")
    if kind in ("csv", "xlsx"):
        content = ask("GET", at, f"/numbers.{kind}", params={"fabric": fabric, "pool": pool}).content
    elif kind in ("hosts", "zip") and fabric:
        content = ask("GET", at, f"/fabrics/{fabric}/names.{kind}").content
    else:
        fail(2, f"{out}: end it in .csv or .xlsx, or in .hosts or .zip with --fabric.")
    out.write_bytes(content)
    typer.echo(f"{out}: {len(content):,} bytes.")


@app.command()
def pin(
    use: str,
    key: str,
    number: Annotated[str, typer.Argument(help="The number; “none” lets the pin go.")],
    fabric: Annotated[str, typer.Option(help="The fabric.")],
    note: Annotated[str, typer.Option(help="Why, for those who come after.")] = "",
    at: At = HERE,
) -> None:
    """Fix a number for a key."""
    version = ask("GET", at, f"/fabrics/{fabric}/version").json()["version"]
    asked = {"use": use, "key": key, "number": None if number == "none" else number, "note": note}
    ask("POST", at, f"/fabrics/{fabric}/pins", json={"version": version, "pins": [asked]})
    typer.echo(f"{use} of {key}: {'no longer pinned' if number == 'none' else f'pinned to {number}'}.")


@app.command()
def renumber(
    uses: Annotated[list[str], typer.Argument(help="What to draw anew, such as loopback or asn.")],
    fabric: Annotated[str, typer.Option(help="The fabric.")],
    do: Annotated[bool, typer.Option("--do", help="Do it; without this it is only shown.")] = False,
    at: At = HERE,
    how: As = Format.TABLE,
) -> None:
    """What today's plans would give, and with --do move there."""
    found = ask("GET", at, f"/fabrics/{fabric}/renumbering", params={"uses": uses}).json()["moves"]
    show(["use", "owner", "now", "then"], [[one["use"], one["key"], one["now"], one["then"]] for one in found], how)
    if do and found:
        version = ask("GET", at, f"/fabrics/{fabric}/version").json()["version"]
        ask("POST", at, f"/fabrics/{fabric}/renumbering", json={"version": version, "uses": uses})
    typer.echo(f"{len(found)} numbers {'moved' if do else 'would move'}.", err=True)


@app.command()
def audit(at: At = HERE) -> None:
    """Look for what must never be: overlaps, orphans, numbers without a record."""
    found = ask("GET", at, "/ledger/audit").json()
    for line in found:
        typer.echo(line)
    typer.echo("All is well." if not found else f"{len(found)} things are wrong.", file=sys.stderr)
    if found:
        raise typer.Exit(1)
