"""`barrio ask`: one command of the list, asked of one switch or of many, the answers side by side."""

from __future__ import annotations

import time
from typing import Annotated

import typer

from barrio.cli.asking import HERE, At, ask, fail


def ask_switches(
    fabric: Annotated[str, typer.Argument(help="The fabric.")],
    command: Annotated[str, typer.Argument(help="A command of the list; without it the list is shown.")] = "",
    switch: Annotated[list[str], typer.Option(help="Only this switch; may be said several times.")] = [],  # noqa: B006
    at: At = HERE,
) -> None:
    """Ask switches a command that only looks; those that answer alike are shown once."""
    if not command:
        for one in ask("GET", at, "/commands").json():
            typer.echo(f"{one['command']:<40} {one['words']}")
        return
    number = ask("POST", at, f"/fabrics/{fabric}/asks", json={"command": command, "switches": switch}).json()["number"]
    while True:
        found = ask("GET", at, f"/fabrics/{fabric}/asks/{number}").json()
        if not found["waits"]:
            break
        time.sleep(1)
    silent = [name for one in found["answers"] if one["answer"] is None for name in one["switches"]]
    for one in found["answers"]:
        if one["answer"] is not None:
            typer.echo(_head(one))
            typer.echo(one["answer"])
    if silent:
        fail(1, f"No answer in time: {', '.join(silent)}")


def _head(one: dict[str, object]) -> str:
    names = one["switches"]
    assert isinstance(names, list)
    failed = f", which ended with {one['code']}" if one["code"] else ""
    return f"{', '.join(names)}{failed}:"
