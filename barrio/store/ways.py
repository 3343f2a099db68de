"""How the switches of a fabric come to Barrio, as it stands in PostgreSQL."""

from __future__ import annotations

from ipaddress import IPv4Network

from barrio.core.staging.ways import Ways
from barrio.store.database import Connection


def of(connection: Connection, fabric: str) -> Ways:
    """The ways of a fabric; those that hold while nobody said any, where it has none."""
    row = connection.execute("select address, admits, lend::text from ways where fabric = %s", [fabric]).fetchone()
    return Ways() if row is None else Ways(row[0], row[1], IPv4Network(row[2]) if row[2] else None)


def keep(connection: Connection, fabric: str, one: Ways, author: str) -> None:
    connection.execute(
        "insert into ways (fabric, address, admits, lend, author) values (%s, %s, %s, %s, %s) on conflict (fabric) do update "
        "set address = excluded.address, admits = excluded.admits, lend = excluded.lend, author = excluded.author, at = now()",
        [fabric, one.address, one.admits, str(one.lend) if one.lend else None, author],
    )
