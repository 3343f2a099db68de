"""Somebody who may do all in the databases of tests, and what they show: a session's cookie, or a token."""

from __future__ import annotations

from datetime import timedelta

from barrio.app import secret
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.app.transaction import Transaction
from barrio.store import people, signing
from barrio.store.entries import Act

SESSION, TOKEN = "the-session-of-tests", "the-token-of-tests"
BEARER = {"Authorization": f"Bearer {TOKEN}"}
LONG = timedelta(days=300)


def let_in(house: House) -> None:
    """Add somebody called Olmo with every role, signed in, and with a token of all their roles."""

    def work(tx: Transaction) -> None:
        tx.act(Act("let in", topic="people"))
        person = people.add(tx.connection, "olmo", "Olmo")
        for role in Role:
            people.give(tx.connection, person, None, role.value, None)
        signing.begin(tx.connection, secret.digest(SESSION), person, LONG, "127.0.0.1", "tests")
        signing.add_token(tx.connection, secret.digest(TOKEN), person, "tests", list(Role), None, LONG)

    house.writing(work)
