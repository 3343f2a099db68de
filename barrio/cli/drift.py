"""`barrio drift`: what runs against what was meant."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from typing import Annotated, Any

import typer

from barrio.cli.asking import HERE, As, At, Format, ask, fail
from barrio.cli.asking import show as print_rows
from barrio.cli.saved import Saved, archive

app = typer.Typer(help="What runs against what was meant.", no_args_is_help=True)
Fabric = Annotated[str, typer.Argument(help="The fabric.")]
Switch = Annotated[str, typer.Argument(help="The switch, by name.")]


@app.command("show")
def show(
    fabric: Fabric,
    switch: Annotated[str, typer.Argument(help="Only this switch, by name.")] = "",
    at: At = HERE,
) -> None:
    """What of a fabric's switches is not as their edition has it, the worst first; exit code 1 when something is not."""
    found = [one for one in ask("GET", at, f"/fabrics/{fabric}/drift").json() if not switch or one["switch"] == switch]
    if not found:
        typer.echo("Nothing was looked at yet: a switch is, once it was handed over.")
        return
    false = [one for one in found if not one["true"]]
    for one in false:
        _tell(one)
    words = "all is true" if not false else f"{len(false)} of {len(found)} switches are not as meant"
    typer.echo(f"{words}; seen last {_minute(max(one['seen'] for one in found))}")
    if false:
        raise typer.Exit(1)


def _tell(one: dict[str, Any]) -> None:
    typer.echo(f"{one['switch']}, rack {one['rack']}: edition {one['edition']}, since {_minute(one['since'])}; putting it back: {one['back']}")  # fmt: skip
    for line in one["lines"]:
        within = f" ({', '.join(line['within'])})" if line["within"] else ""
        typer.echo(f"  {line['path']}{within}")
        for mark, words in (("meant", line["meant"]), ("found", line["found"])):
            typer.echo(f"    {mark}: {words or 'nothing'}")
    for path in one["gone"]:
        typer.echo(f"  {path} is not there")
    for words in one["state"]:
        typer.echo(f"  {words}")


@app.command("hold")
def hold(fabric: Fabric, saved: Saved, at: At = HERE) -> None:
    """Hold saved outputs of switches against their editions, as `barrio adopt fetch` and people save them; exit code 1 when something is not as meant."""
    found = ask("POST", at, f"/fabrics/{fabric}/drift/outputs", content=archive(saved)).json()
    typer.echo(f"{len(found['true'])} of {len(found['true']) + len(found['drifted'])} switches are as meant")
    for one in found["unheld"]:
        typer.echo(one, err=True)
    if found["drifted"]:
        typer.echo(f"Not as meant: {', '.join(found['drifted'])}. barrio drift show {fabric} tells what.")
        raise typer.Exit(1)


@app.command("history")
def history(fabric: Fabric, switch: Switch, at: At = HERE) -> None:
    """When a switch was true, and when not."""
    for one in ask("GET", at, f"/fabrics/{fabric}/drift/{switch}/history").json():
        span = f"{_minute(one['since'])} to {_minute(one['until'])}"
        words = "; ".join([*one["files"], *one["state"]][:4]) or "all true"
        typer.echo(f"{span}  edition {one['edition']}  {words}")


@app.command("changes")
def changes(
    fabric: Fabric,
    hours: Annotated[float, typer.Option(help="Since so many hours ago.", min=0.01)] = 12,
    since: Annotated[str, typer.Option(help="Since this moment (ISO 8601), in place of that.")] = "",
    until: Annotated[str, typer.Option(help="Until this moment; until now without it.")] = "",
    at: At = HERE,
) -> None:
    """What changed on the switches since last night, or between two moments, meant or not; exit code 1 when something did."""
    begins = since or (datetime.now(UTC) - timedelta(hours=hours)).isoformat()
    params = {"since": begins} | ({"until": until} if until else {})
    found = ask("GET", at, f"/fabrics/{fabric}/drift/changes", params=params).json()
    for one in found:
        people = (
            f" ({', '.join(dict.fromkeys(each['who'] for each in one['signed_in']))} signed in)"
            if one["signed_in"]
            else ""
        )
        typer.echo(f"{one['switch']}, rack {one['rack']}{people}")
        for line in one["lines"]:
            typer.echo(f"  {line['path']}: {line['meant'] or 'nothing'} → {line['found'] or 'nothing'}")
        for words in one["came"]:
            typer.echo(f"  now: {words}")
        for words in one["went"]:
            typer.echo(f"  no more: {words}")
        for table in one["tables"]:
            typer.echo(f"  {table['words']}: {table['count']} other")
            for row in table["rows"]:
                typer.echo(f"    {row['key']}: {row['was'] or 'nothing'} → {row['now'] or 'nothing'}")
    typer.echo(f"{len(found)} switches run otherwise than then" if found else "nothing changed")
    if found:
        raise typer.Exit(1)


