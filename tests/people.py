"""People of tests: signed in, with the roles that they are given, each a client of their own."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import timedelta

from fastapi.testclient import TestClient

from barrio.app import reviews, secret
from barrio.app.desk import Desk
from barrio.app.house import House
from barrio.app.rights import Role
from barrio.app.transaction import Transaction
from barrio.store import people, signing
from barrio.store.entries import Act
from tests.application import APP

PASSWORD = "four words for a harbour"


def signed_in(house: House, name: str, roles: Iterable[tuple[Role, str | None]] = (), called: str = "") -> TestClient:
    """Somebody new with these roles, signed in by a cookie, as their browser has it."""
    shown = f"session of {name}"

    def work(tx: Transaction) -> None:
        tx.act(Act("let in", topic="people"))
        person = people.add(tx.connection, name, called or name.title())
        for role, fabric in roles:
            people.give(tx.connection, person, None, role.value, fabric)
        signing.begin(tx.connection, secret.digest(shown), person, timedelta(days=9), "127.0.0.1", "tests")

    house.writing(work)
    return browser(shown)


def browser(session: str = "", address: str = "127.0.0.1") -> TestClient:
    """A browser on our own page, with a session or without."""
    cookies = {"barrio": session} if session else {}
    origin = "http://127.0.0.1:8710"
    return TestClient(
        APP, base_url=origin, cookies=cookies, headers={"Origin": origin}, raise_server_exceptions=False,
        client=(address, 50_000),
    )  # fmt: skip


def set_password_of_olmo(house: House) -> None:
    """Olmo, who may do all, has this password from now on."""

    def work(tx: Transaction) -> None:
        tx.act(Act("password set", topic="people"))
        signing.set_password(tx.connection, people.find(tx.connection, "olmo").id, house.passwords.hash(PASSWORD))

    house.writing(work)


def without_review(house: House, name: str) -> None:
    """Let drafts of a fabric be sealed though nobody agreed to them, for tests that are about something else."""
    reviews.set_rule(Desk(house), name, 0, [])
