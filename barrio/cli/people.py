"""`barrio login`, `barrio people`, `barrio token` and `barrio record`: who may do what, on a running Barrio."""

from __future__ import annotations

import socket
from typing import Annotated, Any

import typer

from barrio.cli.asking import HERE, As, At, Format, ask, call, fail, keep_token, show

app = typer.Typer(
    no_args_is_help=True, help="People, teams and their roles: list, add, link, leave, back, team, give, take."
)
tokens = typer.Typer(no_args_is_help=True, help="Your tokens for programs: list, add, end.")
entry = typer.Typer()

Name = Annotated[str, typer.Argument(help="The name that they sign in by.")]
Fabric = Annotated[str | None, typer.Option(help="For this fabric only.")]
Team = Annotated[bool, typer.Option("--team", help="The name is a team's.")]
Whom = Annotated[str, typer.Argument(help="Who, by the name that they sign in by; or a team.")]
RoleName = Annotated[str, typer.Argument(help="reader, architect, reviewer, technician, operator or keeper.")]


@entry.command()
def login(
    name: Annotated[str, typer.Option(prompt="Name", help="The name that you sign in by.")],
    at: At = HERE,
    days: Annotated[int, typer.Option(help="How long it lasts.", min=1, max=366)] = 30,
    password: Annotated[str, typer.Option(prompt="Password", hide_input=True, envvar="BARRIO_PASSWORD")] = "",
) -> None:
    """Sign in: a token for this machine is made and kept in a file of your own."""
    import httpx2

    with httpx2.Client(base_url=f"{at}/api/v1", headers={"Origin": at}, timeout=30) as client:
        try:
            said = {"name": name, "password": password}
            answer = client.post("/session", json=said)
            if answer.status_code == 401 and answer.json()["type"].endswith("sign-in.code"):
                answer = client.post("/session", json=said | {"code": typer.prompt("Code of your second factor")})
            _told(answer)
            me = client.get("/me").json()
            roles = sorted({given["role"] for given in me["given"]})
            label = f"barrio on {socket.gethostname()}"[:60]
            if any(token["name"] == label for token in me["tokens"]):
                client.delete(f"/me/tokens/{label}")
            made = client.post("/me/tokens", json={"name": label, "roles": roles, "fabrics": None, "days": days})
            _told(made)
            client.delete("/session")
        except httpx2.HTTPError as error:
            fail(
                3,
                f"No Barrio answers at {at} ({error}). Start one with “barrio serve”, or say where it runs with --at.",
            )
    place = keep_token(at, made.json()["token"])
    typer.echo(f"Signed in at {at} as {me['called']}, for {days} days. The token is kept in {place}.")


def _told(answer: Any) -> None:
    if answer.is_error:
        fail(2, answer.json()["detail"])


@entry.command()
def logout(at: At = HERE) -> None:
    """Forget the token that is kept for this address, and end it."""
    label = f"barrio on {socket.gethostname()}"[:60]
    call("DELETE", at, f"/me/tokens/{label}")
    keep_token(at, "")
    typer.echo(f"Signed out at {at}.")


@app.command("list")
def list_people(at: At = HERE, how: As = Format.TABLE) -> None:
    """Everybody, with their roles."""
    found = ask("GET", at, "/people").json()
    teams = {name: [team["name"] for team in found["teams"] if name in team["members"]] for name in _names(found)}
    rows = []
    for person in found["people"]:
        name = person["name"]
        given = [one for one in found["given"] if one["person"] == name or one["team"] in teams[name]]
        roles = "; ".join(_role(one) for one in given) or "nothing yet"
        seen = (person["seen_at"] or "")[:16].replace("T", " ")
        rows.append([name, person["called"], "left" if person["left_at"] else roles, ", ".join(teams[name]), seen])
    show(["name", "called", "roles", "teams", "seen"], rows, how)


def _names(found: dict[str, Any]) -> list[str]:
    return [person["name"] for person in found["people"]]


def _role(given: dict[str, Any]) -> str:
    by = f" (team {given['team']})" if given["team"] else ""
    return f"{given['role']} of {given['fabric'] or 'all'}{by}"


@app.command("add")
def add_person(name: Name, called: Annotated[str, typer.Option(help="How others call them.")], at: At = HERE) -> None:
    """Add somebody, and print the link by which they choose a password."""
    made = ask("POST", at, "/people", json={"name": name, "called": called}).json()
    typer.echo(
        f"{called} may do nothing yet; give a role with “barrio people give”. To choose a password, within 3 days:"
    )
    typer.echo(f"{at}/enter#{made['secret']}")


@app.command("link")
def make_link(name: Name, at: At = HERE) -> None:
    """Print a link for a new password; a second factor that was lost goes with the old one."""
    typer.echo(f"{at}/enter#{ask('POST', at, f'/people/{name}/link').json()['secret']}")


