"""`barrio adopt`: a network that runs and that nobody described becomes a draft, part by part."""

from __future__ import annotations

import re
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from barrio.cli.asking import HERE, At, ask, fail
from barrio.cli.faults import told
from barrio.cli.saved import Seen, archive
from barrio.core.adopt.adopting import adopt
from barrio.core.adopt.drawn import adopt_drawing
from barrio.core.adopt.left import folded
from barrio.core.adopt.saved import read_saved
from barrio.core.archives import unpacked
from barrio.core.exchange.drawing import is_drawing, read_drawing

if TYPE_CHECKING:
    from barrio.sending import reach

app = typer.Typer(help="Adopt a network that runs.", no_args_is_help=True)
Fabric = Annotated[str, typer.Argument(help="The name that the fabric has, or is to have.")]
Keys = Annotated[list[str], typer.Argument(help="What to say it of, by key.")]


@app.command("brief")
def brief(fabric: Fabric, saved: Seen) -> None:
    """Print the brief that saved outputs or a drawing seem to be made by, without a server; on standard error what does not fit."""
    content = archive(saved)
    with told(saved):
        drawn = is_drawing(content)
        found = adopt_drawing(read_drawing(content), fabric) if drawn else adopt(read_saved(unpacked(content)), fabric)
    typer.echo(found.text, nl=False)
    for one in found.oddities:
        typer.echo(f"{one.switch}: {one.words}" if one.switch else one.words, err=True)
    names = {key: name for name, key in found.keys.items()}
    for line in folded(found.left, names):
        typer.echo(f"{_differs(line.path, line.within, line.before, line.after)} ({_on(line.switches)})", err=True)


@app.command("fetch")
def fetch(
    into: Annotated[Path, typer.Argument(help="The folder to keep it in; it is made.")],
    address: Annotated[list[str], typer.Option(help="A switch, by address or name; may be said several times.")] = [],  # noqa: B006
    addresses: Annotated[Path | None, typer.Option(help="A file with an address in each line.")] = None,
    account: Annotated[str, typer.Option(help="An account that reads and changes nothing.")] = "look",
    key: Annotated[Path | None, typer.Option(help="The file of its private key; the agent's and the usual ones where none is said.")] = None,
    jump: Annotated[str, typer.Option(help="A host by way of which they are reached, as account@host.")] = "",
    known_hosts: Annotated[Path, typer.Option(help="The host keys that are known.")] = Path("~/.ssh/known_hosts"),
    port: Annotated[int, typer.Option(help="The port that they listen on.", min=1, max=65535)] = 22,
) -> None:  # fmt: skip
    """Look at switches by SSH, from here, and keep what they told as saved outputs; those that did not tell are named (code 1)."""
    lines = addresses.read_text().splitlines() if addresses else []
    every = list(
        dict.fromkeys([*address, *(line.split("#")[0].strip() for line in lines if line.split("#")[0].strip())])
    )
    if not every:
        fail(2, "Say whom: --address 10.90.1.5, or --addresses with a file of them.")
    # Only here something is reached by SSH.
    from barrio.sending import reach

    told_of = reach.look(every, reach.Way(account, key, jump, known_hosts, port))
    for one in told_of:
        if not one.wrong:
            _keep(into / re.sub(r"[^A-Za-z0-9.-]+", "-", one.name), one)
    wrong = [one for one in told_of if one.wrong]
    typer.echo(f"{len(every) - len(wrong)} of {len(every)} switches are in {into}: barrio adopt look NAME {into}")
    for one in told_of:
        if one.unreadable:
            typer.echo(f"{one.name}: may not be read: {', '.join(one.unreadable[:6])}", err=True)
    for one in wrong:
        typer.echo(f"{one.address}: {one.wrong}", err=True)
    if wrong:
        raise typer.Exit(1)


def _keep(folder: Path, one: reach.Told) -> None:
    for path, content in {**one.files, **one.answers}.items():
        place = folder / path
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(content)


@app.command("look")
def look(fabric: Fabric, saved: Seen, at: At = HERE) -> None:
    """Look at saved outputs, or at a drawing (GraphML, DOT, links as CSV or RFC 8345), and keep what they seem to be; nothing enters a draft."""
    content = archive(saved)
    ask("POST", at, f"/fabrics/{fabric}/adoption", content=content, params={"source": saved.name})
    show(fabric, at=at)


