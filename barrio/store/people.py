"""People, teams, and the roles that they have."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from psycopg.types.json import Jsonb

from barrio.store.database import Connection, statement
from barrio.store.errors import Missing


@dataclass(frozen=True, slots=True)
class Person:
    """`name` is what they sign in by, `called` how others call them. `left_at` is when they left, and may do nothing since."""

    id: int
    name: str
    called: str
    has_password: bool
    has_second: bool
    keys: list[str]
    manners: dict[str, str]
    made_at: datetime
    left_at: datetime | None
    seen_at: datetime | None


@dataclass(frozen=True, slots=True)
class Team:
    """`members` are their names."""

    id: int
    name: str
    note: str
    members: list[str]


@dataclass(frozen=True, slots=True)
class Given:
    """A role that somebody has: a person by name, or a team by its."""

    id: int
    person: str | None
    team: str | None
    role: str
    fabric: str | None


def alike(name: str) -> str:
    """The shape of a sign-in name: names of one shape could be taken for each other.

    >>> alike("mar1a.l0pez") == alike("maria-lopez")
    True
    """
    shape = name.translate(str.maketrans("01i5", "olls", ".-_"))
    return shape.replace("rn", "m").replace("vv", "w")


def everybody(connection: Connection) -> list[Person]:
    """Everybody there is and was, by name."""
    return [Person(*row) for row in connection.execute(statement("people"), {"name": None})]


def find(connection: Connection, name: str) -> Person:
    """A person by name. Raises `Missing`."""
    row = connection.execute(statement("people"), {"name": name}).fetchone()
    if row is None:
        raise Missing(f"There is nobody called {name}.")
    return Person(*row)


def named_alike(connection: Connection, name: str) -> str | None:
    """The name of somebody that could be taken for this one."""
    row = connection.execute("select name from people where alike = %s", [alike(name)]).fetchone()
    return row[0] if row else None


def add(connection: Connection, name: str, called: str) -> int:
    row = connection.execute(
        "insert into people (name, alike, called) values (%s, %s, %s) returning id", [name, alike(name), called]
    ).fetchone()
    assert row is not None
    return int(row[0])


def change(connection: Connection, person: int, called: str, keys: Sequence[str], manners: dict[str, str]) -> None:
    connection.execute(
        "update people set called = %s, keys = %s, manners = %s where id = %s",
        [called, list(keys), Jsonb(manners), person],
    )


def leave(connection: Connection, person: int, away: bool) -> None:
    """Somebody leaves, or comes back. Who leaves is signed out, and their tokens and links end."""
    connection.execute(
        "update people set left_at = case when %s then coalesce(left_at, now()) end where id = %s", [away, person]
    )
    if away:
        for table in ("sessions", "tokens", "links"):
            connection.execute(f"delete from {table} where person = %s".encode(), [person])


def is_empty(connection: Connection) -> bool:
    """Whether there never was anybody."""
    return connection.execute("select 1 from people limit 1").fetchone() is None


def teams(connection: Connection) -> list[Team]:
    rows = connection.execute(
        "select teams.id, teams.name, note, coalesce(array_agg(people.name order by people.name) filter (where people.id is not null), '{}') "
        "from teams left join members on team = teams.id left join people on people.id = person group by teams.id order by teams.name"
    )
    return [Team(*row) for row in rows]


def team(connection: Connection, name: str) -> Team:
    """A team by name. Raises `Missing`."""
    found = next((one for one in teams(connection) if one.name == name), None)
    if found is None:
        raise Missing(f"There is no team called {name}.")
    return found


def add_team(connection: Connection, name: str, note: str) -> None:
    connection.execute("insert into teams (name, note) values (%s, %s)", [name, note])


def drop_team(connection: Connection, team: int) -> None:
    connection.execute("delete from teams where id = %s", [team])


def set_members(connection: Connection, team: int, names: Sequence[str]) -> None:
    """The members of a team are these, and no others."""
    connection.execute(
        "delete from members using people where team = %s and people.id = person and people.name <> all(%s)",
        [team, list(names)],
    )
    connection.execute(
        "insert into members (team, person) select %s, id from people where name = any(%s) on conflict do nothing",
        [team, list(names)],
    )


def grants(connection: Connection, fabric: str | None = None) -> list[Given]:
    """Every role that is given; of one fabric with those for all."""
    rows = connection.execute(
        "select grants.id, people.name, teams.name, role, fabric from grants "
        "left join people on people.id = person left join teams on teams.id = team "
        "where %(fabric)s::text is null or fabric is null or fabric = %(fabric)s "
        "order by fabric nulls first, people.name, teams.name, role",
        {"fabric": fabric},
    )
    return [Given(*row) for row in rows]


def give(connection: Connection, person: int | None, team: int | None, role: str, fabric: str | None) -> None:
    """Give a role; who has it already keeps it."""
    connection.execute(
        "insert into grants (person, team, role, fabric) values (%s, %s, %s, %s) on conflict do nothing",
        [person, team, role, fabric],
    )


def take(connection: Connection, grant: int) -> None:
    connection.execute("delete from grants where id = %s", [grant])


def lock(connection: Connection) -> None:
    """Wait for others who change roles, so that two keepers do not take each other's away at once."""
    connection.execute("select pg_advisory_xact_lock(8710004)")


def keepers(connection: Connection) -> list[str]:
    """Everybody who keeps this Barrio now and can sign in, themselves or by their team."""
    rows = connection.execute(statement("holders"), {"roles": ["keeper"], "fabric": None})
    return [name for (name, _) in rows]


def holders(connection: Connection, roles: Sequence[str], fabric: str | None) -> list[str]:
    """Everybody who has one of these roles, for a fabric or for all, as they are called."""
    return [
        called for (_, called) in connection.execute(statement("holders"), {"roles": list(roles), "fabric": fabric})
    ]


def reachable(connection: Connection) -> list[tuple[str, dict[str, str]]]:
    """Everybody who has not left, as they are called, with their manners."""
    return connection.execute("select called, manners from people where left_at is null").fetchall()


def manners(connection: Connection, person: int) -> tuple[str, dict[str, str]]:
    """The name that somebody signs in by, and how they like things shown."""
    row = connection.execute("select name, manners from people where id = %s", [person]).fetchone()
    assert row is not None
    return row[0], row[1]
