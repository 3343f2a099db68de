"""`barrio stage ways` and `barrio stage dhcp`: how switches come to Barrio."""

from __future__ import annotations

import io
import json
import zipfile
from pathlib import Path
from typing import Annotated

import typer

from barrio.cli.asking import HERE, At, ask, fail
from barrio.staging.kea import NoKea, run

Fabric = Annotated[str, typer.Argument(help="The fabric.")]


def ways(
    fabric: Fabric,
    address: Annotated[str | None, typer.Option(help="Where switches reach Barrio, as https://barrio.example.")] = None,
    admits: Annotated[str | None, typer.Option(help="Who is let in without being asked about: nobody, “serial and place”, serial.")] = None,
    lend: Annotated[str | None, typer.Option(help="The prefix that strangers are lent addresses from; reserve it in the management pool first.")] = None,
    at: At = HERE,
) -> None:  # fmt: skip
    """How the switches of a fabric come to Barrio; with options, say it."""
    path = f"/fabrics/{fabric}/staging/ways"
    found = ask("GET", at, path).json()
    given = {name: one for name, one in (("address", address), ("admits", admits), ("lend", lend)) if one is not None}
    if given:
        said = {name: found[name] for name in ("address", "admits", "lend")}
        found = ask("PUT", at, path, json={**said, **given}).json()
    typer.echo(f"Switches reach Barrio at {found['address'] or 'no address yet'}.")
    typer.echo(f"Let in without being asked about: {found['admits']}.")
    typer.echo(
        f"Strangers are lent addresses from {found['lend']}." if found["lend"] else "Strangers are lent no address."
    )


def dhcp(
    fabric: Fabric,
    program: Annotated[str, typer.Argument(help="kea4, kea6 or dnsmasq.")] = "kea4",
    interface: Annotated[str, typer.Option(help="The device of the management network.")] = "",
    out: Annotated[Path | None, typer.Option(help="Write it here.")] = None,
    serve: Annotated[bool, typer.Option("--serve", help="Run Kea with it here, and tell it when something changes; until Ctrl+C.")] = False,
    at: At = HERE,
) -> None:  # fmt: skip
    """What a DHCP server of the management network is told: which switch gets which address, and where Barrio is."""

    def text() -> str:
        return ask("GET", at, f"/fabrics/{fabric}/staging/dhcp/{program}", params={"interface": interface}).text

    if serve:
        if program not in ("kea4", "kea6") or not interface:
            fail(2, "Kea is run for kea4 or kea6, on a device that is named: --interface eth1.")
        try:
            run(program, text, typer.echo)
        except NoKea as error:
            fail(1, str(error))
        return
    if out:
        out.write_text(text())
        typer.echo(f"Wrote {out}.")
    else:
        typer.echo(text(), nl=False)


def record(
    fabric: Fabric,
    switch: Annotated[str, typer.Argument(help="The switch, by name.")],
    out: Annotated[Path | None, typer.Option(help="Write it here: a PDF, or JSON where the name ends so.")] = None,
    at: At = HERE,
) -> None:
    """The hand-over record of a switch: what it is, what is on it, and what was looked at."""
    path = f"/fabrics/{fabric}/staging/records/{switch}"
    if out is not None and out.suffix != ".json":
        out.write_bytes(ask("GET", at, f"{path}/paper").content)
    else:
        text = json.dumps(ask("GET", at, path).json(), indent=2, ensure_ascii=False)
        if out is None:
            typer.echo(text)
            return
        out.write_text(f"{text}\n")
    typer.echo(f"Wrote {out}.")


def medium(
    fabric: Fabric,
    out: Annotated[Path, typer.Option(help="Write it here: an image where the name ends in .iso, an archive in .zip, else a folder.")],
    switch: Annotated[str, typer.Option(help="Only for this switch.")] = "",
    trust: Annotated[Path | None, typer.Option(help="The certificate by which Barrio is known, where it has one of its own.")] = None,
    at: At = HERE,
) -> None:  # fmt: skip
    """A boot medium: the agent and its words for where there is no DHCP, and all files for bringing them on by hand. It has secrets in it."""
    kind = "iso" if out.suffix == ".iso" else "zip"
    words = {"switch": switch, "trust": trust.read_text() if trust else ""}
    content = ask("POST", at, f"/fabrics/{fabric}/staging/medium.{kind}", json=words).content
    if out.suffix in (".iso", ".zip"):
        out.write_bytes(content)
    else:
        with zipfile.ZipFile(io.BytesIO(content)) as packed:
            packed.extractall(out)
    typer.echo(f"Wrote {out}. Whoever has it has the secrets of its switches.")


def by_hand(fabric: Fabric, switch: Annotated[str, typer.Argument(help="The switch, by name.")], at: At = HERE) -> None:
    """What to copy and to run where a switch is brought up by hand, in its order."""
    typer.echo(ask("GET", at, f"/fabrics/{fabric}/staging/byhand/{switch}").text, nl=False)
