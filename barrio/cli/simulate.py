"""`barrio simulate`: switches that are none, which ask a running Barrio as real ones do."""

from __future__ import annotations

import tempfile
import threading
import time
from pathlib import Path
from typing import Annotated, Any

import typer

from barrio.cli.asking import HERE, At, ask, call, fail
from barrio.core.staging.floor import Bare, Cable, Floor
from barrio.rehearsal.ground import NoLab
from barrio.staging.faults import FAULTS, MOMENTS
from barrio.staging.hall import Hall
from barrio.staging.simulate import Light, run_all


def simulate(
    fabric: Annotated[str, typer.Argument(help="The fabric whose switches they are.")],
    fault: Annotated[
        list[str], typer.Option("--fault", help=f"Ordered of a switch, as in leaf-t01:parser. There are: {', '.join(FAULTS)}.")
    ] = [],  # noqa: B006
    admit: Annotated[bool, typer.Option(help="Say which box each is, and let them in; without, they only knock.")] = True,
    stage: Annotated[bool, typer.Option("--stage", help="Begin a staging, and end with it; exit code 1 when it stops.")] = False,
    whole: Annotated[bool, typer.Option("--whole", help="With the programs of a switch, in network namespaces, by a DHCP server; up to a few dozen.")] = False,
    seconds: Annotated[float, typer.Option(help="End after so long; 0 for until Ctrl+C.")] = 0,
    trust: Annotated[Path | None, typer.Option(help="The certificate by which Barrio is known, where it has one of its own.")] = None,
    at: At = HERE,
) -> None:  # fmt: skip
    """Switch on a light switch for each of a fabric: it knocks, is let in, fetches its files, and answers, with a folder for a root and nothing that runs.
    With `--whole` each is Debian with ifupdown2, FRRouting and the agent."""
    ordered = _ordered(fault)
    roll = ask("GET", at, f"/fabrics/{fabric}/staging/roll").json()
    unknown = ordered.keys() - {one["name"] for one in roll}
    if unknown:
        fail(2, f"{fabric} has no switch {', '.join(sorted(unknown))}.")
    if whole:
        raise typer.Exit(_whole(at, fabric, ordered, admit, stage, seconds))
    stop = threading.Event()
    with tempfile.TemporaryDirectory(prefix="barrio-simulate-") as folder:
        lights = [_light(at, one, ordered.get(one["name"], set()), Path(folder), trust) for one in roll]
        if admit:
            _bind(at, fabric, roll, lights)
        running = threading.Thread(target=run_all, args=(lights, stop, len(lights), 1.0), daemon=True)
        running.start()
        typer.echo(f"{len(lights)} light switches ask {at}; Ctrl+C ends them.")
        try:
            if admit:
                _let_in(at, fabric)
            code = _staged(at, fabric) if stage else _wait(seconds)
        except KeyboardInterrupt:
            code = 0
        finally:
            stop.set()
            running.join(10)
    raise typer.Exit(code)


def _whole(at: str, fabric: str, ordered: dict[str, set[str]], admit: bool, stage: bool, seconds: float) -> int:
    """A hall of switches with the programs of a switch."""
    said = ask("GET", at, f"/fabrics/{fabric}/staging/floor").json()
    floor = Floor(
        said["fabric"], tuple(Bare(**{**one, "ports": tuple(one["ports"])}) for one in said["switches"]),
        tuple(Cable(tuple(one["one"]), tuple(one["other"])) for one in said["cables"]), tuple(said["gateways"]), tuple(said["servers"]),
    )  # fmt: skip
    try:
        with Hall(floor, at, ordered) as hall:
            words = {"address": hall.address, "admits": "serial" if admit else "nobody", "lend": ""}
            ask("PUT", at, f"/fabrics/{fabric}/staging/ways", json=words)
            for one in hall.switches.values():
                box = {"serial": one.serial, "mac": one.mac}
                ask("PUT", at, f"/fabrics/{fabric}/staging/roll/{one.bare.name}/box", json=box)
            hall.serve(ask("GET", at, f"/fabrics/{fabric}/staging/dhcp/kea4", params={"interface": "br0"}).text)
            hall.boot()
            typer.echo(f"{len(hall.switches)} switches boot, and find {at} by DHCP; Ctrl+C ends them.")
            return _staged(at, fabric) if stage else _wait(seconds)
    except NoLab as error:
        fail(1, str(error))
    except KeyboardInterrupt:
        return 0


def _ordered(faults: list[str]) -> dict[str, set[str]]:
    found: dict[str, set[str]] = {}
    for one in faults:
        name, _, what = one.partition(":")
        if what not in FAULTS:
            fail(2, f"“{one}” names no fault. Say a switch and one of: {', '.join(FAULTS)}.")
        found.setdefault(name, set()).add(what)
    return found


def _light(at: str, one: dict[str, Any], faults: set[str], folder: Path, trust: Path | None) -> Light:
    about = {"serial": one["serial"] or f"SIM-{one['name'].upper()}", "model": one["model"], "airflow": one["airflow"]}
    if one["mac"]:
        about["mac"] = one["mac"]
    moments = list(MOMENTS) if "power" in faults else []
    return Light(at, folder / one["name"], about, faults, moments, str(trust or ""))


def _bind(at: str, fabric: str, roll: list[dict[str, Any]], lights: list[Light]) -> None:
    for one, light in zip(roll, lights, strict=True):
        if not one["serial"] and not one["mac"]:
            ask("PUT", at, f"/fabrics/{fabric}/staging/roll/{one['name']}/box", json={"serial": light.about["serial"]})


def _let_in(at: str, fabric: str, patience: float = 8) -> None:
    """Let in all who knock and are expected, until everybody is in, or nobody came for a while."""
    until, there = time.monotonic() + patience, -1
    while time.monotonic() < until:
        for one in ask("GET", at, f"/fabrics/{fabric}/staging/knocks").json():
            if one["state"] == "waits" and one["expected"]:
                call(
                    "POST", at, f"/fabrics/{fabric}/staging/knocks/{one['key']}/admit", json={"switch": one["expected"]}
                )
        roll = ask("GET", at, f"/fabrics/{fabric}/staging/roll").json()
        admitted = sum(one["admitted"] for one in roll)
        if admitted == len(roll):
            return
        if admitted > there:
            until, there = time.monotonic() + patience, admitted
        time.sleep(0.5)


def _staged(at: str, fabric: str) -> int:
    found = ask("POST", at, f"/fabrics/{fabric}/staging", json={"at_once": 64, "confirm_seconds": 300}).json()
    said = ""
    while found["state"] == "runs":
        through = sum(one["step"] == "handed over" for one in found["switches"])
        words = f"{through} of {len(found['switches'])} handed over"
        if words != said:
            said = words
            typer.echo(words)
        time.sleep(0.5)
        found = ask("GET", at, f"/fabrics/{fabric}/staging", params={"number": found["id"]}).json()
    failed = [f"{one['name']}: {one['words']}" for one in found["switches"] if one["state"] == "failed"]
    typer.echo("\n".join([f"{found['state']}: {found['words']}", *failed]))
    return 0 if found["state"] == "done" else 1


def _wait(seconds: float) -> int:
    threading.Event().wait(seconds or None)
    return 0
