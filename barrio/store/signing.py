"""What people sign in by: passwords' hashes, sessions, tokens, links, and failures that slow a guesser down.

Secrets come here as their digest, and time is the database's own, so that no server's clock matters.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from barrio.store.database import Connection, statement


@dataclass(frozen=True, slots=True)
class Asking:
    """Who shows a secret: by a session, or by a token that is limited to `roles` and `fabrics`. `held` are "role fabric", as given."""

    session: int | None
    token: int | None
    token_name: str
    person: int
    name: str
    called: str
    roles: list[str] | None
    fabrics: list[str] | None
    stale: bool
    has_second: bool
    held: list[str]


@dataclass(frozen=True, slots=True)
class Session:
    id: int
    began_at: datetime
    seen_at: datetime
    ends_at: datetime
    address: str
    agent: str


@dataclass(frozen=True, slots=True)
class Token:
    id: int
    name: str
    roles: list[str]
    fabrics: list[str] | None
    made_at: datetime
    ends_at: datetime
    used_at: datetime | None


@dataclass(frozen=True, slots=True)
class Lock:
    """What opens the door for a person: the password's hash, the sealed second factor, and how many passkeys they have. `outside` when a
    provider knows them."""

    person: int
    name: str
    called: str
    password: str | None
    seconds: bytes | None
    passkeys: int
    outside: bool

    @property
    def has_second(self) -> bool:
        """Whether a password alone does not open."""
        return self.seconds is not None or self.passkeys > 0


def who_asks(connection: Connection, session: bytes | None, token: bytes | None, idle: timedelta) -> Asking | None:
    """The person behind a secret, or nobody when it has ended or never was."""
    asked = {"session": session, "token": token, "idle": idle, "person": None}
    row = connection.execute(statement("who_asks"), asked).fetchone()
    return Asking(*row) if row else None


def of_person(connection: Connection, person: int) -> Asking | None:
    """A person with all roles that are theirs, as if they showed something."""
    asked = {"session": None, "token": None, "idle": timedelta(0), "person": person}
    row = connection.execute(statement("who_asks"), asked).fetchone()
    return Asking(*row) if row else None


def seen(connection: Connection, asking: Asking) -> None:
    """Somebody is still there."""
    connection.execute("update sessions set seen_at = now() where id = %s", [asking.session])
    connection.execute("update tokens set used_at = now() where id = %s", [asking.token])


def lock_of(connection: Connection, name: str) -> Lock | None:
    row = connection.execute(
        "select id, name, called, password, seconds, (select count(*) from passkeys where person = people.id), "
        "exists (select from outsiders where person = people.id) from people where name = %s and left_at is null",
        [name],
    ).fetchone()
    return Lock(*row) if row else None


def set_password(connection: Connection, person: int, hashed: str) -> None:
    connection.execute("update people set password = %s where id = %s", [hashed, person])


def set_second(connection: Connection, person: int, sealed: bytes | None) -> None:
    connection.execute("update people set seconds = %s where id = %s", [sealed, person])


def begin(
    connection: Connection,
    secret: bytes,
    person: int,
    lasts: timedelta,
    address: str,
    agent: str,
    vouched: bool = False,
) -> tuple[int, datetime]:
    """A session: (its id, when it ends). `vouched` when a second factor was shown that Barrio itself does not keep."""
    row = connection.execute(
        "insert into sessions (secret, person, ends_at, address, agent, vouched) values (%s, %s, now() + %s, %s, %s, %s) "
        "returning id, ends_at",
        [secret, person, lasts, address, agent[:200], vouched],
    ).fetchone()
    assert row is not None
    return int(row[0]), row[1]


def is_fresh(connection: Connection, session: int | None, within: timedelta) -> bool:
    """Whether somebody came in just now by a session."""
    row = connection.execute(
        "select 1 from sessions where id = %s and began_at > now() - %s", [session, within]
    ).fetchone()
    return row is not None


def sessions(connection: Connection, person: int) -> list[Session]:
    """The sessions that have not ended, the one seen last first."""
    rows = connection.execute(
        "select id, began_at, seen_at, ends_at, address, agent from sessions where person = %s and ends_at > now() "
        "order by seen_at desc",
        [person],
    )
    return [Session(*row) for row in rows]


def end(connection: Connection, person: int, session: int | None = None, but: int | None = None) -> int:
    """End one session of a person, or all but one; how many ended."""
    done = connection.execute(
        "delete from sessions where person = %(person)s and (%(one)s::bigint is null or id = %(one)s) "
        "and id is distinct from %(but)s",
        {"person": person, "one": session, "but": but},
    )
    return done.rowcount


def tidy(connection: Connection) -> None:
    """Sessions, links and failures that are over go."""
    connection.execute("delete from sessions where ends_at < now() - interval '1 day'")
    connection.execute("delete from links where ends_at < now()")
    connection.execute("delete from failures where last < now() - interval '1 hour'")


def tokens(connection: Connection, person: int) -> list[Token]:
    rows = connection.execute(
        "select id, name, roles, fabrics, made_at, ends_at, used_at from tokens where person = %s order by name",
        [person],
    )
    return [Token(*row) for row in rows]


def add_token(
    connection: Connection, secret: bytes, person: int, name: str, roles: Sequence[str], fabrics: Sequence[str] | None,
    lasts: timedelta,
) -> bool:  # fmt: skip
    """A token; returns whether the person had none of this name."""
    made = connection.execute(
        "insert into tokens (secret, person, name, roles, fabrics, ends_at) values (%s, %s, %s, %s, %s, now() + %s) "
        "on conflict (person, name) do nothing",
        [secret, person, name, list(roles), None if fabrics is None else list(fabrics), lasts],
    )
    return made.rowcount == 1


def drop_token(connection: Connection, person: int, name: str) -> bool:
    return connection.execute("delete from tokens where person = %s and name = %s", [person, name]).rowcount == 1


def add_link(connection: Connection, secret: bytes, purpose: str, person: int | None, lasts: timedelta) -> None:
    """A link, in place of others that somebody has for the same purpose."""
    connection.execute("delete from links where purpose = %s and person is not distinct from %s", [purpose, person])
    connection.execute(
        "insert into links (secret, purpose, person, ends_at) values (%s, %s, %s, now() + %s)",
        [secret, purpose, person, lasts],
    )


def link(connection: Connection, secret: bytes, keep: bool = True) -> tuple[str, int | None] | None:
    """What a link is for, and for whom; nothing when it has ended or was used. With `keep` nobody else uses it meanwhile."""
    asked = "select purpose, person from links where secret = %s and ends_at > now()" + (" for update" if keep else "")
    return connection.execute(asked.encode(), [secret]).fetchone()


def use_link(connection: Connection, secret: bytes) -> None:
    connection.execute("delete from links where secret = %s", [secret])


def waiting(connection: Connection, who: Mapping[bytes, int]) -> int:
    """For how many seconds more nobody is listened to under these digests, each with the failures that are free.

    Each failure past those doubles the time, up to 15 minutes.
    """
    row = connection.execute(statement("waiting"), {"who": list(who), "free": list(who.values())}).fetchone()
    return max(0, int(row[0])) if row else 0


def failed(connection: Connection, who: Iterable[bytes]) -> None:
    """One more failure; what is long past is forgotten."""
    for digest in sorted(who):
        connection.execute(
            "insert into failures (who, count) values (%s, 1) on conflict (who) do update set last = now(), "
            "count = case when failures.last < now() - interval '15 minutes' then 1 else failures.count + 1 end",
            [digest],
        )


def succeeded(connection: Connection, who: Iterable[bytes]) -> None:
    connection.execute("delete from failures where who = any(%s)", [list(who)])


class OtherKey(Exception):
    """What is encrypted in this database was encrypted with another key."""


def keep_key(connection: Connection, digest: bytes) -> None:
    """Note which key this database's secrets are encrypted with, the first time. Raises `OtherKey` for another one later."""
    connection.execute("lock table keyring")
    row = connection.execute("select digest from keyring").fetchone()
    if row is None:
        connection.execute("insert into keyring values (%s)", [digest])
    elif bytes(row[0]) != digest:
        raise OtherKey(
            "Secrets in this database are encrypted with another key file. Name the right one by key_file (BARRIO_KEY_FILE); it "
            "was made beside the database at its first start."
        )
