"""Boxes and who knocks, as they stand in PostgreSQL."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from barrio.core.staging.boxes import Bound, Box
from barrio.store.database import Connection

MOST_SHOWN = 1000
"""Of those that were not let in, so many are told."""


@dataclass(frozen=True, slots=True)
class Knock:
    """Somebody who knocks, by the public half of the key that they made for themselves (Ed25519, 32 bytes): what they say of themselves, from where, and
    what was decided: `waits`, `admitted` as a switch of a fabric, or `refused`."""

    key: bytes
    serial: str
    mac: str
    said: dict[str, Any]
    address: str
    state: str
    fabric: str | None
    switch: str
    author: str
    why: str
    counter: int
    first_at: datetime
    last_at: datetime
    decided_at: datetime | None

    @property
    def box(self) -> Box:
        return Box(self.serial, self.mac)


_KNOCK = "select key, serial, mac, said, address, state, fabric, switch, author, why, counter, first_at, last_at, decided_at from knocks "
_BOUND = "select fabric, switch, name, serial, mac, retired_at is not null from boxes "


def bound(connection: Connection) -> list[Bound]:
    """Every box that is or was a switch, of all fabrics."""
    rows = connection.execute(f"{_BOUND} order by id".encode())
    return [Bound(fabric, key, name, Box(serial, mac), retired) for fabric, key, name, serial, mac, retired in rows]


def of_fabric(connection: Connection, fabric: str) -> dict[str, Bound]:
    """The boxes of a fabric that are its switches, by their keys."""
    rows = connection.execute(f"{_BOUND} where fabric = %s and retired_at is null order by id".encode(), [fabric])
    return {key: Bound(fabric, key, name, Box(serial, mac)) for fabric, key, name, serial, mac, _ in rows}


def bind(connection: Connection, one: Bound, author: str) -> None:
    """Say which box a switch is, in place of what was said before."""
    connection.execute(
        "insert into boxes (fabric, switch, name, serial, mac, author) values (%s, %s, %s, %s, %s, %s) "
        "on conflict (fabric, switch) where retired_at is null do update set serial = excluded.serial, mac = excluded.mac, "
        "name = excluded.name, author = excluded.author, bound_at = now()",
        [one.fabric, one.key, one.name, one.box.serial, one.box.mac, author],
    )


def loosen(connection: Connection, fabric: str, key: str) -> bool:
    """Say no more which box a switch is, as if it had never been said."""
    done = connection.execute(
        "delete from boxes where fabric = %s and switch = %s and retired_at is null", [fabric, key]
    )
    return done.rowcount == 1


def retire(connection: Connection, fabric: str, key: str, why: str) -> bool:
    """Take the box of a switch out: it never comes back by itself."""
    done = connection.execute(
        "update boxes set retired_at = now(), why = %s where fabric = %s and switch = %s and retired_at is null",
        [why, fabric, key],
    )
    return done.rowcount == 1


def let_back(connection: Connection, box: Box) -> bool:
    """Forget that a box was taken out."""
    done = connection.execute(
        "delete from boxes where retired_at is not null and ((serial <> '' and serial = %s) or (mac <> '' and mac = %s))",
        [box.serial, box.mac],
    )
    return done.rowcount > 0


def knock(
    connection: Connection, key: bytes, box: Box, said: Mapping[str, Any], address: str, counter: int
) -> Knock | None:
    """Note that somebody knocks; nothing when the request was sent before."""
    row = connection.execute(
        "insert into knocks (key, serial, mac, said, address, counter) values (%s, %s, %s, %s, %s, %s) "
        "on conflict (key) do update set serial = excluded.serial, mac = excluded.mac, said = excluded.said, address = excluded.address, "
        "counter = excluded.counter, last_at = now() where knocks.counter < excluded.counter returning key",
        [key, box.serial, box.mac, Jsonb(dict(said)), address, counter],
    ).fetchone()
    return find(connection, key) if row else None


def heard(connection: Connection, key: bytes, counter: int) -> Knock | None:
    """Whoever has this key, when their request is newer than all before; nothing otherwise."""
    row = connection.execute(
        "update knocks set counter = %s, last_at = now() where key = %s and counter < %s returning key",
        [counter, key, counter],
    ).fetchone()
    return find(connection, key) if row else None


def find(connection: Connection, key: bytes) -> Knock | None:
    row = connection.execute(f"{_KNOCK} where key = %s".encode(), [key]).fetchone()
    return None if row is None else Knock(*row)


def waiting(connection: Connection) -> int:
    """How many knock and were neither let in nor refused."""
    row = connection.execute("select count(*) from knocks where state = 'waits'").fetchone()
    return int(row[0]) if row else 0


def forget_silent(connection: Connection, hours: int) -> None:
    """Forget those that wait and have not knocked for so long."""
    connection.execute(
        "delete from knocks where state = 'waits' and last_at < now() - make_interval(hours => %s)", [hours]
    )


def admitted(connection: Connection, fabric: str) -> set[str]:
    """The keys of the switches of a fabric that somebody was admitted as."""
    rows = connection.execute("select switch from knocks where fabric = %s and state = 'admitted'", [fabric])
    return {str(row[0]) for row in rows}


def knocks(connection: Connection, fabric: str | None = None) -> list[Knock]:
    """All who knock, those that wait first; with a fabric, those that were admitted to it alone."""
    rows = connection.execute(
        f"{_KNOCK} where %s::text is null or (fabric = %s and state = 'admitted') order by state <> 'waits', last_at desc limit %s".encode(),
        [fabric, fabric, MOST_SHOWN if fabric is None else None],
    )
    return [Knock(*row) for row in rows]


def decide(
    connection: Connection, key: bytes, state: str, fabric: str | None, switch: str, author: str, why: str
) -> bool:
    """Admit somebody as a switch, or refuse them; whether there was such a one."""
    done = connection.execute(
        "update knocks set state = %s, fabric = %s, switch = %s, author = %s, why = %s, decided_at = now() where key = %s",
        [state, fabric, switch, author, why, key],
    )
    return done.rowcount == 1


def was_refused(connection: Connection, box: Box) -> bool:
    """Whether somebody with this serial number was refused."""
    row = connection.execute(
        "select 1 from knocks where state = 'refused' and serial = %s limit 1", [box.serial]
    ).fetchone()
    return row is not None


def shut_out(connection: Connection, fabric: str, keys: Sequence[str], why: str) -> None:
    """Refuse whoever was admitted as these switches."""
    connection.execute(
        "update knocks set state = 'refused', why = %s, decided_at = now() where fabric = %s and switch = any(%s) and state = 'admitted'",
        [why, fabric, list(keys)],
    )


def forget(connection: Connection, fabric: str, key: str) -> None:
    """Forget whoever was admitted as a switch."""
    connection.execute("delete from knocks where fabric = %s and switch = %s and state = 'admitted'", [fabric, key])


def knock_again(connection: Connection, fabric: str, key: str) -> None:
    """Have whoever was admitted as a switch wait again."""
    connection.execute(
        "update knocks set state = 'waits', fabric = null, switch = '', decided_at = null where fabric = %s and switch = %s and state = 'admitted'",
        [fabric, key],
    )


def let_knock(connection: Connection, box: Box) -> None:
    """Have whoever was refused with this box wait again."""
    connection.execute(
        "update knocks set state = 'waits', why = '', decided_at = null where state = 'refused' "
        "and ((serial <> '' and serial = %s) or (mac <> '' and mac = %s))",
        [box.serial, box.mac],
    )
