"""`barrio ripple` and `barrio editions`: what a draft would do, its review, sealing, and the way back, on a running Barrio."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from barrio.cli.asking import HERE, As, At, Format, ask, show

app = typer.Typer(no_args_is_help=True, help="Editions: list, seal, take, compare, go back; and the review of a draft.")
Fabric = Annotated[str, typer.Argument(help="The fabric.")]
Number = Annotated[int, typer.Argument(help="The edition's number.")]


def ripple(
    fabric: Fabric,
    against: Annotated[int | None, typer.Option(help="Hold it against this edition; the newest without.")] = None,
    lines: Annotated[bool, typer.Option("--lines", help="Every line that changes, those that are alike once.")] = False,
    at: At = HERE,
) -> None:
    """What a draft would do: switches, lines, sessions, and the order in which it is safe. Exit code 1 when no order is safe."""
    query = {} if against is None else {"against": against}
    said = ask("GET", at, f"/fabrics/{fabric}/ripple", params=query).json()
    before = f"edition {said['against']}" if said["against"] else "nothing"
    typer.echo(f"The draft of {fabric} against {before}: {said['words']}.")
    for word in said["said"]:
        typer.echo(f"  {word['path']}: {word['before']} → {word['after']}")
    typer.echo(
        f"{said['new']} switches new, {said['changed']} changed, {said['gone']} less, {said['untouched']} as they are; "
        f"+{said['added']} −{said['removed']} lines; {said['sessions']} sessions restart."
    )
    for wave in said["order"]["waves"]:
        stays = "" if wave["bandwidth"] == 1 else f"; {wave['bandwidth']:.0%} of bandwidth stays"
        typer.echo(f"  {wave['number']}. {', '.join(wave['switches'])}: {wave['why']}{stays}")
    if lines:
        _lines(at, fabric, query)
    for words in said["order"]["unsafe"]:
        typer.echo(f"No safe order: {words}", err=True)
    if said["order"]["unsafe"]:
        raise typer.Exit(1)


def _lines(at: str, fabric: str, query: dict[str, Any]) -> None:
    for group in ask("GET", at, f"/fabrics/{fabric}/ripple/groups", params=query).json():
        typer.echo(
            f"\n{group['path']} on {group['count']} switches ({', '.join(group['switches'][:4])}): {group['words']}"
        )
        for line in group["lines"]:
            typer.echo("".join(f"    {block}\n" for block in line["within"]).rstrip("\n")) if line["within"] else None
            for mark, text in (("-", line["before"]), ("+", line["after"])):
                if text:
                    typer.echo(f"  {mark} {text}")


@app.command("list")
def list_editions(fabric: Fabric, at: At = HERE, how: As = Format.TABLE) -> None:
    """The editions of a fabric, newest first."""
    rows = [
        [str(one["number"]), one["sealed_at"][:16].replace("T", " "), one["title"], one["asked_by"], ", ".join(who["who"] for who in one["agreed"]), one["sealed_by"]]
        for one in ask("GET", at, f"/fabrics/{fabric}/editions").json()
    ]  # fmt: skip
    show(["edition", "sealed", "title", "asked by", "agreed", "sealed by"], rows, how)


def _version(at: str, fabric: str) -> int:
    return int(ask("GET", at, f"/fabrics/{fabric}/version").json()["version"])


@app.command()
def offer(
    fabric: Fabric,
    title: Annotated[str, typer.Argument(help="What it is, in a sentence.")],
    why: Annotated[str, typer.Option(help="Why.")] = "",
    at: At = HERE,
) -> None:
    """Offer the draft for review."""
    body = {"version": _version(at, fabric), "title": title, "why": why}
    _standing(ask("PUT", at, f"/fabrics/{fabric}/review", json=body).json())


@app.command()
def agree(
    fabric: Fabric,
    seen: Annotated[
        str, typer.Option(help="What you saw, as `barrio editions review` tells it. Without it, what is there now.")
    ] = "",
    note: Annotated[str, typer.Option(help="With these words.")] = "",
    verdict: Annotated[str, typer.Option(help="agrees, asks or declines.")] = "agrees",
    at: At = HERE,
) -> None:
    """Agree to the draft, ask for changes, or decline."""
    seen = seen or ask("GET", at, f"/fabrics/{fabric}/review").json()["seen"]
    _standing(
        ask(
            "POST", at, f"/fabrics/{fabric}/review/voices", json={"verdict": verdict, "note": note, "seen": seen}
        ).json()
    )


@app.command()
def review(fabric: Fabric, at: At = HERE) -> None:
    """How the review of a draft stands. Exit code 1 while something is lacking."""
    found = ask("GET", at, f"/fabrics/{fabric}/review").json()
    _standing(found)
    if found["lacking"]:
        raise typer.Exit(1)


def _standing(found: dict[str, Any]) -> None:
    if found["offer"]:
        typer.echo(f"“{found['offer']['title']}”, offered by {found['offer']['author']}; seen {found['seen']}")
    for voice in found["voices"]:
        if voice["last"]:
            of = "" if voice["current"] else ", of what stood then"
            typer.echo(f"  {voice['author']} {voice['verdict']}{of}{': ' + voice['note'] if voice['note'] else ''}")
    for words in found["lacking"] or ["Nothing is lacking: it may be sealed."]:
        typer.echo(words)


@app.command()
def seal(
    fabric: Fabric,
    title: Annotated[str, typer.Option(help="What it is; the offer's words without.")] = "",
    despite: Annotated[str, typer.Option(help="Why, though its change drill showed more than its Ripple said.")] = "",
    at: At = HERE,
) -> None:
    """Make the draft an edition, once its rule is met."""
    asked = {"version": _version(at, fabric), "title": title, "despite": despite}
    made = ask("POST", at, f"/fabrics/{fabric}/editions", json=asked).json()
    typer.echo(f"Edition {made['number']} of {fabric}: {made['title']}.")


@app.command()
def take(
    fabric: Fabric, number: Number, out: Annotated[Path, typer.Option(help="The file to write.")], at: At = HERE
) -> None:
    """Take the files of an edition away, as a ZIP or, by the name of the file, a tar.gz."""
    kind = "zip" if out.suffix == ".zip" else "tar.gz"
    out.write_bytes(ask("GET", at, f"/fabrics/{fabric}/editions/{number}/bundle.{kind}").content)
    typer.echo(f"Edition {number} of {fabric} is in {out}.")


@app.command()
def compare(
    fabric: Fabric,
    one: Annotated[str, typer.Argument(help="draft, “edition 3”, “fabric tern”, or a bundle's file.")],
    other: Annotated[str, typer.Argument(help="The other side.")] = "draft",
    at: At = HERE,
) -> None:
    """Hold two states against each other. Exit code 1 when they differ."""
    sides = [_side(at, fabric, side) for side in (one, other)]
    found = ask("GET", at, f"/fabrics/{fabric}/apart", params={"one": sides[0], "other": sides[1]}).json()
    for level in ("words", "numbers", "switches", "cables"):
        for row in found[level]:
            typer.echo(f"{level}: {row['name']}: {row['one'] or 'not there'} → {row['other'] or 'not there'}")
    for group in found["files"]:
        typer.echo(
            f"files: {group['path']} {group['state']} on {len(group['switches'])}: +{group['come']} −{group['gone']}"
        )
    if any(found["counts"].values()):
        raise typer.Exit(1)
    typer.echo("They are the same, file for file.")


def _side(at: str, fabric: str, said: str) -> str:
    file = Path(said)
    if not file.is_file():
        return said
    brought = ask(
        "POST", at, f"/fabrics/{fabric}/apart/brought", params={"called": file.name}, content=file.read_bytes()
    )
    return str(brought.json()["side"])


@app.command()
def again(fabric: Fabric, number: Number, at: At = HERE) -> None:
    """Compile an edition anew; exit code 1 when other bytes come out."""
    found = ask("POST", at, f"/fabrics/{fabric}/editions/{number}/again").json()
    if found["other"] or found["refusal"]:
        typer.echo(
            found["refusal"]
            or f"{len(found['other'])} files come out otherwise, {found['other'][0]} first: {found['cause']}."
        )
        raise typer.Exit(1)
    typer.echo(f"All {found['files']} files are the same, byte for byte.")


@app.command()
def back(fabric: Fabric, number: Number, at: At = HERE) -> None:
    """Make the brief of an older edition the draft."""
    found = ask("POST", at, f"/fabrics/{fabric}/editions/{number}/back", json={"version": _version(at, fabric)}).json()
    typer.echo(f"The draft of {fabric} says what edition {number} said.")
    for one in found["not_back"]:
        typer.echo(f"  {one['use']} of {one['key']} was {one['was']} and is {one['now']}: {one['why']}.")


@app.command()
def discard(fabric: Fabric, at: At = HERE) -> None:
    """Give the draft up for the newest edition."""
    ask("POST", at, f"/fabrics/{fabric}/discard", json={"version": _version(at, fabric)})
    typer.echo(f"The draft of {fabric} says what the newest edition says.")
