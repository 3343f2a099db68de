"""What switches run, as it stands in PostgreSQL: a row lasts as long as nothing changes, and each text is kept once."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime

from psycopg.types.json import Jsonb

from barrio.core.observe.signed import SignIn
from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Snapshot:
    """What a switch (by key) ran from one moment to another, against an edition: `files` that are other than this has them, by path, with the digest (hex) of
    what is there, empty where there is none; what is not as it should be, in words; and who was signed in since the snapshot before (`who`, `source`, `at`, `until`)."""

    id: int
    fabric: str
    switch: str
    edition: int
    from_at: datetime
    until_at: datetime
    files: dict[str, str]
    state: list[str]
    signed_in: list[dict[str, str]] = field(default_factory=list)

    @property
    def true(self) -> bool:
        return not self.files and not self.state


_COLUMNS = "id, fabric, switch, edition, from_at, until_at, files, state, signed_in"
_ALL = f"select {_COLUMNS} from snapshots "


def newest(connection: Connection, fabric: str) -> dict[str, Snapshot]:
    """The newest snapshot of each switch of a fabric, by its key."""
    rows = connection.execute(
        f"select distinct on (switch) {_COLUMNS} from snapshots where fabric = %s order by switch, until_at desc".encode(),
        [fabric],
    )
    return {row[2]: Snapshot(*row) for row in rows}


def of_switch(connection: Connection, fabric: str, switch: str, limit: int = 100) -> list[Snapshot]:
    """The snapshots of a switch, the newest first."""
    rows = connection.execute(
        f"{_ALL} where fabric = %s and switch = %s order by until_at desc limit %s".encode(), [fabric, switch, limit]
    )
    return [Snapshot(*row) for row in rows]


def at(connection: Connection, fabric: str, moment: datetime) -> dict[str, Snapshot]:
    """What each switch ran at a moment, by its key; nothing of those that nobody had looked at."""
    rows = connection.execute(
        f"select distinct on (switch) {_COLUMNS} from snapshots where fabric = %s and from_at <= %s order by switch, from_at desc".encode(),
        [fabric, moment],
    )
    return {row[2]: Snapshot(*row) for row in rows}


def first_since(connection: Connection, fabric: str, moment: datetime) -> dict[str, Snapshot]:
    """The first look at each switch after a moment, by its key."""
    rows = connection.execute(
        f"select distinct on (switch) {_COLUMNS} from snapshots where fabric = %s and from_at > %s order by switch, from_at".encode(),
        [fabric, moment],
    )
    return {row[2]: Snapshot(*row) for row in rows}


def people(connection: Connection, fabric: str, since: datetime, until: datetime) -> dict[str, list[dict[str, str]]]:
    """Who was signed in at switches where something changed between two moments, by their keys."""
    rows = connection.execute(
        "select switch, signed_in from snapshots where fabric = %s and from_at > %s and from_at <= %s and signed_in <> '[]' order by from_at",
        [fabric, since, until],
    )
    found: dict[str, list[dict[str, str]]] = {}
    for switch, there in rows:
        found.setdefault(switch, []).extend(there)
    return found


def last(connection: Connection, fabric: str, switch: str) -> Snapshot | None:
    return next(iter(of_switch(connection, fabric, switch, 1)), None)


def add(
    connection: Connection, fabric: str, switch: str, edition: int, files: Mapping[str, str], state: Sequence[str],
    people: Sequence[SignIn] = (),
) -> bool:  # fmt: skip
    """Note what a switch runs now, and who was signed in since the last look; whether that is other than before."""
    was = last(connection, fabric, switch)
    if was is not None and (was.edition, was.files, was.state) == (edition, dict(files), list(state)):
        connection.execute("update snapshots set until_at = now() where id = %s", [was.id])
        return False
    connection.execute(
        "insert into snapshots (fabric, switch, edition, files, state, signed_in) values (%s, %s, %s, %s, %s, %s)",
        [fabric, switch, edition, Jsonb(dict(files)), Jsonb(list(state)), Jsonb([_person(one) for one in people])],
    )
    return True


def _person(one: SignIn) -> dict[str, str]:
    return {
        "who": one.who,
        "source": one.source,
        "at": one.at.isoformat(),
        "until": one.until.isoformat() if one.until else "",
    }


def keep(connection: Connection, texts: Mapping[str, str]) -> None:
    """Keep texts, by the digests (hex) that they are known by."""
    with connection.cursor() as cursor:
        cursor.executemany(
            "insert into running_texts (digest, content) values (%s, %s) on conflict do nothing",
            [(bytes.fromhex(digest), text) for digest, text in texts.items()],
        )


def texts(connection: Connection, digests: Iterable[str]) -> dict[str, str]:
    """Those of some texts that are kept, by their digests (hex)."""
    rows = connection.execute(
        "select digest, content from running_texts where digest = any(%s)",
        [[bytes.fromhex(one) for one in set(digests) if one]],
    )
    return {bytes(digest).hex(): content for digest, content in rows}


def due(connection: Connection, fabric: str, switch: str, seconds: float) -> bool:
    """Whether a switch was not looked at for so many seconds."""
    row = connection.execute(
        "select 1 from snapshots where fabric = %s and switch = %s and until_at > now() - make_interval(secs => %s) limit 1",
        [fabric, switch, seconds],
    ).fetchone()
    return row is None


@dataclass(frozen=True, slots=True)
class Left:
    """A drifted line that somebody leaves as it is until a day."""

    switch: str
    path: str
    line: str
    why: str
    until_on: date
    author: str


def left(connection: Connection, fabric: str) -> list[Left]:
    """What is left as it is in a fabric, today."""
    rows = connection.execute(
        "select switch, path, line, why, until_on, author from drift_left where fabric = %s and until_on >= current_date order by switch, path, line",
        [fabric],
    )
    return [Left(*row) for row in rows]


def leave(connection: Connection, fabric: str, one: Left) -> None:
    connection.execute(
        "insert into drift_left (fabric, switch, path, line, why, until_on, author) values (%s, %s, %s, %s, %s, %s, %s) "
        "on conflict (fabric, switch, path, line) do update set why = excluded.why, until_on = excluded.until_on, author = excluded.author, at = now()",
        [fabric, one.switch, one.path, one.line, one.why, one.until_on, one.author],
    )


def rule(connection: Connection, fabric: str) -> str:
    """What of a fabric's drift is put back by itself: `nothing`, `harmless` or `all`."""
    row = connection.execute("select back from drift_rules where fabric = %s", [fabric]).fetchone()
    return "nothing" if row is None else str(row[0])


