"""Boxes that may come by RFC 8572, as they stand in PostgreSQL."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from barrio.store.database import Connection


@dataclass(frozen=True, slots=True)
class Ready:
    """A box that may come by RFC 8572: as a switch of a fabric, by key. `secret` is the SHA-256 of the word that it says by HTTP; None where a certificate alone
    counts. `voucher` is its ownership voucher (CMS), `progress` what it reported last."""

    fabric: str
    switch: str
    serial: str
    secret: bytes | None
    voucher: bytes | None
    voucher_expires_at: datetime | None
    progress: str
    seen_at: datetime | None


_ALL = "select fabric, switch, serial, secret, voucher, voucher_expires_at, progress, seen_at from sztp_boxes "


def of_fabric(connection: Connection, fabric: str) -> dict[str, Ready]:
    """Those of a fabric, by the keys of their switches."""
    return {row[1]: Ready(*row) for row in connection.execute(f"{_ALL} where fabric = %s".encode(), [fabric])}


def of_serial(connection: Connection, serial: str) -> Ready | None:
    row = connection.execute(f"{_ALL} where serial = %s".encode(), [serial]).fetchone()
    return None if row is None else Ready(*row)


def keep(connection: Connection, one: Ready, author: str) -> None:
    """Let a box come; what it had before as the same switch and the same box, and is not said anew, stays."""
    connection.execute("delete from sztp_boxes where fabric = %s and switch = %s and serial <> %s", [one.fabric, one.switch, one.serial])  # fmt: skip
    connection.execute(
        "insert into sztp_boxes (fabric, switch, serial, secret, voucher, voucher_expires_at, author) values (%s, %s, %s, %s, %s, %s, %s) "
        "on conflict (fabric, switch) do update set secret = coalesce(excluded.secret, sztp_boxes.secret), author = excluded.author, at = now(), "
        "voucher_expires_at = case when excluded.voucher is null then sztp_boxes.voucher_expires_at else excluded.voucher_expires_at end, "
        "voucher = coalesce(excluded.voucher, sztp_boxes.voucher)",
        [one.fabric, one.switch, one.serial, one.secret, one.voucher, one.voucher_expires_at, author],
    )


def forget(connection: Connection, fabric: str, switch: str) -> bool:
    """Let the box of a switch no longer come by RFC 8572."""
    return (
        connection.execute("delete from sztp_boxes where fabric = %s and switch = %s", [fabric, switch]).rowcount == 1
    )


def give_word(connection: Connection, serial: str, word: bytes) -> None:
    """Have the agent of a box be let in by a word (its SHA-256), once."""
    connection.execute("update sztp_boxes set word = %s where serial = %s", [word, serial])


def take_word(connection: Connection, serial: str, word: bytes) -> Ready | None:
    """The box that a word (its SHA-256) lets the agent of in; the word is used up."""
    row = connection.execute(
        "update sztp_boxes set word = null where serial = %s and word = %s returning serial", [serial, word]
    ).fetchone()
    return None if row is None else of_serial(connection, serial)


def seen(connection: Connection, serial: str, progress: str) -> None:
    """Note what a box is at; empty where it only asked."""
    connection.execute(
        "update sztp_boxes set seen_at = now(), progress = case when %s = '' then progress else %s end where serial = %s",
        [progress, progress, serial],
    )
