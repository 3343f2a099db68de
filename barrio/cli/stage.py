"""`barrio stage`: the roll call, who knocks, and stagings of a running Barrio."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Annotated, Any

import typer

from barrio.cli import arriving, draining, images, sztp
from barrio.cli.asking import HERE, As, At, Format, ask, show
from barrio.core.staging.boxes import scanned

app = typer.Typer(no_args_is_help=True, help="Boxes, who knocks, and editions put on switches wave by wave.")
Fabric = Annotated[str, typer.Argument(help="The fabric.")]
Switch = Annotated[str, typer.Argument(help="The switch, by name.")]
Knock = Annotated[str, typer.Argument(help="Who knocks: a serial number, a MAC address, or the key.")]


@app.command("roll")
def roll(fabric: Fabric, at: At = HERE, how: As = Format.TABLE) -> None:
    """Every switch that is expected, and which box it is."""
    rows = [
        [one["rack"], one["name"], one["model"], one["airflow"], one["serial"], one["mac"], "admitted" if one["admitted"] else "", "; ".join(one["faults"])]
        for one in ask("GET", at, f"/fabrics/{fabric}/staging/roll").json()
    ]  # fmt: skip
    show(["rack", "switch", "model", "airflow", "serial", "mac", "state", "not as planned"], rows, how)


@app.command("bind")
def bind(
    fabric: Fabric,
    switch: Switch,
    box: Annotated[str, typer.Argument(help="Serial number or MAC address, typed or scanned.")],
    at: At = HERE,
) -> None:
    """Say which box a switch is."""
    ask("PUT", at, f"/fabrics/{fabric}/staging/roll/{switch}/box", json={"scanned": box})
    typer.echo(f"{switch} is {scanned(box)}.")


@app.command("loosen")
def loosen(fabric: Fabric, switch: Switch, at: At = HERE) -> None:
    """Say no more which box a switch is."""
    ask("DELETE", at, f"/fabrics/{fabric}/staging/roll/{switch}/box")
    typer.echo(f"Nothing is bound to {switch} any more.")


@app.command("replace")
def replace(
    fabric: Fabric,
    switch: Switch,
    why: Annotated[str, typer.Option(help="Why the old box is taken out.")],
    even_so: Annotated[bool, typer.Option("--even-so", help="Also when it is alive and was not drained.")] = False,
    at: At = HERE,
) -> None:
    """Take a switch's box out for good, so that another may take its place."""
    ask("POST", at, f"/fabrics/{fabric}/staging/roll/{switch}/out", json={"why": why, "even_so": even_so})
    typer.echo(
        f"The box of {switch} is out, and never comes back by itself. Bind the new one, plug it in, and let it in."
    )


@app.command("delivery")
def delivery(
    fabric: Fabric, sheet: Annotated[Path, typer.Argument(help="CSV or a workbook: serial, mac, switch or model.", exists=True)],
    take: Annotated[bool, typer.Option("--take", help="Take it whole; without, it is only read.")] = False, at: At = HERE, how: As = Format.TABLE,
) -> None:  # fmt: skip
    """Which boxes a delivery's list would bind, row by row."""
    what = "take" if take else "preview"
    answer = ask("POST", at, f"/fabrics/{fabric}/staging/delivery/{what}", content=sheet.read_bytes()).json()
    if take:
        typer.echo(f"{answer} boxes are bound.")
        return
    rows = [
        [str(one["line"]), one["switch"], one["serial"], one["mac"], one["outcome"], one["reason"]] for one in answer
    ]
    show(["line", "switch", "serial", "mac", "comes to", "why"], rows, how)
    if any(one["outcome"] == "refused" for one in answer):
        raise typer.Exit(1)


@app.command("knocks")
def knocks(fabric: Fabric, at: At = HERE, how: As = Format.TABLE) -> None:
    """Who knocks, and waits to be let in."""
    rows = [
        [one["serial"], one["mac"], one["model"], one["address"], one["state"], one["expected"] or one["planned_there"], "; ".join(one["faults"]) or one["why"], one["key"]]
        for one in ask("GET", at, f"/fabrics/{fabric}/staging/knocks").json()
    ]  # fmt: skip
    show(["serial", "mac", "model", "from", "state", "would be", "not as planned", "key"], rows, how)


def _key(at: str, fabric: str, who: str) -> str:
    every = ask("GET", at, f"/fabrics/{fabric}/staging/knocks").json()
    found = [one["key"] for one in every if who.lower() in (one["serial"].lower(), one["mac"], one["key"].lower())]
    if len(found) != 1:
        typer.echo(
            f"{'Several' if found else 'Nobody'} who knock{'' if found else 's'} {'are' if found else 'is'} {who}; name one by its key.",
            err=True,
        )
        raise typer.Exit(2)
    return str(found[0])


@app.command("admit")
def admit(fabric: Fabric, who: Knock, switch: Switch, at: At = HERE) -> None:
    """Let somebody in who knocks, as a switch."""
    ask("POST", at, f"/fabrics/{fabric}/staging/knocks/{_key(at, fabric, who)}/admit", json={"switch": switch})
    typer.echo(f"{who} is {switch}.")