@app.command("show")
def show(
    fabric: Fabric,
    part: Annotated[str, typer.Option(help="Only this part, such as shape or carried.")] = "",
    at: At = HERE,
) -> None:
    """What was found, part by part, and what does not fit."""
    found = ask("GET", at, f"/fabrics/{fabric}/adoption").json()
    alike = sum(one["alike"] for one in found["switches"])
    runs = f"; {alike} would be written as they run" if found["kind"] == "runs" else ", as they are drawn"
    typer.echo(f"{fabric}: {len(found['switches'])} switches of {found['source']}, {found['numbers']} numbers{runs}")
    for one in found["proposals"]:
        if not part or one["part"] == part:
            mark = one["said"] or one["sure"]
            typer.echo(f"  {one['part']:<9} {one['key']}  {one['title']} ({mark}; {'; '.join(one['evidence'])})")
    for one in found["oddities"] if not part else ():
        settled = f" ({one['said']})" if one["said"] else ""
        typer.echo(f"  odd       {one['key']}  {one['words']}{settled}")
    for one in found["differences"] if not part else ():
        typer.echo(
            f"  differs   {_differs(one['path'], one['within'], one['before'], one['after'])} ({_on(one['switches'])})"
        )


@app.command("take")
def take(
    fabric: Fabric,
    keys: Annotated[list[str] | None, typer.Argument(help="Proposals, by key.")] = None,
    part: Annotated[
        list[str], typer.Option(help="All of this part that nobody refused; may be said several times.")
    ] = [],  # noqa: B006
    every: Annotated[bool, typer.Option("--all", help="All that nobody refused.")] = False,
    at: At = HERE,
) -> None:
    """Take proposals into the draft, which begins with the first; their numbers are pinned."""
    found = ask("GET", at, f"/fabrics/{fabric}/adoption").json()
    chosen = list(keys or []) + [
        one["key"] for one in found["proposals"] if not one["said"] and (every or one["part"] in part)
    ]
    if not chosen:
        fail(2, "Say which: keys, --part shape, or --all.")
    version = ask("POST", at, f"/fabrics/{fabric}/adoption/take", json={"keys": list(dict.fromkeys(chosen))}).json()[
        "version"
    ]
    typer.echo(f"{len(chosen)} proposals are in the draft, version {version}: barrio show {fabric}")


@app.command("refuse")
def refuse(fabric: Fabric, keys: Keys, why: Annotated[str, typer.Option(help="Why.")] = "", at: At = HERE) -> None:
    """Refuse proposals, so that none of them is made again."""
    ask("POST", at, f"/fabrics/{fabric}/adoption/refuse", json={"keys": keys, "why": why})
    typer.echo(f"{len(keys)} refused.")


@app.command("odd")
def odd(
    fabric: Fabric, keys: Keys,
    said: Annotated[str, typer.Option("--say", help="kept, mended, or left out.")],
    why: Annotated[str, typer.Option(help="Why.")] = "",
    at: At = HERE,
) -> None:  # fmt: skip
    """Say what becomes of what fits no pattern."""
    ask("POST", at, f"/fabrics/{fabric}/adoption/odd", json={"keys": keys, "said": said, "why": why})
    typer.echo(f"{len(keys)} {said}.")


@app.command("again")
def again(fabric: Fabric, keys: Keys, at: At = HERE) -> None:
    """Have refused proposals and settled oddities asked again."""
    ask("POST", at, f"/fabrics/{fabric}/adoption/again", json={"keys": keys})
    typer.echo(f"{len(keys)} are asked again.")


def _differs(path: str, within: Any, before: str, after: str) -> str:
    where = f"{path}{f' in {within[-1]}' if within else ''}"
    if before and after:
        return f"{where}: {after} runs, it would be {before}"
    return f"{where}: {after} runs, nothing says it" if after else f"{where}: {before} would be there"


def _on(switches: Any) -> str:
    return ", ".join(switches[:3]) + (f" and {len(switches) - 3} more" if len(switches) > 3 else "")