@app.command("leave")
def leave(name: Name, at: At = HERE) -> None:
    """Somebody leaves: they are signed out everywhere at once, and their tokens end."""
    ask("PUT", at, f"/people/{name}/presence", json={"left": True})
    typer.echo(f"{name} has left.")


@app.command("back")
def back(name: Name, at: At = HERE) -> None:
    """Somebody comes back, with the roles that they had."""
    ask("PUT", at, f"/people/{name}/presence", json={"left": False})
    typer.echo(f"{name} is back.")


@app.command("team")
def set_team(
    name: Annotated[str, typer.Argument(help="The team's name.")],
    members: Annotated[list[str] | None, typer.Argument(help="Who is in it, and nobody else.")] = None,
    note: Annotated[str, typer.Option(help="What the team does.")] = "",
    end: Annotated[bool, typer.Option("--end", help="End the team, with the roles that it gave.")] = False,
    at: At = HERE,
) -> None:
    """Make a team, say who is in it, or end it."""
    if end:
        ask("DELETE", at, f"/teams/{name}")
        typer.echo(f"Team {name} has ended.")
        return
    ask("PUT", at, f"/teams/{name}", json={"note": note, "members": members or []})
    typer.echo(f"Team {name}: {', '.join(members or []) or 'nobody yet'}.")


@app.command("give")
def give(name: Whom, role: RoleName, fabric: Fabric = None, team: Team = False, at: At = HERE) -> None:
    """Give a role, for one fabric or for all."""
    body = {"role": role, "team" if team else "person": name}
    ask("POST", at, f"/fabrics/{fabric}/sharing" if fabric else "/grants", json=body)
    typer.echo(f"{name} is {role} of {fabric or 'all fabrics'}.")


@app.command("take")
def take(name: Whom, role: RoleName, fabric: Fabric = None, team: Team = False, at: At = HERE) -> None:
    """Take a role away."""
    found = ask("GET", at, f"/fabrics/{fabric}/sharing" if fabric else "/people").json()["given"]
    who = "team" if team else "person"
    given = [one for one in found if one[who] == name and one["role"] == role and one["fabric"] == fabric]
    if not given:
        fail(2, f"{name} is not {role} of {fabric or 'all fabrics'}.")
    path = f"/fabrics/{fabric}/sharing/{given[0]['id']}" if fabric else f"/grants/{given[0]['id']}"
    ask("DELETE", at, path)
    typer.echo(f"{name} is not {role} of {fabric or 'all fabrics'} any more.")


@tokens.command("list")
def list_tokens(at: At = HERE, how: As = Format.TABLE) -> None:
    """Your tokens, without their secrets."""
    rows = [
        [
            one["name"],
            ", ".join(one["roles"]),
            ", ".join(one["fabrics"] or ["all"]),
            one["ends_at"][:10],
            (one["used_at"] or "")[:10],
        ]
        for one in ask("GET", at, "/me").json()["tokens"]
    ]
    show(["name", "roles", "fabrics", "ends", "used"], rows, how)


@tokens.command("add")
def add_token(
    name: Annotated[str, typer.Argument(help="What it is for.")],
    role: Annotated[list[str], typer.Option(help="A role of yours that it has; may be said several times.")],
    fabric: Annotated[list[str] | None, typer.Option(help="Only for these fabrics.")] = None,
    days: Annotated[int, typer.Option(help="How long it lasts.", min=1, max=366)] = 90,
    at: At = HERE,
) -> None:
    """Make a token; it is printed once and never shown again."""
    body = {"name": name, "roles": role, "fabrics": fabric or None, "days": days}
    typer.echo(ask("POST", at, "/me/tokens", json=body).json()["token"])


@tokens.command("end")
def end_token(name: Annotated[str, typer.Argument(help="Its name.")], at: At = HERE) -> None:
    """End a token."""
    ask("DELETE", at, f"/me/tokens/{name}")
    typer.echo(f"{name} has ended.")


@entry.command()
def record(
    text: Annotated[str, typer.Argument(help="A word that stands in it.")] = "",
    author: Annotated[str, typer.Option(help="By whom.")] = "",
    fabric: Annotated[str, typer.Option(help="To which fabric.")] = "",
    at: At = HERE,
    how: As = Format.TABLE,
) -> None:
    """The record: who did what, when, and from where; the newest 200."""
    found = ask("GET", at, "/record", params={"text": text, "author": author, "fabric": fabric}).json()["deeds"]
    rows = [
        [
            one["at"][:19].replace("T", " "),
            one["author"] or "Barrio",
            one["address"],
            one["act"],
            one["fabric"] or "",
            one["note"],
        ]
        for one in found
    ]
    show(["at", "who", "from", "act", "fabric", "note"], rows, how)