@app.command("refuse")
def refuse(fabric: Fabric, who: Knock, why: Annotated[str, typer.Option(help="Why.")], at: At = HERE) -> None:
    """Turn somebody away who knocks, for good."""
    ask("POST", at, f"/fabrics/{fabric}/staging/knocks/{_key(at, fabric, who)}/refuse", json={"why": why})
    typer.echo(f"{who} is refused, and stays so.")


@app.command("begin")
def begin(
    fabric: Fabric, edition: Annotated[int, typer.Option(help="Which edition; the newest without.")] = 0,
    switches: Annotated[str, typer.Option(help="Only these switches, with commas between.")] = "",
    at_once: Annotated[int, typer.Option(help="So many at once.")] = 8,
    stop_after: Annotated[int, typer.Option(help="Stop after so many failures.")] = 1,
    wait: Annotated[bool, typer.Option("--wait", help="Stay until it ends; exit code 1 when it did not end well.")] = False, at: At = HERE,
) -> None:  # fmt: skip
    """Put an edition on its switches, wave by wave."""
    chosen = [one.strip() for one in switches.split(",") if one.strip()]
    words = {"edition": edition, "switches": chosen, "at_once": at_once, "stop_after": stop_after}
    found = ask("POST", at, f"/fabrics/{fabric}/staging", json=words).json()
    typer.echo(_line(found))
    while wait and found["state"] == "runs":
        time.sleep(0.5)
        found = ask("GET", at, f"/fabrics/{fabric}/staging", params={"number": found["id"]}).json()
    if wait:
        typer.echo(_line(found))
        raise typer.Exit(0 if found["state"] == "done" else 1)


def _line(found: dict[str, Any]) -> str:
    through = sum(one["step"] == "handed over" for one in found["switches"])
    words = f", {found['words']}" if found["words"] else ""
    left = f", about {found['left'] / 60:.0f} min left" if found["left"] else ""
    return f"Staging {found['id']} of edition {found['edition']}: {through} of {len(found['switches'])} handed over, {found['state']}{words}{left}."


@app.command("show")
def show_staging(
    fabric: Fabric,
    number: Annotated[int, typer.Option(help="Which staging; the newest without.")] = 0,
    at: At = HERE,
    how: As = Format.TABLE,
) -> None:
    """How far a staging is: each switch's step, and what it waits for."""
    found = ask("GET", at, f"/fabrics/{fabric}/staging", params={"number": number}).json()
    rows = [
        [str(one["wave"]), one["rack"], one["name"], one["step"], one["state"], one["words"]]
        for one in found["switches"]
    ]
    show(["wave", "rack", "switch", "step", "state", "now"], rows, how)
    if how is Format.TABLE:
        typer.echo(_line(found))


@app.command("log")
def log(
    fabric: Fabric,
    number: Annotated[int, typer.Argument(help="The staging's number.")],
    switch: Switch,
    at: At = HERE,
    how: As = Format.TABLE,
) -> None:
    """What was done to a switch, and what it answered."""
    rows = [
        [one["at"][11:19], one["step"], one["words"] if not one["command"] else one["command"], "" if one["code"] is None else str(one["code"]), one["output"].strip()[:200]]
        for one in ask("GET", at, f"/fabrics/{fabric}/staging/log/{number}/{switch}").json()
    ]  # fmt: skip
    show(["at", "step", "what", "code", "answer"], rows, how)


def _say(word: str, words: str, called: str = "") -> None:
    @app.command(called or word)
    def said(fabric: Fabric, at: At = HERE) -> None:
        ask("POST", at, f"/fabrics/{fabric}/staging/{word}")
        typer.echo(words)

    said.__doc__ = words


_say("pause", "What is under way comes to its end; nothing more begins.")
_say("on", "It goes on.")
_say("leave", "It ends where it is.")
_say("putback", "It ends, and what it changed is put back, the last wave first.", "put-back")


@app.command("again")
def again(fabric: Fabric, switch: Switch, at: At = HERE) -> None:
    """Try a switch again that failed."""
    ask("POST", at, f"/fabrics/{fabric}/staging/switches/{switch}/again")
    typer.echo(f"{switch} is tried again.")


@app.command("skip")
def skip(fabric: Fabric, switch: Switch, why: Annotated[str, typer.Option(help="Why.")], at: At = HERE) -> None:
    """Leave a switch out of the staging."""
    ask("POST", at, f"/fabrics/{fabric}/staging/switches/{switch}/skip", json={"why": why})
    typer.echo(f"{switch} is skipped.")


app.command("ways")(arriving.ways)
app.command("dhcp")(arriving.dhcp)
app.command("record")(arriving.record)
app.command("medium")(arriving.medium)
app.command("drain")(draining.drain)
app.command("undrain")(draining.undrain)
app.command("page")(draining.page)
app.command("image")(images.image)
app.command("images")(images.images)
app.command("sztp")(sztp.sztp)
app.command("by-hand")(arriving.by_hand)