@app.command("tables")
def tables(
    fabric: Fabric, switch: Switch,
    kind: Annotated[str, typer.Argument(help="Only this table, with its rows.")] = "",
    when: Annotated[str, typer.Option(help="As it was at this moment (ISO 8601).")] = "",
    words: Annotated[str, typer.Option(help="Only rows in which this stands.")] = "",
    at: At = HERE, how: As = Format.TABLE,
) -> None:  # fmt: skip
    """What a switch holds: devices, VLANs, routes, MACs, neighbours, sessions, VNIs, hardware, software."""
    if not kind:
        found = ask("GET", at, f"/fabrics/{fabric}/tables/{switch}").json()
        rows = [[one["kind"], one["words"], str(one["count"]), _minute(one["changed"] or ""), str(one["times"])] for one in found]  # fmt: skip
        print_rows(["kind", "table", "rows", "changed", "times"], rows, how)
        return
    params = {"words": words} | ({"moment": when} if when else {})
    one = ask("GET", at, f"/fabrics/{fabric}/tables/{switch}/{kind}", params=params).json()
    print_rows(["row", "there"], [[row["key"], row["words"]] for row in one["rows"]], how)
    if len(one["rows"]) < one["count"]:
        typer.echo(
            f"The first {len(one['rows'])} of {one['count']} rows; say --words for those you look for.", err=True
        )


@app.command("find")
def find(
    fabric: Fabric,
    words: Annotated[str, typer.Argument(help="A MAC, an address, a prefix, a serial number, or any other words.")],
    at: At = HERE,
) -> None:
    """Where something stands in what switches hold, since when, and where it was before; exit code 1 where it is nowhere now."""
    found = ask("GET", at, f"/fabrics/{fabric}/tables", params={"words": words}).json()
    for one in found["there"]:
        typer.echo(f"{one['switch']}  {one['table']}: {one['key']}, {one['words']}; since {_minute(one['since'])}")
    for one in found["past"]:
        typer.echo(f"{_minute(one['at'])}  {one['switch']}: {one['key']}, {one['was'] or 'nothing'} → {one['now'] or 'nothing'}")  # fmt: skip
    if not found["there"]:
        typer.echo(f"{words} stands nowhere now.")
        raise typer.Exit(1)


def _minute(moment: str) -> str:
    return moment[:16].replace("T", " ")


@app.command("leave")
def leave(
    fabric: Fabric, switch: Switch,
    path: Annotated[str, typer.Argument(help="The file.")],
    line: Annotated[str, typer.Argument(help="The line as it reads; “meant → found” where one is in the other's place.")],
    why: Annotated[str, typer.Option(help="Why.")],
    days: Annotated[int, typer.Option(help="For so many days.", min=1, max=3650)] = 30,
    at: At = HERE,
) -> None:  # fmt: skip
    """Leave a drifted line as it is, with a reason, for some days."""
    until = (date.today() + timedelta(days=days)).isoformat()
    said = {"path": path, "line": line, "why": why, "until": until}
    ask("PUT", at, f"/fabrics/{fabric}/drift/{switch}/left", json=said)
    typer.echo(f"It is left as it is until {until}.")


@app.command("back")
def back(
    fabric: Fabric,
    switch: Annotated[list[str], typer.Option(help="Only this one; may be said several times.")] = [],  # noqa: B006
    every: Annotated[bool, typer.Option("--all", help="All that drifted.")] = False,
    at: At = HERE,
) -> None:
    """Have what drifted put back, as a staging; nothing else is touched."""
    if not switch and not every:
        fail(2, "Say which: --switch leaf-r01a, or --all.")
    found = ask("POST", at, f"/fabrics/{fabric}/drift/back", json={"switches": switch}).json()
    typer.echo(f"Staging {found['staging']} puts it back: barrio stage show {fabric}")


@app.command("rule")
def rule(
    fabric: Fabric,
    back: Annotated[str, typer.Option(help="Put back by itself: nothing, harmless (takes nothing away and touches nobody), or all.")] = "",
    at: At = HERE,
) -> None:  # fmt: skip
    """What is put back by itself; say it anew with --back."""
    if back:
        ask("PUT", at, f"/fabrics/{fabric}/drift/rule", json={"back": back})
    said = ask("GET", at, f"/fabrics/{fabric}/drift/rule").json()["back"]
    typer.echo(f"Put back by itself: {said}.")


@app.command("over")
def over(
    fabric: Fabric, switch: Switch,
    path: Annotated[str, typer.Argument(help="The file.")],
    line: Annotated[str, typer.Argument(help="The line as it reads; “meant → found” where one is in the other's place.")],
    way: Annotated[int, typer.Option(help="Take this way, counted from 1; without it the ways are listed.", min=0)] = 0,
    at: At = HERE,
) -> None:  # fmt: skip
    """Have the draft say what a drifted line says: by the word, the setting or the addition that means it."""
    found = ask("GET", at, f"/fabrics/{fabric}/drift/{switch}/ways", params={"path": path, "line": line}).json()
    if found["said"]:
        typer.echo("The draft says so already. It is drift until the edition says it too.")
        return
    if not found["ways"]:
        fail(1, "No word, setting or addition of the brief means this line. Put it back, or leave it with a reason.")
    if not way:
        for number, one in enumerate(found["ways"], 1):
            others = f", other files on {one['others']} more" if one["others"] else ""
            typer.echo(f"{number}. {one['title']} ({', '.join(one['places'])}{others})")
        return
    if way > len(found["ways"]):
        fail(2, f"There are {len(found['ways'])} ways.")
    said = {"path": path, "line": line, "key": found["ways"][way - 1]["key"]}
    version = ask("POST", at, f"/fabrics/{fabric}/drift/{switch}/over", json=said).json()["version"]
    typer.echo(f"The draft says so, version {version}: barrio ripple {fabric}")
