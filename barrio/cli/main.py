"""The command line: `barrio build`, `check`, `serve`, those that say, weigh and exchange a shape, and those that ask the ledger.

Exit codes: 0 done; 1 findings (check only); 2 the brief or the arguments are wrong; 3 the machine would not let us.
"""

from __future__ import annotations

import sys
from importlib import import_module
from pathlib import Path
from tomllib import TOMLDecodeError
from typing import Annotated, Any

import typer
from typer.core import TyperGroup
from typer.main import get_command, get_group

from barrio.cli.asking import fail

_WHERE = {
    "from-line": "shapes:from_line", "to-line": "shapes:to_line", "propose": "shapes:propose_designs",
    "fat-tree": "shapes:make_fat_tree", "import-links": "shapes:import_links", "sums": "shapes:sums",
    "topology": "shapes:topology", "ladder": "ladder:ladder", "render": "targets:render", "learn": "targets:learn_template",
    "check": "building:check", "build": "building:build", "rehearse": "rehearse:run", "whois": "numbers:whois",
    "numbers": "numbers:app", "hosts": "hosts:app", "cables": "cables:app", "ripple": "editions:ripple",
    "editions": "editions:app", "stage": "stage:app", "simulate": "simulate:simulate", "drift": "drift:app",
    "ask": "questions:ask_switches", "follow": "following:follow_flow", "adopt": "adopting:app",
    "login": "people:login", "logout": "people:logout", "people": "people:app", "token": "people:tokens",
    "record": "people:record", "jobs": "jobs:app",
}  # fmt: skip
"""Where each command is, or group of them, in the order of the work."""


class Commands(TyperGroup):
    """The commands by their names. What a command needs is loaded once somebody says it."""

    def list_commands(self, ctx: Any) -> list[str]:
        return [*_WHERE, *(name for name in self.commands if name not in _WHERE)]

    def get_command(self, ctx: Any, cmd_name: str) -> Any:
        if cmd_name in _WHERE and cmd_name not in self.commands:
            self.commands[cmd_name] = _command(cmd_name)
        return self.commands.get(cmd_name)


def _command(name: str) -> Any:
    module, _, attribute = _WHERE[name].partition(":")
    found = getattr(import_module(f"barrio.cli.{module}"), attribute)
    one = typer.Typer(add_completion=False, pretty_exceptions_enable=False)
    if isinstance(found, typer.Typer):
        one.add_typer(found, name=name)
        return get_group(one).commands[name]
    one.command(name)(found)
    return get_command(one)


app = typer.Typer(
    cls=Commands, add_completion=False, no_args_is_help=True, help=__doc__, pretty_exceptions_enable=False
)


@app.command()
def serve(
    port: Annotated[int | None, typer.Option(help="The port on 127.0.0.1; 0 takes a free one.")] = None,
    demo: Annotated[bool, typer.Option("--demo", help="Load the demo world when the database is empty.")] = False,
    data: Annotated[Path | None, typer.Option(help="The private folder for the database.")] = None,
) -> None:
    """Start PostgreSQL and Barrio on this machine; Ctrl+C stops both. Settings also come from BARRIO_… and barrio.toml."""
    from barrio.api.serve import run

    sys.exit(run(_config({"port": port, "demo": demo or None, "data": data})))


@app.command()
def work(
    data: Annotated[Path | None, typer.Option(help="The folder that the key file stands in.")] = None,
) -> None:
    """Do jobs for servers on the same database (BARRIO_DATABASE), on this machine or another; Ctrl+C ends it."""
    from barrio.api.serve import work as do

    sys.exit(do(_config({"data": data})))


def _config(said: dict[str, Any]) -> Any:
    """The settings, with what the command line says before all others."""
    from pydantic import ValidationError

    from barrio.config import Config

    try:
        return Config(**{name: value for name, value in said.items() if value is not None})
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(map(str, first["loc"]))
        why = first["msg"].removeprefix("Value error, ")
        fail(2, f"The setting {where} cannot be so: {why}." if where else f"The settings cannot be so: {why}.")
    except TOMLDecodeError as error:
        fail(2, f"barrio.toml is not TOML: {error}.")


if __name__ == "__main__":
    app()
