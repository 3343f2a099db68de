"""Other ways to show who one is, as they stand in PostgreSQL: passkeys, the provider's names of people, and what is spent."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Passkey:
    name: str
    made_at: datetime
    used_at: datetime | None


@dataclass(frozen=True, slots=True)
class Signer:
    """What a passkey's answer is held against, and whose it is."""

    person: int
    name: str
    called: str
    key: str
    public_key: bytes
    signed: int


def has_codes(connection: Connection, person: int) -> bool:
    """Whether a person's second factor are codes of an app."""
    return (
        connection.execute("select 1 from people where id = %s and seconds is not null", [person]).fetchone()
        is not None
    )


def passkeys(connection: Connection, person: int) -> list[Passkey]:
    rows = connection.execute("select name, made_at, used_at from passkeys where person = %s order by name", [person])
    return [Passkey(*row) for row in rows]


def passkey_ids(connection: Connection, person: int) -> list[bytes]:
    return [bytes(id) for (id,) in connection.execute("select id from passkeys where person = %s", [person])]


def add_passkey(connection: Connection, key: bytes, person: int, name: str, public_key: bytes, signed: int) -> bool:
    """Keep a passkey; returns whether neither it nor one of the person's of this name was there."""
    made = connection.execute(
        "insert into passkeys (id, person, name, public_key, signed) values (%s, %s, %s, %s, %s) on conflict do nothing",
        [key, person, name, public_key, signed],
    )
    return made.rowcount == 1


def drop_passkeys(connection: Connection, person: int, name: str | None = None) -> int:
    """Take away a passkey of somebody's, or all of them; how many went."""
    gone = connection.execute(
        "delete from passkeys where person = %(person)s and (%(name)s::text is null or name = %(name)s)",
        {"person": person, "name": name},
    )
    return gone.rowcount


def signer(connection: Connection, key: bytes) -> Signer | None:
    """Whose a passkey is, if they have not left; nobody else uses it meanwhile."""
    row = connection.execute(
        "select people.id, people.name, called, passkeys.name, public_key, signed from passkeys "
        "join people on people.id = person where passkeys.id = %s and left_at is null for update of passkeys",
        [key],
    ).fetchone()
    return Signer(*row) if row else None


def has_signed(connection: Connection, key: bytes, signed: int) -> None:
    connection.execute("update passkeys set signed = %s, used_at = now() where id = %s", [signed, key])


def known_outside(connection: Connection, issuer: str, subject: str) -> str | None:
    """The name here of somebody whom a provider knows, also when they have left."""
    row = connection.execute(
        "select name from outsiders join people on people.id = person where issuer = %s and subject = %s",
        [issuer, subject],
    ).fetchone()
    return row[0] if row else None


def shown_outside(connection: Connection, person: int) -> str | None:
    """How a provider calls a person, if one knows them."""
    row = connection.execute("select shown from outsiders where person = %s", [person]).fetchone()
    return row[0] if row else None


def join(connection: Connection, person: int, issuer: str, subject: str, shown: str) -> bool:
    """Keep by which name a provider knows a person; returns whether it knew nobody else by it, nor the person by another."""
    made = connection.execute(
        "insert into outsiders (person, issuer, subject, shown) values (%s, %s, %s, %s) on conflict do nothing",
        [person, issuer, subject, shown],
    )
    return made.rowcount == 1


def part(connection: Connection, person: int) -> bool:
    return connection.execute("delete from outsiders where person = %s", [person]).rowcount == 1


def spend(connection: Connection, digest: bytes, ends_at: float) -> bool:
    """Note that something good once was shown (until a time, seconds since 1970); returns whether it never was before."""
    connection.execute("delete from spent where ends_at < now()")
    done = connection.execute(
        "insert into spent values (%s, to_timestamp(%s)) on conflict do nothing", [digest, ends_at]
    )
    return done.rowcount == 1


def now(connection: Connection) -> float:
    """The time by the database's clock, in seconds since 1970."""
    row = connection.execute("select extract(epoch from now())::float").fetchone()
    assert row is not None
    return float(row[0])