def ruled(connection: Connection) -> dict[str, tuple[str, str]]:
    """The rules of all fabrics that have one: what is put back, and who said so."""
    return {row[0]: (row[1], row[2]) for row in connection.execute("select fabric, back, author from drift_rules")}


def keep_rule(connection: Connection, fabric: str, back: str, author: str) -> None:
    if back == "nothing":
        connection.execute("delete from drift_rules where fabric = %s", [fabric])
        return
    connection.execute(
        "insert into drift_rules (fabric, back, author) values (%s, %s, %s) on conflict (fabric) do update "
        "set back = excluded.back, author = excluded.author, at = now()",
        [fabric, back, author],
    )


def to_put_back(connection: Connection, fabric: str) -> set[int]:
    """The newest snapshots of switches, by number, that show files which are other, and which no rule has put back since the switch was last as meant."""
    rows = connection.execute(
        "select n.id from (select distinct on (switch) * from snapshots where fabric = %s order by switch, until_at desc) n where n.files <> '{}' "
        "and not exists (select from snapshots p where p.fabric = n.fabric and p.switch = n.switch and p.files = n.files and p.put_back_at is not null "
        "and not exists (select from snapshots t where t.fabric = n.fabric and t.switch = n.switch and t.files = '{}' and t.id between p.id and n.id))",
        [fabric],
    )
    return {row[0] for row in rows}


def was_put_back(connection: Connection, numbers: Iterable[int]) -> None:
    connection.execute("update snapshots set put_back_at = now() where id = any(%s)", [list(numbers)])
