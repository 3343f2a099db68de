"""Codes that change every 30 s (RFC 6238): whether one is right, and each good once. Time is the database's."""

from __future__ import annotations

import json

import pyotp

from barrio.app.house import House
from barrio.app.transaction import Transaction
from barrio.store import signing
from barrio.store.entries import Act, Author
from barrio.store.signing import Lock


def step_of(tx: Transaction) -> int:
    """Which code it is by the database's clock."""
    row = tx.connection.execute("select floor(extract(epoch from now()) / 30)::bigint").fetchone()
    assert row is not None
    return int(row[0])


def steps_of(base: str, code: str, step: int) -> int | None:
    """Which step a code is of, near a step: clocks may be off by half a minute."""
    try:
        totp = pyotp.TOTP(base)
        return next(
            (at for at in (step, step - 1, step + 1) if pyotp.utils.strings_equal(totp.generate_otp(at), code.strip())),
            None,
        )
    except (ValueError, TypeError):
        return None


def sealed(house: House, person: int, base: str, used: int) -> bytes:
    return house.keys.seal(json.dumps({"secret": base, "used": used}), f"second factor of {person}")


def fits(house: House, lock: Lock, code: str) -> bool:
    """Whether a code is right, and was not used before; it is used up then."""

    def work(tx: Transaction) -> bool:
        row = tx.connection.execute("select seconds from people where id = %s for update", [lock.person]).fetchone()
        if row is None or row[0] is None:
            return False
        kept = json.loads(house.keys.open(bytes(row[0]), f"second factor of {lock.person}"))
        step = steps_of(kept["secret"], code, step_of(tx))
        if step is None or step <= kept["used"]:
            return False
        tx.act(Act("code used", note=lock.name, topic="people"))
        signing.set_second(tx.connection, lock.person, sealed(house, lock.person, kept["secret"], step))
        return True

    return house.writing(work, author=Author(lock.called, lock.person))
